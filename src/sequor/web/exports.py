"""Exports: ask for one or several, watch them, take them or call them off."""

from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from typing import get_args

from flask import Response, current_app, request, send_file
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field
from sqlalchemy import event
from sqlalchemy.orm import Session
from zipstream import ZipStream

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.recipe import MAX_OUTPUT_SIDE
from sequor.core.report.options import Option, Range, options
from sequor.making.exports import Bits, ExportOptions
from sequor.pictures.encode import FORMATS, MEDIA_TYPES, SUFFIXES
from sequor.pictures.metadata import METADATA_NAMES
from sequor.pictures.naming import PARTS, check_pattern, distinct
from sequor.services import keeping as house
from sequor.services.exports import ask_again, ask_for, call_off
from sequor.services.means import Say
from sequor.store import library, presets
from sequor.store.exports import ExportRow, export_rows
from sequor.store.models import Export, now
from sequor.web.answers import answer
from sequor.web.context import asker, context, means
from sequor.web.downloads import attachment
from sequor.web.repeated import told, written
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
    return _begun(lambda say: ask_for(means(), [path.picture_id], chosen, say, body.entry_id))


@api.post("/exports", responses={202: ExportList, **_REFUSALS}, operation_id="startExports")
def start_exports(body: NewExports) -> Response:
    """Start exports of several pictures, all or none."""
    chosen = ExportOptions.model_validate(body.model_dump(exclude={"picture_ids"}))
    said = told(_states, 202)
    made = ask_for(means(), body.picture_ids, chosen, _beginning(said), several=True)
    return answer(made, 202)


@api.get(
    "/exports.zip",
    responses={200: {"content": {"application/zip": {}}}, **_REFUSALS},
    operation_id="zipExports",
)
def zip_exports(query: ZipQuery) -> Response:
    """The files of several finished exports as one ZIP."""
    files = means().files
    with means().database.reading() as session:
        wanted = _numbers(query.ids)
        exports = {row.id: row for row in export_rows(session, wanted)}
        for number in wanted:
            if number not in exports:
                raise NotFound(f"There is no export {number}.")
        listed = [exports[number] for number in wanted]
        if any(row.state != "done" for row in listed):
            raise UnusableInput("Not all of these exports are finished, so there is no ZIP yet.")
        names = distinct([_file_name(row) for row in listed])
        paths = [files.export(row.id, SUFFIXES[row.format]) for row in listed]
    if not all(path.exists() for path in paths):
        raise NotFound("The file of one of these exports is gone; export the pictures again.")
    # Picture files are compressed already: they are only strung together while they are sent.
    archive = ZipStream(sized=True)
    for path, name in zip(paths, names, strict=True):
        archive.add_path(path, name)
    response = current_app.response_class(archive, mimetype="application/zip")
    response.headers["Content-Length"] = str(len(archive))
    return attachment(response, "sequor-pictures.zip")


@api.get(_OF_PICTURE, responses={200: ExportList, 404: Problem}, operation_id="listExports")
def list_exports(path: PicturePath) -> Response:
    """The exports of a picture, newest first."""
    with means().database.reading() as session:
        library.get_picture(session, path.picture_id)
        return _list(export_rows(session, picture_id=path.picture_id, limit=_SHOWN))


@api.get("/exports", responses={200: ExportList, 422: Problem}, operation_id="listAllExports")
def list_all_exports(query: PageQuery) -> Response:
    """The exports of all pictures, newest first, so many at a time; since a moment, those that were
    asked for or ended since then or have not ended.
    """
    with means().database.reading() as session:
        return _list(export_rows(session, None, None, query.before, query.since, query.limit))


@api.post(f"{_EXPORT}/again", responses={202: ExportState, **_REFUSALS}, operation_id="exportAgain")
def export_again(path: ExportPath) -> Response:
    """Make a file once more, from the same entry and in the same way."""
    return _begun(lambda say: ask_again(means(), path.export_id, say))


@api.post("/exports/clear", responses={200: Done, 422: Problem}, operation_id="clearExports")
def clear_exports(body: ClearExports) -> Response:
    """Remove finished exports with their files: some, or those older than so many days."""
    until = None if body.older_days is None else now() - timedelta(days=body.older_days)
    if body.ids is None and until is None:
        raise UnusableInput("Which exports? Name them, or say how old they must be.")
    said = told(lambda _, count: Done(count=count))
    return answer(house.clear_exports(means(), said, body.ids, until))


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

    return written(change, 201)


@api.delete(
    "/presets/<int:preset_id>", responses={200: Presets, 404: Problem}, operation_id="removePreset"
)
def remove_preset(path: PresetPath) -> Response:
    """Forget a name and its choices."""

    def change(session: Session) -> Presets:
        presets.remove(session, path.preset_id)
        return _presets(session)

    return written(change)


@api.get(_EXPORT, responses={200: ExportState, 404: Problem}, operation_id="getExport")
def get_export(path: ExportPath) -> Response:
    """How far an export is."""
    with means().database.reading() as session:
        return answer(_state(_found(session, path.export_id)))


@api.post(
    f"{_EXPORT}/cancel", responses={200: ExportState, 404: Problem}, operation_id="cancelExport"
)
def cancel_export(path: ExportPath) -> Response:
    """Call an export off; one that is finished stays as it is."""

    def state(session: Session, export: Export) -> ExportState:
        return _state(_found(session, export.id))

    return answer(call_off(means(), context().exports, path.export_id, told(state)))


@api.get(
    f"{_EXPORT}/file",
    responses={200: {"content": {"image/*": {}}}, 404: Problem},
    operation_id="downloadExport",
)
def download_export(path: ExportPath) -> Response:
    """The corrected file."""
    with means().database.reading() as session:
        export = _found(session, path.export_id)
        if export.state != "done":
            raise UnusableInput("This export is not finished, so there is no file yet.")
        target = means().files.export(export.id, SUFFIXES[export.format])
        if not target.exists():
            raise NotFound("The file of this export is gone; export the picture again.")
        return attachment(
            send_file(target, mimetype=MEDIA_TYPES[export.format]), _file_name(export)
        )


def _presets(session: Session) -> Presets:
    return Presets(
        presets=[
            PresetOut(id=p.id, name=p.name, options=ExportOptions.model_validate(p.options))
            for p in presets.listed(session)
        ]
    )


def _begun(ask: Callable[[Say[list[Export], BaseModel]], BaseModel]) -> Response:
    """Ask for one export, and have it begun."""

    def state(session: Session, made: list[Export]) -> ExportState:
        return _state(_found(session, made[0].id))

    return answer(ask(_beginning(told(state, 202))), 202)


def _beginning(say: Say[list[Export], BaseModel]) -> Say[list[Export], BaseModel]:
    """The same, and the exports are begun when they are committed; should the word be lost, the
    desk's sweep finds them.
    """
    who = asker()

    def and_begin(session: Session, made: list[Export]) -> BaseModel:
        numbers = [export.id for export in made]
        event.listen(session, "after_commit", lambda _: desk.submit(numbers, who), once=True)
        return say(session, made)

    desk = context().exports
    return and_begin


def _states(session: Session, made: list[Export]) -> ExportList:
    rows = {row.id: row for row in export_rows(session, [export.id for export in made])}
    return _listed([rows[export.id] for export in made])


def _list(rows: list[ExportRow]) -> Response:
    """Exports; nothing is sent of what the asker has already."""
    response = answer(_listed(rows))
    response.headers["Cache-Control"] = "private, no-cache"
    response.add_etag()
    response.make_conditional(request)
    return response


def _listed(rows: list[ExportRow]) -> ExportList:
    return ExportList(exports=[_state(row) for row in rows])


def _found(session: Session, export_id: int) -> ExportRow:
    rows = export_rows(session, [export_id])
    if not rows:
        raise NotFound(f"There is no export {export_id}.")
    return rows[0]


def _numbers(text: str) -> list[int]:
    try:
        return list(dict.fromkeys(int(part) for part in text.split(",")))
    except ValueError:
        message = "Which exports? Name them by their numbers, such as 3,4,5."
        raise UnusableInput(message) from None


def _file_name(export: ExportRow) -> str:
    own = f"{Path(export.picture_name).stem}-levelled{SUFFIXES[export.format]}"
    return export.file_name or own


def _words(export: ExportRow, running: bool) -> str:
    """What is said of an export."""
    if running:
        return "rendering"
    if export.state != "done":
        states = {
            "queued": "waiting",
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


def _state(export: ExportRow) -> ExportState:
    done, desk = export.state == "done", context().exports
    running = export.state == "queued" and desk.is_running(export.id)
    return ExportState(
        id=export.id,
        picture_id=export.picture_id,
        picture_name=export.picture_name,
        version_name=export.version_name,
        set_name=export.set_name,
        entry_id=export.entry_id,
        entry_what=export.entry_what,
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
