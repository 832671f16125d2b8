"""Frames and corners: print sizes, composition guides, the size of a file, fills shown on the screen, and the check of corners."""

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from sequor.core.composition import NAMES, guide_lines
from sequor.core.output import Output, output_of
from sequor.core.solve import solve
from sequor.store import library, print_sizes
from sequor.store.models import PrintFormat
from sequor.web.answers import answer
from sequor.web.context import context
from sequor.web.finishing import Subject, place_of, seeds_of, subject
from sequor.web.lookup import entry_of_picture, image_answer, original_of, photo_facts
from sequor.web.schemas import (
    CornerCheck,
    FillState,
    GuideShape,
    GuideShapes,
    PicturePath,
    PrintSizeIn,
    PrintSizeOut,
    PrintSizePath,
    PrintSizes,
    Problem,
    SizeIn,
)

api = APIBlueprint("frames", __name__, url_prefix="/api", abp_tags=[Tag(name="frames", description="Frames and corners")])


class EntryQuery(BaseModel):
    """Which ledger entry."""

    entry: int


class FilledQuery(EntryQuery):
    """A filled frame: its longer side, other seeds than the recipe's such as ``1,2,1,1``, and whether a rough one will do."""

    edge: int = Field(default=1280, ge=16, le=2560)
    seeds: str = ""
    quick: bool = False


class PiecePath(PicturePath):
    """A corner or an edge: ``top-left`` ... ``bottom-left``, ``left`` ... ``bottom``."""

    place: str


@api.get("/composition", responses={200: GuideShapes}, operation_id="listGuides")
def list_guides() -> Response:
    """The composition guides."""
    shapes = [GuideShape(guide=guide, name=name, lines=list(guide_lines(guide))) for guide, name in NAMES.items()]
    return answer(GuideShapes(guides=shapes))


@api.get("/print-sizes", responses={200: PrintSizes}, operation_id="listPrintSizes")
def list_print_sizes() -> Response:
    """The sizes that a lab prints."""
    with context().sessions() as session:
        return answer(PrintSizes(sizes=[_listed(size) for size in print_sizes.listed(session)]))


@api.post("/print-sizes", responses={201: PrintSizeOut, 422: Problem}, operation_id="addPrintSize")
def add_print_size(body: PrintSizeIn) -> Response:
    """Add a size to the list."""
    with context().sessions.begin() as session:
        return answer(_listed(print_sizes.add(session, body.name, body)), 201)


@api.put("/print-sizes/<int:size_id>", responses={200: PrintSizeOut, 404: Problem, 422: Problem}, operation_id="changePrintSize")
def change_print_size(path: PrintSizePath, body: PrintSizeIn) -> Response:
    """Change a size of the list; recipes that used it keep theirs."""
    with context().sessions.begin() as session:
        return answer(_listed(print_sizes.change(session, path.size_id, body.name, body)))


@api.delete("/print-sizes/<int:size_id>", responses={200: PrintSizes, 404: Problem}, operation_id="removePrintSize")
def remove_print_size(path: PrintSizePath) -> Response:
    """Take a size off the list; recipes that used it keep theirs."""
    with context().sessions.begin() as session:
        print_sizes.remove(session, path.size_id)
        return answer(PrintSizes(sizes=[_listed(size) for size in print_sizes.listed(session)]))


@api.post("/pictures/<int:picture_id>/output", responses={200: Output, 404: Problem, 422: Problem}, operation_id="sizeOutput")
def size_output(path: PicturePath, body: SizeIn) -> Response:
    """How many pixels a file of a size has, and what that does to the picture; nothing is stored."""
    return answer(output_of(solve(photo_facts(path.picture_id), body.recipe), body.recipe.frame, body.size))


@api.get(
    "/pictures/<int:picture_id>/filled.jpg",
    responses={200: {"content": {"image/jpeg": {}}}, 404: Problem, 422: Problem},
    operation_id="getFilled",
)
def get_filled(path: PicturePath, query: FilledQuery) -> Response:
    """The frame of an entry with its corners filled, for the screen."""
    made = context().finishing.shown(_subject(path.picture_id, query.entry), seeds_of(query.seeds), query.edge, query.quick)
    return image_answer(made)


@api.get("/pictures/<int:picture_id>/fill", responses={200: FillState, 404: Problem, 422: Problem}, operation_id="getFill")
def get_fill(path: PicturePath, query: EntryQuery) -> Response:
    """What is filled in the frame of an entry, and where that is risky."""
    return answer(context().finishing.state(_subject(path.picture_id, query.entry)))


@api.get(
    "/pictures/<int:picture_id>/corners", responses={200: CornerCheck, 404: Problem, 422: Problem}, operation_id="checkCorners"
)
def check_corners(path: PicturePath, query: EntryQuery) -> Response:
    """Render the frame of an entry as its file has it at full size and count its empty pixels."""
    return answer(context().finishing.check(_subject(path.picture_id, query.entry)))


@api.get(
    "/pictures/<int:picture_id>/corners/<string:place>.png",
    responses={200: {"content": {"image/png": {}}}, 404: Problem, 422: Problem},
    operation_id="getCorner",
)
def get_corner(path: PiecePath, query: EntryQuery) -> Response:
    """Real pixels of a corner, or of a strip along an edge, of the frame as its file has it."""
    return image_answer(context().finishing.piece(_subject(path.picture_id, query.entry), place_of(path.place)), "image/png")


def _subject(picture_id: int, entry_id: int) -> Subject:
    with context().sessions() as session:
        sha256 = library.get_picture(session, picture_id).original_sha256
        entry = entry_of_picture(session, picture_id, entry_id)
        return subject(session, entry, sha256, lambda: original_of(picture_id), photo_facts(picture_id))


def _listed(size: PrintFormat) -> PrintSizeOut:
    shape = print_sizes.size_of(size)
    width, height = shape.pixels
    return PrintSizeOut(id=size.id, name=size.name, width_px=width, height_px=height, **shape.model_dump())
