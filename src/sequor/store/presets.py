"""Choices that were given a name: of files, and of what counts how much in weighing harm."""

from typing import TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.language import tr
from sequor.store.models import Preset, Weighting

P = TypeVar("P", Preset, Weighting)


def listed(session: Session, kind: type[P]) -> list[P]:
    """All of a kind, by name."""
    return list(session.scalars(select(kind).order_by(kind.name)))


def store(session: Session, kind: type[P], name: str, options: dict[str, object]) -> P:
    """Keep choices under a name; those of the kind that had it before give way."""
    name = " ".join(name.split())
    if not name:
        raise UnusableInput(tr("A preset needs a name."))
    found = session.scalar(select(kind).where(kind.name == name))
    if found is None:
        found = kind(name=name)
        session.add(found)
    found.options = options
    session.flush()
    return found


def remove(session: Session, kind: type[P], preset_id: int) -> None:
    """Forget one."""
    found = session.get(kind, preset_id)
    if found is None:
        raise NotFound(tr("This preset is not there any more."))
    session.delete(found)
    session.flush()
