"""Trying and keeping edits of a picture: the one way in which its recipe changes."""

from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy.orm import Session

from sequor.core.advance import Advanced, Edits, advance
from sequor.core.corner_ways import WayCost, corner_ways
from sequor.core.edges.guide import HeldAgainst
from sequor.core.errors import UnusableInput
from sequor.core.language import ENGLISH, english, speaking, tr
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Direction, Point, Recipe
from sequor.core.report.remarks import remark_words
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.core.touching import touched
from sequor.making import fitting
from sequor.services.lookups import PictureLookups, by_the_pixels
from sequor.services.pictures import facts_of, recipe_of_entry
from sequor.services.reply import Reply, T
from sequor.services.resources import Resources
from sequor.store import ledger, library, versions
from sequor.store.acting import Right, actor, author_id
from sequor.store.failures import Stale
from sequor.store.ledger import Standing
from sequor.store.models import Picture
from sequor.store.people_models import Person
from sequor.store.seen import right_here

_TRIES = 20
"""So often it is tried to keep edits after what somebody else goes on to keep."""


@dataclass(frozen=True)
class Drafted:
    """A recipe that edits lead to, with its solution."""

    photo: PhotoFacts
    recipe: Recipe
    solution: Solution


def draft(resources: Resources, picture_id: int, based_on: int, edits: Edits) -> Drafted:
    """What edits of an entry lead to; nothing is stored, and nothing is fitted to the picture."""
    resources.engine.hand_moves()
    facts = facts_of(resources, picture_id)
    photo, before = facts.photo, recipe_of_entry(resources, picture_id, based_on)
    recipe = advance(photo, before, edits, PictureLookups(resources, facts, fits=False)).recipe
    return Drafted(photo, recipe, solve(photo, recipe))


def corner_costs(resources: Resources, picture_id: int, entry_id: int) -> tuple[WayCost, ...]:
    """What cropping, bending and filling the corners of an entry would cost."""
    facts = facts_of(resources, picture_id)
    recipe = recipe_of_entry(resources, picture_id, entry_id)
    return corner_ways(facts.photo, recipe, PictureLookups(resources, facts))


@dataclass(frozen=True)
class Entered:
    """How a picture stands after a change, what who acts may do with it, what came of the change
    where there is anything to say, and how it was kept beside what somebody else did meanwhile.
    """

    standing: Standing
    right: Right
    said: str = ""
    beside: str = ""

    @classmethod
    def of(
        cls, session: Session, standing: Standing, said: str = "", beside: str = ""
    ) -> "Entered":
        """The same, with the right of who acts asked for."""
        return cls(standing, right_here(session, standing.picture.set_id), said, beside)


def looked_at(resources: Resources, picture_id: int, make: Callable[[Entered], T]) -> T:
    """How a picture stands, for somebody who comes to work on it."""
    with resources.database.reading() as session:
        picture = library.get_picture(session, picture_id)
        return make(Entered.of(session, ledger.standing(session, picture)))


def record(
    resources: Resources, picture_id: int, based_on: int, edits: Edits, reply: Reply[Entered, T]
) -> T:
    """Enter what edits of an entry lead to into the ledger.

    Where somebody else made another entry hold meanwhile, they are kept beside that (`_beside`).

    Raises
    ------
    Stale
        When another entry of the same person holds by now; nothing is changed.
    UnusableInput
        When an edit cannot be done; nothing is changed.
    """
    try:
        with resources.database.reading() as session:
            ledger.check_head(session, picture_id, based_on)
        advanced = _advanced(resources, picture_id, based_on, edits)
        said = remark_words(advanced.remark)
        return _append(resources, picture_id, based_on, advanced.recipe, _Kept(edits, said), reply)
    except Stale:
        if author_id() is None:
            raise
    for _ in range(_TRIES):
        other = _by_somebody_else(resources, picture_id)
        if other is None:
            break
        try:
            return _beside(resources, picture_id, based_on, edits, other, reply)
        except Stale:  # they went on in this very moment
            continue
    raise Stale


@dataclass(frozen=True)
class _Kept:
    """What was done, and what there is to say of it."""

    edits: Edits
    words: str
    beside: str = ""


def _append(
    resources: Resources,
    picture_id: int,
    based_on: int,
    recipe: Recipe,
    said: _Kept,
    reply: Reply[Entered, T],
) -> T:
    def change(session: Session) -> T:
        picture = ledger.append(session, picture_id, based_on, recipe, _in_ledger(said.edits))
        standing = ledger.standing(session, picture)
        return reply.to(session, Entered.of(session, standing, said.words, said.beside))

    return resources.database.write(change)


@dataclass(frozen=True)
class _Other:
    """What somebody else made hold meanwhile."""

    entry_id: int
    name: str


def _by_somebody_else(resources: Resources, picture_id: int) -> _Other | None:
    """The entry that holds, where another account made it."""
    own = author_id()
    with resources.database.reading() as session:
        head = library.get_picture(session, picture_id).head
        if own is None or head.author_id in (None, own):
            return None
        return _Other(head.id, session.get_one(Person, head.author_id).name)


def _beside(
    resources: Resources,
    picture_id: int,
    based_on: int,
    edits: Edits,
    other: _Other,
    reply: Reply[Entered, T],
) -> T:
    """Keep edits beside what somebody else did meanwhile: after it, where they are apart, and else
    as a version of their own.
    """
    before = recipe_of_entry(resources, picture_id, based_on)
    theirs = recipe_of_entry(resources, picture_id, other.entry_id)
    own = _advanced(resources, picture_id, based_on, edits).recipe
    if not touched(before, own) & touched(before, theirs):
        try:
            both = _advanced(resources, picture_id, other.entry_id, edits).recipe
        except UnusableInput:  # it cannot be done to what is there now
            both = None
        if both is not None:
            words = tr("Kept together with what {name} did meanwhile.", name=other.name)
            said = _Kept(edits, "", words)
            return _append(resources, picture_id, other.entry_id, both, said, reply)
    somebody = actor()
    name = somebody.name if somebody else ""

    def change(session: Session) -> T:
        what = _in_ledger(edits)
        made = versions.add_version(session, picture_id, own, name, what)
        words = tr(
            "{name} changed the same meanwhile, which is shown; yours is kept as the version "
            "{version}.",
            name=other.name,
            version=made.version_name or made.version,
        )
        standing = ledger.standing(session, library.get_picture(session, picture_id))
        return reply.to(session, Entered.of(session, standing, beside=words))

    return resources.database.write(change)


def _in_ledger(edits: Edits) -> str:
    """What the ledger calls edits: the last one, in English."""
    with speaking(ENGLISH):
        return edits[-1].words()


def go_back(
    resources: Resources, picture_id: int, based_on: int, entry_id: int, reply: Reply[Entered, T]
) -> T:
    """Let the recipe of an earlier entry hold again, by a new entry."""

    def change(session: Session) -> T:
        wanted = ledger.entry_of_picture(session, picture_id, entry_id)
        recipe = ledger.recipe_of(wanted)
        what = english("back to: {what}", what=wanted.what.removeprefix("back to: "))
        picture = ledger.append(session, picture_id, based_on, recipe, what)
        return reply.to(session, Entered.of(session, ledger.standing(session, picture)))

    return resources.database.write(change)


def add_version(
    resources: Resources,
    picture_id: int,
    based_on: int,
    edits: Edits,
    name: str,
    reply: Reply[Picture, T],
) -> T:
    """Begin another version of a picture, from an entry and edits of it."""
    recipe = _advanced(resources, picture_id, based_on, edits).recipe
    what = _in_ledger(edits) if edits else english("begun from another version")
    return resources.database.write(
        lambda s: reply.to(s, versions.add_version(s, picture_id, recipe, name, what))
    )


def undo(resources: Resources, picture_id: int, based_on: int, reply: Reply[Entered, T]) -> T:
    """Go back to the entry before; this needs no space on the disk."""
    return _moved(resources, ledger.undo, picture_id, based_on, reply)


def redo(resources: Resources, picture_id: int, based_on: int, reply: Reply[Entered, T]) -> T:
    """Go forward again to the newest entry after the present one."""
    return _moved(resources, ledger.redo, picture_id, based_on, reply)


def _moved(
    resources: Resources,
    move: Callable[[Session, int, int], Picture],
    picture_id: int,
    based_on: int,
    reply: Reply[Entered, T],
) -> T:
    def change(session: Session) -> T:
        picture = move(session, picture_id, based_on)
        return reply.to(session, Entered.of(session, ledger.standing(session, picture)))

    return resources.database.write(change, small=True)


def _advanced(resources: Resources, picture_id: int, based_on: int, edits: Edits) -> Advanced:
    facts, recipe = (
        facts_of(resources, picture_id),
        recipe_of_entry(resources, picture_id, based_on),
    )
    return advance(facts.photo, recipe, edits, PictureLookups(resources, facts))


def hold_guide(
    resources: Resources,
    picture_id: int,
    based_on: int,
    edits: Edits,
    direction: Direction,
    ends: tuple[Point, Point],
) -> HeldAgainst:
    """The angle between a guide and the edge under it in the corrected picture."""
    facts, recipe = (
        facts_of(resources, picture_id),
        draft(resources, picture_id, based_on, edits).recipe,
    )
    arguments = (facts.sha256, facts.photo, recipe, direction, ends)
    held: HeldAgainst = by_the_pixels(resources, facts, fitting.hold_guide, *arguments)
    return held
