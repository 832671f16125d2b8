"""The resampling kernel: one pass from source pixels to output pixels.

Interpolation is by the Lanczos-windowed sinc with eight taps a side (Duchon, "Lanczos filtering in
one and two dimensions", 1979; Turkowski, "Filters for common resampling tasks", 1990), from a table
of 2048 sub-pixel phases whose weights each sum to one. Where the output is coarser than the source
the kernel widens with the source pixels that one output pixel covers, for each axis and each small
block of the output, so that nothing finer than the output's own pixels is left to alias. The loops
are compiled by Numba and release the interpreter lock, so strips of one picture can run on several
threads.
"""

import math
from functools import lru_cache
from typing import Any, NamedTuple

import numba as nb
import numpy as np
from numpy.typing import NDArray

from sequor.core.warp.bending import basis

TAPS = 8
"""Of the kernel at full size: six missed the quality that is asked for (tests/bench), ten are
slower for nothing that shows."""
PHASES = 2048
"""Sub-pixel places in the table of weights: a place is rounded by a 4096th of a pixel at most."""
BLOCK_PX = 32
"""Side of the blocks of the output that share one width of the kernel."""
_BEFORE = TAPS // 2 - 1
_ROOM_SHARE = np.float32(0.02)
"""Of the values around a pixel, by which it may go beyond them: without any a zone plate loses 0.05
dB and twelve turns of a photograph 0.3; with this 0.02 and 0.05, and no halo is seen."""
SLACK_SHARE = 0.02
"""Of the largest value: less than that beyond its four neighbours is no halo, and most pixels are
not, so that looking costs a twentieth of the time."""
_EDGE_PX = 1e-6
"""A pixel's centre that lies on the source's border is covered; so much is rounding."""
_WIDE_PHASES = 256
"""A widened kernel changes less within a source pixel, so that fewer phases do."""
_STEPS_AN_OCTAVE = 16
"""Widths of the kernel for every doubling of the source pixels that an output pixel covers."""


class Lens(NamedTuple):
    """Distortion as the compiled loops take it (see `lens.distortion`).

    ``unit_px`` is half the diagonal, ``fold`` the radius from which on the picture folds over, in
    that unit; without distortion (``bent`` false) the undistorted picture is the source.
    """

    bent: bool
    c1: float
    c2: float
    c3: float
    c4: float
    c5: float
    c6: float
    p1: float
    p2: float
    centre_x: float
    centre_y: float
    unit_px: float
    fold: float


class Unbend(NamedTuple):
    """The way back from the bent picture as the compiled loops take it (see `unbending`).

    Displacements by a bicubic spline with ``coefficients``, shape (rows, columns, 2), at places
    ``step_x`` and ``step_y`` apart from (``left``, ``top``) on, all in pixels of the output plane;
    nothing is displaced when ``bent`` is false.
    """

    bent: bool
    left: float
    top: float
    step_x: float
    step_y: float
    coefficients: Any


class Place(NamedTuple):
    """The way from a pixel of the output to the source.

    ``left`` and ``top`` are where the output's top-left corner lies in the output plane,
    ``unbend`` takes that plane to the turned picture, ``inverse``, shape (3, 3), that to the
    undistorted one, ``lens`` on to the source, whose size is ``width`` and ``height``.
    """

    unbend: Unbend
    inverse: Any
    lens: Lens
    left: float
    top: float
    width: int
    height: int


class Weights(NamedTuple):
    """Tables of weights for the two axes of the source, and the values that a pixel may have.

    Whole numbers are rounded by adding a ``half`` before they are cut off; it is 0 for others. A
    pixel that is farther than ``slack`` beyond the four source pixels around it is looked at again
    (`_bounds`).
    """

    across: Any
    down: Any
    highest: Any
    lowest: Any
    half: Any
    slack: Any


class Curve(NamedTuple):
    """How the values of pixels stand for light, as the compiled loops take it (`light`).

    ``light`` is that of every value, ``encoded`` the values of evenly spaced roots of light.
    """

    light: Any
    encoded: Any


def lanczos_table(
    widened: float = 1.0, phases: int = PHASES, eight: bool = False
) -> NDArray[np.float32]:
    """Weights of the taps for every sub-pixel phase, shape (phases + 1, taps): eight taps, or
    more of a widened kernel.

    With ``eight`` the sinc alone is widened and not its window: fewer of its lobes are left, and
    the taps stay eight.
    """
    half = TAPS // 2 if eight else math.ceil(TAPS / 2 * widened)
    offsets = (
        np.arange(phases + 1)[:, None] / phases - (np.arange(2 * half) - (half - 1))
    ) / widened
    window = offsets * widened if eight else offsets
    weights = np.sinc(offsets) * np.sinc(window / (TAPS / 2)) * (np.abs(window) < TAPS / 2)
    weights[np.abs(weights) < 1e-12] = 0.0
    table: NDArray[np.float32] = (weights / weights.sum(axis=1, keepdims=True)).astype(np.float32)
    return table


WEIGHTS = lanczos_table()
MOST_NEAR_STEP = 6
"""Up to this step (a source finer by 1.3) a bent picture is resampled with eight taps still."""


@lru_cache(maxsize=2 * (MOST_NEAR_STEP + 1))
def near_table(step: int, channels: int = 1) -> NDArray[np.float32]:
    """The table of eight taps for a source that is a little finer than the output, every weight
    repeated for each channel; shape (PHASES + 1, TAPS * channels).
    """
    table = lanczos_table(2 ** (step / _STEPS_AN_OCTAVE), eight=True)
    return np.repeat(table, channels, axis=1)


@lru_cache(maxsize=128)
def widening(step: int) -> NDArray[np.float32]:
    """The table for sources that are finer than the output by ``2 ** (step / 16)``."""
    return lanczos_table(2 ** (step / _STEPS_AN_OCTAVE), _WIDE_PHASES)


def widening_step(finer: float) -> int:
    """Which table serves where one output pixel covers ``finer`` source pixels along an axis.

    0 for the unwidened one.
    """
    # Rounded up but for a quarter of a step, 1 %: a kernel that is too narrow aliases, one of full
    # width at full size is not widened.
    return max(0, math.ceil(_STEPS_AN_OCTAVE * math.log2(finer) - 0.25)) if finer > 1 else 0


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def displaced_row(unbend: Any, y: float, line: Any) -> None:
    """Fill ``line``, shape (columns, 2), with the coefficients of the displacement along a row,
    where anything is displaced.
    """
    if not unbend.bent:
        return
    rows = unbend.coefficients.shape[0]
    at = min(max((y - unbend.top) / unbend.step_y, 1.0), rows - 2.0)
    first = min(int(at), rows - 3)
    w0, w1, w2, w3 = basis(at - first)
    c = unbend.coefficients
    for k in range(c.shape[1]):
        for n in range(2):
            line[k, n] = (
                w0 * c[first - 1, k, n]
                + w1 * c[first, k, n]
                + w2 * c[first + 1, k, n]
                + w3 * c[first + 2, k, n]
            )


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def displacement(unbend: Any, x: float, line: Any) -> tuple[float, float]:
    """How far a place of the row that ``line`` was filled for is displaced."""
    columns = line.shape[0]
    at = min(max((x - unbend.left) / unbend.step_x, 1.0), columns - 2.0)
    first = min(int(at), columns - 3)
    w0, w1, w2, w3 = basis(at - first)
    return (
        w0 * line[first - 1, 0]
        + w1 * line[first, 0]
        + w2 * line[first + 1, 0]
        + w3 * line[first + 2, 0],
        w0 * line[first - 1, 1]
        + w1 * line[first, 1]
        + w2 * line[first + 1, 1]
        + w3 * line[first + 2, 1],
    )


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def displacements(unbend: Any, points: Any) -> Any:
    """How far places of the output plane, shape (N, 2), are displaced."""
    found = np.zeros_like(points)
    line = np.empty((unbend.coefficients.shape[1], 2))
    for k in range(len(points)):
        displaced_row(unbend, points[k, 1], line)
        found[k, 0], found[k, 1] = displacement(unbend, points[k, 0], line)
    return found


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def source_place(place: Any, line: Any, row: int, column: int) -> tuple[float, float, bool]:
    """Where the centre of an output pixel lies in the source, and whether the source covers it.

    ``line`` was filled for the row (`displaced_row`) where the picture is bent.
    """
    inverse, lens = place.inverse, place.lens
    px, py = column + 0.5 + place.left, row + 0.5 + place.top
    if place.unbend.bent:
        dx, dy = displacement(place.unbend, px, line)
        px, py = px + dx, py + dy
    scale = 1.0 / (inverse[2, 0] * px + inverse[2, 1] * py + inverse[2, 2])
    x = (inverse[0, 0] * px + inverse[0, 1] * py + inverse[0, 2]) * scale
    y = (inverse[1, 0] * px + inverse[1, 1] * py + inverse[1, 2]) * scale
    if lens.bent:
        away_x = (x - lens.centre_x) / lens.unit_px
        away_y = (y - lens.centre_y) / lens.unit_px
        radius = math.sqrt(away_x * away_x + away_y * away_y)
        if radius >= lens.fold:
            return x, y, False
        higher = radius * (lens.c4 + radius * (lens.c5 + radius * lens.c6))
        stretch = radius * (lens.c1 + radius * (lens.c2 + radius * (lens.c3 + higher)))
        square, both = radius * radius, 2.0 * away_x * away_y
        aslant_x = lens.p1 * both + lens.p2 * (square + 2.0 * away_x * away_x)
        aslant_y = lens.p1 * (square + 2.0 * away_y * away_y) + lens.p2 * both
        x = lens.centre_x + (away_x * (1.0 + stretch) + aslant_x) * lens.unit_px
        y = lens.centre_y + (away_y * (1.0 + stretch) + aslant_y) * lens.unit_px
    inside_x = x >= -_EDGE_PX and x <= place.width + _EDGE_PX
    inside_y = y >= -_EDGE_PX and y <= place.height + _EDGE_PX
    return x, y, inside_x and inside_y and scale > 0


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def cover_strip(covered: Any, place: Any, first_row: int, last_row: int) -> int:
    """Say of every output pixel in rows [first_row, last_row) whether the source covers it.

    Returns how many are not covered.
    """
    empty = 0
    line = np.empty((place.unbend.coefficients.shape[1], 2))
    for row in range(first_row, last_row):
        displaced_row(place.unbend, row + 0.5 + place.top, line)
        for column in range(covered.shape[1]):
            _, _, inside = source_place(place, line, row, column)
            covered[row, column] = inside
            empty += not inside
    return empty


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def resample_block(
    source: Any,
    place: Any,
    out: Any,
    rows: tuple[int, int],
    columns: tuple[int, int],
    weights: Any,
    curve: Any,
) -> int:
    """Fill a block of ``out`` with a widened kernel and count its empty pixels.

    Parameters
    ----------
    source, out : ndarray, shape (height, width, channels)
    rows, columns : (int, int)
        First row and column of the block, and those after its last.
    place : Place
        The way from the output to the source.
    weights : Weights
        With tables of shape (phases + 1, taps).
    curve : Curve or None
        With one pixels are mixed as light; each of both is compiled for itself.
    """
    height, width, channels = source.shape
    across, down = weights.across, weights.down
    phases_x, taps_x = across.shape[0] - 1, across.shape[1]
    phases_y, taps_y = down.shape[0] - 1, down.shape[1]
    sums = np.empty(taps_x * channels, np.float32)
    flat = source.reshape(-1)
    count, each = np.uint64(taps_x * channels), np.uint64(channels)
    line = np.empty((place.unbend.coefficients.shape[1], 2))
    empty = 0
    for row in range(rows[0], rows[1]):
        displaced_row(place.unbend, row + 0.5 + place.top, line)
        for column in range(columns[0], columns[1]):
            x, y, inside = source_place(place, line, row, column)
            if not inside:
                empty += 1
                continue
            ix, iy = math.floor(x - 0.5), math.floor(y - 0.5)
            fx, fy = int((x - 0.5 - ix) * phases_x + 0.5), int((y - 0.5 - iy) * phases_y + 0.5)
            first_x, first_y = ix - (taps_x // 2 - 1), iy - (taps_y // 2 - 1)
            sums[:] = 0
            clear = first_x >= 0 and first_x + taps_x <= width
            for j in range(taps_y):
                weight = down[fy, j]
                above = min(max(first_y + j, 0), height - 1) * width
                if clear:
                    start = np.uint64((above + first_x) * channels)
                    for i in range(count):
                        if curve is None:
                            sums[i] += weight * np.float32(flat[start + i])
                        else:
                            sums[i] += weight * curve.light[flat[start + i]]
                else:
                    for t in range(np.uint64(taps_x)):
                        at = np.uint64(
                            (above + min(max(first_x + np.int64(t), 0), width - 1)) * channels
                        )
                        for c in range(each):
                            if curve is None:
                                sums[t * each + c] += weight * np.float32(flat[at + c])
                            else:
                                sums[t * each + c] += weight * curve.light[flat[at + c]]
            for c in range(channels):
                total = weights.half if curve is None else np.float32(0)
                for t in range(taps_x):
                    total += across[fx, t] * sums[t * channels + c]
                if curve is None:
                    out[row, column, c] = min(max(total, weights.lowest), weights.highest)
                else:
                    root = math.sqrt(min(max(total, np.float32(0)), np.float32(1)))
                    place_of = int(root * (len(curve.encoded) - 1) + 0.5)
                    out[row, column, c] = curve.encoded[place_of]
    return empty


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def _bounds(source: Any, first: Any, stride: Any, channels: Any) -> tuple[Any, Any]:
    """Between what a value may lie by the eight rows of eight source pixels that it is made of:
    theirs, and a little room beyond.

    Beside an edge the kernel swings by 13 % of the edge, for four pixels: a halo. What is fine and
    regular swings as far and rightly so, but over its own crests, which are among the 64.
    """
    least = most = np.float32(source[first])
    for row in range(np.uint64(TAPS)):
        at = first + row * stride
        for _ in range(np.uint64(TAPS)):
            value = np.float32(source[at])
            least, most = min(least, value), max(most, value)
            at += channels
    room = _ROOM_SHARE * (most - least)
    return least - room, most + room


@nb.njit(inline="always")
def _columns_at_border(
    source: Any,
    place: Any,
    channels: int,
    ix: int,
    iy: int,
    down: Any,
    fy: Any,
    across: Any,
    fx: Any,
    columns: Any,
) -> None:
    """The weighed sums of eight rows within four pixels of the border.

    The border pixel stands for what lies beyond it.
    """
    columns[:] = 0
    for j in range(TAPS):
        line = min(max(iy - _BEFORE + j, 0), place.height - 1) * place.width
        weight = down[fy, np.uint64(j)]
        for t in range(TAPS):
            at = (line + min(max(ix - _BEFORE + t, 0), place.width - 1)) * channels
            for c in range(channels):
                k = np.uint64(t * channels + c)
                columns[k] += weight * across[fx, k] * np.float32(source[np.uint64(at + c)])


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def resample_strip(
    source: Any,
    channels: int,
    place: Any,
    out: Any,
    out_width: int,
    rows: tuple[int, int],
    row_columns: tuple[int, int],
    weights: Any,
) -> int:
    """Fill a block of ``out`` with a kernel of eight taps and count its empty pixels.

    Parameters
    ----------
    source, out : flat arrays of uint8, uint16, uint32 or float32
        Pixels row by row, channels interleaved.
    channels, out_width : int
        Of both, and of the output.
    place : Place
        The way from the output to the source.
    rows, row_columns : (int, int)
        First row and column of the block, and those after its last.
    weights : Weights
        ``across`` of shape (PHASES + 1, TAPS * channels) with every weight repeated for each
        channel, ``down`` of shape (PHASES + 1, TAPS).

    Returns
    -------
    int
        How many output pixels have their centre outside the source; they are left untouched.
    """
    width, height = place.width, place.height
    across, down, highest = weights.across, weights.down, weights.highest
    # Unsigned indices keep Numba from adding a test for negative ones to every access.
    columns = np.empty(TAPS * channels, np.float32)
    count = np.uint64(TAPS * channels)
    stride = np.uint64(width * channels)
    lowest, half, slack = weights.lowest, weights.half, weights.slack
    more, less = half + slack, slack - half
    each = np.uint64(channels)
    r0 = r3 = r4 = np.uint64(0)
    line = np.empty((place.unbend.coefficients.shape[1], 2))
    empty = 0
    for row in range(rows[0], rows[1]):
        displaced_row(place.unbend, row + 0.5 + place.top, line)
        target = np.uint64((row * out_width + row_columns[0]) * channels)
        for column in range(row_columns[0], row_columns[1]):
            x, y, inside = source_place(place, line, row, column)
            if not inside:
                empty += 1
                target += np.uint64(channels)
                continue
            ix = math.floor(x - 0.5)
            iy = math.floor(y - 0.5)
            fx = np.uint64(int((x - 0.5 - ix) * PHASES + 0.5))
            fy = np.uint64(int((y - 0.5 - iy) * PHASES + 0.5))
            clear = (
                ix >= _BEFORE
                and iy >= _BEFORE
                and ix + TAPS - _BEFORE <= width
                and iy + TAPS - _BEFORE <= height
            )
            if clear:
                r0 = np.uint64(((iy - _BEFORE) * width + ix - _BEFORE) * channels)
                r1 = r0 + stride
                r2 = r1 + stride
                r3 = r2 + stride
                r4 = r3 + stride
                r5 = r4 + stride
                r6 = r5 + stride
                r7 = r6 + stride
                w0 = down[fy, np.uint64(0)]
                w1 = down[fy, np.uint64(1)]
                w2 = down[fy, np.uint64(2)]
                w3 = down[fy, np.uint64(3)]
                w4 = down[fy, np.uint64(4)]
                w5 = down[fy, np.uint64(5)]
                w6 = down[fy, np.uint64(6)]
                w7 = down[fy, np.uint64(7)]
                # All eight rows in one expression: the compiler keeps the sums in vector registers.
                for i in range(count):
                    columns[i] = across[fx, i] * (
                        w0 * np.float32(source[r0 + i])
                        + w1 * np.float32(source[r1 + i])
                        + w2 * np.float32(source[r2 + i])
                        + w3 * np.float32(source[r3 + i])
                        + w4 * np.float32(source[r4 + i])
                        + w5 * np.float32(source[r5 + i])
                        + w6 * np.float32(source[r6 + i])
                        + w7 * np.float32(source[r7 + i])
                    )
            else:
                _columns_at_border(source, place, channels, ix, iy, down, fy, across, fx, columns)
            for c in range(np.uint64(channels)):
                total = half
                for t in range(np.uint64(TAPS)):
                    total += columns[t * each + c]
                if clear:
                    near = np.uint64(_BEFORE) * each + c
                    a, b = np.float32(source[r3 + near]), np.float32(source[r3 + near + each])
                    d, e = np.float32(source[r4 + near]), np.float32(source[r4 + near + each])
                    above = max(max(a, b), max(d, e)) + more
                    below = min(min(a, b), min(d, e)) - less
                    if total > above or total < below:
                        least, most = _bounds(source, r0 + c, stride, each)
                        total = min(max(total, min(below, least + half)), max(above, most + half))
                out[target + c] = min(max(total, lowest), highest)
            target += np.uint64(channels)
    return empty
