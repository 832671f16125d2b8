"""Every released schema comes up to date, whole or after an interruption.

The databases in ``recorded/`` were written by the released programs of those schemas, each with a
set, two pictures, a ledger with an undone entry and a finished export.
"""

import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine, create_engine, event, text

from sequor.store import migrations
from sequor.store.database import clear, migrate, sessions
from sequor.store.failures import DatabaseProblem
from sequor.store.hashes import recipe_hash
from sequor.store.ledger import recipe_of
from sequor.store.library import list_pictures, list_sets
from sequor.store.mariadb import PrivateServer
from sequor.store.models import Base
from sequor.store.sheet import cards_of
from tests.installed import in_memory, put_into

RECORDED = sorted((Path(__file__).parent / "recorded").glob("*.sql"))
NEWEST = max(path.stem[:4] for path in Path(*migrations.__path__).glob("versions/[0-9]*.py"))
BEHIND = [path for path in RECORDED if path.stem != NEWEST]


@pytest.fixture(scope="module")
def server() -> Iterator[PrivateServer]:
    from sequor.store.mariadb import free_port

    with in_memory() as folder, PrivateServer(put_into(folder), free_port()) as running:
        yield running


@pytest.fixture
def engine(server: PrivateServer) -> Iterator[Engine]:
    """An engine for the server's database, empty."""
    clear(server.url)
    engine = create_engine(server.url)
    yield engine
    engine.dispose()


def play(engine: Engine, recorded: Path) -> None:
    with engine.begin() as connection:
        for statement in recorded.read_text().split(";\n"):
            if statement.strip():
                connection.exec_driver_sql(statement.replace("%", "%%"))


def check(engine: Engine) -> None:
    """The schema is that of the models, and nothing that was stored is lost."""
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []
        rows = connection.execute(text("SELECT recipe, recipe_hash FROM ledger_entries")).all()
        for stored, its_hash in rows:
            assert its_hash == recipe_hash(json.loads(stored))
    with sessions(engine)() as session:
        ((found, count),) = list_sets(session)
        assert (found.name, count) == ("Coast", 2)
        first, second = list_pictures(session, found.id)
        assert [card.exported for card in cards_of(session, found.id)] == [True, False]
        assert recipe_of(first.head).trim.roll_deg == 1.5
        assert recipe_of(second.head).trim.roll_deg == 0
        assert first.original.damage is None
    assert len(rows) == 4


@pytest.mark.parametrize("recorded", RECORDED, ids=lambda path: path.stem)
def test_a_released_database_comes_up_to_date(
    server: PrivateServer, engine: Engine, recorded: Path
) -> None:
    play(engine, recorded)
    migrate(server.url)
    check(engine)
    migrate(server.url)  # and once more changes nothing
    check(engine)


class Killed(BaseException):
    """Stands for a kill of the program between two statements."""


# Every third statement is where a kill falls; from three beginnings, each is.
INTERRUPTED = [
    *(pytest.param(None, first, id=f"new, from the {first + 1}.") for first in range(3)),
    *(pytest.param(path, n % 3, id=path.stem) for n, path in enumerate(BEHIND)),
]


@pytest.mark.parametrize(("recorded", "first"), INTERRUPTED)
def test_an_interrupted_upgrade_is_completed_at_the_next_start(
    server: PrivateServer,
    engine: Engine,
    recorded: Path | None,
    first: int,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """MariaDB commits every change of a table at once, so a kill may fall behind any of them."""
    left, seen = first, 0

    def count(*_: object) -> None:
        nonlocal seen
        seen += 1
        if seen > left:
            raise Killed

    import sqlalchemy

    def watched(url: str) -> Engine:
        made = create_engine(url)
        event.listen(made, "before_cursor_execute", count)
        return made

    if recorded:
        play(engine, recorded)
    for _ in range(300):
        seen = 0
        with monkeypatch.context() as patched:
            patched.setattr(sqlalchemy, "create_engine", watched)
            try:
                migrate(server.url)
                break
            except Killed:
                left += 3  # another place each time, on what is there by then
    assert left >= 6
    if recorded:
        check(engine)
    else:
        with engine.connect() as connection:
            assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []


def test_an_older_program_says_that_the_data_are_newer(
    server: PrivateServer, engine: Engine
) -> None:
    migrate(server.url)
    with engine.begin() as connection:
        connection.execute(text("UPDATE alembic_version SET version_num = '9999'"))
    with pytest.raises(DatabaseProblem, match="newer version of Sequor"):
        migrate(server.url)
