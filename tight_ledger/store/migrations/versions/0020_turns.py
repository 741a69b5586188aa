"""A row for each thing that must not happen twice at once. Nodes do not see each other's locks, but they do see writes."""

import sqlalchemy as sa
from alembic import op

revision = "0020"
down_revision = "0019"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table("turns", sa.Column("name", sa.String(60), primary_key=True), sa.Column("number", sa.BigInteger(), nullable=False))
