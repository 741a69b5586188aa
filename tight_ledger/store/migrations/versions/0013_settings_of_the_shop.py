"""How a shop reads figures and dates, and its shifts."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import MEDIUMTEXT

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("shop", sa.Column("settings", MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=True))
    op.execute("UPDATE shop SET settings = '{}'")
    op.alter_column("shop", "settings", existing_type=MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin"), nullable=False)
