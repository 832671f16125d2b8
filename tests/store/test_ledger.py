"""The ledger in a real MariaDB: append-only, undo and redo, two writers, and tables that agree
with the migrations.
"""

import threading

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import Engine, select, text

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.recipe import Recipe, Trim
from sequor.store import curating, ledger, versions
from sequor.store.database import Sessions, sessions
from sequor.store.failures import Stale
from sequor.store.library import (
    add_picture,
    create_set,
    get_picture,
    list_pictures,
    list_sets,
)
from sequor.store.models import Base, LedgerEntry, Original, Picture
from tests.conftest import line


@pytest.fixture
def store(empty_tables: Engine) -> Sessions:
    return sessions(empty_tables)


@pytest.fixture
def picture_id(store: Sessions) -> int:
    with store.begin() as session:
        made = create_set(session, "Trial")
        return add_picture(session, made.id, original("ab"), "mill.jpg").id


def original(sha256: str) -> Original:
    return Original(
        sha256=sha256,
        byte_size=9,
        format="JPEG",
        width=600,
        height=400,
        channels=3,
        bits=8,
        orientation=1,
        profile=None,
        focal35_mm=28,
    )


def turned(deg: float) -> Recipe:
    return Recipe(trim=Trim(roll_deg=deg))


def head_of(store: Sessions, picture_id: int) -> tuple[int, float]:
    with store() as session:
        head = get_picture(session, picture_id).head
        return head.id, head.roll_deg


def enter(store: Sessions, picture_id: int, based_on: int, deg: float) -> int:
    with store.begin() as session:
        return ledger.append(session, picture_id, based_on, turned(deg), "turned by hand").head.id


def test_a_new_picture_is_as_shot(store: Sessions, picture_id: int) -> None:
    assert head_of(store, picture_id)[1] == 0
    with store.begin() as session, pytest.raises(UnusableInput, match="nothing to undo"):
        ledger.undo(session, picture_id, head_of(store, picture_id)[0])


def test_undo_and_redo_move_and_nothing_is_deleted(store: Sessions, picture_id: int) -> None:
    first, _ = head_of(store, picture_id)
    second = enter(store, picture_id, first, 1.0)
    third = enter(store, picture_id, second, 2.0)
    with store.begin() as session:
        ledger.undo(session, picture_id, third)
    assert head_of(store, picture_id) == (second, 1.0)
    with store.begin() as session:
        ledger.redo(session, picture_id, second)
    assert head_of(store, picture_id) == (third, 2.0)
    with store.begin() as session:
        ledger.undo(session, picture_id, third)
    branch = enter(store, picture_id, second, 3.0)
    with store.begin() as session, pytest.raises(UnusableInput, match="nothing to redo"):
        ledger.redo(session, picture_id, branch)
    with store() as session:
        assert session.scalars(
            select(LedgerEntry.roll_deg).order_by(LedgerEntry.id)
        ).all() == pytest.approx([0, 1, 2, 3])


def test_redo_prefers_the_newest_branch(store: Sessions, picture_id: int) -> None:
    first, _ = head_of(store, picture_id)
    for deg in (1.0, 2.0):
        entered = enter(store, picture_id, first, deg)
        with store.begin() as session:
            ledger.undo(session, picture_id, entered)
    with store.begin() as session:
        ledger.redo(session, picture_id, first)
    assert head_of(store, picture_id)[1] == 2.0


def test_the_stale_window_is_told_and_nothing_is_overwritten(
    store: Sessions, picture_id: int
) -> None:
    first, _ = head_of(store, picture_id)
    second = enter(store, picture_id, first, 1.0)
    for action in (
        lambda session: ledger.append(session, picture_id, first, turned(9), "late"),
        lambda session: ledger.undo(session, picture_id, first),
        lambda session: ledger.redo(session, picture_id, first),
    ):
        with store.begin() as session, pytest.raises(Stale, match="another window"):
            action(session)
    assert head_of(store, picture_id) == (second, 1.0)


def test_of_many_writers_at_once_exactly_one_wins(store: Sessions, picture_id: int) -> None:
    first, _ = head_of(store, picture_id)
    outcomes: list[str] = []
    together = threading.Barrier(6)

    def attempt(number: int) -> None:
        together.wait()
        try:
            enter(store, picture_id, first, 1.0 + number)
            outcomes.append("entered")
        except Stale:
            outcomes.append("stale")

    threads = [threading.Thread(target=attempt, args=(number,)) for number in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(outcomes) == ["entered"] + ["stale"] * 5


def at_once(count: int, act) -> list[object]:
    """What an act gives, or raises, when threads do it at the same moment."""
    together, outcomes = threading.Barrier(count), []

    def attempt(number: int) -> None:
        together.wait()
        try:
            outcomes.append(act(number))
        except Exception as problem:
            outcomes.append(problem)

    threads = [threading.Thread(target=attempt, args=(number,)) for number in range(count)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return outcomes


def test_versions_begun_at_once_get_numbers_of_their_own(store: Sessions, picture_id: int) -> None:
    def begin(number: int) -> int:
        with store.begin() as session:
            return versions.add_version(session, picture_id, turned(number), "", "begun").version

    assert sorted(at_once(6, begin)) == [2, 3, 4, 5, 6, 7]
    with store() as session:
        picture = get_picture(session, picture_id)
        assert [v.version for v in versions.versions_of(session, picture)] == list(range(1, 8))


def test_thrown_away_and_taken_back_at_once(store: Sessions, picture_id: int) -> None:
    """Each says what it did: what was thrown away once more than it was taken back is away."""

    def act(number: int) -> tuple[str, int]:
        with store.begin() as session:
            if number % 2:
                return "back", curating.restore_pictures(session, [picture_id])
            return "away", curating.bin_pictures(session, [picture_id])

    outcomes = at_once(6, act)
    count = {kind: sum(n for k, n in outcomes if k == kind) for kind in ("away", "back")}
    with store() as session:
        binned = session.get_one(Picture, picture_id).binned_at is not None
    assert count["away"] - count["back"] == int(binned)


def test_a_recipe_that_cannot_be_solved_is_not_entered(store: Sessions, picture_id: int) -> None:
    first, _ = head_of(store, picture_id)
    with pytest.raises(UnusableInput), store.begin() as session:
        ledger.append(
            session, picture_id, first, Recipe(readings=(line("level", 0, 0, 900, 0),)), "outside"
        )
    assert head_of(store, picture_id)[0] == first


def test_a_recipe_comes_back_as_it_was(store: Sessions, picture_id: int) -> None:
    recipe = Recipe(
        readings=(line("plumb", 10.25, 20.5, 11, 300, sigma_px=0.7, weight=2),),
        trim=Trim(roll_deg=0.01),
    )
    with store.begin() as session:
        ledger.append(
            session, picture_id, head_of(store, picture_id)[0], recipe, "plumb reading added"
        )
    with store() as session:
        assert ledger.recipe_of(get_picture(session, picture_id).head) == recipe


def test_sets_and_their_pictures(store: Sessions, picture_id: int) -> None:
    with store.begin() as session, pytest.raises(UnusableInput, match="already"):
        create_set(session, " Trial ")
    with store.begin() as session, pytest.raises(UnusableInput, match="name"):
        create_set(session, "  ")
    with store() as session:
        assert [(found.name, count) for found, count in list_sets(session)] == [("Trial", 1)]
        (listed,) = list_pictures(session, list_sets(session)[0][0].id)
        assert listed.id == picture_id
        with pytest.raises(NotFound):
            get_picture(session, 999)


def test_the_migrations_make_the_tables_of_the_models(engine: Engine) -> None:
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []


def test_the_database_refuses_orphans(empty_tables: Engine) -> None:
    with empty_tables.begin() as connection:
        statement = (
            "INSERT INTO pictures (set_id, original_sha256, name, added_at) "
            "VALUES (7, 'x', 'y', NOW())"
        )
        with pytest.raises(Exception, match="foreign key"):
            connection.execute(text(statement))
