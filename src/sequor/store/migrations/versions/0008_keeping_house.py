"""Versions of pictures, a bin, acts on many pictures, kept choices of files, and what the contact
sheet sorts by.
"""

import json

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"

_LIVE = "IF(binned_at IS NULL, 1, NULL)"


def upgrade() -> None:
    """Apply."""
    op.create_table(
        "acts",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("what", sa.String(200), nullable=False),
        sa.Column("files_before", sa.JSON()),
        sa.Column("created_at", sa.DateTime(), nullable=False),
        if_not_exists=True,
    )
    op.create_table(
        "presets",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("name", sa.String(60), nullable=False),
        sa.Column("options", sa.JSON(), nullable=False),
        sa.UniqueConstraint("name", name="uq_presets_name"),
        if_not_exists=True,
    )
    _sets()
    _pictures()
    taken = sa.Column("taken_at", sa.DateTime())
    op.add_column("originals", taken, if_not_exists=True)
    _entries()


def _sets() -> None:
    for column in (
        sa.Column("description", sa.String(1000), nullable=False, server_default=""),
        sa.Column("place", sa.Integer(), nullable=False, server_default="0"),
        sa.Column("binned_at", sa.DateTime()),
        sa.Column("live", sa.Integer(), sa.Computed(_LIVE, persisted=True)),
    ):
        op.add_column("picture_sets", column, if_not_exists=True)
    # A name is free again when its set is in the bin.
    op.create_index(
        "uq_picture_sets_name_live",
        "picture_sets",
        ["name", "live"],
        unique=True,
        if_not_exists=True,
    )
    op.drop_index("uq_picture_sets_name", "picture_sets", if_exists=True)


def _pictures() -> None:
    for column in (
        sa.Column("version", sa.Integer(), nullable=False, server_default="1"),
        sa.Column("version_name", sa.String(60), nullable=False, server_default=""),
        sa.Column("binned_at", sa.DateTime()),
        sa.Column("file_options", sa.JSON()),
    ):
        op.add_column("pictures", column, if_not_exists=True)
    columns = ["set_id", "original_sha256", "version"]
    op.create_index(
        "uq_pictures_set_id_original_sha256_version",
        "pictures",
        columns,
        unique=True,
        if_not_exists=True,
    )
    op.drop_index("uq_pictures_set_id_original_sha256", "pictures", if_exists=True)


def _entries() -> None:
    connection = op.get_bind()
    op.add_column("ledger_entries", sa.Column("act_id", sa.Integer()), if_not_exists=True)
    key = "fk_ledger_entries_act_id"
    if key not in {
        one["name"] for one in sa.inspect(connection).get_foreign_keys("ledger_entries")
    }:
        op.create_foreign_key(key, "ledger_entries", "acts", ["act_id"], ["id"])
    op.create_index("ix_ledger_entries_act_id", "ledger_entries", ["act_id"], if_not_exists=True)
    op.add_column(
        "ledger_entries",
        sa.Column("framed", sa.Boolean(), nullable=False, server_default="0"),
        if_not_exists=True,
    )
    entries = sa.table("ledger_entries", sa.column("id"), sa.column("recipe"), sa.column("framed"))
    decided = []
    for number, recipe in connection.execute(sa.select(entries.c.id, entries.c.recipe)):
        stored = json.loads(recipe) if isinstance(recipe, str) else recipe
        if _framed(stored):
            decided.append(number)
    if decided:
        connection.execute(entries.update().where(entries.c.id.in_(decided)).values(framed=True))


def _framed(recipe: dict[str, dict[str, object]]) -> bool:
    """Whether anything was decided about the frame or its corners."""
    usual = {"ratio": "original", "keep_measured": True}
    frame = recipe.get("frame", {})
    decided = any(value not in (None, usual.get(name)) for name, value in frame.items())
    return decided or bool(recipe.get("fill", {}).get("allowance"))
