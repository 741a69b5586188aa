"""The first tables."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "backups",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column(
            "at", sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mariadb").with_variant(mysql.DATETIME(fsp=3), "mysql"), nullable=False
        ),
        sa.Column("file_name", sa.String(length=255), nullable=False),
        sa.Column("entries", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "devices",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column(
            "first_seen",
            sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mariadb").with_variant(mysql.DATETIME(fsp=3), "mysql"),
            nullable=False,
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "ledger",
        sa.Column("stream", sa.Uuid(), nullable=False),
        sa.Column("seq", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("subject", sa.String(length=16), nullable=False),
        sa.Column("kind", sa.String(length=24), nullable=False),
        sa.Column(
            "at_server",
            sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mariadb").with_variant(mysql.DATETIME(fsp=3), "mysql"),
            nullable=False,
        ),
        sa.Column("body", mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.Column("seal", sa.BINARY(length=32), nullable=False),
        sa.PrimaryKeyConstraint("stream", "seq"),
        sa.UniqueConstraint("id", name="ledger_id"),
    )
    op.create_index("ledger_subject_kind", "ledger", ["subject", "kind"], unique=False)
    op.create_table(
        "machines",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("fleet_number", sa.String(length=40), nullable=False),
        sa.Column("content", mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("fleet_number"),
    )
    op.create_table(
        "people",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("role", sa.String(length=16), nullable=False),
        sa.Column("pin_hash", sa.String(length=200), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("name"),
    )
    op.create_table(
        "shop",
        sa.Column("id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("time_zone", sa.String(length=64), nullable=False),
        sa.Column("policy", mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "spec_revisions",
        sa.Column("spec_id", sa.Uuid(), nullable=False),
        sa.Column("revision", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("digest", sa.String(length=64), nullable=False),
        sa.Column("content", mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.PrimaryKeyConstraint("spec_id", "revision"),
    )
    op.create_table(
        "wrenches",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("content", mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("name"),
    )
    op.create_table(
        "jobs",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column(
            "opened_at",
            sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mariadb").with_variant(mysql.DATETIME(fsp=3), "mysql"),
            nullable=False,
        ),
        sa.ForeignKeyConstraint(
            ["machine_id"],
            ["machines.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("jobs_machine_opened", "jobs", ["machine_id", "opened_at"], unique=False)
    op.create_table(
        "pin_attempts",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("person_id", sa.Uuid(), nullable=False),
        sa.Column(
            "at", sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mariadb").with_variant(mysql.DATETIME(fsp=3), "mysql"), nullable=False
        ),
        sa.Column("good", sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("pin_attempts_person_at", "pin_attempts", ["person_id", "at"], unique=False)
    op.create_table(
        "sessions",
        sa.Column("token_hash", sa.BINARY(length=32), nullable=False),
        sa.Column("person_id", sa.Uuid(), nullable=False),
        sa.Column("device_id", sa.Uuid(), nullable=False),
        sa.Column(
            "expires_at",
            sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mariadb").with_variant(mysql.DATETIME(fsp=3), "mysql"),
            nullable=False,
        ),
        sa.ForeignKeyConstraint(
            ["device_id"],
            ["devices.id"],
        ),
        sa.ForeignKeyConstraint(
            ["person_id"],
            ["people.id"],
        ),
        sa.PrimaryKeyConstraint("token_hash"),
    )
    op.create_table(
        "runs",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("job_id", sa.Uuid(), nullable=False),
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("position_key", sa.String(length=130), nullable=False),
        sa.Column("joint", sa.String(length=60), nullable=False),
        sa.Column("spec_id", sa.Uuid(), nullable=False),
        sa.Column("spec_revision", sa.Integer(), nullable=False),
        sa.Column("procedure", sa.String(length=60), nullable=False),
        sa.Column("parent_id", sa.Uuid(), nullable=True),
        sa.Column(
            "started_at",
            sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mariadb").with_variant(mysql.DATETIME(fsp=3), "mysql"),
            nullable=False,
        ),
        sa.ForeignKeyConstraint(
            ["job_id"],
            ["jobs.id"],
        ),
        sa.ForeignKeyConstraint(
            ["machine_id"],
            ["machines.id"],
        ),
        sa.ForeignKeyConstraint(
            ["parent_id"],
            ["runs.id"],
        ),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_index("runs_place", "runs", ["machine_id", "position_key", "joint", "started_at"], unique=False)


def downgrade() -> None:
    op.drop_index("runs_place", table_name="runs")
    op.drop_table("runs")
    op.drop_table("sessions")
    op.drop_index("pin_attempts_person_at", table_name="pin_attempts")
    op.drop_table("pin_attempts")
    op.drop_index("jobs_machine_opened", table_name="jobs")
    op.drop_table("jobs")
    op.drop_table("wrenches")
    op.drop_table("spec_revisions")
    op.drop_table("shop")
    op.drop_table("people")
    op.drop_table("machines")
    op.drop_index("ledger_subject_kind", table_name="ledger")
    op.drop_table("ledger")
    op.drop_table("devices")
    op.drop_table("backups")
