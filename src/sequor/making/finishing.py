"""The frame as it will be in the file: fills for the screen, candidates, the check of corners."""

from collections import Counter
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from sequor.core.fill.apply import render_filled
from sequor.core.fill.judge import Judgement
from sequor.core.fill.judging import JUDGED, judge_fill
from sequor.core.fill.plan import (
    PLAN_EDGE_PX,
    QUICK_EDGE_PX,
    FillPlan,
    as_colours,
    fills_corners,
    needs_plan,
    plan_size,
    regions_of,
    small_hole,
)
from sequor.core.fill.planning import plan_corners, plan_mends
from sequor.core.fill.risk import SIDES, Crossing, Side, crossings_of
from sequor.core.least_harm import HarmWeights, LeastHarm, halvings_enough, least_harm
from sequor.core.pixels import Pixels
from sequor.core.recipe import Point
from sequor.core.render.rendering import render_coarse
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.making.packed_plan import PackedPlan
from sequor.making.worker_cache import (
    Corrected,
    TaskResources,
    original,
    reduced,
    worker_cache,
)
from sequor.pictures.encode import as_image
from sequor.pictures.proxy import encode_preview, for_screen
from sequor.work.engine import TaskControl

Place = Literal[
    "top-left", "top-right", "bottom-right", "bottom-left", "left", "top", "right", "bottom"
]
PLACES: tuple[Place, ...] = get_args(Place)
_CORNER_PX, _STRIP_PX = 112, 24
_RISKY = 3
"""Edges that cross the seam at a side before it is spoken of: one or two may be chance."""


@dataclass(frozen=True)
class FilledRegion:
    """A filled part of the frame: the corner it is nearest to, and its share of the frame."""

    corner: int
    share: float


@dataclass(frozen=True)
class FillFacts:
    """What is filled, where straight edges cross the seam, in shares of the frame, and how good
    the fill is.
    """

    regions: tuple[FilledRegion, ...]
    risky: tuple[tuple[Side, int], ...]
    crossings: tuple[Point, ...]
    judged: Judgement | None = None


@dataclass(frozen=True)
class Checked:
    """The frame counted at full size, with its corners and edges as PNG, real pixels."""

    width: int
    height: int
    empty_pixels: int
    filled_pixels: int
    pieces: dict[Place, bytes]


def filled_preview(
    control: TaskControl, resources: TaskResources, what: Corrected, edge: int, quick: bool
) -> bytes:
    """The filled frame as a JPEG for the screen, its longer side ``edge`` pixels.

    Parameters
    ----------
    quick : bool
        Whether a rough one will do.
    """
    solution = solve(what.photo, what.recipe)
    picture = original(resources, what.developed)
    plan = _plan(control, resources, what, solution, QUICK_EDGE_PX if quick else PLAN_EDGE_PX)
    size = plan_size(solution, edge)
    made = render_filled(
        picture.pixels, solution, what.recipe, cancelled=control.cancelled, size=size, plan=plan
    )
    return encode_preview(for_screen(as_image(made.pixels), picture.profile))


def fill_facts(control: TaskControl, resources: TaskResources, what: Corrected) -> FillFacts:
    """What is filled, where that is risky, and how good it is."""
    solution = solve(what.photo, what.recipe)
    if not solution.made_up:
        return FillFacts((), (), ())
    picture = original(resources, what.developed)
    size = plan_size(solution)
    hole = np.zeros((size[1], size[0]), np.bool_)
    if solution.cost.fill_fraction > 0:
        hole = small_hole(solution, (what.photo.width, what.photo.height), size)
    plan = _plan(control, resources, what, solution, PLAN_EDGE_PX)
    copies = what.recipe.fill.method in JUDGED
    found: tuple[Crossing, ...] = ()
    if fills_corners(solution, what.recipe):
        assert plan is not None
        found = plan.crossings
    elif copies:
        rendered = render_coarse(picture.pixels, solution, size, control.cancelled)
        found = crossings_of(as_colours(rendered), hole)
    counted = Counter(c.side for c in found)
    risky = tuple((side, counted[side]) for side in SIDES if counted[side] >= _RISKY)
    sides = {side for side, _ in risky}
    return FillFacts(
        regions=tuple(
            FilledRegion(r.corner, r.pixels / hole.size) for r in regions_of(hole) if r.pixels > 1
        ),
        risky=risky,
        crossings=tuple((c.x / size[0], c.y / size[1]) for c in found if c.side in sides),
        judged=judge_fill(picture.pixels, solution, what.recipe, plan, control.cancelled),
    )


def least_harm_of(
    control: TaskControl, resources: TaskResources, what: Corrected, weights: HarmWeights
) -> LeastHarm:
    """The mixture of cropping, bending and filling that does the least harm."""
    halvings = halvings_enough(what.photo)
    pixels = reduced(resources, what.developed, halvings)
    kept = worker_cache().judgements

    def keep(key: Hashable, judge: Callable[[], Judgement]) -> Judgement:
        return kept.get((what.developed, what.photo, key), judge)

    return least_harm(pixels, halvings, what.photo, what.recipe, weights, control.cancelled, keep)


def check(control: TaskControl, resources: TaskResources, what: Corrected) -> Checked:
    """The frame rendered at full size as its file has it, every pixel counted."""
    solution = solve(what.photo, what.recipe)
    picture = original(resources, what.developed)
    plan = _plan(control, resources, what, solution, PLAN_EDGE_PX)
    made = render_filled(
        picture.pixels, solution, what.recipe, cancelled=control.cancelled, plan=plan
    )
    height, width = made.pixels.shape[:2]
    transparent = what.recipe.fill.method == "transparent"
    filled = 0 if transparent else round(made.filled_share * width * height)
    pieces = {place: _as_png(part, picture.profile) for place, part in _pieces(made.pixels).items()}
    return Checked(width, height, made.empty_pixels, filled, pieces)


def _pieces(pixels: Pixels) -> dict[Place, Pixels]:
    """The corners, and strips along the edges, of a frame."""
    height, width = pixels.shape[:2]
    up, left = slice(0, min(_CORNER_PX, height)), slice(0, min(_CORNER_PX, width))
    down = slice(max(0, height - _CORNER_PX), height)
    right = slice(max(0, width - _CORNER_PX), width)
    strip = min(_STRIP_PX, height, width)
    return {
        "top-left": pixels[up, left],
        "top-right": pixels[up, right],
        "bottom-right": pixels[down, right],
        "bottom-left": pixels[down, left],
        "top": pixels[:strip],
        "bottom": pixels[height - strip :],
        "left": pixels[:, :strip],
        "right": pixels[:, width - strip :],
    }


def _as_png(pixels: Pixels, profile: bytes | None) -> bytes:
    shown = for_screen(as_image(pixels), profile)
    return bytes(as_image(shown).pngsave_buffer(compression=1, keep="none"))


def _plan(
    control: TaskControl, resources: TaskResources, what: Corrected, solution: Solution, edge: int
) -> FillPlan | None:
    recipe = what.recipe
    if not needs_plan(solution, recipe):
        return None
    # The corners stay as they are, whatever is mended.
    unmended = recipe.unmended
    pixels = original(resources, what.developed).pixels
    plans = worker_cache().plans

    def corners() -> PackedPlan:
        made = plan_corners(pixels, solution, recipe, edge, cancelled=control.cancelled)
        return PackedPlan.of(made)

    found = plans.get((what.sha256, unmended, edge), corners).plan()
    size = (what.photo.width, what.photo.height)
    if solution.mended_fraction <= 0:
        return found

    def mended() -> PackedPlan:
        return PackedPlan.of(plan_mends(found, solution, recipe, size, control.cancelled))

    return plans.get((*what.key, edge), mended).plan()
