"""Frames and corners: print sizes, the size of a file, what is filled, and the check of corners."""

from dataclasses import asdict

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel

from sequor.core.least_harm import HarmWeights
from sequor.core.render.size import output_of
from sequor.core.report.fill_words import MOST_TOLD, doubt_words, flaw_words
from sequor.core.report.harm_words import harm_words
from sequor.core.report.options import corner_names
from sequor.core.report.report import way_words
from sequor.core.report.words import counted_words, risk_words, scale_words
from sequor.core.solve import solve
from sequor.services import editing, images, lists
from sequor.services.pictures import corrected_of_entry, facts_of, recipe_of_entry
from sequor.store.models import PrintFormat, Weighting
from sequor.web.answers import answer
from sequor.web.common_bodies import PicturePath, Problem, Responses
from sequor.web.context import client_gone, resources
from sequor.web.documented import Room
from sequor.web.frames_bodies import (
    CornerCheck,
    CornerWay,
    CornerWays,
    FillFlaw,
    FillRegion,
    FillState,
    LeastHarmIn,
    LeastHarmOut,
    OutputOut,
    PrintSizeIn,
    PrintSizeOut,
    PrintSizePath,
    PrintSizes,
    SizeIn,
    WeightingIn,
    WeightingOut,
    WeightingPath,
    Weightings,
)
from sequor.web.repeated import replying

api = Room(
    "frames",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="frames", description="Frames and corners")],
)
_REFUSALS: Responses = {404: Problem, 422: Problem}
_SIZE = "/print-sizes/<int:size_id>"
_PICTURE = "/pictures/<int:picture_id>"


class EntryQuery(BaseModel):
    """Which ledger entry."""

    entry: int


@api.get("/print-sizes", responses={200: PrintSizes}, operation_id="listPrintSizes")
def list_print_sizes() -> Response:
    """The sizes that a lab prints."""
    return answer(_sizes(lists.list_print_sizes(resources())))


@api.post("/print-sizes", responses={201: PrintSizeOut, 422: Problem}, operation_id="addPrintSize")
def add_print_size(body: PrintSizeIn) -> Response:
    """Add a size to the list."""
    return answer(lists.add_print_size(resources(), body.name, body, replying(_listed, 201)), 201)


@api.put(_SIZE, responses={200: PrintSizeOut, **_REFUSALS}, operation_id="changePrintSize")
def change_print_size(path: PrintSizePath, body: PrintSizeIn) -> Response:
    """Change a size of the list; recipes that used it keep theirs."""
    reply = replying(_listed)
    return answer(lists.change_print_size(resources(), path.size_id, body.name, body, reply))


@api.delete(_SIZE, responses={200: PrintSizes, 404: Problem}, operation_id="removePrintSize")
def remove_print_size(path: PrintSizePath) -> Response:
    """Take a size off the list; recipes that used it keep theirs."""
    return answer(lists.remove_print_size(resources(), path.size_id, replying(_sizes)))


@api.post(f"{_PICTURE}/output", responses={200: OutputOut, **_REFUSALS}, operation_id="sizeOutput")
def size_output(path: PicturePath, body: SizeIn) -> Response:
    """How many pixels a file of an entry has at a size, and what that does to the picture."""
    recipe = recipe_of_entry(resources(), path.picture_id, body.entry_id)
    solution = solve(facts_of(resources(), path.picture_id).photo, recipe)
    output = output_of(solution, recipe.frame, body.size)
    return answer(OutputOut(**output.model_dump(), words=scale_words(output.scale)))


@api.get(
    f"{_PICTURE}/corner-ways",
    responses={200: CornerWays, **_REFUSALS},
    operation_id="compareCornerWays",
)
def compare_corner_ways(path: PicturePath, query: EntryQuery) -> Response:
    """What cropping, bending and filling all of the corners of an entry would cost."""
    found = editing.corner_costs(resources(), path.picture_id, query.entry)
    return answer(CornerWays(ways=[CornerWay(cost=one, words=way_words(one)) for one in found]))


@api.post(
    f"{_PICTURE}/least-harm",
    responses={200: LeastHarmOut, **_REFUSALS},
    operation_id="findLeastHarm",
)
def find_least_harm(path: PicturePath, body: LeastHarmIn) -> Response:
    """The mixture of cropping, bending and filling the corners that does the least harm."""
    what = corrected_of_entry(resources(), path.picture_id, body.entry_id)
    found = images.least_harm(resources(), what, body.weights, client_gone())
    return answer(LeastHarmOut(best=found.best, words=harm_words(found)))


@api.get("/weightings", responses={200: Weightings}, operation_id="listWeightings")
def list_weightings() -> Response:
    """What counts how much in weighing harm, as it was kept under names."""
    return answer(_weightings(lists.list_presets(resources(), Weighting)))


@api.post("/weightings", responses={201: Weightings, 422: Problem}, operation_id="storeWeighting")
def store_weighting(body: WeightingIn) -> Response:
    """Keep what counts how much under a name."""
    reply = replying(_weightings, 201)
    return answer(lists.store_weighting(resources(), body.name, body.weights, reply), 201)


@api.delete(
    "/weightings/<int:weighting_id>",
    responses={200: Weightings, 404: Problem},
    operation_id="removeWeighting",
)
def remove_weighting(path: WeightingPath) -> Response:
    """Forget a name and what counted how much under it."""
    reply = replying(_weightings)
    return answer(lists.remove_preset(resources(), Weighting, path.weighting_id, reply))


def _weightings(found: list[Weighting]) -> Weightings:
    return Weightings(
        weightings=[
            WeightingOut(id=one.id, name=one.name, weights=HarmWeights.model_validate(one.options))
            for one in found
        ]
    )


@api.get(f"{_PICTURE}/fill", responses={200: FillState, **_REFUSALS}, operation_id="getFill")
def get_fill(path: PicturePath, query: EntryQuery) -> Response:
    """What is filled in the frame of an entry, and where that is risky."""
    what = corrected_of_entry(resources(), path.picture_id, query.entry)
    facts = images.fill_facts(resources(), what, client_gone())
    judged = facts.judged
    return answer(
        FillState(
            regions=[
                FillRegion(corner=one.corner, name=corner_names()[one.corner], share=one.share)
                for one in facts.regions
            ],
            notes=[risk_words(side, count) for side, count in facts.risky],
            crossings=list(facts.crossings),
            doubt=judged.doubt if judged else None,
            doubt_words=doubt_words(judged) if judged else "",
            flaws=[
                FillFlaw(**asdict(flaw), words=flaw_words(flaw))
                for flaw in (judged.flaws[:MOST_TOLD] if judged else ())
            ],
        )
    )


@api.get(
    f"{_PICTURE}/corners", responses={200: CornerCheck, **_REFUSALS}, operation_id="checkCorners"
)
def check_corners(path: PicturePath, query: EntryQuery) -> Response:
    """Render the frame of an entry as its file has it at full size and count its empty pixels."""
    found = images.check(
        resources(), corrected_of_entry(resources(), path.picture_id, query.entry), client_gone()
    )
    pixels = found.width * found.height
    return answer(
        CornerCheck(
            width=found.width,
            height=found.height,
            empty_pixels=found.empty_pixels,
            filled_pixels=found.filled_pixels,
            words=counted_words(pixels, found.empty_pixels, found.filled_pixels),
        )
    )


def _sizes(sizes: list[PrintFormat]) -> PrintSizes:
    return PrintSizes(sizes=[_listed(size) for size in sizes])


def _listed(size: PrintFormat) -> PrintSizeOut:
    shape = size.measures
    width, height = shape.pixels
    return PrintSizeOut(
        id=size.id,
        name=size.name,
        turned=shape.turned_over,
        width_px=width,
        height_px=height,
        **shape.model_dump(),
    )
