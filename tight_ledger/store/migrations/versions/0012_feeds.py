"""Addresses by which a calendar program follows what is due."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mysql", "mariadb")


def upgrade() -> None:
    op.create_table(
        "feeds",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("key_hash", sa.BINARY(32), nullable=False),
        sa.Column("person_id", sa.Uuid(), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("made_at", MOMENT, nullable=False),
    )
