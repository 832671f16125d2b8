"""The ledger: every recipe a picture ever had. Undo and redo move a pointer; nothing is deleted."""

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.language import tr
from sequor.core.recipe import Recipe
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.store.entries import why_unreadable
from sequor.store.failures import Stale
from sequor.store.library import entry_of, get_picture, photo_of
from sequor.store.models import LedgerEntry, Picture


class Unreadable(UnusableInput):
    """An entry whose recipe cannot be read or solved by this program; it is kept as it is."""

    def __init__(self, entry_id: int, why: str) -> None:
        super().__init__(
            tr(
                "Entry {entry_id} of this ledger cannot be read ({rstrip}). It is kept as "
                "it is, and so is everything else.",
                entry_id=entry_id,
                rstrip=why.rstrip("."),
            )
        )


@dataclass(frozen=True)
class Holding:
    """What holds of a picture: its recipe, which can be read and solved; ``unreadable`` says that
    newer entries could not, and why.
    """

    picture: Picture
    entry: LedgerEntry
    recipe: Recipe
    solution: Solution
    unreadable: str


@dataclass(frozen=True)
class Standing(Holding):
    """The same, and the entry that a redo goes to, if any."""

    next_id: int | None


def holding(session: Session, picture: Picture) -> Holding:
    """What holds of a picture. An entry that cannot be read takes nothing but itself: the newest
    one before it that can be read holds in its place.

    Raises
    ------
    Unreadable
        When not one of them can be read.
    """
    entry, first = picture.head, ""
    while True:
        try:
            recipe, solution = _read(picture, entry)
            return Holding(picture, entry, recipe, solution, first)
        except Unreadable as problem:
            first = first or str(problem)
            if entry.parent_id is None:
                raise
            entry = session.get_one(LedgerEntry, entry.parent_id)


def standing(session: Session, picture: Picture) -> Standing:
    """How a picture stands: what holds, and what a redo goes to."""
    found = holding(session, picture)
    next_id = _next_id(session, picture, found.entry.id)
    return Standing(**vars(found), next_id=next_id)


def append(
    session: Session,
    picture_id: int,
    based_on: int,
    recipe: Recipe,
    what: str,
) -> Picture:
    """Enter a new recipe after the entry ``based_on`` and make it hold.

    Raises
    ------
    Stale
        When another entry holds by now.
    UnusableInput
        When the recipe cannot be solved; nothing is entered then.
    """
    picture = _locked(session, picture_id, based_on)
    entry = entry_of(picture, recipe, what, based_on)
    session.add(entry)
    session.flush()
    picture.head = entry
    session.flush()
    return picture


def append_all(
    session: Session, entries: Mapping[int, tuple[int, LedgerEntry]], act_id: int
) -> None:
    """Enter into many pictures, each after the entry it is based on, as one act.

    Parameters
    ----------
    entries : mapping of int to (int, LedgerEntry)
        By the pictures' numbers: what the entry is based on, and the entry.

    Raises
    ------
    Stale
        When another entry holds in one of them by now.
    """
    query = (
        select(Picture)
        .where(Picture.id.in_(entries), Picture.binned_at.is_(None))
        .order_by(Picture.id)
        .with_for_update(of=Picture)
    )
    pictures = {picture.id: picture for picture in session.scalars(query)}
    if pictures.keys() != entries.keys() or not all(
        _holds(session, pictures[number], based_on) for number, (based_on, _) in entries.items()
    ):
        raise Stale
    for number, (based_on, entry) in entries.items():
        entry.picture_id, entry.parent_id, entry.act_id = number, based_on, act_id
    session.add_all(entry for _, entry in entries.values())
    session.flush()
    for number, (_, entry) in entries.items():
        pictures[number].head = entry
    session.flush()


def undo(session: Session, picture_id: int, based_on: int) -> Picture:
    """Let the entry before the present one hold again."""
    picture = _locked(session, picture_id, based_on)
    parent_id = session.get_one(LedgerEntry, based_on).parent_id
    if parent_id is None:
        raise UnusableInput(tr("There is nothing to undo: the picture is as shot."))
    return _move(session, picture, parent_id)


def redo(session: Session, picture_id: int, based_on: int) -> Picture:
    """Let the newest entry that follows the present one hold again."""
    picture = _locked(session, picture_id, based_on)
    newer = _next_id(session, picture, based_on)
    if newer is None:
        raise UnusableInput(tr("There is nothing to redo."))
    return _move(session, picture, newer)


def recipe_of(entry: LedgerEntry) -> Recipe:
    """The recipe that an entry holds.

    Raises
    ------
    Unreadable
    """
    try:
        return Recipe.model_validate(entry.recipe)
    except ValueError as problem:
        raise Unreadable(entry.id, why_unreadable(problem)) from problem


def is_readable(picture: Picture, entry: LedgerEntry) -> bool:
    """Whether an entry of a picture can be read and solved."""
    try:
        _read(picture, entry)
    except Unreadable:
        return False
    return True


def check_head(session: Session, picture_id: int, based_on: int) -> None:
    """Refuse early what is based on an entry that no longer holds."""
    if not _holds(session, get_picture(session, picture_id), based_on):
        raise Stale


def entry_of_picture(session: Session, picture_id: int, entry_id: int) -> LedgerEntry:
    """An entry of the ledger of a picture."""
    entry = session.get(LedgerEntry, entry_id)
    if entry is None or entry.picture_id != picture_id:
        raise NotFound(tr("There is no entry {entry_id} for this picture.", entry_id=entry_id))
    return entry


def recipe_by_hash(session: Session, sha256: str, wanted: str) -> Recipe:
    """A recipe that some ledger of an original holds, by its hash."""
    query = (
        select(LedgerEntry)
        .join(Picture, Picture.id == LedgerEntry.picture_id)
        .where(LedgerEntry.recipe_hash == wanted, Picture.original_sha256 == sha256)
        .limit(1)
    )
    entry = session.scalar(query)
    if entry is None:
        raise NotFound(tr("There is no such recipe of this picture."))
    return recipe_of(entry)


def _locked(session: Session, picture_id: int, based_on: int) -> Picture:
    picture = get_picture(session, picture_id, lock=True)
    if not _holds(session, picture, based_on):
        raise Stale
    return picture


def _holds(session: Session, picture: Picture, entry_id: int) -> bool:
    """Whether an entry holds: it is the newest, or those after it cannot be read."""
    return entry_id == picture.head_id or standing(session, picture).entry.id == entry_id


def _read(picture: Picture, entry: LedgerEntry) -> tuple[Recipe, Solution]:
    recipe = recipe_of(entry)
    try:
        return recipe, solve(photo_of(picture.original), recipe)
    except UnusableInput as problem:
        raise Unreadable(entry.id, str(problem)) from problem


def _next_id(session: Session, picture: Picture, entry_id: int) -> int | None:
    """The newest entry after one that can be read."""
    query = select(LedgerEntry).where(LedgerEntry.parent_id == entry_id)
    for entry in session.scalars(query.order_by(LedgerEntry.id.desc())):
        if is_readable(picture, entry):
            return entry.id
    return None


def _move(session: Session, picture: Picture, entry_id: int) -> Picture:
    entry = session.get(LedgerEntry, entry_id)
    assert entry is not None
    picture.head = entry
    session.flush()
    return picture
