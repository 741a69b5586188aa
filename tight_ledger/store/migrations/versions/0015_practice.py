"""What each person practised, beside the ledger; and the joints that were worked on, found without reading every run."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0015"
down_revision = "0014"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mysql", "mariadb")
CONTENT = mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin")


def upgrade() -> None:
    op.create_table(
        "practised",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("person_id", sa.Uuid(), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("at", MOMENT, nullable=False),
        sa.Column("drill", sa.String(16), nullable=False),
        sa.Column("passed_on", sa.Date(), nullable=True),
        sa.Column("content", CONTENT, nullable=False),
    )
    op.create_index("runs_joint", "runs", ["joint"])
    op.create_index("practised_person", "practised", ["person_id", "at"])
