"""What goes where in the frame of a picture: its corners filled, and places of it made anew."""

from collections.abc import Callable

import numpy as np

from sequor.core.fill.membrane import Colours
from sequor.core.fill.mending import Brushed, Ground, mended
from sequor.core.fill.plan import (
    PLAN_EDGE_PX,
    FillPlan,
    ToFill,
    as_colours,
    fills_corners,
    plan_of,
    plan_size,
    small_hole,
    unfilled,
)
from sequor.core.fill.structure import Segment
from sequor.core.frame.strokes import stroked
from sequor.core.pixels import Mask, Pixels
from sequor.core.recipe import Box, Recipe
from sequor.core.render.rendering import Progress, render_coarse
from sequor.core.solution import Solution


def plan_fill(
    pixels: Pixels,
    solution: Solution,
    recipe: Recipe,
    edge: int = PLAN_EDGE_PX,
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> FillPlan:
    """Work out what is filled from its surroundings: corners, then what is mended.

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
    plan = plan_corners(pixels, solution, recipe, edge, progress, cancelled)
    return plan_mends(plan, solution, recipe, (pixels.shape[1], pixels.shape[0]), cancelled)


def plan_corners(
    pixels: Pixels,
    solution: Solution,
    recipe: Recipe,
    edge: int = PLAN_EDGE_PX,
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> FillPlan:
    """The part of `plan_fill` that no mend changes; what is not filled by it is left."""
    size = plan_size(solution, edge)
    small = as_colours(render_coarse(pixels, solution, size, cancelled))
    photo = (pixels.shape[1], pixels.shape[0])
    return plan_corners_of(small, solution, recipe, photo, progress, cancelled)


def plan_corners_of(
    small: Colours,
    solution: Solution,
    recipe: Recipe,
    photo: tuple[int, int],
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> FillPlan:
    """`plan_corners` of a small frame that is rendered already, of a picture of some width and
    height.
    """
    if not fills_corners(solution, recipe):
        return unfilled(small)
    size = (small.shape[1], small.shape[0])
    corners = small_hole(solution, photo, size)
    avoid = _avoided(recipe.fill.avoid, solution, size)
    to_fill = ToFill(corners, avoid, lines=_known_lines(solution, recipe, size))
    return plan_of(small, to_fill, recipe.fill.candidates, progress, cancelled)


def plan_mends(
    plan: FillPlan,
    solution: Solution,
    recipe: Recipe,
    photo: tuple[int, int],
    cancelled: Callable[[], bool] = lambda: False,
) -> FillPlan:
    """A plan of the corners with what is mended, of a picture of some width and height; see
    `plan_fill`.
    """
    if solution.mended_fraction <= 0:
        return plan
    size = (plan.hole.shape[1], plan.hole.shape[0])
    corners = plan.hole
    if not fills_corners(solution, recipe) and solution.cost.fill_fraction > 0:
        corners = small_hole(solution, photo, size)
    ground = Ground(corners, _avoided(recipe.fill.avoid, solution, size))
    return mended(plan, ground, _brushed(solution, recipe, size), cancelled)


def _known_lines(solution: Solution, recipe: Recipe, size: tuple[int, int]) -> tuple[Segment, ...]:
    """The readings that are drawn along something straight, where they come to lie in a small
    frame.
    """
    drawn = (one for one in recipe.readings if one.active and not one.camera)
    ends = [one.ends for one in drawn if not one.by_points]  # others may be bent
    if not ends or solution.warp.bending is not None:  # what bends goes on as it bends
        return ()
    frame, (width, height) = solution.frame, size
    places = solution.warp.to_corrected(np.array(ends, float).reshape(-1, 2))
    small = (places - (frame.x, frame.y)) * (width / frame.width, height / frame.height)
    return tuple((a.tolist(), b.tolist()) for a, b in (small - 0.5).reshape(-1, 2, 2))


def _brushed(solution: Solution, recipe: Recipe, size: tuple[int, int]) -> list[Brushed]:
    """The strokes of a recipe's mends at the size of a plan."""
    marks, frame = solution.marks.mends, solution.frame
    brushed = []
    for mend, mark, place in zip(recipe.mends, marks, stroked(marks, frame, size), strict=True):
        by = None
        if mark.copied:
            (x, y), (to_x, to_y) = mark.copied
            by = (
                round((y - to_y) * size[1] / frame.height),
                round((x - to_x) * size[0] / frame.width),
            )
        brushed.append(Brushed(place, mend.candidate, by))
    return brushed


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
