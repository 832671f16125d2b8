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

from sequor.core.render.places import PHASES, places_along, room_for

TAPS = 8
"""Of the kernel at full size: six missed the quality that is asked for (tests/bench), ten are
slower for nothing that shows."""
BLOCK_PX = 32
"""Side of the blocks of the output that share one width of the kernel."""
_BEFORE = TAPS // 2 - 1
_ROOM_SHARE = np.float32(0.02)
"""Of the values around a pixel, by which it may go beyond them: without any a zone plate loses 0.05
dB and twelve turns of a photograph 0.3; with this 0.02 and 0.05, and no halo is seen."""
SLACK_SHARE = 0.02
"""Of the largest value: less than that beyond its four neighbours is no halo, and most pixels are
not, so that looking costs a twentieth of the time."""
_WIDE_PHASES = 256
"""A widened kernel changes less within a source pixel, so that fewer phases do."""
_STEPS_AN_OCTAVE = 16
"""Widths of the kernel for every doubling of the source pixels that an output pixel covers."""


class Weights(NamedTuple):
    """Tables of weights for the two axes of the source, and the values that a pixel may have.

    ``lanes``, shape (4, numbers), is 1 where a number of a row of taps is of a channel, ``before``
    how many taps a table begins before the source pixel in which a place lies, and that pixel.
    Whole numbers are rounded by adding a ``half`` before they are cut off; it is 0 for others. A
    pixel that is farther than ``slack`` beyond the four source pixels around it is looked at again
    (`_bounds`).
    """

    across: Any
    down: Any
    lanes: Any
    before: tuple[int, int]
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


@lru_cache(maxsize=16 * (MOST_NEAR_STEP + 1))
def near_table(step: int, channels: int = 1) -> NDArray[np.float32]:
    """The table of eight taps for a source that is a little finer than the output, every weight
    repeated for each channel; shape (PHASES + 1, TAPS * channels).
    """
    table = lanczos_table(2 ** (step / _STEPS_AN_OCTAVE), eight=True) if step else WEIGHTS
    return np.repeat(table, channels, axis=1)


class Widened(NamedTuple):
    """A table for one axis of a source that is finer than the output.

    ``taps`` is how many weights a phase has, ``weights``, shape (phases + 1, numbers), those with
    each repeated for every channel, and zeros that make up a multiple of what the loops take at
    once.
    """

    taps: int
    weights: NDArray[np.float32]


@lru_cache(maxsize=512)
def widening(step: int, channels: int, at_once: int) -> Widened:
    """The table for a source that is finer than the output by ``2 ** (step / 16)``."""
    table = lanczos_table(2 ** (step / _STEPS_AN_OCTAVE), _WIDE_PHASES)
    repeated = np.repeat(table, channels, axis=1)
    missing = -repeated.shape[1] % at_once
    return Widened(table.shape[1], np.pad(repeated, ((0, 0), (0, missing))))


def widening_step(finer: float) -> int:
    """Which table serves where one output pixel covers ``finer`` source pixels along an axis.

    0 for the unwidened one.
    """
    # Rounded up but for a quarter of a step, 1 %: a kernel that is too narrow aliases, one of full
    # width at full size is not widened.
    return max(0, math.ceil(_STEPS_AN_OCTAVE * math.log2(finer) - 0.25)) if finer > 1 else 0


@lru_cache(maxsize=128)
def lanes_of(channels: int, count: int = 0) -> NDArray[np.float32]:
    """Which of ``count`` numbers, those of eight taps if none are given, are of which channel;
    shape (4, count).
    """
    channel = np.arange(count or TAPS * channels) % channels
    lanes: NDArray[np.float32] = (channel == np.arange(4)[:, None]).astype(np.float32)
    return lanes


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def _number(curve: Any, value: Any) -> Any:
    """What is mixed for a value of the source: itself, or the light it stands for."""
    if curve is None:
        return np.float32(value)
    return curve.light[value]


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def resample_widened(
    source: Any,
    channels: tuple[int, ...],
    place: Any,
    out: Any,
    out_width: int,
    rows: tuple[int, int],
    row_columns: tuple[int, int],
    weights: Any,
    curve: Any,
) -> int:
    """Fill a block of ``out`` with a widened kernel and count its empty pixels.

    As `resample_strip`, but for tables with any number of taps, taken four rows at a time, and
    without looking for halos, which a widened kernel has none of that show.

    Parameters
    ----------
    weights : Weights
        With tables of `widening`: ``across`` in multiples of 8 numbers, ``down`` of 4.
    curve : Curve or None
        With one pixels are mixed as light; each of both is compiled for itself.
    """
    width, height = place.width, place.height
    across, down, lanes = weights.across, weights.down, weights.lanes
    phases_x, phases_y = across.shape[0] - 1, down.shape[0] - 1
    count, each = np.uint64(across.shape[1]), np.uint64(len(channels))
    beyond = (across.shape[1] + len(channels) - 1) // len(channels), down.shape[1]
    stride = np.uint64(width * len(channels))
    room = room_for(place, row_columns[1] - row_columns[0])
    empty = 0
    for row in range(rows[0], rows[1]):
        places_along(place, row, row_columns[0], room)
        target = np.uint64((row * out_width + row_columns[0]) * len(channels))
        for k in range(len(room.across)):
            at_x, at_y = np.int64(room.across[k]), np.int64(room.down[k])
            if at_x < 0:
                empty += 1
                target += each
                continue
            # Tables of wide kernels have fewer phases.
            fx = np.uint64(((at_x % PHASES) * phases_x + PHASES // 2) // PHASES)
            fy = np.uint64(((at_y % PHASES) * phases_y + PHASES // 2) // PHASES)
            left, top = at_x // PHASES - weights.before[0], at_y // PHASES - weights.before[1]
            t0 = t1 = t2 = t3 = np.float32(0)
            if left >= 0 and top >= 0 and left + beyond[0] <= width and top + beyond[1] <= height:
                r0 = np.uint64((top * width + left) * len(channels))
                for j in range(np.uint64(0), np.uint64(down.shape[1]), np.uint64(4)):
                    r1 = r0 + stride
                    r2 = r1 + stride
                    r3 = r2 + stride
                    w0, w1 = down[fy, j], down[fy, j + np.uint64(1)]
                    w2, w3 = down[fy, j + np.uint64(2)], down[fy, j + np.uint64(3)]
                    for i in range(count):
                        column = across[fx, i] * (
                            w0 * _number(curve, source[r0 + i])
                            + w1 * _number(curve, source[r1 + i])
                            + w2 * _number(curve, source[r2 + i])
                            + w3 * _number(curve, source[r3 + i])
                        )
                        t0 += lanes[0, i] * column
                        if len(channels) > 1:
                            t1 += lanes[1, i] * column
                        if len(channels) > 2:
                            t2 += lanes[2, i] * column
                        if len(channels) > 3:
                            t3 += lanes[3, i] * column
                    r0 = r3 + stride
            else:
                t0, t1, t2, t3 = _sums_at_border(
                    source, place, (left, top), (fx, fy), weights, curve
                )
            for c in range(each):
                total = t0 if c == 0 else t1 if c == 1 else t2 if c == 2 else t3
                if curve is None:
                    total = min(max(total + weights.half, weights.lowest), weights.highest)
                    out[target + c] = total
                else:
                    root = math.sqrt(min(max(total, np.float32(0)), np.float32(1)))
                    place_of = int(root * (len(curve.encoded) - 1) + 0.5)
                    out[target + c] = curve.encoded[place_of]
            target += each
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


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def _sums_at_border(
    source: Any,
    place: Any,
    first: Any,
    phases: Any,
    weights: Any,
    curve: Any,
) -> Any:
    """The weighed sums of four channels where some of the taps, from column and row ``first`` on,
    lie beyond the border; those of channels that there are not are 0.

    The border pixel stands for what lies beyond it.
    """
    across, down = weights.across[phases[0]], weights.down[phases[1]]
    channels = len(source) // (place.width * place.height)
    sums = np.zeros(4, np.float32)
    for j in range(len(down)):
        line = min(max(first[1] + j, 0), place.height - 1) * place.width
        for k in range(len(across)):
            column = min(max(first[0] + k // channels, 0), place.width - 1)
            value = _number(curve, source[(line + column) * channels + k % channels])
            sums[k % channels] += down[j] * across[k] * value
    return sums[0], sums[1], sums[2], sums[3]


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def resample_strip(
    source: Any,
    channels: tuple[int, ...],
    place: Any,
    out: Any,
    out_width: int,
    rows: tuple[int, int],
    row_columns: tuple[int, int],
    weights: Any,
) -> int:
    """Fill a block of ``out`` with a kernel of eight taps and count its empty pixels.

    What the compiler makes of it decides how long it takes (Numba's inspect_asm shows it). The loop
    over the taps goes eight numbers at once since it only adds up: did it store its columns, every
    pixel would begin with a test whether they lie in the source, which takes longer than the taps.
    Nor is its length a constant: of one that is as short as a single channel's it would write out
    every number.

    Parameters
    ----------
    source, out : flat arrays of uint8, uint16, uint32 or float32
        Pixels row by row, channels interleaved.
    channels : tuple of int
        As many as there are channels, one to four: the compiler knows the length of a tuple, and
        makes one function for each.
    out_width : int
        Of the output.
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
    across, down, lanes = weights.across, weights.down, weights.lanes
    lowest, highest, half, slack = weights.lowest, weights.highest, weights.half, weights.slack
    # Unsigned indices keep Numba from adding a test for negative ones to every access.
    count, each = np.uint64(across.shape[1]), np.uint64(len(channels))
    stride = np.uint64(width * len(channels))
    room = room_for(place, row_columns[1] - row_columns[0])
    more, less = half + slack, slack - half
    r0 = r3 = r4 = np.uint64(0)
    empty = 0
    for row in range(rows[0], rows[1]):
        places_along(place, row, row_columns[0], room)
        target = np.uint64((row * out_width + row_columns[0]) * len(channels))
        for k in range(len(room.across)):
            at_x, at_y = np.int64(room.across[k]), np.int64(room.down[k])
            if at_x < 0:
                empty += 1
                target += each
                continue
            fx, fy = np.uint64(at_x & (PHASES - 1)), np.uint64(at_y & (PHASES - 1))
            left, top = at_x // PHASES - TAPS // 2, at_y // PHASES - TAPS // 2
            clear = left >= 0 and top >= 0 and left + TAPS <= width and top + TAPS <= height
            t0 = t1 = t2 = t3 = np.float32(0)
            if clear:
                r0 = np.uint64((top * width + left) * len(channels))
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
                    column = across[fx, i] * (
                        w0 * np.float32(source[r0 + i])
                        + w1 * np.float32(source[r1 + i])
                        + w2 * np.float32(source[r2 + i])
                        + w3 * np.float32(source[r3 + i])
                        + w4 * np.float32(source[r4 + i])
                        + w5 * np.float32(source[r5 + i])
                        + w6 * np.float32(source[r6 + i])
                        + w7 * np.float32(source[r7 + i])
                    )
                    t0 += lanes[0, i] * column
                    if len(channels) > 1:
                        t1 += lanes[1, i] * column
                    if len(channels) > 2:
                        t2 += lanes[2, i] * column
                    if len(channels) > 3:
                        t3 += lanes[3, i] * column
            else:
                t0, t1, t2, t3 = _sums_at_border(
                    source, place, (left, top), (fx, fy), weights, None
                )
            for c in range(each):
                total = half + (t0 if c == 0 else t1 if c == 1 else t2 if c == 2 else t3)
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
            target += each
    return empty
