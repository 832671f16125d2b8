"""solution -> pixels: the whole correction in one resampling from the original."""

import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix, apply_homography
from sequor.core.errors import Cancelled
from sequor.core.frame.rectangle import Rectangle
from sequor.core.lens.distortion import Distortion
from sequor.core.pixels import Mask, Pixels
from sequor.core.render.alpha import is_transparent, premultiplied, unpremultiplied
from sequor.core.render.kernel import (
    BLOCK_PX,
    MOST_NEAR_STEP,
    SLACK_SHARE,
    TAPS,
    Curve,
    Weights,
    lanes_of,
    near_table,
    resample_strip,
    resample_widened,
    widening,
    widening_step,
)
from sequor.core.render.light import Light
from sequor.core.render.places import Lens, Place, Unbend, cover_strip, displacements
from sequor.core.render.unbending import NO_UNBEND, unbending
from sequor.core.solution import Solution

_STRIP_ROWS = 64
"""Rows that one thread works on before progress is told."""
_COARSE_FINER = 2.0
"""Means of source pixels stay so much finer than what is made of them: it then differs by a grey
level on average from what all pixels make, in noise too (tests/core/test_render.py)."""
_MOST_FINER = 64.0
"""Source pixels along an axis for one of the output: beyond this the kernel is not widened more."""

Progress = Callable[[float], None]


@dataclass(frozen=True)
class Way:
    """The way from the output plane to source pixels.

    ``unbend`` takes it to the turned picture, ``back``, 3x3, that to the undistorted one, and
    ``lens`` that to the source.
    """

    back: Matrix
    lens: Distortion
    unbend: Unbend = NO_UNBEND

    def to_source(self, points: Matrix) -> Matrix:
        """Where points of the output plane, shape (N, 2), lie in the source."""
        if self.unbend.bent:
            points = points + displacements(self.unbend, np.ascontiguousarray(points))
        return self.lens.distorted(apply_homography(self.back, points))


@dataclass(frozen=True)
class Rendered:
    """Pixels of shape (height, width, channels), how many of them are empty, the share that is not
    the picture's own but was filled, and what of it is covered by the picture and was made anew.
    """

    pixels: Pixels
    empty_pixels: int
    filled_share: float = 0.0
    mended: Mask | None = None


def render(
    pixels: NDArray[Any],
    solution: Solution,
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
    size: tuple[int, int] | None = None,
    light: Light | None = None,
) -> Rendered:
    """Render the frame of a solution.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8, uint16 or float32
        The upright original.
    solution : Solution
        Made for a photo of that size.
    progress, cancelled : callable
        Told the share done after every strip, and asked whether to stop.
    size : (int, int), optional
        Width and height to make; full size when None. Pixels that no source pixel covers are left
        at zero.
    light : Light, optional
        The curve by which the pixels' values stand for light: they are mixed as light is, not as
        the numbers are.

    Raises
    ------
    Cancelled
        When ``cancelled`` said so; nothing is returned then.
    """
    way, box = _onto(solution, size)
    if light is None:
        return render_box(pixels, way, box, progress, cancelled)
    if is_transparent(pixels):
        mixed = render_box(light.of(pixels), way, box, progress, cancelled)
        return Rendered(light.encoded(mixed.pixels, pixels.dtype), mixed.empty_pixels)
    curve = light.curve(pixels.dtype)
    made, empty = _resampled(pixels, way, box, progress, cancelled, curve)
    return Rendered(made, empty)


def render_coarse(
    pixels: Pixels,
    solution: Solution,
    size: tuple[int, int],
    cancelled: Callable[[], bool] = lambda: False,
) -> Pixels:
    """The frame of a solution at a size much smaller than its own, to reckon with and not to look
    at: where a pixel of it covers many of the source, means of these are resampled.

    Arguments as for `render`.
    """
    height, width = pixels.shape[:2]
    way, box = _onto(solution, size)
    finer = min(solution.frame.width / size[0], solution.frame.height / size[1])
    times = int(finer / _COARSE_FINER)
    if times < 2 or is_transparent(pixels):
        return render_box(pixels, way, box, cancelled=cancelled).pixels
    import cv2

    high, wide = height // times, width // times
    even = pixels[: high * times, : wide * times]
    means = cv2.resize(even, (wide, high), interpolation=cv2.INTER_AREA).reshape(high, wide, -1)
    across, down = size[0] / solution.frame.width, size[1] / solution.frame.height
    reduced = _way(solution, box, across, down, reduced=1 / times)
    return render_box(means, reduced, box, cancelled=cancelled).pixels


def coverage(
    solution: Solution, photo: tuple[int, int], size: tuple[int, int] | None = None
) -> Mask:
    """Which pixels of the rendered frame a photo of some size covers, shape (height, width)."""
    way, box = _onto(solution, size)
    covered = np.zeros((int(box.height), int(box.width)), np.bool_)
    place = _place(way, box, photo)

    def strip(first: int) -> None:
        cover_strip(covered, place, first, min(first + _STRIP_ROWS, len(covered)))

    with ThreadPoolExecutor(os.cpu_count()) as threads:
        list(threads.map(strip, range(0, len(covered), _STRIP_ROWS)))
    return covered


def render_small(pixels: Pixels, solution: Solution, scale: float) -> Rendered:
    """Render the frame from a picture that is ``scale`` times the original, at that scale."""
    frame = solution.frame
    width, height = max(1, int(frame.width * scale)), max(1, int(frame.height * scale))
    box = Rectangle(frame.x * scale, frame.y * scale, width, height)
    return render_box(pixels, _way(solution, box, scale, scale, reduced=scale), box)


def render_view(
    pixels: Pixels,
    reduced: float,
    solution: Solution,
    box: Rectangle,
    scale: float,
    cancelled: Callable[[], bool] = lambda: False,
) -> Rendered:
    """Render a part of the uncropped corrected picture at some scale, for the screen.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels)
        The original, reduced to the share ``reduced`` of its size.
    box : Rectangle
        The part, in pixels of the uncropped corrected picture.
    scale : float
        Pixels made for every pixel of the uncropped corrected picture.
    """
    width, height = max(1, round(box.width * scale)), max(1, round(box.height * scale))
    part = Rectangle(box.x * scale, box.y * scale, width, height)
    way = _way(solution, part, scale, scale, reduced)
    return render_box(pixels, way, part, cancelled=cancelled)


def render_straight(pixels: Pixels, lens: Distortion, box: Rectangle, scale: float) -> Rendered:
    """Render a part of the straight picture, freed of bow and not turned, at a scale of
    ``pixels``, whose size ``lens`` is for.
    """
    width, height = max(1, round(box.width * scale)), max(1, round(box.height * scale))
    way = Way(np.diag([1 / scale, 1 / scale, 1.0]), lens)
    return render_box(pixels, way, Rectangle(box.x * scale, box.y * scale, width, height))


def render_box(
    pixels: NDArray[Any],
    way: Way,
    box: Rectangle,
    progress: Progress = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Rendered:
    """Resample the part of the output plane inside ``box``, whose sides are whole pixels.

    All of the way is composed into one map, so that the picture is resampled once.
    """
    if _is_as_shot(way, box, pixels):
        return Rendered(pixels.copy(), 0)
    if is_transparent(pixels):
        wide, empty = _resampled(premultiplied(pixels), way, box, progress, cancelled)
        return Rendered(unpremultiplied(wide, pixels), empty)
    made, empty = _resampled(pixels, way, box, progress, cancelled)
    return Rendered(made, empty)


def _is_as_shot(way: Way, box: Rectangle, pixels: NDArray[Any]) -> bool:
    """Whether nothing at all is done to a picture, not even to what is transparent."""
    height, width, _ = pixels.shape
    still = way.lens.straight and not way.unbend.bent and bool((way.back == np.eye(3)).all())
    return still and (box.x, box.y, box.width, box.height) == (0, 0, width, height)


def _resampled(
    pixels: NDArray[Any],
    way: Way,
    box: Rectangle,
    progress: Progress,
    cancelled: Callable[[], bool],
    curve: Curve | None = None,
) -> tuple[NDArray[Any], int]:
    """The pixels of a box, of the type of the source's, and how many of them are empty; mixed as
    light by a ``curve``.
    """
    height, width, channels = pixels.shape
    out_width, out_height = int(box.width), int(box.height)
    out = np.zeros((out_height, out_width, channels), pixels.dtype)
    source, target = np.ascontiguousarray(pixels).reshape(-1), out.reshape(-1)
    place = _place(way, box, (width, height))
    values, each, bent = _values_of(pixels.dtype), (0,) * channels, way.unbend.bent

    def block(rows: tuple[int, int], columns: tuple[int, int], across: int, down: int) -> int:
        eight = max(across, down) <= (MOST_NEAR_STEP if bent else 0)
        if curve is None and eight:
            weights = _near_weights(across, down, channels, values)
            made = resample_strip(source, each, place, target, out_width, rows, columns, weights)
        else:
            weights = _wide_weights(across, down, channels, values)
            made = resample_widened(
                source, each, place, target, out_width, rows, columns, weights, curve
            )
        return int(made)

    def strip(first: int) -> int:
        if cancelled():
            raise Cancelled
        last = min(first + _STRIP_ROWS, out_height)
        if curve is None and _finer(way, box, first, last).max() == 0:
            return block((first, last), (0, out_width), 0, 0)
        empty = 0
        for top in range(first, last, BLOCK_PX):
            bottom = min(top + BLOCK_PX, last)
            for left, right, across, down in _alike(_finer(way, box, top, bottom), out_width):
                empty += block((top, bottom), (left, right), across, down)
        return empty

    empty = 0
    starts = range(0, out_height, _STRIP_ROWS)
    with ThreadPoolExecutor(os.cpu_count()) as threads:
        for done, count in enumerate(threads.map(strip, starts), 1):
            empty += count
            progress(done / len(starts))
    return out, empty


def _values_of(kind: np.dtype[Any]) -> tuple[np.float32, ...]:
    """The largest and the least value of a pixel, what is added to round it, and by how much it may
    lie beyond its neighbours before it is looked at again.
    """
    nothing = np.float32(0)
    if kind.kind == "f":
        most = np.finfo(np.float32).max
        return most, -most, nothing, nothing
    most = np.float32(np.iinfo(kind).max)
    if kind == np.uint32:  # it is no number of 24 bits, and would be rounded beyond the largest
        most = np.nextafter(most, np.float32(0))
    return most, nothing, np.float32(0.5), np.float32(most * SLACK_SHARE)


def _near_weights(across: int, down: int, channels: int, values: tuple[Any, ...]) -> Weights:
    """Eight taps, for steps of the two axes of the source."""
    tables = near_table(across, channels), near_table(down)
    return Weights(*tables, lanes_of(channels), (TAPS // 2, TAPS // 2), *values)


def _wide_weights(across: int, down: int, channels: int, values: tuple[Any, ...]) -> Weights:
    """As many taps as steps of the two axes of the source ask for."""
    wide, high = widening(across, channels, 8), widening(down, 1, 4)
    lanes = lanes_of(channels, wide.weights.shape[1])
    return Weights(wide.weights, high.weights, lanes, (wide.taps // 2, high.taps // 2), *values)


def _alike(steps: NDArray[np.int_], width: int) -> Iterator[tuple[int, int, int, int]]:
    """The first column, the one after the last, and both steps of neighbouring blocks along a row
    that have the same steps.
    """
    starts = np.flatnonzero(np.concatenate([[True], (np.diff(steps, axis=0) != 0).any(axis=1)]))
    ends = np.append(starts[1:], len(steps))
    for first, after in zip(starts.tolist(), ends.tolist(), strict=True):
        across, down = steps[first].tolist()
        yield first * BLOCK_PX, min(after * BLOCK_PX, width), across, down


def _onto(solution: Solution, size: tuple[int, int] | None) -> tuple[Way, Rectangle]:
    """The way back from the output, and the frame in the output's pixels."""
    frame = solution.frame
    width, height = size or (frame.width, frame.height)
    across, down = width / frame.width, height / frame.height
    box = Rectangle(frame.x * across, frame.y * down, width, height)
    return _way(solution, box, across, down), box


def _way(
    solution: Solution, box: Rectangle, across: float, down: float, reduced: float = 1.0
) -> Way:
    """The way back from a box of an output with so many pixels for one of the corrected picture,
    to an original of which only the share ``reduced`` is there.
    """
    warp = solution.warp
    scaled = warp.back @ np.diag([1 / across, 1 / down, 1.0])
    if reduced == 1.0:
        return Way(scaled, warp.distortion, unbending(warp.bending, box, across, down))
    lens = warp.distortion.scaled(reduced)
    back = np.diag([reduced, reduced, 1.0]) @ scaled
    return Way(back, lens, unbending(warp.bending, box, across, down))


def _place(way: Way, box: Rectangle, source: tuple[int, int]) -> Place:
    """The way from the output to the source as the kernel takes it."""
    lens, back = way.lens, np.ascontiguousarray(way.back, dtype=np.float64)
    bent, unit = not lens.straight, lens.unit_px
    folded = Lens(bent, *lens.polynomial, *lens.tangential, *lens.centre, unit, lens.fold)
    return Place(way.unbend, back, folded, box.x, box.y, *source)


def _finer(way: Way, box: Rectangle, first_row: int, last_row: int) -> NDArray[np.int_]:
    """For every block along some rows the steps by which the kernel widens across and down the
    source, shape (blocks, 2).
    """
    lefts = np.arange(0, int(box.width), BLOCK_PX)
    xs = (lefts + np.minimum(lefts + BLOCK_PX, box.width)) / 2 + box.x
    y = (first_row + last_row) / 2 + box.y
    half = 0.5
    places = [(xs - half, y), (xs + half, y), (xs, y - half), (xs, y + half)]
    ends = [way.to_source(np.column_stack(np.broadcast_arrays(*place))) for place in places]
    # How far the place in the source moves, along each of its axes, for one pixel across or down
    # the output.
    finer = np.nan_to_num(np.hypot(ends[1] - ends[0], ends[3] - ends[2]), nan=1.0)
    return np.array([[widening_step(min(float(v), _MOST_FINER)) for v in pair] for pair in finer])
