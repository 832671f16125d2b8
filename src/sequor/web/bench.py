"""One picture on the bench: its state, drafts, the ledger, and what the stage shows."""

import math

import pyvips
from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from sequor.core.adjust import act, fit_all, rectangle, set_angle
from sequor.core.bow import Bow, bow_of
from sequor.core.camera import ASSUMED_FOCAL35_MM
from sequor.core.errors import UnusableInput
from sequor.core.fill.apply import fill_roughly
from sequor.core.frame import Rectangle
from sequor.core.guides import HeldAgainst, edge_under_guide
from sequor.core.readings import check_reading
from sequor.core.recipe import LensBow, Recipe
from sequor.core.render import render_small, render_straight, render_view
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.pictures import lenses
from sequor.pictures.encode import as_image
from sequor.pictures.proxy import PROXY_LONG_EDGE, encode_preview, for_screen, tile
from sequor.store import ledger, library
from sequor.store.models import Picture
from sequor.web.answers import answer
from sequor.web.context import context
from sequor.web.intake import ensure_proxy
from sequor.web.lookup import entry_of_picture, image_answer, original_of, photo_facts, shot_facts
from sequor.web.schemas import (
    ActionIn,
    Draft,
    GuideIn,
    LensIn,
    LensKnown,
    LensList,
    Move,
    NewEntry,
    PictureFile,
    PicturePath,
    PictureState,
    Problem,
    ReadingsIn,
    ReadingsOut,
    RectangleIn,
    TypedAngleIn,
    TypedAngleOut,
)

api = APIBlueprint(
    "bench", __name__, url_prefix="/api/pictures/<int:picture_id>", abp_tags=[Tag(name="bench", description="One picture")]
)

_THUMBNAIL_LONG_EDGE = 480
_MAX_VIEW_PX = 16_000_000
_MAX_STRETCH = 8


class TilePath(PicturePath):
    """A tile of a picture: its column and row."""

    column: int
    row: int


class ViewQuery(BaseModel):
    """A part of the corrected picture of a ledger entry, in pixels of the uncropped corrected picture, and its scale."""

    entry: int
    x: float
    y: float
    width: float = Field(gt=0, le=100_000)
    height: float = Field(gt=0, le=100_000)
    scale: float = Field(gt=0.001, le=64)


class StraightQuery(BaseModel):
    """A bow to take out (see core/bow.py), the box of the straight picture in source pixels, and the longer side to make."""

    c1: float = Field(ge=-4, le=4)
    c2: float = Field(ge=-4, le=4)
    c3: float = Field(ge=-4, le=4)
    c4: float = Field(ge=-4, le=4)
    x: float
    y: float
    width: float = Field(gt=0, le=1_000_000)
    height: float = Field(gt=0, le=1_000_000)
    edge: int = Field(default=1280, ge=16, le=PROXY_LONG_EDGE)


class LensQuery(BaseModel):
    """Words of a lens's name; none for those that match the picture."""

    text: str = Field(default="", max_length=100)


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
    return answer(solve(photo_facts(path.picture_id), body.recipe))


@api.post("/angle", responses={200: TypedAngleOut, 404: Problem, 422: Problem}, operation_id="typeAngle")
def type_angle(path: PicturePath, body: TypedAngleIn) -> Response:
    """The recipe that corrects a typed angle such as ``1.33 cw``, ``1°20'`` or ``12 up``; nothing is stored."""
    recipe, said = set_angle(photo_facts(path.picture_id), body.recipe, body.text, body.axis)
    return answer(TypedAngleOut(recipe=recipe, said=said))


@api.post("/act", responses={200: Recipe, 404: Problem, 422: Problem}, operation_id="doAction")
def do_action(path: PicturePath, body: ActionIn) -> Response:
    """The recipe after what a note offers; nothing is stored."""
    return answer(act(photo_facts(path.picture_id), body.recipe, body.action))


@api.post("/fit", responses={200: ReadingsOut, 404: Problem, 422: Problem}, operation_id="fitReadings")
def fit_readings(path: PicturePath, body: ReadingsIn) -> Response:
    """Fit readings to the image edges under them, at full resolution; nothing is stored."""
    for reading in body.readings:
        check_reading(reading, "The line", photo_facts(path.picture_id))
    bow, _ = bow_of(photo_facts(path.picture_id), body.recipe)
    readings, said = fit_all(body.readings, original_of(path.picture_id).pixels, bow)
    return answer(ReadingsOut(readings=readings, said=said))


@api.post("/rectangle", responses={200: ReadingsOut, 404: Problem, 422: Problem}, operation_id="placeRectangle")
def place_rectangle(path: PicturePath, body: RectangleIn) -> Response:
    """The four linked readings of something rectangular that faces the camera; nothing is stored."""
    sides = rectangle(body.corners, body.group, body.sigma_px)
    for side in sides:
        check_reading(side, "The rectangle", photo_facts(path.picture_id))
    bow, _ = bow_of(photo_facts(path.picture_id), body.recipe)
    readings, said = fit_all(sides, original_of(path.picture_id).pixels, bow) if body.fit else (sides, "")
    return answer(ReadingsOut(readings=readings, said=said))


@api.post("/guide", responses={200: HeldAgainst, 404: Problem, 422: Problem}, operation_id="holdGuide")
def hold_guide(path: PicturePath, body: GuideIn) -> Response:
    """The angle between a guide and the edge under it in the corrected picture; nothing is stored."""
    solution = solve(photo_facts(path.picture_id), body.recipe)
    return answer(edge_under_guide(original_of(path.picture_id).pixels, solution, body.direction, body.ends))


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
    return image_answer(ensure_proxy(means.files, picture, means.settings.max_megapixels))


@api.get("/thumbnail.jpg", responses={200: {"content": {"image/jpeg": {}}}, 404: Problem}, operation_id="getThumbnail")
def get_thumbnail(path: PicturePath, query: EntryQuery) -> Response:
    """The frame of a ledger entry, small, as it would be exported."""
    means = context()
    with means.sessions() as session:
        picture = library.get_picture(session, path.picture_id)
        entry = entry_of_picture(session, picture.id, query.entry)
        solution = solve(library.photo_of(picture), ledger.recipe_of(entry))
    proxy = ensure_proxy(means.files, picture, means.settings.max_megapixels)
    small = for_screen(pyvips.Image.thumbnail_buffer(proxy, _THUMBNAIL_LONG_EDGE, height=_THUMBNAIL_LONG_EDGE), None)
    rendered = render_small(small, solution, small.shape[1] / picture.original.width).pixels
    shown = fill_roughly(rendered, solution, ledger.recipe_of(entry), (picture.original.width, picture.original.height))
    return image_answer(encode_preview(shown))


@api.get(
    "/tiles/<int:column>/<int:row>.png", responses={200: {"content": {"image/png": {}}}, 404: Problem}, operation_id="getTile"
)
def get_tile(path: TilePath) -> Response:
    """A square of 256 by 256 source pixels as they are, for the loupe."""
    content = tile(original_of(path.picture_id), path.column, path.row)
    if content is None:
        raise library.NotFound("There is no such place in the picture.")
    return image_answer(content, "image/png")


@api.get(
    "/straight.jpg", responses={200: {"content": {"image/jpeg": {}}}, 404: Problem, 422: Problem}, operation_id="getStraight"
)
def get_straight(path: PicturePath, query: StraightQuery) -> Response:
    """The picture as shot, freed of a bow, reduced for the screen; it fills the box that the solution names."""
    means, photo = context(), photo_facts(path.picture_id)
    bow = Bow.of(photo, (query.c1, query.c2, query.c3, query.c4))
    bow.check()
    with means.sessions() as session:
        picture = library.get_picture(session, path.picture_id)
    proxy = means.proxies.get(picture.original_sha256, lambda: ensure_proxy(means.files, picture, means.settings.max_megapixels))
    share = proxy.shape[1] / photo.width
    box = Rectangle(query.x, query.y, query.width, query.height)
    if max(query.width, query.height) > _MAX_STRETCH * max(photo.width, photo.height):
        raise UnusableInput("The box is larger than any straightened picture.")
    scale = min(query.edge, PROXY_LONG_EDGE) / max(query.width, query.height)
    # The proxy's pixels are the source here; everything is measured in them.
    small = Rectangle(box.x * share, box.y * share, box.width * share, box.height * share)
    rendered = render_straight(proxy, bow.scaled(share), small, scale / share)
    return image_answer(encode_preview(rendered.pixels))


@api.get("/lenses", responses={200: LensList, 404: Problem}, operation_id="findLenses")
def find_lenses(path: PicturePath, query: LensQuery) -> Response:
    """Lenses of the open database: those that may have taken the picture, or those whose name holds all words of a text."""
    shot = shot_facts(path.picture_id)
    found = lenses.search(query.text) if query.text.strip() else lenses.matching(shot)
    named = " ".join(word for word in (shot.camera_maker, shot.camera, shot.lens) if word)
    return answer(LensList(named=named, lenses=[LensKnown(name=lens.name) for lens in found]))


@api.post("/lens", responses={200: Recipe, 404: Problem, 422: Problem}, operation_id="takeLens")
def take_lens(path: PicturePath, body: LensIn) -> Response:
    """The recipe with the bow of a lens of the database, at the picture's focal length and focus; nothing is stored."""
    focal35_mm = body.recipe.focal35_mm or photo_facts(path.picture_id).focal35_mm or ASSUMED_FOCAL35_MM
    polynomial = lenses.polynomial_of(body.name, shot_facts(path.picture_id), focal35_mm)
    bow = LensBow(source="database", polynomial=polynomial, lens=body.name)
    return answer(body.recipe.model_copy(update={"bow": bow}))


@api.get("/view.jpg", responses={200: {"content": {"image/jpeg": {}}}, 404: Problem, 422: Problem}, operation_id="getView")
def get_view(path: PicturePath, query: ViewQuery) -> Response:
    """A part of the uncropped corrected picture, rendered from the original as an export is."""
    means = context()
    with means.sessions() as session:
        entry = entry_of_picture(session, path.picture_id, query.entry)
        solution = solve(photo_facts(path.picture_id), ledger.recipe_of(entry))
    picture = original_of(path.picture_id)
    halvings = max(0, math.floor(-math.log2(query.scale)))
    box = Rectangle(query.x, query.y, query.width, query.height)
    if query.width * query.height * query.scale**2 > _MAX_VIEW_PX:
        raise UnusableInput("This part is larger than any screen; ask for a smaller one.")
    rendered = render_view(means.pixels.reduced(picture, halvings), 0.5**halvings, solution, box, query.scale)
    return image_answer(encode_preview(for_screen(as_image(rendered.pixels), picture.profile)), "image/jpeg")


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
