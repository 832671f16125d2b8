"""Alembic's entry point.

Runs the migrations on the URL that `sequor.store.database.migrate` gives, one program at a time:
MariaDB lets a lock go with the connection that took it, whatever becomes of that.
"""

from alembic import context
from sqlalchemy import create_engine, text

from sequor.core.language import tr
from sequor.store.failures import DatabaseProblem
from sequor.store.models import Base

engine = create_engine(context.config.get_main_option("sqlalchemy.url") or "")
with engine.connect() as connection:
    taken = connection.scalar(
        text("SELECT GET_LOCK(CONCAT('sequor ', LEFT(DATABASE(), 50)), :wait_s)"),
        {"wait_s": context.config.attributes["wait_s"]},
    )
    connection.commit()
    if not taken:
        raise DatabaseProblem(tr("another program has been upgrading the tables for too long."))
    context.configure(
        connection=connection,
        target_metadata=Base.metadata,
        compare_type=True,
        transaction_per_migration=True,
    )
    with context.begin_transaction():
        context.run_migrations()
engine.dispose()
