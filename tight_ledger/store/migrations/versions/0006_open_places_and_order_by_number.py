"""The open run of each place as a row; runs and PIN attempts in the order of their numbers, whatever the clock says."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

NUMBERED = """
UPDATE {table} AS one JOIN (SELECT id, ROW_NUMBER() OVER (ORDER BY {at}, id) AS place FROM {table}) AS known ON known.id = one.id
SET one.number = known.place
"""
OPEN = """
INSERT IGNORE INTO open_places (machine_id, position_key, joint, run_id)
SELECT machine_id, position_key, joint, id FROM runs
WHERE NOT EXISTS (SELECT 1 FROM ledger WHERE ledger.stream = runs.id AND ledger.kind = 'finished')
ORDER BY number DESC
"""


def upgrade() -> None:
    for table, at in (("runs", "started_at"), ("pin_attempts", "at")):
        op.add_column(table, sa.Column("number", sa.BigInteger(), nullable=False, server_default="0"))
        op.execute(NUMBERED.format(table=table, at=f"`{at}`"))
        op.execute(f"ALTER TABLE {table} MODIFY number BIGINT NOT NULL AUTO_INCREMENT, ADD UNIQUE KEY {table}_number (number)")
    op.create_index("runs_place_number", "runs", ["machine_id", "position_key", "joint", "number"])
    op.drop_index("runs_place", "runs")
    op.create_index("pin_attempts_person", "pin_attempts", ["person_id", "number"])
    op.drop_index("pin_attempts_person_at", "pin_attempts")
    op.create_table(
        "open_places",
        sa.Column("machine_id", sa.Uuid(), nullable=False),
        sa.Column("position_key", sa.String(length=130), nullable=False),
        sa.Column("joint", sa.String(length=60), nullable=False),
        sa.Column("run_id", sa.Uuid(), nullable=False),
        sa.PrimaryKeyConstraint("machine_id", "position_key", "joint"),
        sa.UniqueConstraint("run_id", name="open_places_run"),
    )
    op.execute(OPEN)
