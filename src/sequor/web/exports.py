"""Exports: ask for one or several, watch them, take them or call them off."""

from datetime import timedelta
from typing import get_args

from flask import Response, current_app, request, send_file
from flask_openapi3 import Tag
from pydantic import BaseModel, Field
from zipstream import ZipStream

from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr, tr_plural
from sequor.core.print_size import MAX_OUTPUT_SIDE
from sequor.core.report.options import Option, Range, options
from sequor.core.report.words import percent_words
from sequor.core.retelling import retold
from sequor.making.exports import ExportOptions
from sequor.pictures.encode import (
    CHROMA_NAMES,
    FORMATS,
    MAX_SHARPEN,
    MEDIA_TYPES,
    PACKING_NAMES,
    Bits,
)
from sequor.pictures.metadata import METADATA_NAMES
from sequor.pictures.naming import PARTS, distinct
from sequor.services import curating, exports, lists, names
from sequor.services.beside import USUAL_FOLDER
from sequor.services.exports import WantedFiles
from sequor.store.exports import ExportRow
from sequor.store.models import Preset, now
from sequor.web.answers import answer
from sequor.web.common_bodies import Done, ExportPath, PicturePath, Problem, Responses
from sequor.web.context import asker, context, resources
from sequor.web.documented import Room
from sequor.web.downloads import attachment
from sequor.web.exports_bodies import (
    ClearExports,
    DepthOption,
    DownloadQuery,
    ExportList,
    ExportState,
    FileOptions,
    FormatOption,
    NameList,
    NameOut,
    NewExport,
    NewExports,
    PageQuery,
    PresetIn,
    PresetOut,
    PresetPath,
    Presets,
)
from sequor.web.repeated import counting, replying

api = Room(
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
                    label=tr(about.label),
                    lossy=about.lossy,
                    depths=tuple(
                        DepthOption(
                            bits=bits, own=about.depth_of(bits), choices=about.choices_of(bits)
                        )
                        for bits in get_args(Bits)
                    ),
                    transparent=about.transparent,
                )
                for name, about in FORMATS.items()
            ),
            sizes=options().sizes,
            metadata=tuple(Option(value=v, label=tr(label)) for v, label in METADATA_NAMES.items()),
            quality=Range(low=_LEAST_QUALITY, high=100),
            chromas=tuple(Option(value=v, label=tr(label)) for v, label in CHROMA_NAMES.items()),
            packings=tuple(Option(value=v, label=tr(label)) for v, label in PACKING_NAMES.items()),
            sharpen=Range(low=0, high=MAX_SHARPEN),
            side=Range(low=1, high=MAX_OUTPUT_SIDE),
            name_parts=PARTS,
            beside=USUAL_FOLDER,
            start=ExportOptions(),
        )
    )


@api.post(_OF_PICTURE, responses={202: ExportState, **_REFUSALS}, operation_id="startExport")
def start_export(path: PicturePath, body: NewExport) -> Response:
    """Start rendering a corrected file at full size."""
    chosen = ExportOptions.model_validate(body.model_dump(exclude={"entry_id"}))
    wanted = WantedFiles([path.picture_id], chosen, body.entry_id, asker=asker())
    return answer(
        exports.ask_for(resources(), context().exports, wanted, replying(_first, 202)), 202
    )


@api.post("/exports", responses={202: ExportList, **_REFUSALS}, operation_id="startExports")
def start_exports(body: NewExports) -> Response:
    """Start exports of several pictures, all or none."""
    chosen = ExportOptions.model_validate(body.model_dump(exclude={"picture_ids"}))
    wanted = WantedFiles(body.picture_ids, chosen, several=True, asker=asker())
    return answer(
        exports.ask_for(resources(), context().exports, wanted, replying(_listed, 202)), 202
    )


@api.post("/exports/names", responses={200: NameList, **_REFUSALS}, operation_id="nameExports")
def name_exports(body: NewExports) -> Response:
    """The names that files of several pictures would get; nothing is made."""
    chosen = ExportOptions.model_validate(body.model_dump(exclude={"picture_ids"}))
    found = names.names_of(resources(), body.picture_ids, chosen)
    clashing = sum(one.clashes for one in found)
    words = tr(
        "{clashing} would have the name of another one; in the ZIP they are numbered.",
        clashing=clashing,
    )
    return answer(
        NameList(
            names=[NameOut(picture_id=o.picture_id, name=o.name, clashes=o.clashes) for o in found],
            words=words if clashing else "",
        )
    )


@api.get(
    "/exports.zip",
    responses={200: {"content": {"application/zip": {}}}, **_REFUSALS},
    operation_id="zipExports",
)
def zip_exports(query: ZipQuery) -> Response:
    """The files of several finished exports as one ZIP."""
    found = exports.files_of(resources(), _numbers(query.ids))
    names = distinct([exports.name_of(row) for _, row in found])
    # Picture files are compressed already: they are only strung together while they are sent.
    archive = ZipStream(sized=True)
    for (path, _), name in zip(found, names, strict=True):
        archive.add_path(path, name)
    response = current_app.response_class(archive, mimetype="application/zip")
    response.headers["Content-Length"] = str(len(archive))
    return attachment(response, "sequor-pictures.zip")


@api.get(_OF_PICTURE, responses={200: ExportList, 404: Problem}, operation_id="listExports")
def list_exports(path: PicturePath) -> Response:
    """The exports of a picture, newest first."""
    return _list(exports.exports_of(resources(), path.picture_id, _SHOWN))


@api.get("/exports", responses={200: ExportList, 422: Problem}, operation_id="listAllExports")
def list_all_exports(query: PageQuery) -> Response:
    """The exports of all pictures, newest first, so many at a time; since a moment, those that were
    asked for or ended since then or have not ended.
    """
    return _list(exports.list_exports(resources(), query.before, query.since, query.limit))


@api.post(f"{_EXPORT}/again", responses={202: ExportState, **_REFUSALS}, operation_id="exportAgain")
def export_again(path: ExportPath) -> Response:
    """Make a file once more, from the same entry and in the same way."""
    desk, reply = context().exports, replying(_first, 202)
    return answer(exports.ask_again(resources(), desk, path.export_id, asker(), reply), 202)


@api.post("/exports/clear", responses={200: Done, 422: Problem}, operation_id="clearExports")
def clear_exports(body: ClearExports) -> Response:
    """Remove finished exports with their files: some, or those older than so many days."""
    until = None if body.older_days is None else now() - timedelta(days=body.older_days)
    if body.ids is None and until is None:
        raise UnusableInput(tr("Which exports? Name them, or say how old they must be."))
    return answer(curating.clear_exports(resources(), counting(), body.ids, until))


@api.get("/presets", responses={200: Presets}, operation_id="listPresets")
def list_presets() -> Response:
    """Choices of files that have a name."""
    return answer(_presets(lists.list_presets(resources(), Preset)))


@api.post("/presets", responses={201: Presets, 422: Problem}, operation_id="storePreset")
def store_preset(body: PresetIn) -> Response:
    """Keep choices under a name; those that had it before give way."""
    reply = replying(_presets, 201)
    return answer(lists.store_preset(resources(), body.name, body.options, reply), 201)


@api.delete(
    "/presets/<int:preset_id>", responses={200: Presets, 404: Problem}, operation_id="removePreset"
)
def remove_preset(path: PresetPath) -> Response:
    """Forget a name and its choices."""
    return answer(lists.remove_preset(resources(), Preset, path.preset_id, replying(_presets)))


@api.get(_EXPORT, responses={200: ExportState, 404: Problem}, operation_id="getExport")
def get_export(path: ExportPath) -> Response:
    """How far an export is."""
    return answer(_state(exports.find(resources(), path.export_id)))


@api.post(
    f"{_EXPORT}/cancel", responses={200: ExportState, 404: Problem}, operation_id="cancelExport"
)
def cancel_export(path: ExportPath) -> Response:
    """Call an export off; one that is finished stays as it is."""
    desk = context().exports
    return answer(exports.call_off(resources(), desk, path.export_id, replying(_state)))


@api.get(
    f"{_EXPORT}/file",
    responses={200: {"content": {"image/*": {}}}, 404: Problem},
    operation_id="downloadExport",
)
def download_export(path: ExportPath, query: DownloadQuery) -> Response:
    """The corrected file, to be saved, or shown where the browser can."""
    ((target, row),) = exports.files_of(resources(), [path.export_id])
    sent = send_file(target, mimetype=MEDIA_TYPES[row.format])
    if query.shown:
        return sent
    return attachment(sent, exports.name_of(row))


def _presets(found: list[Preset]) -> Presets:
    return Presets(
        presets=[
            PresetOut(id=p.id, name=p.name, options=ExportOptions.model_validate(p.options))
            for p in found
        ]
    )


def _first(rows: list[ExportRow]) -> ExportState:
    return _state(rows[0])


def _list(rows: list[ExportRow]) -> Response:
    """Exports; nothing is sent of what the asker has already."""
    response = answer(_listed(rows))
    response.headers["Cache-Control"] = "private, no-cache"
    response.add_etag()
    response.make_conditional(request)
    return response


def _listed(rows: list[ExportRow]) -> ExportList:
    return ExportList(exports=[_state(row) for row in rows])


def _numbers(text: str) -> list[int]:
    try:
        return list(dict.fromkeys(int(part) for part in text.split(",")))
    except ValueError:
        message = tr("Which exports? Name them by their numbers, such as 3,4,5.")
        raise UnusableInput(message) from None


def _words(export: ExportRow, running: bool) -> str:
    """What is said of an export."""
    if running:
        return tr("rendering")
    if export.state != "done":
        states = {
            "queued": tr("waiting"),
            "cancelled": tr("cancelled; no file was made"),
            "failed": tr("failed"),
        }
        return retold(export.problem or "") or states[export.state]
    share = percent_words(export.filled_share or 0)
    corners = tr("{empty_pixels} empty pixels", empty_pixels=export.empty_pixels)
    if export.filled_share and export.empty_pixels:
        transparent = FORMATS[export.format].transparent
        left = mark("{share} left transparent") if transparent else mark("{share} left white")
        corners = tr(left, share=share)
    elif export.filled_share:
        corners += tr(", {share} filled", share=share)
    if export.flaws:
        corners += tr_plural(
            ", {count} place of it stands out",
            ", {count} places of it stand out",
            export.flaws,
        )
    megabytes = (export.byte_size or 0) / 1e6
    where = tr("; also in {placed}", placed=export.placed) if export.placed else ""
    told = tr(
        "{width} × {height} px, {megabytes:.1f} MB, {corners}{where}",
        width=export.width,
        height=export.height,
        megabytes=megabytes,
        corners=corners,
        where=where,
    )
    return f"{told}. {retold(export.problem)}" if export.problem else told


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
        entry_what=retold(export.entry_what),
        format=export.format,
        quality=export.quality,
        state="running" if running else export.state,
        progress=1.0 if done else desk.progress(export.id),
        problem=retold(export.problem) if export.problem else None,
        file_name=exports.name_of(export),
        width=export.width,
        height=export.height,
        byte_size=export.byte_size,
        empty_pixels=export.empty_pixels,
        filled_share=export.filled_share,
        doubt=export.doubt,
        flaws=export.flaws,
        placed=export.placed,
        words=_words(export, running),
        created_at=export.created_at,
        author=export.author or "",
    )
