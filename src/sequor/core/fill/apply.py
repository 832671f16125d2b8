"""Filling a rendered frame by its recipe: from the surroundings, by mirroring, with a colour, or
not at all.
"""

import math
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, NamedTuple

import numba as nb
import numpy as np
import scipy

from sequor.core.camera import Matrix
from sequor.core.errors import Cancelled
from sequor.core.fill.exemplar import Places
from sequor.core.fill.grain import grain_strength
from sequor.core.fill.membrane import membrane
from sequor.core.fill.mirror import mirror_strip
from sequor.core.fill.plan import FillPlan, fills_corners, needs_plan
from sequor.core.fill.planning import plan_fill
from sequor.core.frame.strokes import under_any
from sequor.core.pixels import LUMA, Mask, Pixels
from sequor.core.recipe import Recipe
from sequor.core.render.light import Light
from sequor.core.render.rendering import Progress, Rendered, coverage, render
from sequor.core.solution import Solution

PLANNED_SHARE = 0.35
"""Share of the work after which it is known what goes where."""
_STRIP_ROWS = 64
"""Rows of a strip of work: small enough to be given up quickly and to share the cores evenly."""
_NEAR_PX = 200
"""Pixels around the hole in which the picture's grain is measured: many blocks, and the light of
the place."""
_GRAIN_LACKS = 0.97
"""A fill with more than this share of the picture's grain is left as it is: the estimate is no
better."""
_MOST_GRAIN = 2.5
"""Grain added to a pixel goes so many standard deviations far: what stands out more is no grain."""


def plan_for(
    pixels: Pixels,
    solution: Solution,
    recipe: Recipe,
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> FillPlan | None:
    """The plan that a recipe's fill needs; None where it needs none."""
    if not needs_plan(solution, recipe):
        return None
    return plan_fill(pixels, solution, recipe, progress=progress, cancelled=cancelled)


def render_filled(
    pixels: Pixels,
    solution: Solution,
    recipe: Recipe,
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
    size: tuple[int, int] | None = None,
    plan: FillPlan | None = None,
    light: Light | None = None,
) -> Rendered:
    """Render the frame of a solution, fill what the picture does not cover and make anew what is
    mended, as the recipe says.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    solution, recipe
        The recipe and its solution for that picture.
    progress, cancelled : callable
        Told the share done, and asked whether to stop.
    size : (int, int), optional
        Width and height to make; full size when None.
    plan : FillPlan, optional
        One that was made before for this recipe; else it is made.
    light : Light, optional
        See `render`.

    Returns
    -------
    Rendered
        Pixels that were filled no longer count as empty. With the method ``transparent`` a channel
        of alpha is added, and they do. The share that was filled has what was mended in it.

    Raises
    ------
    Cancelled
        When ``cancelled`` said so.
    """
    if not solution.made_up:
        return render(pixels, solution, progress, cancelled, size, light)
    needs = needs_plan(solution, recipe)
    planned, rendered_share = (PLANNED_SHARE, 0.75) if needs else (0.0, 0.7)
    if plan is None:
        plan = plan_for(
            pixels, solution, recipe, lambda share: progress(share * planned), cancelled
        )
    rendered = render(
        pixels,
        solution,
        lambda share: progress(planned + share * (rendered_share - planned)),
        cancelled,
        size,
        light,
    )
    made = rendered.pixels
    cornered = solution.cost.fill_fraction > 0
    covered, mended = np.ones(made.shape[:2], np.bool_), None
    if cornered:
        covered = coverage(solution, (pixels.shape[1], pixels.shape[0]), size)
    share = rendered.empty_pixels / covered.size
    if plan is not None:
        own = covered if fills_corners(solution, recipe) else np.ones_like(covered)
        mended = _by_plan(made, own, covered, plan, cancelled)
        share += float((mended & covered).mean()) if mended is not None else 0.0
    left = rendered.empty_pixels
    if cornered and recipe.fill.method == "transparent":
        made = with_alpha(made, covered)
    elif cornered:
        _plain_corners(made, covered, solution, recipe, cancelled)
        left = 0
    progress(1.0)
    return Rendered(made, left, share, mended)


def _plain_corners(
    pixels: Pixels,
    covered: Mask,
    solution: Solution,
    recipe: Recipe,
    cancelled: Callable[[], bool] = lambda: False,
) -> None:
    """Fill corners that need no plan, in place: in a colour, or mirrored."""
    if recipe.fill.method == "colour":
        pixels[~covered] = _colour(recipe.fill.colour, pixels)
    elif recipe.fill.method == "mirror":
        _mirror(pixels, covered, _outline(solution, pixels), cancelled)


def _by_plan(
    pixels: Pixels, own: Mask, covered: Mask, plan: FillPlan, cancelled: Callable[[], bool]
) -> Mask | None:
    """`apply_plan` to what is not the picture's own, and to what is mended, which is given back if
    anything is; that is as transparent as the picture is there.
    """
    if not plan.mended.any():
        apply_plan(pixels, own, plan, cancelled)
        return None
    mended = _enlarged(plan.mended, covered.shape)
    anew = mended & covered
    alpha = pixels[anew, -1] if pixels.shape[2] in (2, 4) else None
    apply_plan(pixels, own & ~mended, plan, cancelled)
    if alpha is not None:
        pixels[anew, -1] = alpha
    return mended


def _enlarged(mask: Mask, shape: tuple[int, ...]) -> Mask:
    """A mask of a plan at another size, pixel by pixel as `_copied_from` takes its places."""
    rows, columns = (np.arange(to) * have // to for to, have in zip(shape, mask.shape, strict=True))
    found: Mask = mask[np.ix_(rows, columns)]
    return found


def fill_roughly(
    pixels: Pixels, solution: Solution, recipe: Recipe, photo: tuple[int, int]
) -> Pixels:
    """A small rendered frame with what the picture does not cover mirrored, or in its colour, and
    what is mended as smooth as what surrounds it, for thumbnails only.
    """
    if solution.mended_fraction > 0:
        pixels = _smoothed(pixels, solution)
    if solution.cost.fill_fraction <= 0:
        return pixels
    covered = coverage(solution, photo, (pixels.shape[1], pixels.shape[0]))
    if recipe.fill.method in ("colour", "transparent"):
        text = recipe.fill.colour if recipe.fill.method == "colour" else "#ffffff"
        made = pixels.copy()
        made[~covered] = _colour(text, pixels)
        return made
    # The small picture was rendered at a size rounded otherwise: a pixel more is taken to be
    # missing.
    hole = scipy.ndimage.binary_dilation(~covered, np.ones((3, 3)))
    made = pixels.copy()
    _mirror(made, ~hole, _outline(solution, made), lambda: False)
    return made


def _smoothed(pixels: Pixels, solution: Solution) -> Pixels:
    """Small pixels with what is mended continued smoothly from around it."""
    size = (pixels.shape[1], pixels.shape[0])
    under = under_any(solution.marks.mends, solution.frame, size)
    made = pixels.copy()
    smooth = membrane(pixels.astype(np.float32), under)
    made[under] = np.rint(smooth[under]).astype(pixels.dtype)
    return made


def with_alpha(pixels: Pixels, covered: Mask) -> Pixels:
    """Pixels with a channel of alpha that is empty where the picture does not cover them.

    One that is there is kept within.
    """
    channels = pixels.shape[2]
    top = np.iinfo(pixels.dtype).max
    alpha = np.where(covered, top, 0).astype(pixels.dtype)[:, :, None]
    if channels in (2, 4):
        return np.concatenate([pixels[:, :, :-1], np.minimum(pixels[:, :, -1:], alpha)], axis=2)
    return np.concatenate([pixels, alpha], axis=2)


def apply_plan(
    pixels: Pixels, covered: Mask, plan: FillPlan, cancelled: Callable[[], bool] = lambda: False
) -> None:
    """Fill a rendered frame, in place, by a plan made for it at another size.

    Coarse forms, the joint at the seam and its smoothness are the plan's own colours; what is finer
    than the plan comes from the frame itself, at its own resolution, along the plan's shifts. Then
    grain is added if the fill has less of it than the picture around it.
    """
    texture = plan.texture
    shift = _in_frame(plan.shift, covered)
    guides = _Guides(
        plan.hole,
        shift,
        plan.colours,
        _in_frame(texture.shift, covered),
        texture.strength,
        texture.mean,
    )
    _strips(
        len(covered),
        cancelled,
        lambda first, last: _apply_strip(pixels, covered, guides, first, last),
    )
    near = _near(covered)
    wanted, has = grain_strength(pixels, near & covered), grain_strength(pixels, ~covered)
    if wanted and has is not None and has < _GRAIN_LACKS * wanted:
        share = np.float32(_share_to_add(pixels, covered, plan.hole, shift, wanted**2 - has**2))
        limit = np.float32(_MOST_GRAIN * wanted * float(np.iinfo(pixels.dtype).max) / 255)
        _strips(
            len(covered),
            cancelled,
            lambda first, last: _grain_strip(
                pixels, covered, plan.hole, shift, share, limit, first, last
            ),
        )


def _in_frame(shift: Places, covered: Mask) -> Places:
    """Shifts of a plan in pixels of the frame."""
    high, wide = shift.shape[:2]
    scale = covered.shape[0] / high, covered.shape[1] / wide
    found: Places = np.rint(shift * scale).astype(np.int32)
    return found


def _strips(rows: int, cancelled: Callable[[], bool], work: Callable[[int, int], None]) -> None:
    """Do some work on all strips of rows, on all cores."""

    def strip(first: int) -> None:
        if cancelled():
            raise Cancelled
        work(first, min(first + _STRIP_ROWS, rows))

    with ThreadPoolExecutor(os.cpu_count()) as threads:
        list(threads.map(strip, range(0, rows, _STRIP_ROWS)))


def _near(covered: Mask) -> Mask:
    """The rows and columns within some pixels of what is not covered."""
    rows, columns = np.nonzero(~covered.all(axis=1))[0], np.nonzero(~covered.all(axis=0))[0]
    near = np.zeros_like(covered)
    if len(rows):
        near[
            max(0, rows[0] - _NEAR_PX) : rows[-1] + _NEAR_PX,
            max(0, columns[0] - _NEAR_PX) : columns[-1] + _NEAR_PX,
        ] = True
    return near


def _share_to_add(
    pixels: Pixels, covered: Mask, hole: Mask, shift: Places, lacking: float
) -> float:
    """How much of the detail at the places that are copied from, beyond what came with the copy,
    adds a variance that is lacking, in 8 bits.
    """
    empty = np.flatnonzero(~covered)
    chosen = np.linspace(0, len(empty) - 1, min(len(empty), 20_000)).astype(int)
    row, column = np.divmod(empty[chosen], covered.shape[1])
    there, here = (
        _fine_detail(pixels, covered, hole, shift, row, column) * 255 / np.iinfo(pixels.dtype).max
    )
    # The median of absolute values tells a normal deviation whatever edges there are among them.
    strength = float(np.nanmedian(np.abs(there))) / 0.6745 if np.isfinite(there).any() else 0.0
    if not strength:
        return 0.0
    plain = np.abs(there) < 3 * strength
    came = float(here[plain] @ there[plain] / (there[plain] @ there[plain]))
    return math.sqrt(came**2 + lacking / strength**2) - came


def _colour(text: str, pixels: Pixels) -> Any:
    """A colour ``#rrggbb`` in the pixels' own channels."""
    red, green, blue = (int(text[i : i + 2], 16) for i in (1, 3, 5))
    top = int(np.iinfo(pixels.dtype).max)
    grey = round(float(LUMA @ (red, green, blue)))
    values = {1: [grey], 2: [grey, 255], 3: [red, green, blue], 4: [red, green, blue, 255]}[
        pixels.shape[2]
    ]
    return np.array([value * top // 255 for value in values], pixels.dtype)


def _outline(solution: Solution, pixels: Pixels) -> Matrix:
    """The outline of the valid picture in pixels of the rendered frame."""
    frame = solution.frame
    scale = np.array([pixels.shape[1] / frame.width, pixels.shape[0] / frame.height])
    return np.ascontiguousarray((np.array(solution.outline) - [frame.x, frame.y]) * scale)


def _mirror(pixels: Pixels, covered: Mask, outline: Matrix, cancelled: Callable[[], bool]) -> None:
    before = pixels.copy()
    _strips(
        len(covered),
        cancelled,
        lambda first, last: mirror_strip(before, pixels, covered, outline, first, last),
    )


@nb.njit(nogil=True, cache=True, error_model="numpy", inline="always")
def _copied_from(covered: Any, hole: Any, shift: Any, row: int, column: int) -> tuple[int, int]:
    """Where the detail of a pixel is copied from; a negative row where nothing can be copied."""
    height, width = covered.shape
    high, wide = hole.shape
    y, x = min(row * high // height, high - 1), min(column * wide // width, wide - 1)
    if not hole[y, x]:
        return -1, -1
    sy, sx = row + shift[y, x, 0], column + shift[y, x, 1]
    if sy < 0 or sx < 0 or sy >= height or sx >= width or not covered[sy, sx]:
        return -1, -1
    return sy, sx


class _Guides(NamedTuple):
    """A plan as the compiled loops take it (see `plan.FillPlan` and `texture.Texture`), its shifts
    in pixels of the frame.
    """

    hole: Any
    shift: Any
    colours: Any
    texture_shift: Any
    strength: Any
    mean: Any


class _Scale(NamedTuple):
    """Pixels of the frame for one of the plan, down and across, and for one step of 8 bits."""

    down: float
    across: float
    values: Any
    top: Any


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _apply_strip(pixels: Any, covered: Any, guides: Any, first: int, last: int) -> None:
    """Fill what is not covered in rows [first, last)."""
    height, width, channels = pixels.shape
    high, wide = guides.hole.shape
    shown = 3 if channels >= 3 else 1
    top = np.float32(255) if pixels.itemsize == 1 else np.float32(65535)
    scale = _Scale(height / high, width / wide, top / np.float32(255), top)
    detail, plain, one = np.empty(3, np.float32), np.empty(3, np.float32), np.empty(3, np.float32)
    for row in range(first, last):
        for column in range(width):
            if covered[row, column]:
                continue
            strength = _gathered(pixels, covered, guides, scale, row, column, plain, detail, one)
            _laid(pixels, covered, guides, scale, row, column, plain, detail, one, strength)
            if channels != shown:
                pixels[row, column, channels - 1] = top


@nb.njit(nogil=True, cache=True, error_model="numpy", inline="always")
def _gathered(
    pixels: Any,
    covered: Any,
    guides: Any,
    scale: Any,
    row: int,
    column: int,
    plain: Any,
    detail: Any,
    one: Any,
) -> Any:
    """The plan's colour and the copied detail of a pixel, between the four nearest of the plan, and
    with room for that of one of them.

    Where their shifts differ the nearest counts most, so that detail stays sharp. Returns how
    strongly texture is laid over it.
    """
    height, width, channels = pixels.shape
    high, wide = guides.hole.shape
    shown = 3 if channels >= 3 else 1
    qy, qx = (row + 0.5) / scale.down - 0.5, (column + 0.5) / scale.across - 0.5
    y0, x0 = int(np.floor(qy)), int(np.floor(qx))
    for c in range(shown):
        detail[c] = plain[c] = np.float32(0)
    sharp, total, strength = np.float32(0), np.float32(0), np.float32(0)
    last_y, last_x = -1, -1
    for k in range(4):
        y, x = y0 + k // 2, x0 + k % 2
        if y < 0 or x < 0 or y >= high or x >= wide or not guides.hole[y, x]:
            continue
        weight = np.float32((1 - abs(qy - y)) * (1 - abs(qx - x)))
        if weight <= 0:
            continue
        total += weight
        strength += weight * guides.strength[y, x]
        for c in range(shown):
            plain[c] += weight * scale.values * guides.colours[y, x, c]
        sy, sx = row + guides.shift[y, x, 0], column + guides.shift[y, x, 1]
        if sy < 0 or sx < 0 or sy >= height or sx >= width or not covered[sy, sx]:
            continue
        sharp += weight * weight
        if sy != last_y or sx != last_x:  # mostly all four come from one place
            _stands_off(pixels, guides.colours, scale, sy, sx, one)
            last_y, last_x = sy, sx
        for c in range(shown):
            detail[c] += weight * weight * one[c]
    if total <= 0:
        y, x = min(max(round(qy), 0), high - 1), min(max(round(qx), 0), wide - 1)
        total = np.float32(1)
        for c in range(shown):
            plain[c] = scale.values * guides.colours[y, x, c]
    for c in range(shown):
        plain[c] /= total
        detail[c] = detail[c] / sharp if sharp > 0 else np.float32(0)
    return strength / total


@nb.njit(nogil=True, cache=True, error_model="numpy", inline="always")
def _laid(
    pixels: Any,
    covered: Any,
    guides: Any,
    scale: Any,
    row: int,
    column: int,
    plain: Any,
    detail: Any,
    one: Any,
    strength: Any,
) -> None:
    """Write a pixel: its colour with the detail, or with texture in its stead where that is
    strong; with room for that.
    """
    height, width, channels = pixels.shape
    high, wide = guides.hole.shape
    qy, qx = (row + 0.5) / scale.down - 0.5, (column + 0.5) / scale.across - 0.5
    y, x = min(max(round(qy), 0), high - 1), min(max(round(qx), 0), wide - 1)
    ty, tx = row + guides.texture_shift[y, x, 0], column + guides.texture_shift[y, x, 1]
    there = ty >= 0 and tx >= 0 and ty < height and tx < width and covered[ty, tx]
    if strength > 0 and there:
        _stands_off(pixels, guides.mean, scale, ty, tx, one)
    for c in range(3 if channels >= 3 else 1):
        value = plain[c] + detail[c]
        if strength > 0 and there:
            value += strength * (one[c] - detail[c])
        pixels[row, column, c] = min(max(value + np.float32(0.5), np.float32(0)), scale.top)


@nb.njit(nogil=True, cache=True, error_model="numpy", inline="always")
def _stands_off(pixels: Any, coarse: Any, scale: Any, row: int, column: int, found: Any) -> None:
    """How far a pixel of the frame stands off the plan there, in each channel, by bilinear
    interpolation of the plan.
    """
    high, wide = coarse.shape[:2]
    y = min(max((row + 0.5) / scale.down - 0.5, 0.0), high - 1.0)
    x = min(max((column + 0.5) / scale.across - 0.5, 0.0), wide - 1.0)
    y0, x0 = int(y), int(x)
    y1, x1 = min(y0 + 1, high - 1), min(x0 + 1, wide - 1)
    down, across = np.float32(y - y0), np.float32(x - x0)
    for c in range(3 if pixels.shape[2] >= 3 else 1):
        left = coarse[y0, x0, c] + (coarse[y1, x0, c] - coarse[y0, x0, c]) * down
        right = coarse[y0, x1, c] + (coarse[y1, x1, c] - coarse[y0, x1, c]) * down
        between = left + (right - left) * across
        found[c] = np.float32(pixels[row, column, c]) - scale.values * between


@nb.njit(nogil=True, cache=True, error_model="numpy", inline="always")
def _detail(pixels: Any, y: int, x: int, c: int) -> float:
    """How far a pixel stands off the mean of its eight neighbours; the border continues."""
    height, width = pixels.shape[:2]
    total = 0.0
    for dy in range(-1, 2):
        for dx in range(-1, 2):
            total += pixels[min(max(y + dy, 0), height - 1), min(max(x + dx, 0), width - 1), c]
    return float(pixels[y, x, c] * 1.125 - total * 0.125)


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _fine_detail(pixels: Any, covered: Any, hole: Any, shift: Any, rows: Any, columns: Any) -> Any:
    """The finest detail where it is copied from, NaN where it is not, and in the fill itself,
    shape (2, N).
    """
    found = np.empty((2, len(rows)))
    for i in range(len(rows)):
        sy, sx = _copied_from(covered, hole, shift, rows[i], columns[i])
        found[0, i] = _detail(pixels, sy, sx, 0) if sy >= 0 else np.nan
        found[1, i] = _detail(pixels, rows[i], columns[i], 0)
    return found


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _grain_strip(
    pixels: Any, covered: Any, hole: Any, shift: Any, share: Any, limit: Any, first: int, last: int
) -> None:
    shown = 3 if pixels.shape[2] >= 3 else 1
    top = np.float32(255) if pixels.itemsize == 1 else np.float32(65535)
    for row in range(first, last):
        for column in range(covered.shape[1]):
            if covered[row, column]:
                continue
            sy, sx = _copied_from(covered, hole, shift, row, column)
            if sy < 0:
                continue
            for c in range(shown):
                grain = min(max(np.float32(_detail(pixels, sy, sx, c)), -limit), limit) * share
                pixels[row, column, c] = min(
                    max(pixels[row, column, c] + grain + np.float32(0.5), np.float32(0)), top
                )
