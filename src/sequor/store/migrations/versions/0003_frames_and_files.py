"""How an export is written, what was filled in it, and the sizes that a lab prints."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """Apply."""
    op.add_column("exports", sa.Column("options", sa.JSON(), nullable=True))
    op.add_column("exports", sa.Column("file_name", sa.String(255), nullable=True))
    op.add_column("exports", sa.Column("filled_share", sa.Double(), nullable=True))
    op.create_table(
        "print_sizes",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("width", sa.Double(), nullable=False),
        sa.Column("height", sa.Double(), nullable=False),
        sa.Column("unit", sa.String(2), nullable=False),
        sa.Column("ppi", sa.Double(), nullable=False),
    )
