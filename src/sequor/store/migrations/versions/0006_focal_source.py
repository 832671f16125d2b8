"""Where the focal length of an original comes from."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    """Apply."""
    op.add_column("originals", sa.Column("focal_source", sa.String(8)), if_not_exists=True)
