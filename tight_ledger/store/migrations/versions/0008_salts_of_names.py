"""A salt for each person's name: what is sealed of it is a commitment."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("people", sa.Column("salt", sa.BINARY(16), nullable=True))
