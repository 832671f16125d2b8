"""The ledger: every recipe a picture ever had. Undo and redo move a pointer; nothing is deleted."""

from collections.abc import Mapping

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.recipe import Recipe
from sequor.store.library import entry_of, get_picture
from sequor.store.models import LedgerEntry, Picture


class Stale(Exception):
    """The change was based on an entry that no longer holds; nothing was changed."""

    def __init__(self) -> None:
        super().__init__(
            "This picture was changed in another window meanwhile; your last change was not "
            "stored, and nothing was overwritten. "
            "The picture is shown as it is now."
        )


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
    if {number: p.head_id for number, p in pictures.items()} != {
        number: based_on for number, (based_on, _) in entries.items()
    }:
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
    if picture.head.parent_id is None:
        raise UnusableInput("There is nothing to undo: the picture is as shot.")
    return _move(session, picture, picture.head.parent_id)


def redo(session: Session, picture_id: int, based_on: int) -> Picture:
    """Let the newest entry that follows the present one hold again."""
    picture = _locked(session, picture_id, based_on)
    newer = next_entry_id(session, picture)
    if newer is None:
        raise UnusableInput("There is nothing to redo.")
    return _move(session, picture, newer)


def next_entry_id(session: Session, picture: Picture) -> int | None:
    """The entry that redo would go to."""
    query = (
        select(LedgerEntry.id)
        .where(LedgerEntry.parent_id == picture.head_id)
        .order_by(LedgerEntry.id.desc())
        .limit(1)
    )
    return session.scalar(query)


def recipe_of(entry: LedgerEntry) -> Recipe:
    """The recipe that an entry holds."""
    return Recipe.model_validate(entry.recipe)


def check_head(session: Session, picture_id: int, based_on: int) -> None:
    """Refuse early what is based on an entry that no longer holds."""
    if get_picture(session, picture_id).head_id != based_on:
        raise Stale


def entry_of_picture(session: Session, picture_id: int, entry_id: int) -> LedgerEntry:
    """An entry of the ledger of a picture."""
    entry = session.get(LedgerEntry, entry_id)
    if entry is None or entry.picture_id != picture_id:
        raise NotFound(f"There is no entry {entry_id} for this picture.")
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
        raise NotFound("There is no such recipe of this picture.")
    return recipe_of(entry)


def _locked(session: Session, picture_id: int, based_on: int) -> Picture:
    picture = get_picture(session, picture_id, lock=True)
    if picture.head_id != based_on:
        raise Stale
    return picture


def _move(session: Session, picture: Picture, entry_id: int) -> Picture:
    entry = session.get(LedgerEntry, entry_id)
    assert entry is not None
    picture.head = entry
    session.flush()
    return picture
