"""The bodies of entries are stored compressed: what a run starts with repeats itself, and ten years of it take a third of the room."""

from alembic import op

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute("ALTER TABLE ledger MODIFY body MEDIUMTEXT CHARACTER SET utf8mb4 COLLATE utf8mb4_bin COMPRESSED NOT NULL")
