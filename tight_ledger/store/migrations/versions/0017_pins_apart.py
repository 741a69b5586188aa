"""Hashes of PINs in a table of their own, so that people can be copied elsewhere without them."""

import sqlalchemy as sa
from alembic import op

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "pins",
        sa.Column("person_id", sa.Uuid(), sa.ForeignKey("people.id"), primary_key=True),
        sa.Column("pin_hash", sa.String(200), nullable=False),
    )
    op.execute("INSERT INTO pins (person_id, pin_hash) SELECT id, pin_hash FROM people")
    op.drop_column("people", "pin_hash")
