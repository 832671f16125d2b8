"""Exports: ask for one, watch it, take it or call it off."""

from pathlib import Path

from flask import Response, send_file
from flask_openapi3 import APIBlueprint, Tag
from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import UnusableInput
from sequor.pictures.encode import MEDIA_TYPES, SUFFIXES
from sequor.store import library
from sequor.store.models import Export, LedgerEntry
from sequor.web.answers import answer
from sequor.web.context import context
from sequor.web.schemas import ExportList, ExportPath, ExportState, NewExport, PicturePath, Problem

api = APIBlueprint("exports", __name__, url_prefix="/api", abp_tags=[Tag(name="exports", description="Corrected files")])


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
        export = Export(picture=picture, entry=entry, format=body.format, quality=body.quality)
        session.add(export)
        session.flush()
        result = answer(_state(export), 202)
        export_id = export.id
    means.exports.submit(export_id)
    return result


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


def _file_name(export: Export) -> str:
    return f"{Path(export.picture.name).stem}-levelled{SUFFIXES[export.format]}"


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
        created_at=export.created_at,
    )
