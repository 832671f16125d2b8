"""What goes where: the fill worked out on a small rendering of the frame.

The same for a preview and for the export.
"""

import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
import scipy

from sequor.core.errors import Cancelled
from sequor.core.fill.exemplar import Places, Synthesis, synthesise
from sequor.core.fill.membrane import Colours
from sequor.core.fill.pieces import in_pieces
from sequor.core.fill.texture import Texture, texture_of
from sequor.core.pixels import Mask, Pixels
from sequor.core.recipe import Box, FillCandidates, Recipe
from sequor.core.render.rendering import Progress, coverage, render
from sequor.core.solution import Solution

PLAN_EDGE_PX = 1200
"""The longer side of the frame on which fills are worked out; a smaller frame is taken as it is."""
QUICK_EDGE_PX = 480
"""The same for a first, rough preview: a sixth of the pixels."""
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
    """

    hole: Mask
    colours: Colours
    shift: Places
    texture: Texture
    regions: tuple[Region, ...]


def plan_size(solution: Solution, edge: int = PLAN_EDGE_PX) -> tuple[int, int]:
    """Width and height of the rendering that a fill is worked out on."""
    frame = solution.frame
    share = min(1.0, edge / max(frame.width, frame.height))
    return max(1, round(frame.width * share)), max(1, round(frame.height * share))


def plan_fill(
    pixels: Pixels,
    solution: Solution,
    recipe: Recipe,
    edge: int = PLAN_EDGE_PX,
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> FillPlan:
    """Work out a fill from the surroundings.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    solution, recipe
        The recipe and its solution for that picture.
    edge : int
        The longer side to work at.

    Raises
    ------
    Cancelled
        When ``cancelled`` said so.
    UnusableInput
        When nothing is left to copy from.
    """
    size = plan_size(solution, edge)
    small = as_colours(render(pixels, solution, cancelled=cancelled, size=size).pixels)
    hole = small_hole(solution, (pixels.shape[1], pixels.shape[0]), size)
    avoid = _avoided(recipe.fill.avoid, solution, size)
    return plan_of(small, hole, avoid, recipe.fill.candidates, progress, cancelled)


def plan_of(
    small: Colours,
    hole: Mask,
    avoid: Mask,
    candidates: FillCandidates,
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> FillPlan:
    """The plan for a small picture with a hole; see `plan_fill`."""
    regions = tuple(regions_of(hole))
    colours, shift = small.copy(), np.zeros((*hole.shape, 2), np.int32)
    done = 0

    def fill(region: Region) -> tuple[slice, slice, Colours, Places]:
        rows, columns = _window(region, hole.shape)
        parts = small[rows, columns], hole[rows, columns], avoid[rows, columns]
        made = synthesise(*parts, candidates[region.corner], cancelled)
        return rows, columns, made.colours, in_pieces(*parts, made.colours, _shifts(made))

    marks, _ = scipy.ndimage.label(hole)
    with ThreadPoolExecutor(os.cpu_count()) as threads:
        for number, (rows, columns, made, settled) in enumerate(threads.map(fill, regions), 1):
            own = marks[rows, columns] == number
            colours[rows, columns][own] = made[own]
            shift[rows, columns][own] = settled[own]
            done += regions[number - 1].pixels
            progress(done / max(1, sum(r.pixels for r in regions)))
    if cancelled():
        raise Cancelled
    styles = [candidates[region.corner].style for region in regions]
    calm = np.array([False, *(style == "calm" for style in styles)])[marks]
    return FillPlan(hole, colours, shift, texture_of(small, hole, avoid, colours, calm), regions)


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
    grown: Mask = scipy.ndimage.binary_dilation(holed)
    return grown


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


def _window(region: Region, shape: tuple[int, ...]) -> tuple[slice, slice]:
    """A region with what surrounds it."""
    rows, columns = region.rows, region.columns
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


def _avoided(boxes: tuple[Box, ...], solution: Solution, size: tuple[int, int]) -> Mask:
    """Which pixels of the small frame lie in a source box that nothing is to be copied from."""
    width, height = size
    avoid = np.zeros((height, width), np.bool_)
    if not boxes:
        return avoid
    frame = solution.frame
    row, column = np.mgrid[0:height, 0:width]
    places = np.column_stack(
        [
            (column.ravel() + 0.5) * frame.width / width + frame.x,
            (row.ravel() + 0.5) * frame.height / height + frame.y,
        ]
    )
    x, y = solution.warp.to_source(places).T
    for box in boxes:
        inside = (x >= box.left) & (x <= box.right) & (y >= box.top) & (y <= box.bottom)
        avoid |= inside.reshape(height, width)
    return avoid
