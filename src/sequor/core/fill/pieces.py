"""Where detail is copied from, settled into pieces.

Neighbours take theirs from neighbouring places wherever that is as good.

A fill is worked out on a small picture, and the finest detail of the large one comes along by its
shifts. Where many places match alike (sky, water, grain) the matches of neighbouring patches point
anywhere, and copying by them would shred the detail into cells. So every pixel takes a neighbour's
shift over its own unless its own matches better: an energy of unlikeness and of differing
neighbours, lowered pixel by pixel (Besag, "On the statistical analysis of dirty pictures", 1986)
with neighbours ever nearer.
"""

from typing import Any

import numba as nb
import numpy as np

from sequor.core.fill.exemplar import Places
from sequor.core.fill.membrane import Colours
from sequor.core.pixels import Mask

_REACHES = (1, 1, 2, 1)
"""Rounds, with how far away the neighbours are whose shift is tried, in pixels of the plan: one
round from farther off carries shifts over a thin line of others."""
_HALF = 2
"""Pixels on either side over which what a shift brings is compared: 5 x 5."""
_APART_COSTS = 12.0
"""What a neighbour with another shift costs, in squared grey levels: grain of some 3 grey levels
makes no piece end."""
_EVEN_COUNTS_LESS = 0.9
"""By which share an even difference of brightness or colour counts less: only detail is copied."""


def in_pieces(known: Colours, hole: Mask, avoid: Mask, colours: Colours, shift: Places) -> Places:
    """Shifts like those given, but the same over pieces as large as the picture allows.

    Parameters
    ----------
    known, colours : ndarray, shape (height, width, 3), 0 to 255
        The picture, and the picture with its hole filled.
    hole, avoid : ndarray of bool, shape (height, width)
        What is filled, and what must not be copied from.
    shift : ndarray of int, shape (height, width, 2)
        Rows and columns from every pixel of the hole to where its detail comes from.
    """
    settled = shift.copy()
    usable, places = ~(hole | avoid), np.argwhere(hole).astype(np.int32, order="C")
    for turn, reach in enumerate(_REACHES):
        there = places if turn % 2 == 0 else np.ascontiguousarray(places[::-1])
        _settle(known, colours, hole, usable, there, settled, reach)
    return settled


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _settle(
    known: Any, colours: Any, hole: Any, usable: Any, places: Any, shift: Any, reach: int
) -> None:
    """Let every pixel of the hole take a neighbour's shift if that lowers the energy.

    The neighbours are eight, ``reach`` pixels away.
    """
    height, width = hole.shape
    for k in range(len(places)):
        y, x = places[k]
        best_down, best_across = shift[y, x]
        best = -1.0  # not known before a neighbour differs
        last_down, last_across = best_down, best_across
        for dy in range(-1, 2):
            for dx in range(-1, 2):
                v, u = y + dy * reach, x + dx * reach
                if v < 0 or u < 0 or v >= height or u >= width or not hole[v, u]:
                    continue
                down, across = shift[v, u]
                # Most that differ differ alike.
                if down == last_down and across == last_across:
                    continue
                if down == best_down and across == best_across:
                    continue
                last_down, last_across = down, across
                if best < 0:
                    best = _energy(
                        known, colours, hole, usable, shift, y, x, best_down, best_across, np.inf
                    )
                energy = _energy(known, colours, hole, usable, shift, y, x, down, across, best)
                if energy < best:
                    best, best_down, best_across = energy, down, across
        shift[y, x, 0], shift[y, x, 1] = best_down, best_across


@nb.njit(nogil=True, cache=True, error_model="numpy", inline="always")
def _energy(
    known: Any,
    colours: Any,
    hole: Any,
    usable: Any,
    shift: Any,
    y: int,
    x: int,
    down: int,
    across: int,
    beaten: float,
) -> float:
    """What a shift costs at a pixel: by what it brings, and by neighbours that have another.

    May stop once it is beaten.
    """
    height, width = hole.shape
    if not (0 <= y + down < height and 0 <= x + across < width and usable[y + down, x + across]):
        return np.inf
    apart = _APART_COSTS * _apart(hole, shift, y, x, down, across)
    if apart >= beaten:
        return apart
    return apart + _unlike(known, colours, hole, y, x, down, across)


@nb.njit(nogil=True, cache=True, error_model="numpy", inline="always")
def _apart(hole: Any, shift: Any, y: int, x: int, down: int, across: int) -> int:
    """How many of the eight neighbours in the hole have another shift."""
    height, width = hole.shape
    count = 0
    for v in range(max(y - 1, 0), min(y + 2, height)):
        for u in range(max(x - 1, 0), min(x + 2, width)):
            count += hole[v, u] and (shift[v, u, 0] != down or shift[v, u, 1] != across)
    return count


@nb.njit(nogil=True, cache=True, error_model="numpy", inline="always")
def _unlike(known: Any, colours: Any, hole: Any, y: int, x: int, down: int, across: int) -> float:
    """The mean square by which what a shift brings differs from the fill around a pixel."""
    height, width = hole.shape
    count, second = 0, np.float32(0)
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for v in range(max(y - _HALF, 0), min(y + _HALF + 1, height)):
        for u in range(max(x - _HALF, 0), min(x + _HALF + 1, width)):
            sv, su = v + down, u + across
            if not (0 <= sv < height and 0 <= su < width) or hole[sv, su]:
                continue
            count += 1
            one = colours[v, u, 0] - known[sv, su, 0]
            two = colours[v, u, 1] - known[sv, su, 1]
            three = colours[v, u, 2] - known[sv, su, 2]
            red, green, blue = red + one, green + two, blue + three
            second += one * one + two * two + three * three
    # Only detail is copied: that all of it is a little brighter or darker there matters less.
    even = (red * red + green * green + blue * blue) / count
    return float(second - _EVEN_COUNTS_LESS * even) / count
