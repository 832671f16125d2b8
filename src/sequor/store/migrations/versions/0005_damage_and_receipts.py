"""Whether an original is sound, and receipts of writes."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    """Apply."""
    op.add_column("originals", sa.Column("damage", sa.String(200)), if_not_exists=True)
    op.add_column("originals", sa.Column("verified_at", sa.DateTime()), if_not_exists=True)
    op.create_table(
        "receipts",
        sa.Column("token", sa.String(32), primary_key=True),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        if_not_exists=True,
    )
