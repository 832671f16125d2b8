"""The audit log: who did what, when, to what. Lines are added, in the transaction of the deed
itself, and never changed.
"""

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.store.acting import PresentDeed, actor, seeing_everything
from sequor.store.models import Picture, PictureSet
from sequor.store.people_models import Deed


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
        facts = {**_names(session, deed), **(deed.facts or {})}
        note(session, deed.what, deed.set_id, deed.picture_id, facts=facts or None)


def _names(session: Session, deed: PresentDeed) -> dict[str, object]:
    """The names of what it is about, as they are then."""
    with seeing_everything():
        of_picture = deed.picture_id and session.get(Picture, deed.picture_id)
        of_set = deed.set_id and session.get(PictureSet, deed.set_id)
    named = of_set or (of_picture and of_picture.set)
    found = {"set": named and named.name, "picture": of_picture and of_picture.name}
    return {name: value for name, value in found.items() if value}


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
