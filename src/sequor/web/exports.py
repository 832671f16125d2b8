"""Exports: ask for one or several, watch them, take them or call them off."""

import tempfile
import zipfile
from pathlib import Path

from flask import Response, send_file
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field
from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import UnusableInput
from sequor.core.output import checked, output_of
from sequor.core.solve import solve
from sequor.pictures.encode import MEDIA_TYPES, SUFFIXES
from sequor.pictures.naming import check_pattern, distinct
from sequor.store import ledger, library
from sequor.store.models import Export, LedgerEntry, Picture
from sequor.web.answers import answer
from sequor.web.context import context
from sequor.web.schemas import ExportList, ExportOptions, ExportPath, ExportState, NewExport, NewExports, PicturePath, Problem

api = APIBlueprint("exports", __name__, url_prefix="/api", abp_tags=[Tag(name="exports", description="Corrected files")])


class ZipQuery(BaseModel):
    """The numbers of exports, such as ``3,4,5``."""

    ids: str = Field(max_length=4000)


@api.post(
    "/pictures/<int:picture_id>/exports", responses={202: ExportState, 404: Problem, 422: Problem}, operation_id="startExport"
)
def start_export(path: PicturePath, body: NewExport) -> Response:
    """Start rendering a corrected file at full size."""
    means = context()
    with means.sessions.begin() as session:
        picture = library.get_picture(session, path.picture_id)
        entry = session.get(LedgerEntry, body.entry_id or picture.head_id)
        if entry is None or entry.picture_id != picture.id:
            raise library.NotFound(f"There is no entry {body.entry_id} for this picture.")
        recipe = ledger.recipe_of(entry)
        checked(output_of(solve(library.photo_of(picture), recipe), recipe.frame, body.size), body.size)
        export = _queued(session, picture, entry, ExportOptions.model_validate(body.model_dump(exclude={"entry_id"})))
        result = answer(_state(export), 202)
        export_id = export.id
    means.exports.submit(export_id)
    return result


@api.post("/exports", responses={202: ExportList, 404: Problem, 422: Problem}, operation_id="startExports")
def start_exports(body: NewExports) -> Response:
    """Start exports of several pictures, all or none."""
    means = context()
    options = ExportOptions.model_validate(body.model_dump(exclude={"picture_ids"}))
    with means.sessions.begin() as session:
        made = []
        for picture_id in dict.fromkeys(body.picture_ids):
            picture = library.get_picture(session, picture_id)
            recipe = ledger.recipe_of(picture.head)
            try:
                checked(output_of(solve(library.photo_of(picture), recipe), recipe.frame, body.size), body.size)
            except UnusableInput as problem:
                raise UnusableInput(f"{picture.name}: {problem} Nothing was exported.") from problem
            made.append(_queued(session, picture, picture.head, options))
        result = answer(ExportList(exports=[_state(export) for export in made]), 202)
        numbers = [export.id for export in made]
    for number in numbers:
        means.exports.submit(number)
    return result


@api.get(
    "/exports.zip", responses={200: {"content": {"application/zip": {}}}, 404: Problem, 422: Problem}, operation_id="zipExports"
)
def zip_exports(query: ZipQuery) -> Response:
    """The files of several finished exports as one ZIP."""
    means = context()
    with means.sessions() as session:
        exports = [_find(session, number) for number in _numbers(query.ids)]
        if any(export.state != "done" for export in exports):
            raise UnusableInput("Not all of these exports are finished, so there is no ZIP yet.")
        names = distinct([_file_name(export) for export in exports])
        paths = [means.files.export(export.id, SUFFIXES[export.format]) for export in exports]
    if not all(path.exists() for path in paths):
        raise library.NotFound("The file of one of these exports is gone; export the pictures again.")
    # Picture files are compressed already: they are stored, in a file that vanishes when it has been sent.
    packed = tempfile.TemporaryFile()  # noqa: SIM115, closed when the answer has been sent
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_STORED) as archive:
        for path, name in zip(paths, names, strict=True):
            archive.write(path, name)
    packed.seek(0)
    return send_file(packed, mimetype="application/zip", as_attachment=True, download_name="sequor-pictures.zip")


@api.get("/pictures/<int:picture_id>/exports", responses={200: ExportList, 404: Problem}, operation_id="listExports")
def list_exports(path: PicturePath) -> Response:
    """The exports of a picture, newest first."""
    with context().sessions() as session:
        library.get_picture(session, path.picture_id)
        found = session.scalars(select(Export).where(Export.picture_id == path.picture_id).order_by(Export.id.desc()).limit(50))
        return answer(ExportList(exports=[_state(export) for export in found]))


@api.get("/exports/<int:export_id>", responses={200: ExportState, 404: Problem}, operation_id="getExport")
def get_export(path: ExportPath) -> Response:
    """How far an export is."""
    with context().sessions() as session:
        return answer(_state(_find(session, path.export_id)))


@api.post("/exports/<int:export_id>/cancel", responses={200: ExportState, 404: Problem}, operation_id="cancelExport")
def cancel_export(path: ExportPath) -> Response:
    """Call an export off; one that is finished stays as it is."""
    means = context()
    with means.sessions() as session:
        export = _find(session, path.export_id)
        if export.state in ("queued", "running"):
            means.exports.cancel(export.id)
        return answer(_state(export))


@api.get(
    "/exports/<int:export_id>/file", responses={200: {"content": {"image/*": {}}}, 404: Problem}, operation_id="downloadExport"
)
def download_export(path: ExportPath) -> Response:
    """The corrected file."""
    means = context()
    with means.sessions() as session:
        export = _find(session, path.export_id)
        if export.state != "done":
            raise UnusableInput("This export is not finished, so there is no file yet.")
        target = means.files.export(export.id, SUFFIXES[export.format])
        if not target.exists():
            raise library.NotFound("The file of this export is gone; export the picture again.")
        return send_file(target, mimetype=MEDIA_TYPES[export.format], as_attachment=True, download_name=_file_name(export))


def _find(session: Session, export_id: int) -> Export:
    export = session.get(Export, export_id)
    if export is None:
        raise library.NotFound(f"There is no export {export_id}.")
    return export


def _queued(session: Session, picture: Picture, entry: LedgerEntry, options: ExportOptions) -> Export:
    check_pattern(options.pattern)
    export = Export(
        picture=picture, entry=entry, format=options.format, quality=options.quality, options=options.model_dump(mode="json")
    )
    session.add(export)
    session.flush()
    return export


def _numbers(text: str) -> list[int]:
    try:
        return list(dict.fromkeys(int(part) for part in text.split(",")))
    except ValueError:
        raise UnusableInput("Which exports? Name them by their numbers, such as 3,4,5.") from None


def _file_name(export: Export) -> str:
    return export.file_name or f"{Path(export.picture.name).stem}-levelled{SUFFIXES[export.format]}"


def _state(export: Export) -> ExportState:
    return ExportState(
        id=export.id,
        picture_id=export.picture_id,
        entry_id=export.entry_id,
        format=export.format,
        quality=export.quality,
        state=export.state,
        progress=1.0 if export.state == "done" else context().exports.progress(export.id),
        problem=export.problem,
        file_name=_file_name(export),
        width=export.width,
        height=export.height,
        byte_size=export.byte_size,
        empty_pixels=export.empty_pixels,
        filled_share=export.filled_share,
        created_at=export.created_at,
    )
