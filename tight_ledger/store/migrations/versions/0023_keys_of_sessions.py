"""The public keys by which presses are shown to have been made in a session, also after it has ended."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0023"
down_revision = "0022"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mysql", "mariadb")


def upgrade() -> None:
    op.create_table(
        "press_keys",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("public", sa.BINARY(65), nullable=False),
        sa.Column("person_id", sa.Uuid(), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("device_id", sa.Uuid(), sa.ForeignKey("devices.id"), nullable=False),
        sa.Column("until", MOMENT, nullable=False),
        sa.Index("press_keys_until", "until"),
    )
    op.add_column("sessions", sa.Column("key_id", sa.Uuid(), nullable=True))
