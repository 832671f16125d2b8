"""The connection to MariaDB, and the migrations."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
from sqlalchemy.orm import Session, sessionmaker

Sessions = sessionmaker[Session]


def connect(url: str) -> Engine:
    """An engine for a MariaDB URL; connections are checked before use.

    Since the server may have been restarted.
    """
    return create_engine(
        url, pool_pre_ping=True, pool_size=10, max_overflow=20, isolation_level="READ COMMITTED"
    )


def sessions(engine: Engine) -> Sessions:
    """A factory of sessions whose objects stay readable after a commit."""
    return sessionmaker(engine, expire_on_commit=False)


def migrate(url: str) -> None:
    """Bring the tables up to date."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    command.upgrade(config, "head")
