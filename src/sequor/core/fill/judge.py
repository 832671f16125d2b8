"""How good a fill is, place by place, judged without knowing what was really there.

Two things are told apart. A *flaw* is a place that a viewer sees: a piece unlike everything near
it, a seam, texture that goes missing, an edge that ends at the seam, the same piece twice. The
*doubt* is how unlike the truth a fill may be: texture of standard deviation s, continued without
knowing it, has an expected structural similarity of C2 / (2 s^2 + C2) with what was there, whoever
continues it (from the definition of Wang et al., "Image quality assessment: from error visibility
to structural similarity", 2004, with no covariance).
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

import numba as nb
import numpy as np
import scipy

from sequor.core.fill.exemplar import Places
from sequor.core.fill.membrane import Colours
from sequor.core.fill.risk import crossings_of, goes_on, gradient_of
from sequor.core.neighbourhood import box_mean, depth_in, gaussian, nearest_outside
from sequor.core.pixels import LUMA, Mask

FlawKind = Literal["foreign", "seam", "weak", "edge", "repeat"]

_TILE_PX = 4
"""Places are looked at so far apart, in pixels of the plan."""
_LOOK_PX = 3.0
"""Standard deviation of the window in which a place's colour and contrast are taken."""
_C2 = (0.03 * 255) ** 2
"""Of structural similarity, for values up to 255 (Wang et al. 2004)."""
_SURE_PX = 6.0
"""What lies so deep in the hole is told by the picture around it to a third."""
_NEAR_PX, _NEAR_SHARE = 16.0, 1.5
"""The picture has something like a place within so many pixels, and so many times its depth."""
_FOREIGN_LEVELS, _FOREIGN_TIMES = 30.0, 2.0
"""Grey levels by which a place may differ from all of the picture near it, and so many times the
variety that is there."""
_ALIKE = 20.0
"""Grey levels within which two places are the same thing."""
_TEXTURED, _WEAK = 5.0, 0.4
"""Contrast of luma that is texture, and the share of it below which a viewer misses it."""
_SEAM_LEVELS, _SEAM_TIMES, _ALONG_PX = 8.0, 3.5, 8
"""Grey levels of a step across the seam, and times those beside it, that a viewer sees, along so
many pixels."""
_PLAIN_EDGE, _BROKEN = 12.0, 0.25
"""Grey levels a pixel of an edge that nobody overlooks, and the share of its way that it has at
least to go on."""
_REPEAT_PX, _REPEAT_SHARE = 160, 0.8
"""How near two copies of one piece are seen together, and how much of a place both must have."""
_FEWEST = {"foreign": 12, "weak": 35, "seam": 6, "repeat": 80}
"""Places beside each other before a flaw is spoken of: fewer may be chance."""


@dataclass(frozen=True)
class Flaw:
    """A place of a fill that stands out.

    Attributes
    ----------
    kind : str
    x, y, radius : float
        Where, in pixels of the picture that was judged.
    strength : float
        How much it stands out: 1 is just seen.
    """

    kind: FlawKind
    x: float
    y: float
    radius: float
    strength: float


@dataclass(frozen=True)
class Judgement:
    """The doubt of a fill, 0 to 1, and its flaws."""

    doubt: float
    flaws: tuple[Flaw, ...]


class _SideLooks(NamedTuple):
    """Mean colour and contrast of luma about every pixel, of one side of the seam alone."""

    colour: Any
    contrast: Any


class Outside(NamedTuple):
    """What a hole lies in, however it is filled: depth of each pixel in the hole, rows and columns
    of the pixel of the picture nearest to each of the hole, shape (2, N), and looks of that."""

    hole: Mask
    depth: Any
    nearest: Any
    looks: _SideLooks


class _Fill(NamedTuple):
    """What is judged: looks of what was filled, and what it lies in."""

    inside: _SideLooks
    around: Outside


def judge(colours: Colours, hole: Mask, shift: Places | None = None) -> Judgement:
    """Judge a fill.

    Parameters
    ----------
    colours : ndarray, shape (height, width, 3), 0 to 255
        The picture with its hole filled.
    hole : ndarray of bool, shape (height, width)
        What was filled.
    shift : ndarray, shape (height, width, 2), optional
        Rows and columns from a pixel of the hole to where it was copied from, if it was.
    """
    if not hole.any() or hole.all():
        return Judgement(0.0, ())
    fill = _Fill(_looks(colours, hole), outside_of(colours, hole))
    flaws = [*_unlike(fill), *_seams(colours, hole), *_broken(colours, hole)]
    if shift is not None:
        flaws += _repeats(fill, shift)
    return Judgement(_doubt(fill), tuple(flaws))


def expected_doubt(colours: Colours, hole: Mask) -> float:
    """The doubt of a fill before it is made, by the picture around the hole alone: what is made has
    at least that. Arguments as of `judge`; what lies in the hole does not matter.
    """
    if not hole.any() or hole.all():
        return 0.0
    around = outside_of(colours, hole)
    nothing = _SideLooks(around.looks.colour, np.zeros_like(around.looks.contrast))
    return _doubt(_Fill(nothing, around))


def outside_of(colours: Colours, hole: Mask) -> Outside:
    """What a hole lies in; arguments as of `judge`, and what is in the hole does not matter."""
    nearest = nearest_outside(hole, np.argwhere(hole))
    return Outside(hole, depth_in(hole), nearest, _looks(colours, ~hole))


def misfits(colours: Colours, around: Outside) -> tuple[Flaw, ...]:
    """The flaws of a fill that making it again may mend: foreign pieces, and seams."""
    fill = _Fill(_looks(colours, around.hole), around)
    found = (*_unlike(fill), *_seams(colours, around.hole))
    return tuple(flaw for flaw in found if flaw.kind != "weak")


def _looks(colours: Colours, where: Mask) -> _SideLooks:
    share = np.maximum(gaussian(where.astype(np.float32), _LOOK_PX), 1e-4)
    luma = np.where(where, colours @ LUMA, 0)
    first = gaussian(luma, _LOOK_PX) / share
    second = gaussian(luma * luma, _LOOK_PX) / share
    chosen = np.where(where[..., None], colours, 0)
    colour = gaussian(chosen, _LOOK_PX) / share[..., None]
    return _SideLooks(colour, np.sqrt(np.maximum(second - first * first, 0)))


def _doubt(fill: _Fill) -> float:
    hole, depth, nearest, looks = fill.around
    outside = looks.contrast[nearest[0], nearest[1]]
    rough = 2 * np.maximum(outside, fill.inside.contrast[hole]) ** 2
    known = np.exp(-depth[hole] / _SURE_PX)
    return float((rough / (rough + _C2) * (1 - known)).mean())


def _tiles(where: Mask) -> Any:
    """Rows and columns of places a tile apart."""
    chosen = np.zeros_like(where)
    chosen[_TILE_PX // 2 :: _TILE_PX, _TILE_PX // 2 :: _TILE_PX] = True
    return np.argwhere(chosen & where)


def _unlike(fill: _Fill) -> Iterator[Flaw]:
    """Pieces unlike everything of the picture near them, and smoother than all of their colour."""
    hole, depth, _, outside = fill.around
    away = depth_in(~hole)
    half = _TILE_PX // 2
    known = (away >= _LOOK_PX)[half::_TILE_PX, half::_TILE_PX]
    colour, contrast = (part[half::_TILE_PX, half::_TILE_PX] for part in outside)
    places = _tiles(hole)
    reach = _NEAR_PX + _NEAR_SHARE * depth[places[:, 0], places[:, 1]]
    own = [np.ascontiguousarray(part[places[:, 0], places[:, 1]]) for part in fill.inside]
    grid = np.ascontiguousarray(known), np.ascontiguousarray(colour), np.ascontiguousarray(contrast)
    foreign, weak = _compared(grid, places, reach / _TILE_PX, own[0], own[1])
    yield from _gathered("foreign", places, foreign)
    yield from _gathered("weak", places, weak)


@nb.njit(cache=True, nogil=True, error_model="numpy")
def _compared(grid: Any, places: Any, reach: Any, colour: Any, contrast: Any) -> Any:
    """How foreign, and how weak, each place is beside what is near it in a grid of the picture."""
    known, colours, contrasts = grid
    foreign, weak = np.zeros(len(places), np.float32), np.zeros(len(places), np.float32)
    for i in range(len(places)):
        row, column, far = places[i, 0] // _TILE_PX, places[i, 1] // _TILE_PX, int(reach[i])
        least, count, total, square, rough, alike, usual = np.inf, 0, 0.0, 0.0, 0.0, 0, 0.0
        for r in range(max(0, row - far), min(known.shape[0], row + far + 1)):
            for c in range(max(0, column - far), min(known.shape[1], column + far + 1)):
                if not known[r, c] or (r - row) ** 2 + (c - column) ** 2 > reach[i] ** 2:
                    continue
                apart, mean = 0.0, 0.0
                for k in range(3):
                    apart += (colours[r, c, k] - colour[i, k]) ** 2 / 3
                    mean += colours[r, c, k] / 3
                rougher = max(contrast[i] - contrasts[r, c], 0.0)
                least = min(least, apart + rougher * rougher)
                count, total, square = count + 1, total + mean, square + mean * mean
                rough += contrasts[r, c] ** 2
                if apart < _ALIKE * _ALIKE:
                    alike, usual = alike + 1, usual + 1 / max(contrasts[r, c], 0.5)
        if count >= 4:
            variety = math.sqrt(max(square / count - (total / count) ** 2, 0.0) + rough / count)
            foreign[i] = math.sqrt(least) / (_FOREIGN_LEVELS + _FOREIGN_TIMES * variety)
        # The harmonic mean: a part of it that is smooth counts most.
        if alike >= 4 and alike / usual > _TEXTURED:
            weak[i] = _WEAK * (alike / usual) / max(contrast[i], 0.5)
    return foreign, weak


def _seams(colours: Colours, hole: Mask) -> Iterator[Flaw]:
    """Parts of the seam where the step across it is larger than steps beside it."""
    luma = colours @ LUMA
    across, usual, there, beside = (np.zeros(hole.shape, np.float32) for _ in range(4))
    for axis in (0, 1):
        step = np.abs(np.diff(luma, axis=axis))
        ends = [(slice(1, None), slice(None)), (slice(None), slice(1, None))][axis]
        begins = [(slice(None, -1), slice(None)), (slice(None), slice(None, -1))][axis]
        meets = hole[ends] != hole[begins]
        across[begins] += np.where(meets, step, 0)
        there[begins] += meets
        usual[begins] += np.where(meets, 0, step)
        beside[begins] += ~meets
    sums = [
        box_mean(part, 3 * _ALONG_PX, beyond_is_nothing=True)
        for part in (across, there, usual, beside)
    ]
    strength = (sums[0] / np.maximum(sums[1], 1e-6)) / (
        _SEAM_LEVELS + _SEAM_TIMES * sums[2] / np.maximum(sums[3], 1e-6)
    )
    near = scipy.ndimage.maximum_filter(there > 0, _TILE_PX + 1)
    places = _tiles(near)
    yield from _gathered("seam", places, strength[places[:, 0], places[:, 1]])


def _broken(colours: Colours, hole: Mask) -> Iterator[Flaw]:
    """Straight edges of the picture that end at the seam."""
    gradient = gradient_of(colours)
    for edge in crossings_of(colours, hole):
        share = goes_on(gradient, hole, edge)
        if math.hypot(*edge.rise) >= _PLAIN_EDGE and share < _BROKEN:
            yield Flaw("edge", edge.x, edge.y, 3 * _TILE_PX, _BROKEN / max(share, 0.1))


def _repeats(fill: _Fill, shift: Places) -> Iterator[Flaw]:
    """Pieces of which two copies stand near each other."""
    hole = fill.around.hole
    width = hole.shape[1]
    rows, columns = np.nonzero(hole)
    source = (rows + shift[rows, columns, 0]) * width + columns + shift[rows, columns, 1]
    order = np.argsort(source, kind="stable")
    one, two = order[:-1], order[1:]
    same = source[one] == source[two]
    apart = np.hypot(rows[one] - rows[two], columns[one] - columns[two])
    seen = same & (apart > 2 * _TILE_PX) & (apart < _REPEAT_PX)
    twice = np.zeros(hole.shape, np.float32)
    twice[rows[one[seen]], columns[one[seen]]] = 1
    twice[rows[two[seen]], columns[two[seen]]] = 1
    share = box_mean(twice, 2 * _TILE_PX + 1)
    places = _tiles(hole)
    at = places[:, 0], places[:, 1]
    plain = fill.inside.contrast[at] < 2 * _TEXTURED
    strength = np.where(plain, 0, share[at] / _REPEAT_SHARE)
    yield from _gathered("repeat", places, strength)


def _gathered(kind: FlawKind, places: Any, strength: Any) -> Iterator[Flaw]:
    """Places that stand out beside each other, as one flaw each."""
    high = strength >= 1
    if not high.any():
        return
    chosen, strong = places[high], strength[high]
    cells = chosen // _TILE_PX
    grid = np.zeros(cells.max(axis=0) + 1, np.bool_)
    grid[cells[:, 0], cells[:, 1]] = True
    marks, _ = scipy.ndimage.label(grid, np.ones((3, 3)))
    numbers = marks[cells[:, 0], cells[:, 1]]
    for number in np.unique(numbers):
        own = numbers == number
        if own.sum() < _FEWEST[kind]:
            continue
        y, x = chosen[own].mean(axis=0)
        radius = np.hypot(*(chosen[own] - (y, x)).T).max() + _TILE_PX
        yield Flaw(kind, float(x), float(y), float(radius), float(np.percentile(strong[own], 75)))
