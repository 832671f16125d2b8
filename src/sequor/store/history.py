"""The whole ledger of a picture, opened; and acts on many pictures, taken back as one."""

from datetime import datetime
from typing import NamedTuple

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound
from sequor.store.library import get_picture
from sequor.store.models import Act, LedgerEntry, Picture


class Kept(NamedTuple):
    """An entry without its recipe."""

    id: int
    parent_id: int | None
    what: str
    created_at: datetime
    recipe_hash: str
    roll_deg: float
    lean_deg: float
    swing_deg: float
    kept_fraction: float


def entries_of(session: Session, picture_id: int) -> list[Kept]:
    """Every entry of a picture's ledger, oldest first."""
    picture = get_picture(session, picture_id)
    columns = [getattr(LedgerEntry, name) for name in Kept._fields]
    query = select(*columns).where(LedgerEntry.picture_id == picture.id).order_by(LedgerEntry.id)
    return [Kept._make(row) for row in session.execute(query)]


def begin_act(session: Session, what: str, files_before: dict[str, object] | None = None) -> int:
    """A new act on many pictures; its number goes into the entries that belong to it.

    Parameters
    ----------
    files_before : dict, optional
        The choices of files that it replaces, by the pictures' numbers.
    """
    act = Act(what=what[:200], files_before=files_before)
    session.add(act)
    session.flush()
    return act.id


class TakenBack(NamedTuple):
    """Pictures that are as they were before an act, and those that were changed since then and
    stay as they are.
    """

    back: list[Picture]
    changed: list[Picture]


def take_back(session: Session, act_id: int) -> TakenBack:
    """Undo an act in every picture in which nothing was done since."""
    act = session.get(Act, act_id)
    if act is None:
        raise NotFound(f"There is no act {act_id}.")
    query = (
        select(LedgerEntry.id, LedgerEntry.parent_id, LedgerEntry.picture_id)
        .where(LedgerEntry.act_id == act_id)
        .order_by(LedgerEntry.picture_id)
    )
    found = TakenBack([], [])
    for entry_id, parent_id, picture_id in session.execute(query).all():
        locked = select(Picture).where(Picture.id == picture_id).with_for_update(of=Picture)
        picture = session.scalars(locked).one()
        if picture.head_id != entry_id or parent_id is None:
            found.changed.append(picture)
            continue
        picture.head = session.get_one(LedgerEntry, parent_id)
        found.back.append(picture)
    for number, options in (act.files_before or {}).items():
        session.execute(
            update(Picture).where(Picture.id == int(number)).values(file_options=options)
        )
    session.flush()
    return found
