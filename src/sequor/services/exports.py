"""Exports: asked for, listed, taken, called off; the desk does them (`export_desk`)."""

from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from sqlalchemy import event
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.language import tr
from sequor.core.render.size import OutputSize, checked, output_of
from sequor.core.solve import solve
from sequor.making.exports import ExportOptions
from sequor.pictures.encode import SUFFIXES
from sequor.pictures.naming import check_pattern
from sequor.services.export_desk import ExportDesk, memory_mb, options_of
from sequor.services.fairness import check_exports
from sequor.services.pictures import facts_of_row
from sequor.services.reply import Reply, T
from sequor.services.resources import Resources
from sequor.store import exports, ledger, library
from sequor.store.exports import ExportRow
from sequor.store.models import ENDED, Export, LedgerEntry, Picture, now


@dataclass(frozen=True)
class WantedFiles:
    """Files that are wanted.

    Attributes
    ----------
    entry_id : int, optional
        The entry of the one picture to export; else those that hold.
    several : bool
        Whether a refusal must say which of the pictures it is about.
    asker : str
        Who asks, so that another one's exports do not wait for all of theirs.
    """

    picture_ids: list[int]
    options: ExportOptions
    entry_id: int | None = None
    several: bool = False
    asker: str = ""


def ask_for(
    resources: Resources, desk: ExportDesk, wanted: WantedFiles, reply: Reply[list[ExportRow], T]
) -> T:
    """Put exports of several pictures into the database, all or none; the desk begins them."""
    check_pattern(wanted.options.pattern)
    resources.files.space.require_for_files(0)
    check_exports(resources, len(set(wanted.picture_ids)))

    def queue(session: Session) -> T:
        made = [
            _queued_picture(resources, session, wanted, picture_id)
            for picture_id in dict.fromkeys(wanted.picture_ids)
        ]
        session.flush()
        # They begin when they are committed; should the word be lost, the desk's sweep finds them.
        event.listen(session, "after_commit", lambda _: desk.submit(made, wanted.asker), once=True)
        rows = {row.id: row for row in exports.export_rows(session, made)}
        return reply.to(session, [rows[number] for number in made])

    return resources.database.write(queue)


def ask_again(
    resources: Resources,
    desk: ExportDesk,
    export_id: int,
    asker: str,
    reply: Reply[list[ExportRow], T],
) -> T:
    """Put an export into the database once more, of the same entry and in the same way."""
    with resources.database.reading() as session:
        found = exports.find_export(session, export_id)
        again = WantedFiles([found.picture_id], options_of(found), found.entry_id, asker=asker)
    return ask_for(resources, desk, again, reply)


def call_off(
    resources: Resources, desk: ExportDesk, export_id: int, reply: Reply[ExportRow, T]
) -> T:
    """Call an export off; one that is finished stays as it is."""

    def change(session: Session) -> T:
        export = exports.find_export(session, export_id, locked=True)
        if export.state not in ENDED:
            export.state, export.finished_at = "cancelled", now()
        session.flush()
        return reply.to(session, exports.find_row(session, export_id))

    said = resources.database.write(change, small=True)
    desk.cancel(export_id)
    return said


def list_exports(
    resources: Resources,
    before: int | None = None,
    since: datetime | None = None,
    limit: int | None = None,
) -> list[ExportRow]:
    """The exports of all pictures, newest first; see `store.exports.export_rows`."""
    with resources.database.reading() as session:
        return exports.export_rows(session, before=before, since=since, limit=limit)


def exports_of(resources: Resources, picture_id: int, limit: int) -> list[ExportRow]:
    """The newest exports of a picture."""
    with resources.database.reading() as session:
        library.get_picture(session, picture_id)
        return exports.export_rows(session, picture_id=picture_id, limit=limit)


def find(resources: Resources, export_id: int) -> ExportRow:
    """One export."""
    with resources.database.reading() as session:
        return exports.find_row(session, export_id)


def files_of(resources: Resources, ids: list[int]) -> list[tuple[Path, ExportRow]]:
    """The files of finished exports.

    Raises
    ------
    UnusableInput
        When one of them is not finished.
    NotFound
        When one is not there, or its file is gone.
    """
    with resources.database.reading() as session:
        rows = {row.id: row for row in exports.export_rows(session, ids)}
    found = []
    for number in ids:
        row = rows.get(number)
        if row is None:
            raise exports.gone(number)
        if row.state != "done":
            raise UnusableInput(
                tr(
                    "The export of {picture_name} is not finished, so there is no file yet.",
                    picture_name=row.picture_name,
                )
            )
        path = resources.files.export(row.id, SUFFIXES[row.format])
        if not path.exists():
            raise NotFound(
                tr(
                    "The file of this export of {picture_name} is gone; export the picture again.",
                    picture_name=row.picture_name,
                )
            )
        found.append((path, row))
    return found


def name_of(row: ExportRow) -> str:
    """The name of an export's file."""
    return row.file_name or f"{Path(row.picture_name).stem}-levelled{SUFFIXES[row.format]}"


def _queued_picture(
    resources: Resources, session: Session, wanted: WantedFiles, picture_id: int
) -> int:
    """The number of a new export of a picture."""
    picture = library.get_picture(session, picture_id)
    if wanted.entry_id is None:
        entry = ledger.standing(session, picture).entry
    else:
        entry = ledger.entry_of_picture(session, picture_id, wanted.entry_id)
    try:
        _check(resources, picture, entry, wanted.options.size)
    except UnusableInput as problem:
        if not wanted.several:
            raise
        raise UnusableInput(
            tr("{name}: {problem} Nothing was exported.", name=picture.name, problem=problem)
        ) from problem
    if wanted.options.beside and not picture.opened_from:
        raise UnusableInput(
            tr(
                "{name} was copied in: no folder is known to lie beside it. Nothing was exported.",
                name=picture.name,
            )
        )
    picture.file_options = wanted.options.model_dump(mode="json")
    return _queued(session, picture, entry, wanted.options).id


def _check(resources: Resources, picture: Picture, entry: LedgerEntry, size: OutputSize) -> None:
    """Refuse early what could not be made: a size that there is not, more memory than there is."""
    recipe = ledger.recipe_of(entry)
    solution = solve(library.photo_of(picture.original), recipe)
    checked(output_of(solution, recipe.frame, size), size)
    needed_mb, most_mb = (
        memory_mb(facts_of_row(picture.original), recipe),
        resources.settings.work_mb,
    )
    if needed_mb > most_mb:
        raise UnusableInput(
            tr(
                "This export would take {needed_mb:,.0f} MB of memory; {most_mb:,} MB may "
                "be used (SEQUOR_WORK_MB).",
                needed_mb=needed_mb,
                most_mb=most_mb,
            )
        )


def _queued(
    session: Session, picture: Picture, entry: LedgerEntry, options: ExportOptions
) -> Export:
    export = Export(
        picture=picture,
        entry=entry,
        format=options.format,
        quality=options.quality,
        options=options.model_dump(mode="json"),
        placed="" if options.beside else None,
    )
    session.add(export)
    session.flush()
    return export
