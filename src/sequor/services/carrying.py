"""Carrying over from one picture to many: looked at first, then done as one act."""

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy.orm import Session

from sequor.core.carrying import Misfit, Part, Shot, carry
from sequor.core.errors import UnusableInput
from sequor.core.recipe import PhotoFacts, Recipe
from sequor.core.report.carrying import carried_words
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.services.editing import knowing_edges
from sequor.services.means import Means
from sequor.services.pictures import facts_of_original
from sequor.store import history, ledger
from sequor.store.library import get_picture, new_entry, photo_of
from sequor.store.models import LedgerEntry, Picture


@dataclass(frozen=True)
class Target:
    """What a picture would become: its recipe then, and why parts do not fit; ``problem`` says why
    it cannot be done at all.
    """

    picture: Picture
    photo: PhotoFacts
    before: Recipe
    recipe: Recipe
    solution: Solution | None
    misfits: Mapping[Part, Misfit]
    problem: str = ""

    @property
    def changes(self) -> bool:
        """Whether the recipe would be another one."""
        return self.solution is not None and self.recipe != self.before


def look(
    means: Means, picture_id: int, based_on: int, parts: tuple[Part, ...], targets: list[int]
) -> list[Target]:
    """What would become of some pictures; nothing is stored.

    Raises
    ------
    NotFound
        When one of them is not there.
    """
    with means.database.reading() as session:
        source = _source(session, picture_id, based_on)
        return [_target(means, session, source, parts, number) for number in targets]


@dataclass(frozen=True)
class Done:
    """An act on many pictures: its number, and how many were changed."""

    act_id: int
    count: int


def carry_over(
    means: Means,
    picture_id: int,
    based_on: int,
    parts: tuple[Part, ...],
    targets: Mapping[int, int],
    files: bool = False,
) -> Done:
    """Carry parts over to pictures, all or none, in one transaction.

    Parameters
    ----------
    targets : mapping of int to int
        The pictures, each with the entry that was looked at.
    files : bool
        Whether the choices of files go with them.

    Raises
    ------
    Stale
        When another entry holds in one of them by now; nothing is changed.
    UnusableInput
        When nothing would change.
    """
    with means.database.reading() as session:
        origin = get_picture(session, picture_id)
        source, options = _source(session, picture_id, based_on), origin.file_options
        found = [_target(means, session, source, parts, number) for number in targets]
        what = carried_words(parts, files, origin.name)
        entries = {
            one.picture.id: new_entry(one.photo, one.recipe, what) for one in found if one.changes
        }
        before: dict[str, object] = {
            str(one.picture.id): one.picture.file_options
            for one in found
            if files and one.picture.file_options != options
        }
    if not entries and not before:
        raise UnusableInput("Nothing would change in any of these pictures; nothing was done.")

    def change(session: Session) -> int:
        act_id = history.begin_act(session, what, before or None)
        ledger.append_all(session, {n: (targets[n], entries[n]) for n in entries}, act_id)
        for number in before:
            get_picture(session, int(number)).file_options = options
        session.flush()
        return act_id

    return Done(means.database.write(change), len({*entries, *map(int, before)}))


def take_back(means: Means, act_id: int) -> tuple[int, list[str]]:
    """Undo an act: in how many pictures, and the names of those that stay since they were changed
    meanwhile.
    """

    def change(session: Session) -> tuple[int, list[str]]:
        found = history.take_back(session, act_id)
        return len(found.back), [picture.name for picture in found.changed]

    return means.database.write(change, small=True)


def _source(session: Session, picture_id: int, entry_id: int) -> Shot:
    picture = get_picture(session, picture_id)
    entry = ledger.entry_of_picture(session, picture_id, entry_id)
    return Shot(photo_of(picture.original), ledger.recipe_of(entry))


def _target(
    means: Means, session: Session, source: Shot, parts: tuple[Part, ...], number: int
) -> Target:
    picture = get_picture(session, number)
    head: LedgerEntry = picture.head
    before, photo = ledger.recipe_of(head), photo_of(picture.original)
    carried = carry(parts, source, Shot(photo, before))
    try:
        recipe = knowing_edges(
            means, facts_of_original(means, picture.original.sha256), carried.recipe
        )
        solution = solve(photo, recipe)
    except UnusableInput as problem:
        return Target(picture, photo, before, before, None, carried.misfits, str(problem))
    return Target(picture, photo, before, recipe, solution, carried.misfits)
