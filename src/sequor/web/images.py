"""Images, under addresses that name content: the program, an original, and a recipe of it.

What such an address gives never changes, so it may be kept for ever by a browser.
"""

from flask import Response, current_app, request
from flask_openapi3 import Tag
from pydantic import BaseModel, Field

from sequor.core.advance import Edits
from sequor.core.edits import ChooseCandidate
from sequor.core.errors import NotFound, UnusableInput
from sequor.core.frame.rectangle import Rectangle
from sequor.core.language import tr
from sequor.core.photo import Coefficient
from sequor.core.recipe import Coordinate, FillChoice
from sequor.core.white import in_reach
from sequor.making.finishing import PLACES
from sequor.making.worker_cache import Corrected, Developed
from sequor.pictures.proxy import PROXY_LONG_EDGE
from sequor.services import images
from sequor.services.build import build
from sequor.services.pictures import corrected
from sequor.store.files import BEFORE_LIGHT
from sequor.web.common_bodies import Problem, Responses
from sequor.web.context import client_gone, resources
from sequor.web.documented import Room

api = Room(
    "images",
    __name__,
    url_prefix="/api/images/<string:program>/<string:original>",
    abp_tags=[Tag(name="images", description="Images for the screen")],
)
_FOREVER = "private, max-age=31536000, immutable"
JPEG: Responses = {200: {"content": {"image/jpeg": {}}}, 404: Problem, 422: Problem}
_PNG: Responses = {200: {"content": {"image/png": {}}}, 404: Problem, 422: Problem}


class OriginalPath(BaseModel):
    """The program, and an original by the hash of its content; a raw one that is not developed as
    its camera chose has the chromaticity of the light behind it, such as ``@0.34567,0.35850``.
    """

    program: str
    original: str


class TilePath(OriginalPath):
    """A tile of an original: its column and row."""

    column: int
    row: int


class CorrectedPath(OriginalPath):
    """An original and a recipe, both by the hash of their content."""

    recipe_hash: str


class PiecePath(CorrectedPath):
    """A corner or an edge: ``top-left`` ... ``bottom-left``, ``left`` ... ``bottom``."""

    place: str


class ViewQuery(BaseModel):
    """A part of the corrected picture, in pixels of the uncropped corrected one, and its scale."""

    x: Coordinate
    y: Coordinate
    width: float = Field(ge=0.01, le=100_000)
    height: float = Field(ge=0.01, le=100_000)
    scale: float = Field(gt=0.001, le=64)


class UndistortedQuery(BaseModel):
    """A distortion to take out, the undistorted box, and the longer side to make.

    Without a centre it is that of the picture.
    """

    c1: Coefficient
    c2: Coefficient
    c3: Coefficient
    c4: Coefficient
    c5: Coefficient = 0.0
    c6: Coefficient = 0.0
    p1: Coefficient = 0.0
    p2: Coefficient = 0.0
    centre_x: Coordinate | None = None
    centre_y: Coordinate | None = None
    x: Coordinate
    y: Coordinate
    width: float = Field(ge=0.01, le=1_000_000)
    height: float = Field(ge=0.01, le=1_000_000)
    edge: int = Field(default=1280, ge=16, le=PROXY_LONG_EDGE)


class FilledQuery(BaseModel):
    """A filled frame: its longer side, other candidates, and whether a rough one will do.

    Candidates are written ``sharp.1,calm.1,sharp.2,sharp.1``, clockwise from the top left.
    """

    edge: int = Field(default=1280, ge=16, le=2560)
    candidates: str = Field(default="", max_length=80)
    quick: bool = False


class FramedQuery(BaseModel):
    """The longer side of a picture in its frame, in pixels."""

    edge: int = Field(default=480, ge=16, le=2560)


def original_address(which: Developed) -> str:
    """Where the images of an original are."""
    light = which.light and f"{BEFORE_LIGHT}{which.light}"
    return f"/api/images/{build()}/{which.sha256}{light}"


def corrected_address(sha256: str, recipe_hash: str) -> str:
    """Where the images of a recipe of an original are."""
    return f"{original_address(Developed(sha256))}/{recipe_hash}"


@api.get("/proxy.jpg", responses=JPEG, operation_id="getProxy")
def get_proxy(path: OriginalPath) -> Response:
    """The upright picture as shot, reduced for the screen."""
    return image(images.proxy(resources(), _original(path)))


@api.get("/tiles/<int:column>/<int:row>.png", responses=_PNG, operation_id="getTile")
def get_tile(path: TilePath) -> Response:
    """A square of 256 by 256 source pixels as they are, for the loupe."""
    found = images.source_tile(resources(), _original(path), path.column, path.row)
    return image(found, "image/png")


@api.get("/undistorted.jpg", responses=JPEG, operation_id="getUndistorted")
def get_undistorted(path: OriginalPath, query: UndistortedQuery) -> Response:
    """The picture as shot, freed of radial distortion; it fills the box that the solution names."""
    box = Rectangle(query.x, query.y, query.width, query.height)
    lens = images.ShownLens(
        polynomial=(query.c1, query.c2, query.c3, query.c4, query.c5, query.c6),
        tangential=(query.p1, query.p2),
        centre=(query.centre_x, query.centre_y),
    )
    return image(images.undistorted(resources(), _original(path), lens, box, query.edge))


@api.get("/<string:recipe_hash>/thumbnail.jpg", responses=JPEG, operation_id="getThumbnail")
def get_thumbnail(path: CorrectedPath) -> Response:
    """The frame, small, as it would be exported."""
    return image(images.thumbnail(resources(), _corrected(path)))


@api.get("/<string:recipe_hash>/view.jpg", responses=JPEG, operation_id="getView")
def get_view(path: CorrectedPath, query: ViewQuery) -> Response:
    """A part of the uncropped corrected picture, rendered from the original as an export is."""
    box = Rectangle(query.x, query.y, query.width, query.height)
    made = images.crisp_view(resources(), _corrected(path), box, query.scale, client_gone())
    return image(made)


@api.get("/<string:recipe_hash>/filled.jpg", responses=JPEG, operation_id="getFilled")
def get_filled(path: CorrectedPath, query: FilledQuery) -> Response:
    """The frame with its corners filled, for the screen; given up when the asker has gone."""
    chosen = _candidates(query.candidates)
    made = images.filled_preview(
        resources(), _corrected(path), chosen, query.edge, query.quick, client_gone()
    )
    return image(made)


@api.get("/<string:recipe_hash>/pieces/<string:place>.png", responses=_PNG, operation_id="getPiece")
def get_piece(path: PiecePath) -> Response:
    """Real pixels of a corner, or of a strip along an edge, of the frame as its file has it."""
    for place in PLACES:
        if place == path.place:
            found = images.piece(resources(), _corrected(path), place, client_gone())
            return image(found, "image/png")
    raise NotFound(tr("There is no such corner or edge."))


def image(content: bytes, kind: str = "image/jpeg") -> Response:
    """An image that never changes under its address."""
    response = current_app.response_class(content, mimetype=kind)
    response.headers["Cache-Control"] = _FOREVER
    response.add_etag()
    response.make_conditional(request)
    return response


def _original(path: OriginalPath) -> Developed:
    """The original; refused for another program than this one."""
    if path.program != build():
        raise NotFound(tr("This image was made by another version of Sequor; reload the page."))
    sha256, _, light = path.original.partition(BEFORE_LIGHT)
    if not light:
        return Developed(sha256)
    try:
        x, y = (float(part) for part in light.split(","))
    except ValueError:
        raise NotFound(tr("There is no such light.")) from None
    if not in_reach((x, y)):
        raise NotFound(tr("There is no such light."))
    return Developed(sha256, (x, y))


def _corrected(path: CorrectedPath) -> Corrected:
    return corrected(resources(), _original(path).sha256, path.recipe_hash)


def _candidates(text: str) -> Edits:
    """Four candidates written ``sharp.1,calm.1,sharp.2,sharp.1``; nothing for an empty text."""
    if not text:
        return ()
    pairs = [part.partition(".")[::2] for part in text.split(",")]
    try:
        given = [{"style": style, "draw": draw} for style, draw in pairs]
        chosen = FillChoice.model_validate({"candidates": given}).candidates
    except ValueError:
        raise UnusableInput(
            tr(
                "Candidates are four, one for each corner clockwise from the top left, "
                "such as sharp.1,calm.1,sharp.2,sharp.1."
            )
        ) from None
    return tuple(ChooseCandidate(corner=n, candidate=one) for n, one in enumerate(chosen))
