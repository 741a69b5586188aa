"""What a search reads: one row for each spec revision and kind of machine, and the entries of its dimensions."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    content = mysql.MEDIUMTEXT(charset="utf8mb4", collation="utf8mb4_bin")
    op.create_table(
        "finding",
        sa.Column("spec_id", sa.Uuid(), nullable=False),
        sa.Column("revision", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("ordinal", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("standing", sa.SmallInteger(), nullable=False),
        *(sa.Column(name, sa.BigInteger(), nullable=False) for name in ("who", "what", "fasteners", "notes", "source")),
        sa.Column("year_from", sa.SmallInteger(), nullable=False),
        sa.Column("year_to", sa.SmallInteger(), nullable=False),
        sa.Column("figure", sa.String(length=160), nullable=False),
        sa.Column("trust", sa.String(length=40), nullable=False),
        sa.Column("low_nm", sa.Double(), nullable=True),
        sa.Column("high_nm", sa.Double(), nullable=True),
        sa.Column("applies", content, nullable=False),
        sa.PrimaryKeyConstraint("spec_id", "revision", "ordinal"),
    )
    op.create_index("finding_who_what", "finding", ["who", "what", "fasteners", "standing"])
    op.create_index("finding_what", "finding", ["what", "standing", "who"])
    op.create_index("finding_what_fasteners", "finding", ["what", "fasteners", "standing"])
    op.create_index("finding_fasteners", "finding", ["fasteners", "standing"])
    op.create_index("finding_notes", "finding", ["notes", "standing"])
    op.create_index("finding_source", "finding", ["source", "standing"])
    op.create_index("finding_standing", "finding", ["standing", "year_from"])
    op.create_table(
        "finding_entries",
        sa.Column("dimension", sa.String(length=12), nullable=False),
        sa.Column("id", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("content", content, nullable=False),
        sa.PrimaryKeyConstraint("dimension", "id"),
    )
    op.create_index("finding_entries_version", "finding_entries", ["version"])
    op.create_table(
        "finding_texts",
        sa.Column("word", sa.String(length=40), nullable=False),
        sa.Column("text", sa.BigInteger(), autoincrement=False, nullable=False),
        sa.PrimaryKeyConstraint("word", "text"),
    )
    state = op.create_table(
        "finding_state",
        sa.Column("id", sa.Integer(), autoincrement=False, nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("form", sa.Integer(), nullable=False),
        sa.PrimaryKeyConstraint("id"),
    )
    op.bulk_insert(state, [{"id": 1, "version": 0, "form": 0}])
