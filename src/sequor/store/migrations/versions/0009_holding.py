"""Answers that are given again, pictures that were tried to be read, originals taken in as damaged,
how often an export was begun, and what an act made of the choices of files.
"""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects import mysql

revision = "0009"
down_revision = "0008"


def upgrade() -> None:
    """Apply."""
    op.add_column("acts", sa.Column("files_after", sa.JSON()), if_not_exists=True)
    op.add_column("originals", sa.Column("taken_damaged", sa.String(300)), if_not_exists=True)
    begun = sa.Column("begun", sa.Integer(), nullable=False, server_default="0")
    op.add_column("exports", begun, if_not_exists=True)
    op.create_index("ix_receipts_made_at", "receipts", ["made_at"], if_not_exists=True)
    op.create_table(
        "kept_answers",
        sa.Column("request_key", sa.String(64), primary_key=True),
        sa.Column("asked", sa.String(64), nullable=False),
        sa.Column("status", sa.Integer(), nullable=False),
        sa.Column("body", mysql.MEDIUMBLOB(), nullable=False),
        sa.Column("made_at", sa.DateTime(), nullable=False),
        if_not_exists=True,
    )
    op.create_index("ix_kept_answers_made_at", "kept_answers", ["made_at"], if_not_exists=True)
    picture = sa.ForeignKey("pictures.id", name="fk_unsettled_picture_id", ondelete="CASCADE")
    op.create_table(
        "unsettled",
        sa.Column("picture_id", sa.Integer(), picture, primary_key=True, autoincrement=False),
        sa.Column("version", sa.Integer(), nullable=False),
        sa.Column("reason", sa.String(300), nullable=False),
        sa.Column("tries", sa.Integer(), nullable=False),
        sa.Column("again_at", sa.DateTime(), nullable=False),
        if_not_exists=True,
    )
