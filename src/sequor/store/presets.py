"""Choices of files that were given a name."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.language import tr
from sequor.store.models import Preset


def listed(session: Session) -> list[Preset]:
    """All of them, by name."""
    return list(session.scalars(select(Preset).order_by(Preset.name)))


def store(session: Session, name: str, options: dict[str, object]) -> Preset:
    """Keep choices under a name; those that had it before give way."""
    name = " ".join(name.split())
    if not name:
        raise UnusableInput(tr("A preset needs a name."))
    found = session.scalar(select(Preset).where(Preset.name == name))
    if found is None:
        found = Preset(name=name)
        session.add(found)
    found.options = options
    session.flush()
    return found


def remove(session: Session, preset_id: int) -> None:
    """Forget one."""
    found = session.get(Preset, preset_id)
    if found is None:
        raise NotFound(tr("This preset is not there any more."))
    session.delete(found)
    session.flush()
