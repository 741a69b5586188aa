"""A word of a note or a source is looked for among the specs of the machines that are named, without reading each of them."""

from alembic import op

revision = "0021"
down_revision = "0020"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for text in ("notes", "source"):
        op.create_index(f"finding_who_{text}", "finding", ["who", text, "standing"])
