"""Exports: ask for one or several, watch them, take them or call them off."""

from datetime import timedelta
from pathlib import Path
from typing import get_args

from flask import Response, current_app, send_file
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field
from sqlalchemy import select
from sqlalchemy.orm import Session
from zipstream import ZipStream

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.recipe import MAX_OUTPUT_SIDE
from sequor.core.report.options import Option, Range, options
from sequor.pictures.encode import FORMATS, MEDIA_TYPES, SUFFIXES
from sequor.pictures.metadata import METADATA_NAMES
from sequor.pictures.naming import PARTS, check_pattern, distinct
from sequor.services import keeping as house
from sequor.services.exports import Bits, ExportOptions, ask_for
from sequor.store import library, presets
from sequor.store.models import Export, now
from sequor.web.answers import answer
from sequor.web.context import asker, context, means
from sequor.web.schemas import (
    ClearExports,
    Done,
    ExportList,
    ExportPath,
    ExportState,
    FileOptions,
    FormatOption,
    NewExport,
    NewExports,
    PageQuery,
    PicturePath,
    PresetIn,
    PresetOut,
    PresetPath,
    Presets,
    Problem,
    Responses,
)

api = APIBlueprint(
    "exports",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="exports", description="Corrected files")],
)
_REFUSALS: Responses = {404: Problem, 422: Problem}
_OF_PICTURE, _EXPORT = "/pictures/<int:picture_id>/exports", "/exports/<int:export_id>"
_SHOWN = 50
_LEAST_QUALITY = 50
"""As far down as a screen offers it; less is a matter of thumbnails, and can be asked for."""


class ZipQuery(BaseModel):
    """The numbers of exports, such as ``3,4,5``."""

    ids: str = Field(max_length=4000)


@api.get("/file-options", responses={200: FileOptions}, operation_id="getFileOptions")
def get_file_options() -> Response:
    """How files can be written, and how they are when nothing is said."""
    return answer(
        FileOptions(
            formats=tuple(
                FormatOption(
                    value=name,
                    label=about.label,
                    lossy=about.lossy,
                    deep=about.deep,
                    transparent=about.transparent,
                )
                for name, about in FORMATS.items()
            ),
            sizes=options().sizes,
            metadata=tuple(Option(value=v, label=label) for v, label in METADATA_NAMES.items()),
            quality=Range(low=_LEAST_QUALITY, high=100),
            bits=get_args(Bits),
            side=Range(low=1, high=MAX_OUTPUT_SIDE),
            name_parts=PARTS,
            start=ExportOptions(),
        )
    )


@api.post(_OF_PICTURE, responses={202: ExportState, **_REFUSALS}, operation_id="startExport")
def start_export(path: PicturePath, body: NewExport) -> Response:
    """Start rendering a corrected file at full size."""
    chosen = ExportOptions.model_validate(body.model_dump(exclude={"entry_id"}))
    (export,) = ask_for(means(), [path.picture_id], chosen, body.entry_id)
    context().exports.submit(export.id, asker())
    return answer(_state(export), 202)


@api.post("/exports", responses={202: ExportList, **_REFUSALS}, operation_id="startExports")
def start_exports(body: NewExports) -> Response:
    """Start exports of several pictures, all or none."""
    chosen = ExportOptions.model_validate(body.model_dump(exclude={"picture_ids"}))
    made = ask_for(means(), body.picture_ids, chosen, several=True)
    for export in made:
        context().exports.submit(export.id, asker())
    return answer(ExportList(exports=[_state(export) for export in made]), 202)


@api.get(
    "/exports.zip",
    responses={200: {"content": {"application/zip": {}}}, **_REFUSALS},
    operation_id="zipExports",
)
def zip_exports(query: ZipQuery) -> Response:
    """The files of several finished exports as one ZIP."""
    files = means().files
    with means().database.reading() as session:
        exports = [_find(session, number) for number in _numbers(query.ids)]
        if any(export.state != "done" for export in exports):
            raise UnusableInput("Not all of these exports are finished, so there is no ZIP yet.")
        names = distinct([_file_name(export) for export in exports])
        paths = [files.export(export.id, SUFFIXES[export.format]) for export in exports]
    if not all(path.exists() for path in paths):
        raise NotFound("The file of one of these exports is gone; export the pictures again.")
    # Picture files are compressed already: they are only strung together while they are sent.
    archive = ZipStream(sized=True)
    for path, name in zip(paths, names, strict=True):
        archive.add_path(path, name)
    response = current_app.response_class(archive, mimetype="application/zip")
    response.headers["Content-Length"] = str(len(archive))
    response.headers["Content-Disposition"] = "attachment; filename=sequor-pictures.zip"
    return response


@api.get(_OF_PICTURE, responses={200: ExportList, 404: Problem}, operation_id="listExports")
def list_exports(path: PicturePath) -> Response:
    """The exports of a picture, newest first."""
    with means().database.reading() as session:
        library.get_picture(session, path.picture_id)
        query = select(Export).where(Export.picture_id == path.picture_id)
        found = session.scalars(query.order_by(Export.id.desc()).limit(_SHOWN))
        return answer(ExportList(exports=[_state(export) for export in found]))


@api.get("/exports", responses={200: ExportList, 422: Problem}, operation_id="listAllExports")
def list_all_exports(query: PageQuery) -> Response:
    """The exports of all pictures, newest first, so many at a time."""
    with means().database.reading() as session:
        found = select(Export).order_by(Export.id.desc()).limit(query.limit)
        if query.before:
            found = found.where(Export.id < query.before)
        return answer(ExportList(exports=[_state(export) for export in session.scalars(found)]))


@api.post(f"{_EXPORT}/again", responses={202: ExportState, **_REFUSALS}, operation_id="exportAgain")
def export_again(path: ExportPath) -> Response:
    """Make a file once more, from the same entry and in the same way."""
    with means().database.reading() as session:
        export = _find(session, path.export_id)
        picture_id, entry_id = export.picture_id, export.entry_id
        stored = export.options or {"format": export.format, "quality": export.quality}
    (made,) = ask_for(means(), [picture_id], ExportOptions.model_validate(stored), entry_id)
    context().exports.submit(made.id, asker())
    return answer(_state(made), 202)


@api.post("/exports/clear", responses={200: Done, 422: Problem}, operation_id="clearExports")
def clear_exports(body: ClearExports) -> Response:
    """Remove finished exports with their files: some, or those older than so many days."""
    until = None if body.older_days is None else now() - timedelta(days=body.older_days)
    if body.ids is None and until is None:
        raise UnusableInput("Which exports? Name them, or say how old they must be.")
    return answer(Done(count=house.clear_exports(means(), body.ids, until)))


@api.get("/presets", responses={200: Presets}, operation_id="listPresets")
def list_presets() -> Response:
    """Choices of files that have a name."""
    with means().database.reading() as session:
        return answer(_presets(session))


@api.post("/presets", responses={201: Presets, 422: Problem}, operation_id="keepPreset")
def keep_preset(body: PresetIn) -> Response:
    """Keep choices under a name; those that had it before give way."""
    check_pattern(body.options.pattern)

    def change(session: Session) -> Presets:
        presets.keep(session, body.name, body.options.model_dump(mode="json"))
        return _presets(session)

    return answer(means().database.write(change), 201)


@api.delete(
    "/presets/<int:preset_id>", responses={200: Presets, 404: Problem}, operation_id="removePreset"
)
def remove_preset(path: PresetPath) -> Response:
    """Forget a name and its choices."""

    def change(session: Session) -> Presets:
        presets.remove(session, path.preset_id)
        return _presets(session)

    return answer(means().database.write(change))


@api.get(_EXPORT, responses={200: ExportState, 404: Problem}, operation_id="getExport")
def get_export(path: ExportPath) -> Response:
    """How far an export is."""
    with means().database.reading() as session:
        return answer(_state(_find(session, path.export_id)))


@api.post(
    f"{_EXPORT}/cancel", responses={200: ExportState, 404: Problem}, operation_id="cancelExport"
)
def cancel_export(path: ExportPath) -> Response:
    """Call an export off; one that is finished stays as it is."""
    with means().database.reading() as session:
        export = _find(session, path.export_id)
        if export.state in ("queued", "running"):
            context().exports.cancel(export.id)
        return answer(_state(export))


@api.get(
    f"{_EXPORT}/file",
    responses={200: {"content": {"image/*": {}}}, 404: Problem},
    operation_id="downloadExport",
)
def download_export(path: ExportPath) -> Response:
    """The corrected file."""
    with means().database.reading() as session:
        export = _find(session, path.export_id)
        if export.state != "done":
            raise UnusableInput("This export is not finished, so there is no file yet.")
        target = means().files.export(export.id, SUFFIXES[export.format])
        if not target.exists():
            raise NotFound("The file of this export is gone; export the picture again.")
        return send_file(
            target,
            mimetype=MEDIA_TYPES[export.format],
            as_attachment=True,
            download_name=_file_name(export),
        )


def _presets(session: Session) -> Presets:
    return Presets(
        presets=[
            PresetOut(id=p.id, name=p.name, options=ExportOptions.model_validate(p.options))
            for p in presets.listed(session)
        ]
    )


def _find(session: Session, export_id: int) -> Export:
    export = session.get(Export, export_id)
    if export is None:
        raise NotFound(f"There is no export {export_id}.")
    return export


def _numbers(text: str) -> list[int]:
    try:
        return list(dict.fromkeys(int(part) for part in text.split(",")))
    except ValueError:
        message = "Which exports? Name them by their numbers, such as 3,4,5."
        raise UnusableInput(message) from None


def _file_name(export: Export) -> str:
    own = f"{Path(export.picture.name).stem}-levelled{SUFFIXES[export.format]}"
    return export.file_name or own


def _words(export: Export, running: bool) -> str:
    """What is said of an export."""
    if running:
        return "rendering"
    if export.state != "done":
        states = {
            "queued": "waiting",
            "running": "waiting",
            "cancelled": "cancelled; no file was made",
            "failed": "failed",
        }
        return export.problem or states[export.state]
    filled = f", {export.filled_share * 100:.1f} % filled" if export.filled_share else ""
    megabytes = (export.byte_size or 0) / 1e6
    return (
        f"{export.width} × {export.height} px, {megabytes:.1f} MB, "
        f"{export.empty_pixels} empty pixels{filled}"
    )


def _state(export: Export) -> ExportState:
    done, desk = export.state == "done", context().exports
    running = export.state == "queued" and desk.is_running(export.id)
    return ExportState(
        id=export.id,
        picture_id=export.picture_id,
        picture_name=export.picture.name,
        version_name=export.picture.version_name,
        set_name=export.picture.set.name,
        entry_id=export.entry_id,
        entry_what=export.entry.what,
        format=export.format,
        quality=export.quality,
        state="running" if running else export.state,
        progress=1.0 if done else desk.progress(export.id),
        problem=export.problem,
        file_name=_file_name(export),
        width=export.width,
        height=export.height,
        byte_size=export.byte_size,
        empty_pixels=export.empty_pixels,
        filled_share=export.filled_share,
        words=_words(export, running),
        created_at=export.created_at,
    )
