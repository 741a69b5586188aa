"""Instruments that may tell what they pulled, and to which of them a pairing belongs."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    moment = sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mysql", "mariadb")
    op.create_table(
        "instruments",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("name", sa.String(length=80), nullable=False),
        sa.Column("key_hash", sa.BINARY(32), nullable=False),
        sa.Column("registered_at", moment, nullable=False),
        sa.Column("retired_at", moment, nullable=True),
        sa.PrimaryKeyConstraint("id"),
        sa.UniqueConstraint("name"),
    )
    op.add_column("pairings", sa.Column("sender", sa.Uuid(), nullable=True))
