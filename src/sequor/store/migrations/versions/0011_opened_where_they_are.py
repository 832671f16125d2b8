"""Pictures that are opened where they lie, and files that are put beside them."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    """Apply."""
    op.add_column("pictures", sa.Column("opened_from", sa.String(1000)), if_not_exists=True)
    op.add_column("exports", sa.Column("placed", sa.String(1300)), if_not_exists=True)
