"""Entries know the hash of their recipe, by which what is made of it has an address."""

import json

import sqlalchemy as sa
from alembic import op

from sequor.store.hashes import recipe_hash

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    """Apply."""
    hashes = sa.Column("recipe_hash", sa.String(32), nullable=True)
    op.add_column("ledger_entries", hashes, if_not_exists=True)
    connection = op.get_bind()
    entries = sa.table(
        "ledger_entries", sa.column("id"), sa.column("recipe"), sa.column("recipe_hash")
    )
    for number, recipe in connection.execute(sa.select(entries.c.id, entries.c.recipe)):
        stored = json.loads(recipe) if isinstance(recipe, str) else recipe
        change = entries.update().where(entries.c.id == number)
        connection.execute(change.values(recipe_hash=recipe_hash(stored)))
    op.alter_column("ledger_entries", "recipe_hash", existing_type=sa.String(32), nullable=False)
    op.create_index(
        "ix_ledger_entries_recipe_hash", "ledger_entries", ["recipe_hash"], if_not_exists=True
    )
