"""The frame as it will be in the file: fills for the screen, candidates, the check of corners."""

import threading
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from sequor.core.errors import UnusableInput
from sequor.core.fill.apply import render_filled
from sequor.core.fill.plan import (
    PLAN_EDGE_PX,
    QUICK_EDGE_PX,
    FillPlan,
    plan_fill,
    plan_size,
    regions_of,
    small_hole,
)
from sequor.core.fill.risk import SIDES, Side, crossings_of
from sequor.core.pixels import Pixels
from sequor.core.recipe import FillCandidates, Point, Recipe
from sequor.core.render.rendering import Cancelled, Rendered, render
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.pictures.encode import as_image
from sequor.pictures.proxy import encode_preview, for_screen
from sequor.services.means import Means
from sequor.services.pictures import Corrected, original

Place = Literal[
    "top-left", "top-right", "bottom-right", "bottom-left", "left", "top", "right", "bottom"
]
PLACES: tuple[Place, ...] = get_args(Place)
_CORNER_PX, _STRIP_PX = 112, 24
_RISKY = 3
"""Edges that cross the seam at a side before it is spoken of: one or two may be chance."""
_one_at_a_time = threading.Lock()
"""A fill takes all cores anyway, and several at once would only be slower and need more memory."""
Waits = Callable[[], bool]
"""Whether nobody waits for what is being made any more."""


@dataclass(frozen=True)
class Region:
    """A filled part of the frame: the corner it is nearest to, and its share of the frame."""

    corner: int
    share: float


@dataclass(frozen=True)
class FillFacts:
    """What is filled, and where straight edges cross the seam, in shares of the frame."""

    regions: tuple[Region, ...]
    risky: tuple[tuple[Side, int], ...]
    crossings: tuple[Point, ...]


@dataclass(frozen=True)
class Checked:
    """The frame counted at full size."""

    width: int
    height: int
    empty_pixels: int
    filled_pixels: int


def filled_preview(
    means: Means,
    what: Corrected,
    candidates: FillCandidates | None,
    edge: int,
    quick: bool,
    nobody_waits: Waits,
) -> bytes:
    """The filled frame as a JPEG for the screen, its longer side ``edge`` pixels.

    Parameters
    ----------
    candidates : FillCandidates or None
        Others than the recipe's.
    quick : bool
        Whether a rough one will do.
    nobody_waits : callable
        Asked while it is being made.

    Raises
    ------
    UnusableInput
        When nobody waits for it any more.
    """
    recipe = what.recipe
    if candidates:
        fill = recipe.fill.model_copy(update={"candidates": candidates})
        recipe = recipe.model_copy(update={"fill": fill})
    solution = solve(what.photo, recipe)

    def make() -> bytes:
        with _one_at_a_time:
            if nobody_waits():
                raise Cancelled
            picture = original(means, what.sha256)
            plan = _plan(
                means,
                what,
                recipe,
                solution,
                QUICK_EDGE_PX if quick else PLAN_EDGE_PX,
                nobody_waits,
            )
            size = plan_size(solution, edge)
            made = render_filled(
                picture.pixels, solution, recipe, cancelled=nobody_waits, size=size, plan=plan
            )
        return encode_preview(for_screen(as_image(made.pixels), picture.profile))

    try:
        return means.caches.images.get((*what.key, recipe.fill.candidates, edge, quick), make)
    except Cancelled:
        raise UnusableInput(
            "The picture was changed while its corners were being filled; this fill was given up."
        ) from None


def fill_facts(means: Means, what: Corrected) -> FillFacts:
    """What is filled, and where that is risky."""
    solution = solve(what.photo, what.recipe)
    if solution.cost.fill_fraction <= 0:
        return FillFacts((), (), ())
    picture = original(means, what.sha256)
    size = plan_size(solution)
    with _one_at_a_time:
        hole = small_hole(solution, (what.photo.width, what.photo.height), size)
        rendered = render(picture.pixels, solution, size=size).pixels
    small = for_screen(as_image(rendered), picture.profile)
    colours = np.repeat(small[:, :, :1], 3, axis=2) if small.shape[2] < 3 else small[:, :, :3]
    found = crossings_of(colours.astype(np.float32), hole)
    counted = Counter(c.side for c in found)
    risky = tuple((side, counted[side]) for side in SIDES if counted[side] >= _RISKY)
    sides = {side for side, _ in risky}
    copies = what.recipe.fill.method in ("patches", "mirror")
    return FillFacts(
        regions=tuple(
            Region(r.corner, r.pixels / hole.size) for r in regions_of(hole) if r.pixels > 1
        ),
        risky=risky if copies else (),
        crossings=tuple((c.x / size[0], c.y / size[1]) for c in found if c.side in sides),
    )


def check(means: Means, what: Corrected) -> Checked:
    """The frame rendered at full size as its file has it, every pixel counted."""
    made = _full(means, what)
    height, width = made.pixels.shape[:2]
    transparent = what.recipe.fill.method == "transparent"
    filled = 0 if transparent else round(made.filled_share * width * height)
    return Checked(width, height, made.empty_pixels, filled)


def piece(means: Means, what: Corrected, place: Place) -> bytes:
    """A corner, or a strip along an edge, of the full-size frame: real pixels as PNG."""
    pixels = _full(means, what).pixels
    height, width = pixels.shape[:2]
    up, left = slice(0, min(_CORNER_PX, height)), slice(0, min(_CORNER_PX, width))
    down = slice(max(0, height - _CORNER_PX), height)
    right = slice(max(0, width - _CORNER_PX), width)
    strip = min(_STRIP_PX, height, width)
    pieces: dict[Place, Pixels] = {
        "top-left": pixels[up, left],
        "top-right": pixels[up, right],
        "bottom-right": pixels[down, right],
        "bottom-left": pixels[down, left],
        "top": pixels[:strip],
        "bottom": pixels[height - strip :],
        "left": pixels[:, :strip],
        "right": pixels[:, width - strip :],
    }
    shown = for_screen(as_image(pieces[place]), original(means, what.sha256).profile)
    return bytes(as_image(shown).pngsave_buffer(compression=1, keep="none"))


def _full(means: Means, what: Corrected) -> Rendered:
    solution = solve(what.photo, what.recipe)

    def make() -> Rendered:
        with _one_at_a_time:
            pixels = original(means, what.sha256).pixels
            plan = _plan(means, what, what.recipe, solution, PLAN_EDGE_PX, lambda: False)
            return render_filled(pixels, solution, what.recipe, plan=plan)

    return means.caches.rendered.get(what.key, make)


def _plan(
    means: Means,
    what: Corrected,
    recipe: Recipe,
    solution: Solution,
    edge: int,
    nobody_waits: Waits,
) -> FillPlan | None:
    if recipe.fill.method != "patches" or solution.cost.fill_fraction <= 0:
        return None
    pixels = original(means, what.sha256).pixels
    return means.caches.plans.get(
        (*what.key, recipe.fill.candidates, edge),
        lambda: plan_fill(pixels, solution, recipe, edge, cancelled=nobody_waits),
    )
