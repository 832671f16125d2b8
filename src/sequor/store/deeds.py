"""The audit log: who did what, when, to what. Lines are added, in the transaction of the deed
itself, and never changed.
"""

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.store.acting import PresentDeed, actor, seeing_everything
from sequor.store.models import Picture, PictureSet
from sequor.store.people_models import Deed, Person


def note(
    session: Session,
    what: str,
    set_id: int | None = None,
    picture_id: int | None = None,
    who: str | None = None,
    person_id: int | None = None,
    facts: dict[str, object] | None = None,
) -> None:
    """Add a line, where there are accounts.

    Parameters
    ----------
    who, person_id
        Who did it, where that is not who acts.
    facts
        What else is to be known: numbers and short texts.
    """
    somebody = actor()
    if who is None:
        if somebody is None:
            return
        who, person_id = somebody.name, somebody.person_id
    session.add(
        Deed(
            who=who[:60],
            person_id=person_id,
            what=what,
            set_id=set_id,
            picture_id=picture_id,
            facts=facts,
        )
    )


def note_present(session: Session) -> None:
    """Add the line of what the present request does, unless it stands already."""
    somebody = actor()
    deed = somebody.deed if somebody else None
    if deed is not None and not deed.written:
        with seeing_everything():
            deed.sets = _sets_of(session, deed)
            names = _names(session, deed)
        facts = {**names, **deed.facts}
        note(session, deed.what, deed.set_id, deed.picture_id, facts=facts or None)


def pictures_of(deed: PresentDeed) -> list[int]:
    """The pictures that something was done to, as far as it names them."""
    several = deed.facts.get("pictures")
    return [deed.picture_id] if deed.picture_id else several if isinstance(several, list) else []


def _names(session: Session, deed: PresentDeed) -> dict[str, object]:
    """The names of what it is about, as they are then."""
    person_id = deed.facts.get("person_id")
    of_picture = deed.picture_id and session.get(Picture, deed.picture_id)
    # Of several pictures, the set that all of them are in.
    set_id = deed.set_id or (next(iter(deed.sets)) if len(deed.sets) == 1 else None)
    of_set = set_id and session.get(PictureSet, set_id)
    account = person_id and session.get(Person, person_id)
    named: dict[str, Any] = {"set": of_set, "picture": of_picture, "account": account}
    return {name: one.name for name, one in named.items() if one}


def _sets_of(session: Session, deed: PresentDeed) -> frozenset[int]:
    pictures = pictures_of(deed)
    query = select(Picture.set_id).where(Picture.id.in_(pictures)).distinct()
    found = set(session.scalars(query)) if pictures else set()
    return frozenset(found | ({deed.set_id} if deed.set_id else set()))


def present_is_kept() -> None:
    """What the present request does was written down, and is not again; it is told to others."""
    somebody = actor()
    deed = somebody.deed if somebody else None
    if somebody is None or deed is None or deed.written:
        return
    deed.written = True
    if deed.told is not None:
        deed.told(deed, somebody)


def listed(
    session: Session, before: int | None, limit: int, person_id: int | None = None
) -> list[Deed]:
    """Lines, the newest first."""
    query = select(Deed).order_by(Deed.id.desc()).limit(limit)
    if before is not None:
        query = query.where(Deed.id < before)
    if person_id is not None:
        query = query.where(Deed.person_id == person_id)
    return list(session.scalars(query))
