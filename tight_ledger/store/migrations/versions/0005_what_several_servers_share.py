"""What several server processes share: codes of wrenches, and files of specs in work."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    moment = sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mysql", "mariadb")
    content = mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin")
    op.create_table(
        "pairings",
        sa.Column("code", sa.String(length=8), nullable=False),
        sa.Column("run_id", sa.Uuid(), nullable=False),
        sa.Column("person_id", sa.Uuid(), nullable=False),
        sa.Column("device_id", sa.Uuid(), nullable=False),
        sa.Column("command", sa.Uuid(), nullable=False),
        sa.Column("until", moment, nullable=False),
        sa.PrimaryKeyConstraint("code"),
        sa.UniqueConstraint("run_id", name="pairings_run"),
    )
    op.create_table(
        "imports",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("at", moment, nullable=False),
        sa.Column("touched_at", moment, nullable=False),
        sa.Column("state", sa.String(length=8), nullable=False),
        sa.Column("content", content, nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.create_table(
        "import_pieces",
        sa.Column("import_id", sa.Uuid(), nullable=False),
        sa.Column("place", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("content", mysql.LONGTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False),
        sa.PrimaryKeyConstraint("import_id", "place"),
        sa.ForeignKeyConstraint(["import_id"], ["imports.id"], ondelete="CASCADE"),
    )
