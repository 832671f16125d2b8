"""Patches of a picture compared, matched and laid over each other: the compiled loops of
`exemplar`.

What they share is passed as named tuples of arrays, and helpers are compiled into their callers:
called by themselves, each would count its references to every array anew for every pair of patches,
which takes as long as comparing them (Numba's inspect_asm shows it).
"""

from typing import Any, NamedTuple

import numba as nb
import numpy as np

from sequor.core.fill.membrane import Colours

REACH = 4
"""A patch reaches so many pixels from its middle: 9 x 9 pixels."""
LANES = 4
"""Numbers of a pixel where patches are compared: three colours, and one for even steps."""


class Patches(NamedTuple):
    """What the compiled loops compare: colours and how much each of them counts, flat, in rows of
    so many; roughness there and how much of it is asked for, and what a pixel of distance costs.
    """

    colours: Any
    weights: Any
    row: int
    rough: Any
    asked: Any
    away: Any


class Targets(NamedTuple):
    """The patches over the hole: their middles, shape (N, 2), their numbers by place, and where the
    middle of a patch may lie that is copied from."""

    places: Any
    numbers: Any
    possible: Any


def in_lanes(colours: Colours, last: float = 0.0) -> Colours:
    """Colours with a fourth channel of one value."""
    return np.pad(colours, ((0, 0), (0, 0), (0, LANES - 3)), constant_values=last)


@nb.njit(nogil=True, cache=True, inline="always")
def _drawn(state: Any, reach: int) -> tuple[int, int]:
    """Two numbers from -reach to reach, by Marsaglia's xorshift generator, 2003.

    Of the 32 bits of each the whole part of a product is taken, as a remainder takes a division.
    """
    x = state[0]
    x ^= x << np.uint64(13)
    x ^= x >> np.uint64(7)
    x ^= x << np.uint64(17)
    state[0] = x
    span, half = np.uint64(2 * reach + 1), np.uint64(32)
    first = ((x >> half) * span) >> half
    second = ((x & np.uint64(0xFFFFFFFF)) * span) >> half
    return np.int64(first) - reach, np.int64(second) - reach  # type: ignore[return-value]


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy", inline="always")
def _cost(patches: Any, ty: int, tx: int, sy: int, sx: int, beaten: Any) -> Any:
    """How unlike two patches are, by their middles; more than ``beaten`` may be inexact.

    A row of a patch is one run of numbers, of a length that is known when this is compiled, and the
    places are without a sign: only so it becomes vector instructions (2.3 times as fast).
    """
    colours, weights, rough = patches.colours, patches.weights, patches.rough
    down, across = np.float32(sy - ty), np.float32(sx - tx)
    rougher = rough[ty, tx] - rough[sy, sx]
    total = patches.away * np.sqrt(down * down + across * across)
    total += patches.asked[ty, tx] * rougher * rougher
    row = np.uint64(patches.row)
    target = np.uint64(ty - REACH) * row + np.uint64(LANES * (tx - REACH))
    source = np.uint64(sy - REACH) * row + np.uint64(LANES * (sx - REACH))
    for _ in range(3):
        unlike = np.float32(0)
        for _ in range((2 * REACH + 1) // 3):
            for k in range(LANES * (2 * REACH + 1)):
                apart = colours[target + np.uint64(k)] - colours[source + np.uint64(k)]
                unlike += apart * apart * weights[target + np.uint64(k)]
            target += row
            source += row
        total += unlike
        if total >= beaten:
            return total
    return total


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def search(
    patches: Any, targets: Any, source: Any, costs: Any, random: Any, searches: int, reach: int
) -> None:
    """Improve the match of every target patch: from its neighbours, then at random near its match.

    Random places come ever nearer to the match, from ``reach`` pixels on.
    """
    places, count = targets.places, len(targets.places)
    for i in range(count):
        y, x = places[i, 0], places[i, 1]
        costs[i] = _cost(patches, y, x, source[i, 0], source[i, 1], np.float32(1e30))
    for turn in range(searches):
        step = 1 if turn % 2 == 0 else -1
        for k in range(count):
            i = k if step == 1 else count - 1 - k
            best = _spread(patches, targets, source, i, step, costs[i])
            costs[i] = _tried(patches, targets, source, i, random, reach, best)


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy", inline="always")
def _spread(patches: Any, targets: Any, source: Any, i: int, step: int, best: Any) -> Any:
    """Try the matches of the two neighbours that come before in this direction."""
    possible, numbers = targets.possible, targets.numbers
    height, width = possible.shape
    y, x = targets.places[i, 0], targets.places[i, 1]
    for side in range(2):
        yy, xx = (y - step, x) if side == 0 else (y, x - step)
        if yy < 0 or xx < 0 or yy >= height or xx >= width or numbers[yy, xx] < 0:
            continue
        j = numbers[yy, xx]
        cy, cx = source[j, 0] + y - yy, source[j, 1] + x - xx
        if cy < 0 or cx < 0 or cy >= height or cx >= width or not possible[cy, cx]:
            continue
        if cy == source[i, 0] and cx == source[i, 1]:
            continue
        cost = _cost(patches, y, x, cy, cx, best)
        if cost < best:
            best, source[i, 0], source[i, 1] = cost, cy, cx
    return best


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy", inline="always")
def _tried(
    patches: Any, targets: Any, source: Any, i: int, random: Any, reach: int, best: Any
) -> Any:
    """Try random places around the match, ever nearer."""
    possible = targets.possible
    height, width = possible.shape
    y, x = targets.places[i, 0], targets.places[i, 1]
    around = reach
    while around >= 1:
        down, across = _drawn(random, around)
        cy, cx = source[i, 0] + down, source[i, 1] + across
        if cy >= 0 and cx >= 0 and cy < height and cx < width and possible[cy, cx]:
            cost = _cost(patches, y, x, cy, cx, best)
            if cost < best:
                best, source[i, 0], source[i, 1] = cost, cy, cx
        around //= 2
    return best


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def mean_says(
    picture: Any, hole: Any, targets: Any, source: Any, costs: Any, confidence: Any, softness: float
) -> None:
    """Give every pixel of the hole the weighted mean of what the patches over it say."""
    height, width = hole.shape
    total = np.zeros((height, width, 4), np.float32)
    for i in range(len(targets)):
        y, x = targets[i, 0], targets[i, 1]
        weight = np.float32(confidence[y, x] * np.exp(-costs[i] / (2 * softness)) + 1e-8)
        for dy in range(-REACH, REACH + 1):
            for dx in range(-REACH, REACH + 1):
                if hole[y + dy, x + dx]:
                    for c in range(3):
                        total[y + dy, x + dx, c] += (
                            weight * picture[source[i, 0] + dy, source[i, 1] + dx, c]
                        )
                    total[y + dy, x + dx, 3] += weight
    for y in range(height):
        for x in range(width):
            if hole[y, x] and total[y, x, 3] > 0:
                for c in range(3):
                    picture[y, x, c] = total[y, x, c] / total[y, x, 3]


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def best_says(
    picture: Any, hole: Any, targets: Any, source: Any, costs: Any, confidence: Any, softness: float
) -> None:
    """Give every pixel of the hole what the one patch over it says that counts most."""
    height, width = hole.shape
    most = np.zeros((height, width), np.float32)
    said = np.zeros((height, width, 3), np.float32)
    for i in range(len(targets)):
        y, x = targets[i, 0], targets[i, 1]
        weight = np.float32(confidence[y, x] * np.exp(-costs[i] / (2 * softness)) + 1e-8)
        for dy in range(-REACH, REACH + 1):
            for dx in range(-REACH, REACH + 1):
                if not hole[y + dy, x + dx]:
                    continue
                # A patch says most of its own middle.
                here = weight / np.float32(1 + dy * dy + dx * dx)
                if here > most[y + dy, x + dx]:
                    most[y + dy, x + dx] = here
                    for c in range(3):
                        said[y + dy, x + dx, c] = picture[source[i, 0] + dy, source[i, 1] + dx, c]
    for y in range(height):
        for x in range(width):
            if hole[y, x] and most[y, x] > 0:
                for c in range(3):
                    picture[y, x, c] = said[y, x, c]


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def say(
    colours: Any,
    contrasts: Any,
    targets: Any,
    sources: Any,
    total: Any,
    trusts: Any,
    doubts: tuple[Any, Any],
) -> None:
    """Sum up what all patches say, flat, in lanes, and how far each is to be trusted.

    A match as unlike as its own contrast is trusted least, less by the first of the doubts; to that
    contrast the second is added.
    """
    doubt, flat = doubts
    row = np.uint64(LANES * trusts.shape[1])
    for i in range(len(targets)):
        y, x, sy, sx = targets[i, 0], targets[i, 1], sources[i, 0], sources[i, 1]
        target = np.uint64(y - REACH) * row + np.uint64(LANES * (x - REACH))
        source = np.uint64(sy - REACH) * row + np.uint64(LANES * (sx - REACH))
        unlike = np.float32(0)
        for down in range(2 * REACH + 1):
            there, here = source + np.uint64(down) * row, target + np.uint64(down) * row
            for k in range(LANES * (2 * REACH + 1)):
                said = colours[there + np.uint64(k)]
                apart = colours[here + np.uint64(k)] - said
                unlike += apart * apart
                total[here + np.uint64(k)] += said
        trust = 1 - doubt * min(np.float32(1), unlike / (contrasts[sy, sx] + flat))
        for v in range(y - REACH, y + REACH + 1):
            for u in range(x - REACH, x + REACH + 1):
                trusts[v, u] += trust
