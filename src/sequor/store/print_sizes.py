"""The list of sizes that a lab prints."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound
from sequor.core.language import tr
from sequor.core.print_size import PrintSize
from sequor.store.models import PrintFormat


def listed(session: Session) -> list[PrintFormat]:
    """All sizes, in the order they were added."""
    return list(session.scalars(select(PrintFormat).order_by(PrintFormat.id)))


def add(session: Session, name: str, size: PrintSize) -> PrintFormat:
    """A new size at the end of the list."""
    made = PrintFormat(
        name=name, width=size.width, height=size.height, unit=size.unit, ppi=size.ppi
    )
    session.add(made)
    session.flush()
    return made


def change(session: Session, size_id: int, name: str, size: PrintSize) -> PrintFormat:
    """Another name or other measures for a listed size."""
    found = _find(session, size_id)
    found.name, found.width, found.height, found.unit, found.ppi = (
        name,
        size.width,
        size.height,
        size.unit,
        size.ppi,
    )
    session.flush()
    return found


def remove(session: Session, size_id: int) -> None:
    """Take a size off the list."""
    session.delete(_find(session, size_id))
    session.flush()


def _find(session: Session, size_id: int) -> PrintFormat:
    found = session.get(PrintFormat, size_id)
    if found is None:
        raise NotFound(tr("This size is not on the list any more."))
    return found
