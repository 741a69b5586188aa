"""What was put right at a meter, or exchanged, stands in what its machine has told: it is derived again from the entries."""

from alembic import op

revision = "0022"
down_revision = "0021"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute(
        "INSERT IGNORE INTO told_stale (stream, subject, mark) SELECT DISTINCT stream, subject, stream FROM ledger"
        " WHERE subject = 'machine' AND kind = 'meter_read'"
    )
