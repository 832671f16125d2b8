"""The whole ledger of a picture, opened; and acts on many pictures, taken back as one."""

from datetime import datetime
from typing import NamedTuple

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound
from sequor.core.language import tr
from sequor.store.library import get_picture
from sequor.store.models import Act, LedgerEntry, Picture
from sequor.store.people_models import Person


class EntryLine(NamedTuple):
    """An entry without its recipe; ``author`` is the name of who made it, where accounts are."""

    id: int
    parent_id: int | None
    what: str
    created_at: datetime
    recipe_hash: str
    roll_deg: float
    lean_deg: float
    swing_deg: float
    kept_fraction: float
    author: str | None


def entries_of(session: Session, picture_id: int) -> list[EntryLine]:
    """Every entry of a picture's ledger, oldest first."""
    picture = get_picture(session, picture_id)
    columns = [getattr(LedgerEntry, name) for name in EntryLine._fields[:-1]]
    query = (
        select(*columns, Person.name)
        .outerjoin(Person, Person.id == LedgerEntry.author_id)
        .where(LedgerEntry.picture_id == picture.id)
        .order_by(LedgerEntry.id)
    )
    return [EntryLine._make(row) for row in session.execute(query)]


def begin_act(
    session: Session,
    what: str,
    files_before: dict[str, object] | None = None,
    files_after: dict[str, object] | None = None,
) -> int:
    """A new act on many pictures; its number goes into the entries that belong to it.

    Parameters
    ----------
    files_before, files_after : dict, optional
        The choices of files that it replaces, and by what, by the pictures' numbers.
    """
    act = Act(what=what[:200], files_before=files_before, files_after=files_after)
    session.add(act)
    session.flush()
    return act.id


class ActTakenBack(NamedTuple):
    """Pictures that are as they were before an act, and those that were changed since then and
    stay as they are.
    """

    back: list[Picture]
    changed: list[Picture]


def take_back(session: Session, act_id: int) -> ActTakenBack:
    """Undo an act in every picture in which nothing was done since: neither an entry made, nor
    another choice of files.
    """
    act = session.get(Act, act_id)
    if act is None:
        raise NotFound(tr("There is no act {act_id}.", act_id=act_id))
    query = (
        select(LedgerEntry.id, LedgerEntry.parent_id, LedgerEntry.picture_id)
        .where(LedgerEntry.act_id == act_id)
        .order_by(LedgerEntry.picture_id)
    )
    entries = {row.picture_id: row for row in session.execute(query)}
    before, after = act.files_before or {}, act.files_after or {}
    numbers = sorted({*entries, *map(int, before)})
    locked = select(Picture).where(Picture.id.in_(numbers)).order_by(Picture.id)
    found = ActTakenBack([], [])
    for picture in session.scalars(locked.with_for_update(of=Picture)):
        entry, key = entries.get(picture.id), str(picture.id)
        if entry is not None and (picture.head_id != entry.id or entry.parent_id is None):
            found.changed.append(picture)
            continue
        # Acts of older programs did not note the choices that they made: those go with the entry.
        if key in before and (picture.file_options != after[key] if key in after else not entry):
            found.changed.append(picture)
            continue
        if entry is not None:
            picture.head = session.get_one(LedgerEntry, entry.parent_id)
        if key in before:
            picture.file_options = before[key]  # type: ignore[assignment]
        found.back.append(picture)
    session.flush()
    return found
