"""Exports as lists need them: columns of several tables in one query, without recipes."""

from datetime import datetime
from typing import NamedTuple

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound
from sequor.core.language import tr
from sequor.store.models import (
    ENDED,
    Export,
    ExportFormat,
    ExportStage,
    LedgerEntry,
    Picture,
    PictureSet,
)
from sequor.store.people_models import Person


class ExportRow(NamedTuple):
    """An export, with the names of what it is of."""

    id: int
    picture_id: int
    entry_id: int
    format: ExportFormat
    quality: int
    state: ExportStage
    problem: str | None
    file_name: str | None
    width: int | None
    height: int | None
    byte_size: int | None
    empty_pixels: int | None
    filled_share: float | None
    doubt: float | None
    flaws: int | None
    placed: str | None
    created_at: datetime
    picture_name: str
    version_name: str
    set_name: str
    entry_what: str
    author: str | None


_OF_EXPORT = ExportRow._fields[: ExportRow._fields.index("picture_name")]


def count_by_stage(session: Session) -> dict[ExportStage, int]:
    """How many exports there are of every stage that there is one of."""
    rows = session.execute(select(Export.state, func.count()).group_by(Export.state))
    return dict(rows.all())


def export_rows(
    session: Session,
    ids: list[int] | None = None,
    picture_id: int | None = None,
    before: int | None = None,
    since: datetime | None = None,
    limit: int | None = None,
) -> list[ExportRow]:
    """Exports, the newest first.

    Parameters
    ----------
    ids, picture_id
        Only these, or those of a picture.
    before : int, optional
        Only those with a smaller number.
    since : datetime, optional
        Only those that were asked for or ended since then, or have not ended.
    """
    query = (
        select(
            *(getattr(Export, name) for name in _OF_EXPORT),
            Picture.name,
            Picture.version_name,
            PictureSet.name,
            LedgerEntry.what,
            Person.name,
        )
        .join(Picture, Picture.id == Export.picture_id)
        .join(PictureSet, PictureSet.id == Picture.set_id)
        .join(LedgerEntry, LedgerEntry.id == Export.entry_id)
        .outerjoin(Person, Person.id == Export.author_id)
        .order_by(Export.id.desc())
    )
    if ids is not None:
        query = query.where(Export.id.in_(ids))
    if picture_id is not None:
        query = query.where(Export.picture_id == picture_id)
    if before:
        query = query.where(Export.id < before)
    if since is not None:
        changed = (Export.created_at >= since) | (Export.finished_at >= since)
        query = query.where(changed | Export.state.not_in(ENDED))
    if limit is not None:
        query = query.limit(limit)
    return [ExportRow._make(row) for row in session.execute(query)]


def find_row(session: Session, export_id: int) -> ExportRow:
    """An export by its number, as lists need it."""
    rows = export_rows(session, [export_id])
    if not rows:
        raise gone(export_id)
    return rows[0]


def find_export(session: Session, export_id: int, locked: bool = False) -> Export:
    """An export by its number, so that nobody else changes it where it is locked."""
    export = session.get(Export, export_id, with_for_update={"of": Export} if locked else None)
    if export is None:
        raise gone(export_id)
    return export


def gone(export_id: int) -> NotFound:
    """What is said of a number that no export has."""
    return NotFound(tr("There is no export {export_id}.", export_id=export_id))


def counts_done(session: Session, picture_ids: list[int]) -> dict[int, int]:
    """How many files were made of some pictures, by their numbers; none where it is missing."""
    query = (
        select(Export.picture_id, func.count())
        .where(Export.picture_id.in_(picture_ids), Export.state == "done")
        .group_by(Export.picture_id)
    )
    return {row.picture_id: row[1] for row in session.execute(query)}
