"""How an export is written, what was filled in it, and the sizes that a lab prints."""

from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    """Apply."""
    added: dict[str, sa.types.TypeEngine[Any]] = {
        "options": sa.JSON(),
        "file_name": sa.String(255),
        "filled_share": sa.Double(),
    }
    for name, kind in added.items():
        op.add_column("exports", sa.Column(name, kind, nullable=True), if_not_exists=True)
    op.create_table(
        "print_sizes",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("width", sa.Double(), nullable=False),
        sa.Column("height", sa.Double(), nullable=False),
        sa.Column("unit", sa.String(2), nullable=False),
        sa.Column("ppi", sa.Double(), nullable=False),
        if_not_exists=True,
    )
