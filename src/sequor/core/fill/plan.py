"""What goes where: the fill worked out on a small rendering of the frame.

The same for a preview and for the export.
"""

import math
import os
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import scipy

from sequor.core.errors import Cancelled, UnusableInput
from sequor.core.fill.exemplar import Places, Synthesis, synthesise
from sequor.core.fill.judge import Flaw, misfits, outside_of
from sequor.core.fill.membrane import Colours
from sequor.core.fill.pieces import in_pieces
from sequor.core.fill.risk import Crossing, crossings_of
from sequor.core.fill.structure import Segment, along_known, lead_on
from sequor.core.fill.texture import Texture, texture_of
from sequor.core.neighbourhood import grown
from sequor.core.pixels import Mask, Pixels
from sequor.core.recipe import FillCandidate, FillCandidates, Recipe
from sequor.core.render.rendering import Progress, coverage
from sequor.core.solution import Solution

PLAN_EDGE_PX = 1200
"""The longer side of the frame on which fills are worked out; a smaller frame is taken as it is."""
QUICK_EDGE_PX = 480
"""The same for a first, rough preview: a sixth of the pixels."""
_OTHER_DRAW = 50
"""A fill that is made again begins as no candidate that is offered does."""
_SHUNNED_PX = 6
"""So many pixels around a poor place are made again with it, and around what it was copied from
are left out."""
_AROUND_PX = 96
"""Pixels of the plan around a hole that it is filled from: twice as far as the first trials reach,
and more."""


@dataclass(frozen=True)
class Region:
    """A connected part of the frame that the picture does not cover.

    ``corner`` counts clockwise from the top left: the corner of the frame that its middle is
    nearest to.
    """

    rows: slice
    columns: slice
    corner: int
    pixels: int


@dataclass(frozen=True)
class FillPlan:
    """A fill at the size of the plan.

    Attributes
    ----------
    hole : ndarray of bool, shape (height, width)
        Every pixel that is not wholly covered.
    colours : ndarray, shape (height, width, 3)
        The small frame with the hole filled, 0 to 255.
    shift : ndarray, shape (height, width, 2)
        Rows and columns from a pixel of the hole to where its detail is copied from.
    texture : Texture
        What is copied over that.
    mended : ndarray of bool, shape (height, width)
        What of the hole was taken out of the picture, to be made anew.
    crossings : tuple of Crossing
        The straight edges that cross the seam of what was not.
    """

    hole: Mask
    colours: Colours
    shift: Places
    texture: Texture
    regions: tuple[Region, ...]
    mended: Mask
    crossings: tuple[Crossing, ...] = ()


def needs_plan(solution: Solution, recipe: Recipe) -> bool:
    """Whether anything is filled from the surroundings."""
    return solution.mended_fraction > 0 or fills_corners(solution, recipe)


def fills_corners(solution: Solution, recipe: Recipe) -> bool:
    """Whether corners are filled from their surroundings."""
    return recipe.fill.method == "patches" and solution.cost.fill_fraction > 0


def plan_size(solution: Solution, edge: int = PLAN_EDGE_PX) -> tuple[int, int]:
    """Width and height of the rendering that a fill is worked out on."""
    frame = solution.frame
    share = min(1.0, edge / max(frame.width, frame.height))
    return max(1, round(frame.width * share)), max(1, round(frame.height * share))


def unfilled(small: Colours) -> FillPlan:
    """The plan for a small picture in which nothing is to be filled."""
    nothing = np.zeros(small.shape[:2], np.bool_)
    nowhere = np.zeros((*nothing.shape, 2), np.int32)
    texture = Texture(nowhere, np.zeros(nothing.shape, np.float32), small)
    return FillPlan(nothing, small, nowhere, texture, (), nothing)


class ToFill(NamedTuple):
    """What of a small picture is to be filled, what is not to be copied from, what of that does not
    even guide (all of it when None; see `synthesise`), and lines that are known to go on straight,
    by two points each, x and y.
    """

    hole: Mask
    avoid: Mask
    mute: Mask | None = None
    lines: tuple[Segment, ...] = ()


def plan_of(
    small: Colours,
    to_fill: ToFill,
    candidates: FillCandidates,
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> FillPlan:
    """The plan for a small picture with a hole; see `planning.plan_fill`."""
    hole, avoid = to_fill.hole, to_fill.avoid
    mute = avoid if to_fill.mute is None else to_fill.mute
    regions = tuple(regions_of(hole))
    crossings = along_known(crossings_of(small, hole), to_fill.lines)
    started, led, laid = lead_on(small, hole, ~(hole | avoid), crossings)
    gap = hole & ~laid
    colours, shift = started.copy(), led.copy()
    marks, _ = scipy.ndimage.label(hole)
    done = 0

    def fill(number: int) -> None:
        region = regions[number]
        window = surroundings(region.rows, region.columns, hole.shape)
        own = (marks[window] == number + 1) & gap[window]
        if not own.any():
            return
        # What else is to be filled says nothing here, and is not copied.
        others = gap[window] & ~own
        known = np.ascontiguousarray(started[window])
        parts = _Parts(known, own, avoid[window] | others, mute[window] | others)
        made, settled = _best_made(parts, candidates[region.corner], cancelled)
        colours[window][own] = made[own]
        shift[window][own] = settled[own]

    with ThreadPoolExecutor(os.cpu_count()) as threads:
        for region, _ in zip(regions, threads.map(fill, range(len(regions))), strict=True):
            done += region.pixels
            progress(done / max(1, sum(r.pixels for r in regions)))
    if cancelled():
        raise Cancelled
    _through(shift, gap, laid, led)
    styles = [candidates[region.corner].style for region in regions]
    calm = np.array([False, *(style == "calm" for style in styles)])[marks]
    texture = texture_of(small, hole, avoid, colours, calm)
    return FillPlan(hole, colours, shift, texture, regions, np.zeros_like(hole), crossings)


def _through(shift: Places, gap: Mask, laid: Mask, led: Places) -> None:
    """Let what is copied from an edge that was led on come from where that came from: only the
    picture has detail at full size.
    """
    rows, columns = np.nonzero(gap)
    source_rows = np.clip(rows + shift[rows, columns, 0], 0, gap.shape[0] - 1)
    source_columns = np.clip(columns + shift[rows, columns, 1], 0, gap.shape[1] - 1)
    again = laid[source_rows, source_columns]
    shift[rows[again], columns[again]] += led[source_rows[again], source_columns[again]]


class _Parts(NamedTuple):
    """What a region is made from: the picture around it, what to fill, what not to copy, and what
    of that does not even guide it.
    """

    colours: Colours
    hole: Mask
    avoid: Mask
    mute: Mask


def _best_made(
    parts: _Parts, candidate: FillCandidate, cancelled: Callable[[], bool]
) -> tuple[Colours, Places]:
    """A region made, and places of it made again that the judge finds unlike what is around them:
    without what they were copied from, the second time by another start.
    """
    colours, hole, avoid, mute = parts
    made = synthesise(colours, hole, avoid, candidate, cancelled, mute)
    around = outside_of(colours, hole)
    poor = misfits(made.colours, around)
    for further in (0, _OTHER_DRAW) if poor else ():
        other = candidate.model_copy(update={"draw": candidate.draw + further})
        try:
            tried = _made_again(parts, made, poor, other, cancelled)
        except UnusableInput:  # nothing else to copy from
            break
        still = misfits(tried.colours, around)
        if _harm(still) < _harm(poor):
            made, poor = tried, still
        if not poor:
            break
    return made.colours, in_pieces(colours, hole, avoid, made.colours, _shifts(made))


def _harm(flaws: Sequence[Flaw]) -> float:
    return sum(flaw.strength * flaw.radius for flaw in flaws)


def _made_again(
    parts: _Parts,
    made: Synthesis,
    poor: Sequence[Flaw],
    candidate: FillCandidate,
    cancelled: Callable[[], bool],
) -> Synthesis:
    """A region with some places of it made again; the rest of it stays."""
    place = parts.hole & _discs(poor, parts.hole.shape)
    found = made.source[place & (made.source[..., 0] >= 0)]
    shunned = np.zeros_like(parts.hole)
    shunned[found[:, 0], found[:, 1]] = True
    shunned = grown(shunned, _SHUNNED_PX)
    # Only the picture is copied from, not what was made.
    avoid = parts.avoid | shunned | (parts.hole & ~place)
    colours, source = made.colours.copy(), made.source.copy()
    marks, _ = scipy.ndimage.label(place)
    for number, box in enumerate(scipy.ndimage.find_objects(marks), 1):
        window = surroundings(box[0], box[1], place.shape)
        own = marks[window] == number
        others = avoid[window] | (place[window] & ~own)
        again = synthesise(made.colours[window], own, others, candidate, cancelled)
        colours[window][own] = again.colours[own]
        taken = own & (again.source[..., 0] >= 0)
        corner = (window[0].start, window[1].start)
        source[window][taken] = again.source[taken] + corner
    return Synthesis(colours, source)


def _discs(flaws: Sequence[Flaw], shape: tuple[int, ...]) -> Mask:
    """Where flaws are, and a little around them."""
    found = np.zeros(shape, np.bool_)
    for flaw in flaws:
        reach = flaw.radius + _SHUNNED_PX
        top, left = (max(0, math.floor(at - reach)) for at in (flaw.y, flaw.x))
        near = found[top : math.ceil(flaw.y + reach) + 1, left : math.ceil(flaw.x + reach) + 1]
        row, column = (np.arange(side) for side in near.shape)
        down, across = row[:, None] + top - flaw.y, column + left - flaw.x
        near |= down**2 + across**2 <= reach**2
    return found


def small_hole(solution: Solution, photo: tuple[int, int], size: tuple[int, int]) -> Mask:
    """The pixels of a small frame that are not wholly covered: of which a corner.

    An edge or the middle lies outside the picture.
    """
    frame, (width, height) = solution.frame, size
    # At twice the size a pixel's quarters are seen; those and a ring of one tell partly covered
    # pixels.
    fine = coverage(solution, photo, (2 * width, 2 * height))
    whole: Mask = np.asarray(fine.reshape(height, 2, width, 2).all(axis=(1, 3)))
    scale = width / frame.width
    if scale >= 1:
        return ~whole
    holed = ~whole
    with_ring: Mask = scipy.ndimage.binary_dilation(holed)
    return with_ring


def regions_of(hole: Mask) -> Iterator[Region]:
    """The connected parts of a hole, in the order that `scipy.ndimage.label` numbers them."""
    marks, _ = scipy.ndimage.label(hole)
    height, width = hole.shape
    corners = np.array([(0, 0), (0, width), (height, width), (height, 0)])
    for number, (rows, columns) in enumerate(scipy.ndimage.find_objects(marks), 1):
        places = np.argwhere(marks[rows, columns] == number)
        middle = places.mean(axis=0) + (rows.start, columns.start)
        corner = int(np.argmin(((corners - middle) ** 2).sum(axis=1)))
        yield Region(rows, columns, corner, len(places))


def as_colours(pixels: Pixels) -> Colours:
    """Any pixels as three channels from 0 to 255; alpha is left out, grey stands for all three."""
    top = 255 / np.iinfo(pixels.dtype).max
    chosen = pixels[:, :, :3] if pixels.shape[2] >= 3 else np.repeat(pixels[:, :, :1], 3, axis=2)
    return np.ascontiguousarray(chosen).astype(np.float32) * np.float32(top)


def surroundings(rows: slice, columns: slice, shape: tuple[int, ...]) -> tuple[slice, slice]:
    """The rows and columns of a part of a picture, with those around it that it is filled from."""
    return (
        slice(max(0, rows.start - _AROUND_PX), min(shape[0], rows.stop + _AROUND_PX)),
        slice(max(0, columns.start - _AROUND_PX), min(shape[1], columns.stop + _AROUND_PX)),
    )


def _shifts(made: Synthesis) -> Places:
    """From every pixel to where the nearest patch takes its detail from."""
    height, width = made.source.shape[:2]
    row, column = np.mgrid[0:height, 0:width].astype(np.int32)
    known = np.argwhere(made.source[:, :, 0] >= 0)
    low, high = known.min(axis=0), known.max(axis=0)
    y, x = np.clip(row, low[0], high[0]), np.clip(column, low[1], high[1])
    shifts: Places = made.source[y, x] - np.stack([y, x], axis=-1)
    return shifts
