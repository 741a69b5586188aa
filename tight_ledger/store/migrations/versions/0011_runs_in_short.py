"""Each run in short, for lists over many runs; made from the ledger at the first reading."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mysql", "mariadb")
CONTENT = mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin")


def upgrade() -> None:
    op.create_table(
        "run_now",
        sa.Column("run_id", sa.Uuid(), primary_key=True),
        sa.Column("standing", sa.String(16), nullable=True),
        sa.Column("ended_at", MOMENT, nullable=True),
        sa.Column("content", CONTENT, nullable=False),
    )
    op.create_index("run_now_standing", "run_now", ["standing"])
    op.create_index("run_now_ended", "run_now", ["ended_at"])
    op.create_table("run_stale", sa.Column("run_id", sa.Uuid(), primary_key=True), sa.Column("mark", sa.Uuid(), nullable=False))
    op.execute("INSERT INTO run_stale (run_id, mark) SELECT id, id FROM runs")
