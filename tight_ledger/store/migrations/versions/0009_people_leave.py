"""People who left, and PINs that are to be changed at the next sign-in."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("people", sa.Column("left_at", sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mysql", "mariadb"), nullable=True))
    op.add_column("people", sa.Column("must_change", sa.Boolean(create_constraint=False), nullable=False, server_default="0"))
    op.create_index("sessions_person", "sessions", ["person_id"])
