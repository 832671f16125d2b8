"""What pictures propose themselves, so that each is read once."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "proposals",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("original_sha256", sa.String(64), nullable=False),
        sa.Column("recipe_hash", sa.String(32), nullable=False),
        sa.Column("want", sa.String(8), nullable=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("proposal", sa.JSON(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["original_sha256"], ["originals.sha256"], name="fk_proposals_original_sha256"
        ),
        sa.UniqueConstraint(
            "original_sha256",
            "recipe_hash",
            "want",
            "version",
            name="uq_proposals_key",
        ),
        if_not_exists=True,
    )
