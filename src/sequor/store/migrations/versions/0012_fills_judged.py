"""How good the fill of an export is."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    """Apply."""
    op.add_column("exports", sa.Column("doubt", sa.Double(), nullable=True), if_not_exists=True)
    op.add_column("exports", sa.Column("flaws", sa.Integer(), nullable=True), if_not_exists=True)
