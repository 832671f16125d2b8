"""From segments to lines worth reading: pieces of one edge joined, the best spread chosen."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.propose.belonging import Belonging
from sequor.core.propose.segments import Segments
from sequor.core.recipe import Direction
from sequor.core.stance.sights import LEVEL, PLUMB, off_directions

_BELONGS = 0.5
"""A segment more likely plumb, or level along a wall, than anything else."""
_BESIDE, _GAP = 1.3, 0.8
"""Pieces of one edge lie beside each other by less than so many pixels of the small picture, and
leave gaps no longer than this share of what is joined already."""
_FLOOR_RAD = math.radians(0.06)
"""No single line is trusted more than this while lines are chosen: many that agree are worth more
than one that is long."""
_WORTH = 0.08
"""A line is worth proposing when it makes the deviations smaller by so much (in the logarithm of
the information)."""


@dataclass(frozen=True)
class SeenLine:
    """A line that may be read.

    Attributes
    ----------
    kind : str
        ``plumb`` or ``level``.
    seen : ndarray, shape (2, 2)
        Its ends in source pixels of the picture as shot.
    ends : ndarray, shape (2, 2)
        The same about the principal point, in the undistorted picture.
    chance : float
        How likely it is what it is taken for.
    """

    kind: Direction
    seen: Matrix
    ends: Matrix
    chance: float

    @property
    def length(self) -> float:
        """In source pixels."""
        return math.dist(*self.ends)


def lines_of(
    segments: Segments, belonging: Belonging, wall: int | None, times: float
) -> list[SeenLine]:
    """What is plumb, and what is level along a wall, each edge once; the longest first."""
    kinds: list[tuple[Direction, Matrix]] = [("plumb", belonging.plumb)]
    if wall is not None:
        kinds.append(("level", belonging.level[:, wall]))
    found = []
    for kind, chances in kinds:
        members = np.flatnonzero(chances > _BELONGS)
        joined = _joined(segments, members, _BESIDE * times)
        found += [_line(kind, segments, pieces, chances) for pieces in joined]
    return sorted(found, key=lambda line: -line.length)


def _joined(segments: Segments, members: NDArray[np.intp], beside: float) -> list[list[int]]:
    """Segments that are pieces of one edge, in lists; the longest piece first."""
    waiting = [
        int(member) for member in members[np.argsort(-segments.length[members], kind="stable")]
    ]
    found = []
    while waiting:
        first = waiting.pop(0)
        pieces, low, high = [first], -segments.length[first] / 2, segments.length[first] / 2
        origin, along = segments.middle[first], segments.along[first]
        normal = np.array([-along[1], along[0]])
        while waiting:
            apart = segments.ends[waiting] - origin
            beyond = np.abs(apart @ normal).max(axis=1)
            places = np.sort(apart @ along, axis=1)
            gap = np.maximum(places[:, 0] - high, low - places[:, 1])
            # The farther away, the more the direction of the first may be off.
            near = beyond < beside * (1 + np.maximum(gap, 0) / (high - low))
            fits = np.flatnonzero(near & (gap < _GAP * (high - low)))
            if not len(fits):
                break
            nearest = int(fits[np.argmin(gap[fits])])
            low, high = min(low, places[nearest, 0]), max(high, places[nearest, 1])
            pieces.append(waiting.pop(nearest))
        found.append(pieces)
    return found


def _line(kind: Direction, segments: Segments, pieces: list[int], chances: Matrix) -> SeenLine:
    """The line along all pieces of an edge."""
    along = segments.along[pieces[0]]
    places = (segments.ends[pieces] - segments.middle[pieces[0]]) @ along
    first, last = np.unravel_index([np.argmin(places), np.argmax(places)], places.shape)
    rows = np.array(pieces)[first]
    return SeenLine(
        kind=kind,
        seen=segments.seen[rows, last],
        ends=segments.ends[rows, last],
        chance=float(np.average(chances[pieces], weights=segments.length[pieces])),
    )


def best_spread(
    lines: list[SeenLine],
    stance: tuple[float, float, float],
    focal_px: float,
    end_px: float,
    beside_px: float,
    most: int,
) -> list[SeenLine]:
    """The lines, at most so many of a kind, that together tell most of the stance.

    Each in turn is the one that adds most to the information of roll, lean and swing, so that they
    lie far apart (Fedorov, *Theory of Optimal Experiments*, 1972); two that lie nearer to each
    other than ``beside_px`` say little more than one.
    """
    if not lines:
        return []
    slopes = off_stance(lines, stance, focal_px)[1]
    sigma = np.array(
        [math.hypot(math.sqrt(2) * end_px / line.length, _FLOOR_RAD) for line in lines]
    )
    gain = np.array([line.chance for line in lines]) / sigma**2
    information = np.diag(np.radians([5.0, 10.0, 20.0]) ** -2)
    left = {"plumb": most, "level": most}
    chosen: list[int] = []
    while True:
        covariance = np.linalg.inv(information)
        adds = np.log1p(gain * np.einsum("ni,ij,nj->n", slopes, covariance, slopes))
        adds[[not left[line.kind] for line in lines]] = -1
        if adds.max() < _WORTH:
            # Nothing is to rest on one line alone: each kind has a second that checks the first.
            alone = [place for place in chosen if left[lines[place].kind] == most - 1]
            kinds = {lines[place].kind for place in alone}
            adds = np.where(
                [line.kind in kinds and g > 0 for line, g in zip(lines, gain, strict=True)],
                adds,
                -1,
            )
            if adds.max() <= 0:
                return [lines[place] for place in chosen]
        best = int(np.argmax(adds))
        information = information + gain[best] * np.outer(slopes[best], slopes[best])
        chosen.append(best)
        near = [_beside(lines[best], line) < beside_px for line in lines]
        gain[near] = 0.0
        left[lines[best].kind] -= 1


def _beside(one: SeenLine, other: SeenLine) -> float:
    """How far the middle of another line of the same kind lies beside a line."""
    if one.kind != other.kind:
        return math.inf
    along = (one.ends[1] - one.ends[0]) / one.length
    away = other.ends.mean(axis=0) - one.ends[0]
    return float(abs(away[0] * along[1] - away[1] * along[0]))


def off_stance(
    lines: list[SeenLine] | tuple[SeenLine, ...],
    stance: tuple[float, float, float],
    focal_px: float,
) -> tuple[Matrix, Matrix]:
    """By how much lines are off a stance, shape (N,), in radians, and how that changes with roll,
    lean and swing, shape (N, 3).
    """
    middle = np.array([line.ends.mean(axis=0) for line in lines])
    along = np.array([(line.ends[1] - line.ends[0]) / line.length for line in lines])
    at = np.array([stance])
    plumb, level = (off_directions(middle, along, focal_px, what, at) for what in (PLUMB, LEVEL))
    levels = np.array([line.kind == "level" for line in lines])
    return (
        np.where(levels, level[0][0], plumb[0][0]),
        np.where(levels[:, None], level[1][0], plumb[1][0]),
    )
