"""What a file states itself: the bow of its lens, how the camera was held, how it was read."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    """Apply."""
    for name in ("bow", "pose", "remarks"):
        op.add_column("originals", sa.Column(name, sa.JSON()), if_not_exists=True)
