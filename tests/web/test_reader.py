"""The reader of pictures comes to an end, whatever it meets: nothing is asked for in a loop."""

import hashlib
from datetime import timedelta
from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy import Engine, event, select, text

from sequor.core.errors import UnusableInput
from sequor.core.propose import proposal
from sequor.core.propose.proposal import Proposal
from sequor.core.recipe import Recipe
from sequor.services import proposals as reading
from sequor.services.proposals import Reader
from sequor.store import library, proposals
from sequor.store.database import sessions
from sequor.store.models import LedgerEntry, Picture, StoredProposal, Unsettled, now
from sequor.work.engine import Task
from tests.store.test_ledger import original

LIBRARY, PART = 1000, 120
OLD = {"version": 3, "readings": [], "trim": {"roll_deg": 0.0, "lean_deg": 0.0, "swing_deg": 0.0}}
"""A recipe as a program of another time stored it: its hash is not that of what it is read as."""


def library_of(count: int, browserless: FlaskClient, engine: Engine) -> Reader:
    """A library, half of it entered by an older program; a reader of it that is not started."""
    with sessions(engine).begin() as session:
        set_id = library.create_set(session, "Library").id
        names = [hashlib.sha256(str(number).encode()).hexdigest() for number in range(count)]
        session.add_all(original(sha256) for sha256 in names)
        session.flush()
        pictures = [
            Picture(set_id=set_id, original_sha256=sha256, name=f"{number}.jpg")
            for number, sha256 in enumerate(names)
        ]
        session.add_all(pictures)
        session.flush()
        entries = [
            LedgerEntry(
                picture_id=picture.id,
                what="as shot",
                recipe=OLD if number % 2 else Recipe().model_dump(mode="json"),
                recipe_hash=f"{'old' if number % 2 else 'new'}-hash",
                roll_deg=0,
                lean_deg=0,
                swing_deg=0,
                kept_fraction=1,
            )
            for number, picture in enumerate(pictures)
        ]
        session.add_all(entries)
        session.flush()
        for picture, entry in zip(pictures, entries, strict=True):
            picture.head = entry
    return Reader(browserless.application.extensions["sequor"].resources)


NOTHING = Proposal(want="any", told="level", doubt="nothing")


def run(reader: Reader) -> int:
    """Let it read until there is nothing more; how many it read."""
    total = 0
    while done := reader._some():
        total += done
        assert total <= LIBRARY, "it goes round"
    return total


def test_a_new_way_of_reading_comes_to_its_end(
    browserless: FlaskClient, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    reader = library_of(LIBRARY, browserless, engine)
    asked: list[str] = []

    def read(_: object, task: Task, *__: object) -> Proposal:
        asked.append(str(task.arguments[0]))
        return NOTHING

    monkeypatch.setattr(reading, "run_task", read)
    with sessions(engine).begin() as session:  # this version of the program has read all of them
        rows = session.execute(
            select(Picture.original_sha256, LedgerEntry.recipe_hash).join(
                LedgerEntry, LedgerEntry.id == Picture.head_id
            )
        ).all()
        session.add_all(
            StoredProposal(
                original_sha256=sha256,
                recipe_hash=recipe_hash,
                want="any",
                version=proposal.VERSION,
                proposal=NOTHING.model_dump(mode="json"),
            )
            for sha256, recipe_hash in rows
        )
    assert run(reader) == 0
    # The next one reads all of them once more, and only once.
    monkeypatch.setattr(proposal, "VERSION", proposal.VERSION + 1)
    statements = 0

    def count(*_: Any) -> None:
        nonlocal statements
        statements += 1

    event.listen(engine, "before_cursor_execute", count)
    try:
        assert run(reader) == LIBRARY
        spent, statements = statements, 0
        assert run(reader) == 0
        assert statements < 10
    finally:
        event.remove(engine, "before_cursor_execute", count)
    assert spent < 30 * LIBRARY
    assert len({*asked}) == LIBRARY


def test_what_cannot_be_read_waits_and_lets_others_through(
    browserless: FlaskClient, engine: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The newest fifty cannot be read: the others are, and the fifty come again later, with the
    reason kept.
    """
    reader = library_of(PART, browserless, engine)
    with sessions(engine)() as session:
        newest = [number for number, _ in proposals.unread(session, 50)]
        bad = {session.get_one(Picture, number).original_sha256 for number in newest}

    def read(_: object, task: Task, *__: object) -> Proposal:
        if task.arguments[0] in bad:
            raise UnusableInput("It cannot be read today.")
        return NOTHING

    monkeypatch.setattr(reading, "run_task", read)
    assert run(reader) == PART
    with sessions(engine).begin() as session:
        left = session.query(Unsettled).all()
        assert {one.picture_id for one in left} == {*newest}
        assert {one.reason for one in left} == {"It cannot be read today."}
        assert all(one.again_at > now() + timedelta(minutes=9) for one in left)
        session.execute(text("UPDATE unsettled SET again_at = '2026-01-01'"))
    bad.clear()
    assert run(reader) == 50
    assert run(reader) == 0
