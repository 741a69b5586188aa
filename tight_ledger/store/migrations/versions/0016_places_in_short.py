"""How every place stands, for lists over a whole fleet; what is looked for by time, by spec and by wrench is found by an index."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "places_now",
        sa.Column("machine_id", sa.Uuid(), primary_key=True),
        sa.Column("position_key", sa.String(130), primary_key=True),
        sa.Column("joint", sa.String(60), primary_key=True),
        sa.Column("run_id", sa.Uuid(), nullable=False),
        sa.Column("needs", sa.Boolean(create_constraint=False), nullable=False),
        sa.Column("root_id", sa.Uuid(), nullable=True),
    )
    op.create_index("places_now_run", "places_now", ["run_id"])
    op.create_index("places_now_needs", "places_now", ["needs"])
    op.create_index("places_now_root", "places_now", ["root_id"])
    op.create_index("ledger_kind_at", "ledger", ["subject", "kind", "at_server"])
    op.drop_index("ledger_subject_kind", table_name="ledger")
    op.create_index("runs_spec", "runs", ["spec_id", "spec_revision"])
    op.execute("INSERT IGNORE INTO run_stale (run_id, mark) SELECT id, id FROM runs")
