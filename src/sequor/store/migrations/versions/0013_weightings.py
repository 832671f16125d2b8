"""What counts how much in weighing harm, under names."""

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "weightings",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("options", sa.JSON(), nullable=False),
        sa.UniqueConstraint("name", name="uq_weightings_name"),
        if_not_exists=True,
    )
