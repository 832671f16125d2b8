"""Alembic's entry point.

Runs the migrations on the URL that `sequor.store.database.migrate` gives.
"""

from alembic import context
from sqlalchemy import create_engine

from sequor.store.models import Base

engine = create_engine(context.config.get_main_option("sqlalchemy.url") or "")
with engine.connect() as connection:
    context.configure(
        connection=connection,
        target_metadata=Base.metadata,
        compare_type=True,
        transaction_per_migration=True,
    )
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
