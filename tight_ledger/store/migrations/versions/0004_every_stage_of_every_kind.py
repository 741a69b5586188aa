"""A hit shows every stage of every kind of fastener: the figure of a row becomes a list, made anew from the specs."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    content = mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin")
    op.execute("DELETE FROM finding")
    op.drop_column("finding", "figure")
    op.add_column("finding", sa.Column("figures", content, nullable=False))
    op.execute("UPDATE finding_state SET form = 0 WHERE id = 1")
