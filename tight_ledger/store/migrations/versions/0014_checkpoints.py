"""Marks of entries, the log of checkpoints, and when the ledger was verified."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mysql", "mariadb")
CONTENT = mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin")


def upgrade() -> None:
    op.add_column("ledger", sa.Column("mark", sa.BINARY(32), nullable=True))
    op.create_table(
        "log_leaves",
        sa.Column("place", sa.BigInteger(), primary_key=True, autoincrement=False),
        sa.Column("stream", sa.Uuid(), nullable=False),
        sa.Column("seq", sa.Integer(), nullable=False),
        sa.Column("seal", sa.BINARY(32), nullable=False),
    )
    op.create_index("log_leaves_stream", "log_leaves", ["stream", "seq"])
    op.create_table(
        "log_nodes",
        sa.Column("level", sa.SmallInteger(), primary_key=True, autoincrement=False),
        sa.Column("place", sa.BigInteger(), primary_key=True, autoincrement=False),
        sa.Column("hash", sa.BINARY(32), nullable=False),
    )
    op.create_table(
        "checkpoints",
        sa.Column("number", sa.Integer(), primary_key=True, autoincrement=False),
        sa.Column("size", sa.BigInteger(), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("public_key", sa.String(200), nullable=False),
        sa.Column("note", CONTENT, nullable=False),
    )
    op.create_table(
        "run_terms",
        sa.Column("term", sa.String(120), primary_key=True),
        sa.Column("run_id", sa.Uuid(), primary_key=True),
    )
    op.create_index("run_terms_run", "run_terms", ["run_id"])
    # Every run is made anew in short, with what it is found by; UUID() is another mark for each.
    op.execute("INSERT INTO run_stale (run_id, mark) SELECT id, UUID() FROM runs ON DUPLICATE KEY UPDATE mark = VALUES(mark)")
    op.create_table(
        "verifications",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("content", CONTENT, nullable=False),
    )
    op.create_index("verifications_at", "verifications", ["at"])
