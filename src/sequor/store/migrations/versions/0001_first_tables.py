"""Sets, originals, pictures, ledgers and exports."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "originals",
        sa.Column("sha256", sa.String(length=64), nullable=False),
        sa.Column("byte_size", sa.BigInteger(), nullable=False),
        sa.Column("format", sa.String(length=8), nullable=False),
        sa.Column("width", sa.Integer(), nullable=False),
        sa.Column("height", sa.Integer(), nullable=False),
        sa.Column("channels", sa.Integer(), nullable=False),
        sa.Column("bits", sa.Integer(), nullable=False),
        sa.Column("orientation", sa.Integer(), nullable=False),
        sa.Column("profile", sa.String(length=200), nullable=True),
        sa.Column("focal35_mm", sa.Double(), nullable=True),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("sha256", name=op.f("pk_originals")),
        if_not_exists=True,
    )
    op.create_table(
        "picture_sets",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("name", sa.String(length=120), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_picture_sets")),
        sa.UniqueConstraint("name", name=op.f("uq_picture_sets_name")),
        if_not_exists=True,
    )
    op.create_table(
        "pictures",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("set_id", sa.Integer(), nullable=False),
        sa.Column("original_sha256", sa.String(length=64), nullable=False),
        sa.Column("name", sa.String(length=255), nullable=False),
        sa.Column("head_id", sa.Integer(), nullable=True),
        sa.Column("added_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["original_sha256"], ["originals.sha256"], name=op.f("fk_pictures_original_sha256")
        ),
        sa.ForeignKeyConstraint(["set_id"], ["picture_sets.id"], name=op.f("fk_pictures_set_id")),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_pictures")),
        sa.UniqueConstraint(
            "set_id", "original_sha256", name=op.f("uq_pictures_set_id_original_sha256")
        ),
        if_not_exists=True,
    )
    op.create_index(
        op.f("ix_pictures_original_sha256"), "pictures", ["original_sha256"], if_not_exists=True
    )
    op.create_table(
        "ledger_entries",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("picture_id", sa.Integer(), nullable=False),
        sa.Column("parent_id", sa.Integer(), nullable=True),
        sa.Column("what", sa.String(length=200), nullable=False),
        sa.Column("recipe", sa.JSON(), nullable=False),
        sa.Column("roll_deg", sa.Double(), nullable=False),
        sa.Column("kept_fraction", sa.Double(), nullable=False),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(
            ["parent_id"], ["ledger_entries.id"], name=op.f("fk_ledger_entries_parent_id")
        ),
        sa.ForeignKeyConstraint(
            ["picture_id"], ["pictures.id"], name=op.f("fk_ledger_entries_picture_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_ledger_entries")),
        if_not_exists=True,
    )
    op.create_index(
        op.f("ix_ledger_entries_parent_id"), "ledger_entries", ["parent_id"], if_not_exists=True
    )
    op.create_index(
        op.f("ix_ledger_entries_picture_id"), "ledger_entries", ["picture_id"], if_not_exists=True
    )
    # Pictures and entries point at each other, so this key comes after both tables.
    keys = sa.inspect(op.get_bind()).get_foreign_keys("pictures")
    if "fk_pictures_head_id" not in {key["name"] for key in keys}:
        op.create_foreign_key(
            "fk_pictures_head_id", "pictures", "ledger_entries", ["head_id"], ["id"]
        )
    op.create_table(
        "exports",
        sa.Column("id", sa.Integer(), nullable=False),
        sa.Column("picture_id", sa.Integer(), nullable=False),
        sa.Column("entry_id", sa.Integer(), nullable=False),
        sa.Column("format", sa.String(length=8), nullable=False),
        sa.Column("quality", sa.Integer(), nullable=False),
        sa.Column("state", sa.String(length=12), nullable=False),
        sa.Column("problem", sa.Text(), nullable=True),
        sa.Column("width", sa.Integer(), nullable=True),
        sa.Column("height", sa.Integer(), nullable=True),
        sa.Column("byte_size", sa.BigInteger(), nullable=True),
        sa.Column("empty_pixels", sa.BigInteger(), nullable=True),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        sa.Column("finished_at", sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(
            ["entry_id"], ["ledger_entries.id"], name=op.f("fk_exports_entry_id")
        ),
        sa.ForeignKeyConstraint(
            ["picture_id"], ["pictures.id"], name=op.f("fk_exports_picture_id")
        ),
        sa.PrimaryKeyConstraint("id", name=op.f("pk_exports")),
        if_not_exists=True,
    )
    op.create_index(op.f("ix_exports_picture_id"), "exports", ["picture_id"], if_not_exists=True)
    op.create_index(op.f("ix_exports_state"), "exports", ["state"], if_not_exists=True)
