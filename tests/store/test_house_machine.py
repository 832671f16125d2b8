"""Whatever is done in whatever order, nothing that was acknowledged is lost: ledgers, versions,
undo, carrying over, the bin, against a model that is a few dictionaries.
"""

from dataclasses import dataclass, field

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import (
    Bundle,
    RuleBasedStateMachine,
    initialize,
    invariant,
    rule,
    run_state_machine_as_test,
)
from sqlalchemy import Engine, delete, select, update

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe, Trim
from sequor.store import curating, history, ledger, library, versions
from sequor.store.database import Sessions, sessions
from sequor.store.failures import Stale
from sequor.store.models import LedgerEntry, Picture
from tests.store.test_ledger import original

PHOTO = PhotoFacts(width=600, height=400, focal35_mm=28)
ANGLES = st.integers(-40, 40).map(lambda n: n / 4)


@dataclass
class Modelled:
    """A version of a picture: entries with what they were based on and their roll."""

    entries: dict[int, tuple[int | None, float]]
    head: int
    binned: bool = False


@dataclass
class Model:
    pictures: dict[int, Modelled] = field(default_factory=dict)
    acts: dict[int, dict[int, int]] = field(default_factory=dict)


def turned(deg: float) -> Recipe:
    return Recipe(trim=Trim(roll_deg=deg))


def machine(store: Sessions) -> type[RuleBasedStateMachine]:
    """The rules on an empty database."""

    class House(RuleBasedStateMachine):
        pictures = Bundle("pictures")
        acts = Bundle("acts")

        def __init__(self) -> None:
            super().__init__()
            self.model = Model()
            with store.begin() as session:
                for model in (LedgerEntry, Picture):
                    if model is LedgerEntry:
                        session.execute(update(Picture).values(head_id=None))
                        session.execute(update(LedgerEntry).values(parent_id=None))
                    session.execute(delete(model))
                sets = library.list_sets(session)
                self.set_id = sets[0][0].id if sets else library.create_set(session, "House").id
            self.count = 0

        def add_to_model(self, session, picture: Picture) -> int:
            entries = curating.ledger_entries(session, picture.id)
            self.model.pictures[picture.id] = Modelled(
                {entry.id: (entry.parent_id, entry.roll_deg) for entry in entries}, picture.head.id
            )
            return picture.id

        # It begins with a picture and an act: a rule that finds nothing to draw from would be
        # filtered out.
        @initialize(target=pictures)
        def first(self) -> int:
            return self.add_one()

        @initialize(target=acts, deg=ANGLES)
        def first_act(self, deg: float) -> int:
            return self.carry_to([self.add_one()], deg)

        @rule(target=pictures)
        def add(self) -> int:
            return self.add_one()

        def add_one(self) -> int:
            self.count += 1
            with store.begin() as session:
                made = library.add_picture(
                    session, self.set_id, original(f"{self.count:064d}"), f"{self.count}.jpg"
                )
                return self.add_to_model(session, made)

        @rule(target=pictures, picture=pictures, deg=ANGLES)
        def version(self, picture: int, deg: float) -> int:
            model = self.model.pictures[picture]
            with store.begin() as session:
                if model.binned:
                    with pytest.raises(NotFound):
                        versions.add_version(session, picture, turned(deg), "", "begun")
                    return picture
                made = versions.add_version(session, picture, turned(deg), "", "begun")
                return self.add_to_model(session, made)

        @rule(picture=pictures, deg=ANGLES)
        def append(self, picture: int, deg: float) -> None:
            model = self.model.pictures[picture]
            with store.begin() as session:
                if model.binned:
                    with pytest.raises(NotFound):
                        ledger.append(session, picture, model.head, turned(deg), "turned")
                    return
                entry = ledger.append(session, picture, model.head, turned(deg), "turned").head
                model.entries[entry.id] = (model.head, entry.roll_deg)
                model.head = entry.id

        @rule(picture=pictures)
        def undo(self, picture: int) -> None:
            model = self.model.pictures[picture]
            parent = model.entries[model.head][0]
            with store.begin() as session:
                if model.binned or parent is None:
                    with pytest.raises((NotFound, UnusableInput)):
                        ledger.undo(session, picture, model.head)
                    return
                model.head = ledger.undo(session, picture, model.head).head.id
            assert model.head == parent

        @rule(picture=pictures)
        def redo(self, picture: int) -> None:
            model = self.model.pictures[picture]
            after = [n for n, (parent, _) in model.entries.items() if parent == model.head]
            with store.begin() as session:
                if model.binned or not after:
                    with pytest.raises((NotFound, UnusableInput)):
                        ledger.redo(session, picture, model.head)
                    return
                model.head = ledger.redo(session, picture, model.head).head.id
            assert model.head == max(after)

        @rule(target=acts, some=st.lists(pictures, min_size=1, max_size=4), deg=ANGLES)
        def carry(self, some: list[int], deg: float) -> int:
            return self.carry_to(list(dict.fromkeys(some)), deg)

        def carry_to(self, some: list[int], deg: float) -> int:
            heads = {number: self.model.pictures[number].head for number in some}
            binned = any(self.model.pictures[number].binned for number in some)
            entries = {
                n: (head, library.new_entry(PHOTO, turned(deg), "carried"))
                for n, head in heads.items()
            }
            if binned:  # all or none
                with pytest.raises(Stale), store.begin() as session:
                    ledger.append_all(session, entries, history.begin_act(session, "carried"))
                return 0
            with store.begin() as session:
                act = history.begin_act(session, "carried")
                ledger.append_all(session, entries, act)
                self.model.acts[act] = {n: entry.id for n, (_, entry) in entries.items()}
                for n, (head, entry) in entries.items():
                    self.model.pictures[n].entries[entry.id] = (head, entry.roll_deg)
                    self.model.pictures[n].head = entry.id
            return act

        @rule(act=acts)
        def take_back(self, act: int) -> None:
            with store.begin() as session:
                if not act:
                    with pytest.raises(NotFound):
                        history.take_back(session, act)
                    return
                found = history.take_back(session, act)
                back = {picture.id for picture in found.back}
            for number, entry in self.model.acts[act].items():
                model = self.model.pictures[number]
                assert (number in back) == (model.head == entry)
                if number in back:
                    model.head = model.entries[entry][0]

        @rule(some=st.lists(pictures, min_size=1, max_size=3))
        def throw_away(self, some: list[int]) -> None:
            some = list(dict.fromkeys(some))
            with store.begin() as session:
                count = curating.bin_pictures(session, some)
            assert count == sum(not self.model.pictures[number].binned for number in some)
            for number in some:
                self.model.pictures[number].binned = True

        @rule(some=st.lists(pictures, min_size=1, max_size=3))
        def put_back(self, some: list[int]) -> None:
            some = list(dict.fromkeys(some))
            with store.begin() as session:
                count = curating.restore_pictures(session, some)
            assert count == sum(self.model.pictures[number].binned for number in some)
            for number in some:
                self.model.pictures[number].binned = False

        @invariant()
        def everything_is_there(self) -> None:
            with store() as session:
                rows = session.scalars(select(Picture)).all()
                entries: dict[int, dict[int, tuple[int | None, float]]] = {}
                for entry in session.scalars(select(LedgerEntry)):
                    own = entries.setdefault(entry.picture_id, {})
                    own[entry.id] = (entry.parent_id, entry.roll_deg)
                found = {
                    row.id: Modelled(entries[row.id], row.head_id, row.binned_at is not None)
                    for row in rows
                }
            assert found == self.model.pictures

    return House


def test_nothing_acknowledged_is_lost(empty_tables: Engine) -> None:
    run_state_machine_as_test(
        machine(sessions(empty_tables)),
        settings=settings(max_examples=25, stateful_step_count=30, deadline=None),
    )
