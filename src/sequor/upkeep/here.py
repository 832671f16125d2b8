"""The database of the data folder, as the commands open it."""

from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

from sqlalchemy import Engine

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.settings import Settings, settings_from_environment
from sequor.store.database import clear, connect, is_empty, migrate, require_current
from sequor.store.mariadb import PrivateServer, port_is_free


def settings_of_here() -> Settings:
    """The settings of this installation."""
    return settings_from_environment(Path(__file__).parents[3])


@contextmanager
def database_of(settings: Settings, make: bool = False) -> Iterator[Engine]:
    """The database of the data folder: that of a running Sequor, or started for this; or the one
    that others look after. ``make``: where there are no data yet, they begin.
    """
    if settings.database_url is not None:
        engine = connect(settings.database_url)
        try:
            require_current(engine)
            yield engine
        finally:
            engine.dispose()
        return
    folder = settings.data / "mariadb"
    if not make and not (folder / "data").is_dir():
        raise UnusableInput(
            tr("There are no data in {data}; SEQUOR_DATA names the folder.", data=settings.data)
        )
    server = PrivateServer(folder, settings.db_port)
    with ExitStack() as stack:
        if port_is_free(settings.db_port):
            stack.enter_context(server)
            migrate(server.url)
        engine = connect(server.url)
        stack.callback(engine.dispose)
        yield engine


@contextmanager
def empty_database(settings: Settings, beside: Path) -> Iterator[str]:
    """The address of a database to put a backup into: a private one beside the data, or that of
    SEQUOR_DATABASE, which must be empty.
    """
    url = settings.database_url
    if url is None:
        with PrivateServer(beside / "mariadb", settings.db_port) as server:
            yield server.url
        return
    if not is_empty(url):
        raise UnusableInput(
            tr("There are tables in SEQUOR_DATABASE already, and nothing is overwritten.")
        )
    try:
        yield url
    except BaseException:
        clear(url)
        raise
