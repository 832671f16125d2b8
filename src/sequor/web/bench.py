"""One picture on the bench: its state, drafts, the ledger, and what the stage shows."""

import pyvips
from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel
from sqlalchemy.orm import Session

from sequor.core.adjust import set_tilt
from sequor.core.fit import fitted
from sequor.core.notes import fit_words
from sequor.core.readings import check_reading
from sequor.core.recipe import PhotoFacts
from sequor.core.render import render_small
from sequor.core.solve import Solution, solve
from sequor.pictures.proxy import PROXY_LONG_EDGE, encode_preview
from sequor.store import ledger, library
from sequor.store.models import LedgerEntry, Picture
from sequor.web.answers import answer
from sequor.web.context import context
from sequor.web.intake import ensure_proxy
from sequor.web.schemas import (
    Draft,
    Move,
    NewEntry,
    PictureFile,
    PicturePath,
    PictureState,
    Problem,
    ReadingIn,
    ReadingOut,
    TypedTiltIn,
    TypedTiltOut,
)

api = APIBlueprint(
    "bench", __name__, url_prefix="/api/pictures/<int:picture_id>", abp_tags=[Tag(name="bench", description="One picture")]
)

_FOREVER = "private, max-age=31536000, immutable"
_THUMBNAIL_LONG_EDGE = 480


class EntryQuery(BaseModel):
    """Which ledger entry to show."""

    entry: int


@api.get("", responses={200: PictureState, 404: Problem}, operation_id="getPicture")
def get_picture(path: PicturePath) -> Response:
    """The picture with the recipe that holds and its solution."""
    with context().sessions() as session:
        return answer(state(session, library.get_picture(session, path.picture_id)))


@api.post("/solve", responses={200: Solution, 404: Problem, 422: Problem}, operation_id="solveDraft")
def solve_draft(path: PicturePath, body: Draft) -> Response:
    """The solution of a recipe that is being tried; nothing is stored."""
    return answer(solve(_photo(path.picture_id), body.recipe))


@api.post("/tilt", responses={200: TypedTiltOut, 404: Problem, 422: Problem}, operation_id="typeTilt")
def type_tilt(path: PicturePath, body: TypedTiltIn) -> Response:
    """The recipe that corrects a typed tilt such as ``1.33 cw`` or ``1°20'``; nothing is stored."""
    recipe, said = set_tilt(_photo(path.picture_id), body.recipe, body.text)
    return answer(TypedTiltOut(recipe=recipe, said=said))


@api.post("/fit", responses={200: ReadingOut, 404: Problem, 422: Problem}, operation_id="fitReading")
def fit_reading(path: PicturePath, body: ReadingIn) -> Response:
    """Fit a reading to the image edge under it, at full resolution; nothing is stored."""
    means = context()
    with means.sessions() as session:
        picture = library.get_picture(session, path.picture_id)
    check_reading(body.reading, "The line", library.photo_of(picture))
    sha256 = picture.original_sha256
    pixels = means.pixels.get(sha256, means.files.original(sha256), picture.name, means.settings.max_megapixels)
    found = fitted(body.reading, pixels)
    return answer(
        ReadingOut(reading=found or body.reading, said=fit_words(found.fitted.stations if found and found.fitted else None))
    )


@api.post("/ledger", responses={201: PictureState, 409: Problem, 404: Problem, 422: Problem}, operation_id="enterRecipe")
def enter_recipe(path: PicturePath, body: NewEntry) -> Response:
    """Enter a recipe after the entry it was based on; refused when another one holds by now."""
    with context().sessions.begin() as session:
        return answer(state(session, ledger.append(session, path.picture_id, body.based_on, body.recipe, body.what)), 201)


@api.post("/undo", responses={200: PictureState, 409: Problem, 404: Problem, 422: Problem}, operation_id="undo")
def undo(path: PicturePath, body: Move) -> Response:
    """Go back to the entry before."""
    with context().sessions.begin() as session:
        return answer(state(session, ledger.undo(session, path.picture_id, body.based_on)))


@api.post("/redo", responses={200: PictureState, 409: Problem, 404: Problem, 422: Problem}, operation_id="redo")
def redo(path: PicturePath, body: Move) -> Response:
    """Go forward again to the newest entry after the present one."""
    with context().sessions.begin() as session:
        return answer(state(session, ledger.redo(session, path.picture_id, body.based_on)))


@api.get("/proxy.jpg", responses={200: {"content": {"image/jpeg": {}}}, 404: Problem}, operation_id="getProxy")
def get_proxy(path: PicturePath) -> Response:
    """The upright picture as shot, reduced for the screen."""
    means = context()
    with means.sessions() as session:
        picture = library.get_picture(session, path.picture_id)
    return _jpeg(ensure_proxy(means.files, picture, means.settings.max_megapixels))


@api.get("/thumbnail.jpg", responses={200: {"content": {"image/jpeg": {}}}, 404: Problem}, operation_id="getThumbnail")
def get_thumbnail(path: PicturePath, query: EntryQuery) -> Response:
    """The frame of a ledger entry, small, as it would be exported."""
    means = context()
    with means.sessions() as session:
        picture = library.get_picture(session, path.picture_id)
        entry = session.get(LedgerEntry, query.entry)
        if entry is None or entry.picture_id != picture.id:
            raise library.NotFound(f"There is no entry {query.entry} for this picture.")
        solution = solve(library.photo_of(picture), ledger.recipe_of(entry))
    proxy = ensure_proxy(means.files, picture, means.settings.max_megapixels)
    small = pyvips.Image.thumbnail_buffer(proxy, _THUMBNAIL_LONG_EDGE, height=_THUMBNAIL_LONG_EDGE).numpy()
    if small.ndim == 2:
        small = small[:, :, None]
    return _jpeg(encode_preview(render_small(small, solution, small.shape[1] / picture.original.width).pixels))


def state(session: Session, picture: Picture) -> PictureState:
    """A picture as the bench shows it."""
    original, entry = picture.original, picture.head
    recipe = ledger.recipe_of(entry)
    return PictureState(
        id=picture.id,
        set_id=picture.set_id,
        set_name=picture.set.name,
        file=PictureFile(
            name=picture.name,
            format=original.format,
            width=original.width,
            height=original.height,
            bits=original.bits,
            profile=original.profile,
            focal35_mm=original.focal35_mm,
            byte_size=original.byte_size,
        ),
        proxy_scale=min(1.0, PROXY_LONG_EDGE / max(original.width, original.height)),
        entry_id=entry.id,
        what=entry.what,
        recipe=recipe,
        solution=solve(library.photo_of(picture), recipe),
        can_undo=entry.parent_id is not None,
        can_redo=ledger.next_entry_id(session, picture) is not None,
    )


def _photo(picture_id: int) -> PhotoFacts:
    """What the core needs to know about a picture; it never changes, so a drag does not ask the database every time."""
    known = context().photos
    if picture_id not in known:
        with context().sessions() as session:
            known[picture_id] = library.photo_of(library.get_picture(session, picture_id))
    return known[picture_id]


def _jpeg(content: bytes) -> Response:
    response = current_app.response_class(content, mimetype="image/jpeg")
    response.headers["Cache-Control"] = _FOREVER
    return response
