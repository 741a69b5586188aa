"""What streams have told and which notices are not worked off, so that a list of them does not read every year."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.mysql import DATETIME, MEDIUMTEXT

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None
TELLS = {
    "spec": ("withdrawn", "checked", "reviewed"), "tool": ("quarantined", "calibrated", "reviewed"),
    "person": ("left", "roles_set", "reviewed"), "machine": ("meter_read", "described", "happened", "reviewed"),
}  # fmt: skip


def upgrade() -> None:
    op.create_table(
        "told_now",
        sa.Column("stream", sa.Uuid(), primary_key=True),
        sa.Column("subject", sa.String(16), nullable=False),
        sa.Column("content", sa.Text().with_variant(MEDIUMTEXT(), "mysql", "mariadb"), nullable=False),
    )
    op.create_table(
        "told_stale",
        sa.Column("stream", sa.Uuid(), primary_key=True),
        sa.Column("subject", sa.String(16), nullable=False),
        sa.Column("mark", sa.Uuid(), nullable=False),
    )
    op.create_table(
        "notices_now",
        sa.Column("id", sa.Uuid(), primary_key=True),
        sa.Column("stream", sa.Uuid(), nullable=False),
        sa.Column("at", sa.DateTime().with_variant(DATETIME(fsp=3), "mysql", "mariadb"), nullable=False),
        sa.Column("settled", sa.Boolean(create_constraint=False), nullable=False),
        sa.Column("mark", sa.Uuid(), nullable=False),
    )
    op.create_index("notices_now_settled", "notices_now", ["settled", "at"])
    op.create_index("notices_now_stream", "notices_now", ["stream", "at"])
    for subject, kinds in TELLS.items():
        among = ", ".join(f"'{kind}'" for kind in kinds)
        first = " AND NOT (kind = 'checked' AND JSON_VALUE(body, '$.revision') = 1)" if subject == "spec" else ""
        op.execute(
            "INSERT IGNORE INTO told_stale (stream, subject, mark) SELECT DISTINCT stream, subject, stream FROM ledger"
            f" WHERE subject = '{subject}' AND kind IN ({among}){first}"
        )
