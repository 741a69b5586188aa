"""Several roles a person; tablets that were introduced, and wrong PINs counted on each.

Whoever was lead is keeper too, so that nobody is left who may not put people on the list. A tablet from before has no secret and
is introduced again.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None

MOMENT = sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mysql", "mariadb")


def upgrade() -> None:
    op.add_column("people", sa.Column("roles", sa.String(64), nullable=False, server_default="mechanic"))
    op.execute("UPDATE people SET roles = IF(role = 'lead', 'lead,keeper', role)")
    op.drop_column("people", "role")
    op.add_column("devices", sa.Column("secret_hash", sa.BINARY(32), nullable=True))
    op.add_column("devices", sa.Column("lost_at", MOMENT, nullable=True))
    op.create_unique_constraint("devices_secret", "devices", ["secret_hash"])
    op.add_column("pin_attempts", sa.Column("device_id", sa.Uuid(), nullable=True))
    op.create_index("pin_attempts_where", "pin_attempts", ["person_id", "device_id", "number"])
