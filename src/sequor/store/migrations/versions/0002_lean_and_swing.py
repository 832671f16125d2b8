"""Lean and swing of every ledger entry, for the contact sheet."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    """Apply."""
    for name in ("lean_deg", "swing_deg"):
        op.add_column(
            "ledger_entries",
            sa.Column(name, sa.Double(), nullable=False, server_default="0"),
            if_not_exists=True,
        )
