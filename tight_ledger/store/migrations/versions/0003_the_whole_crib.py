"""Every tool of the crib, the tool that a pull was made with, and papers."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None

PULLED_WITH = """
UPDATE ledger AS pull JOIN ledger AS start ON start.stream = pull.stream AND start.kind = 'started'
SET pull.tool = COALESCE(JSON_VALUE(pull.body, '$.tools[0]'), JSON_VALUE(start.body, '$.started.tooling[0].wrench.id'))
WHERE pull.kind IN ('pulled', 'checked')
"""


def upgrade() -> None:
    op.rename_table("wrenches", "tools")
    op.add_column("tools", sa.Column("kind", sa.String(length=16), nullable=False, server_default="wrench"))
    op.alter_column("tools", "kind", existing_type=sa.String(length=16), existing_nullable=False, server_default=None)
    op.add_column("ledger", sa.Column("tool", sa.Uuid(), nullable=True))
    op.execute(PULLED_WITH)
    op.create_index("ledger_tool", "ledger", ["tool", "at_server", "stream"])
    op.create_table(
        "attachments",
        sa.Column("id", sa.Uuid(), nullable=False),
        sa.Column("digest", sa.String(length=64), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("media_type", sa.String(length=40), nullable=False),
        sa.Column("at", sa.DateTime().with_variant(mysql.DATETIME(fsp=3), "mysql", "mariadb"), nullable=False),
        sa.Column("content", mysql.LONGBLOB(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
