"""Carrying over from one picture to many: looked at first, then done as one act."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.advance import advance
from sequor.core.edits import CarryOver
from sequor.core.edits.carrying import Misfit, Part
from sequor.core.errors import UnusableInput
from sequor.core.language import ENGLISH, speaking, tr
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe
from sequor.core.report.carrying import carried_words
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.services.lookups import PictureLookups
from sequor.services.pictures import facts_of_original
from sequor.services.reply import Reply, T
from sequor.services.resources import Resources
from sequor.store import history, ledger
from sequor.store.entries import entry_columns
from sequor.store.history import ActTakenBack
from sequor.store.ledger import Standing
from sequor.store.library import get_picture, photo_of
from sequor.store.models import LedgerEntry, Picture


@dataclass(frozen=True)
class Target:
    """What a picture would become: its recipe then, and why parts do not fit; ``problem`` says why
    it cannot be done at all.
    """

    standing: Standing
    photo: PhotoFacts
    recipe: Recipe
    solution: Solution | None
    misfits: Mapping[Part, Misfit]
    problem: str = ""

    @property
    def picture(self) -> Picture:
        """The picture."""
        return self.standing.picture

    @property
    def changes(self) -> bool:
        """Whether the recipe would be another one."""
        return self.solution is not None and self.recipe != self.standing.recipe


def look(
    resources: Resources,
    picture_id: int,
    based_on: int,
    parts: tuple[Part, ...],
    targets: list[int],
) -> list[Target]:
    """What would become of some pictures; nothing is stored.

    Raises
    ------
    NotFound
        When one of them is not there.
    """
    with resources.database.reading() as session:
        edit = _edit(session, picture_id, based_on, parts)
        return [_target(resources, session, edit, number) for number in targets]


@dataclass(frozen=True)
class ActDone:
    """An act on many pictures: its number, and how many were changed."""

    act_id: int
    count: int


@dataclass(frozen=True)
class CarryOrder:
    """What is to be carried over.

    Attributes
    ----------
    picture_id, based_on : int
        The picture it comes from, and the entry of it.
    targets : mapping of int to int
        The pictures it goes to, each with the entry that was looked at.
    files : bool
        Whether the choices of files go with them.
    """

    picture_id: int
    based_on: int
    parts: tuple[Part, ...]
    targets: Mapping[int, int]
    files: bool


def carry_over(resources: Resources, order: CarryOrder, reply: Reply[ActDone, T]) -> T:
    """Carry parts over to pictures, all or none, in one transaction.

    Raises
    ------
    Stale
        When another entry holds in one of them by now; nothing is changed.
    UnusableInput
        When nothing would change.
    """
    targets, files = order.targets, order.files
    with resources.database.reading() as session:
        origin = get_picture(session, order.picture_id)
        edit = _edit(session, order.picture_id, order.based_on, order.parts)
        options = origin.file_options
        found = [_target(resources, session, edit, number) for number in targets]
        with speaking(ENGLISH):
            what = carried_words(order.parts, files, origin.name)
        entries = {
            one.picture.id: entry_columns(one.photo, one.recipe, what)
            for one in found
            if one.changes
        }

    def change(session: Session) -> T:
        others = _other_files(session, targets, options) if files else {}
        if not entries and not others:
            raise UnusableInput(
                tr("Nothing would change in any of these pictures; nothing was done.")
            )
        before: dict[str, object] = {str(n): one.file_options for n, one in others.items()}
        after: dict[str, object] = dict.fromkeys(before, options)
        act_id = history.begin_act(session, what, before or None, after or None)
        made = {n: (targets[n], LedgerEntry(**columns)) for n, columns in entries.items()}
        ledger.append_all(session, made, act_id)
        for picture in others.values():
            picture.file_options = options
        session.flush()
        return reply.to(session, ActDone(act_id, len({*entries, *others})))

    return resources.database.write(change)


def _other_files(
    session: Session, targets: Iterable[int], options: dict[str, object] | None
) -> dict[int, Picture]:
    """The pictures whose choices of files are others, locked."""
    query = select(Picture).where(Picture.id.in_(list(targets))).order_by(Picture.id)
    found = session.scalars(query.with_for_update(of=Picture))
    return {picture.id: picture for picture in found if picture.file_options != options}


def take_back(resources: Resources, act_id: int, reply: Reply[ActTakenBack, T]) -> T:
    """Undo an act in every picture in which nothing was done since."""
    return resources.database.write(lambda s: reply.to(s, history.take_back(s, act_id)), small=True)


def _edit(session: Session, picture_id: int, entry_id: int, parts: tuple[Part, ...]) -> CarryOver:
    picture = get_picture(session, picture_id)
    entry = ledger.entry_of_picture(session, picture_id, entry_id)
    photo, recipe = photo_of(picture.original), ledger.recipe_of(entry)
    named_once = tuple(dict.fromkeys(parts))
    return CarryOver(parts=named_once, photo=photo, recipe=recipe)


def _target(resources: Resources, session: Session, edit: CarryOver, number: int) -> Target:
    picture = get_picture(session, number)
    standing = ledger.standing(session, picture)
    before, photo = standing.recipe, photo_of(picture.original)
    misfits = edit.misfits(photo, before)
    lookups = PictureLookups(resources, facts_of_original(resources, picture.original.sha256))
    try:
        recipe = advance(photo, before, (edit,), lookups).recipe
        solution = solve(photo, recipe)
    except UnusableInput as problem:
        return Target(standing, photo, before, None, misfits, str(problem))
    return Target(standing, photo, recipe, solution, misfits)
