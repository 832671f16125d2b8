"""The line that would tell most: where it would lie, and what it would make surer.

Of lines laid out over the picture, plumb and level, the one that lowers the largest deviation most,
in units of what is seen of each axis (Atkinson, Donev & Tobias, *Optimum Experimental Designs, with
SAS*, 2007, chapters 6 and 10: the variances after one more observation follow from its slopes
alone). Where one of the readings may be wrong, it is the line on which the explanations differ
most.
"""

import math
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix, focal_px_of, rotation
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import AXES, Axis, Direction, Point, Reading
from sequor.core.solved import NextLine
from sequor.core.stance.eye_level import below_eye_level
from sequor.core.stance.orientation import Measured
from sequor.core.stance.sights import LEVEL, PLUMB, off_directions
from sequor.core.stance.trials import OWN_DIRECTION_RAD

_ACROSS, _DOWN = (0.1, 0.3, 0.5, 0.7, 0.9), (0.15, 0.38, 0.62, 0.85)
"""Shares of the picture at which the middles of lines are tried."""
_LENGTH_SHARE = 0.35
"""Of the shorter side: a line that most walls and windows have."""
_ENDS_PX, _EDGE_RAD = 1.0, math.radians(0.05)
"""How well a line can be drawn, and how true the edges of buildings are (common practice, no
published source)."""
_SEEN_RAD = np.radians([0.1, 0.5, 1.0])
"""What an eye sees of roll, lean and swing; an axis that is known better needs no more lines."""
_WORTH_IT = 0.7
"""A line is offered when it lowers the deviation to this share at least."""
_FOCAL_HIDES = 2.0
"""An axis that is less sure by this factor than its lines say wants the focal length, no line."""
_TELLS_APART = 3.0
"""Explanations are told apart by a line on which they differ by so many deviations."""


@dataclass(frozen=True)
class _Lines:
    """Lines that could be drawn: kinds of shape (K,), middles and ends about the centre, and what
    is known of each when it is drawn, with its slopes by the unknowns, shape (K, 4).
    """

    level: NDArray[np.bool_]
    middle: Matrix
    along: Matrix
    half_px: float
    sigma: Matrix
    slopes: Matrix


def next_line(
    photo: PhotoFacts, focal35_mm: float, readings: tuple[Reading, ...], measured: Measured
) -> NextLine | None:
    """The line to draw next, in the undistorted picture; None where none would tell much more.

    Parameters
    ----------
    photo : PhotoFacts
        For the size of the picture.
    readings : tuple of Reading
        Those that steer, as they lie in the undistorted picture.
    measured : Measured
        What they say together.
    """
    if not readings:
        return None
    focal_px = focal_px_of(focal35_mm, photo)
    lines = _laid_out(photo, focal_px, measured)
    if not len(lines.level):
        return None
    doubted = measured.may_be_wrong or (measured.suspects if len(measured.suspects) > 1 else ())
    if doubted:
        return _that_tells_apart(photo, focal_px, lines, measured, doubted)
    return _that_lowers_most(photo, lines, measured, readings)


def _laid_out(photo: PhotoFacts, focal_px: float, measured: Measured) -> _Lines:
    """Lines all over the picture that run as plumb and level ones do by the stance."""
    size = np.array([photo.width, photo.height])
    places = np.array([[x, y] for x in _ACROSS for y in _DOWN]) * size - size / 2
    middle = np.concatenate([places, places])
    level = np.repeat([False, True], len(places))
    stance = measured.stance
    turn = rotation(stance)  # its rows are the level and the plumb direction as shot
    towards = np.where(level[:, None], turn[0], turn[1])
    along = focal_px * towards[:, :2] - towards[:, 2:] * middle
    along /= np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    half = _LENGTH_SHARE * min(photo.width, photo.height) / 2
    inside = (np.abs(middle) + half * np.abs(along) < size / 2 * 0.99).all(axis=1)
    middle, along, level = middle[inside], along[inside], level[inside]
    at = np.array([[stance.roll_rad, stance.lean_rad, stance.swing_rad]])
    slopes = np.zeros((len(level), 4))
    for kind, rows in ((PLUMB, ~level), (LEVEL, level)):
        slopes[rows, :3] = off_directions(middle[rows], along[rows], focal_px, kind, at)[1][0]
    sigma = np.full(len(level), math.hypot(math.sqrt(2) * _ENDS_PX / (2 * half), _EDGE_RAD))
    if not measured.front:
        # Level lines of a landscape run away from the camera each in its own way.
        slant = np.tan(below_eye_level(stance, middle, focal_px))
        sigma = np.where(level, np.hypot(sigma, np.abs(slant) * OWN_DIRECTION_RAD), sigma)
    slopes[level, 3] = 1.0
    return _Lines(level, middle, along, half, sigma, slopes)


def _that_lowers_most(
    photo: PhotoFacts, lines: _Lines, measured: Measured, readings: tuple[Reading, ...]
) -> NextLine | None:
    """The line after which the axis that is least sure, for the eye, is surest."""
    with_it = measured.information + (
        lines.slopes[:, :, None] * lines.slopes[:, None, :] / lines.sigma[:, None, None] ** 2
    )
    now, then = (
        np.sqrt(np.diagonal(np.linalg.inv(known), axis1=-2, axis2=-1))[..., :3]
        for known in (measured.information, with_it)
    )
    stated = np.array(measured.sigma_rad)
    plumbs = any(reading.direction == "plumb" for reading in readings)
    levels = any(reading.direction == "level" for reading in readings)
    asked = np.array([True, plumbs, measured.front and levels]) & (stated > 0)
    if measured.by_lens is not None:
        asked &= stated < _FOCAL_HIDES * now
    seen = np.where(asked, now / _SEEN_RAD, 0.0)
    worst = int(np.argmax(seen))
    if seen[worst] <= 1:
        return None
    left = np.where(asked, then / _SEEN_RAD, 0.0).max(axis=1)
    best = int(np.argmin(left))
    if then[best, worst] > _WORTH_IT * now[worst]:
        return None
    axis: Axis = AXES[worst]
    degrees = (math.degrees(stated[worst]), math.degrees(then[best, worst]))
    return _told(photo, lines, best, axis, degrees)


def _that_tells_apart(
    photo: PhotoFacts,
    focal_px: float,
    lines: _Lines,
    measured: Measured,
    doubted: tuple[int, ...],
) -> NextLine | None:
    """The line on which what is told, and what is told without each of some readings, differ most
    from each other.
    """
    stances = measured.without[list(doubted)]
    off = np.zeros((len(stances) + 1, len(lines.level)))
    for kind, rows in ((PLUMB, ~lines.level), (LEVEL, lines.level)):
        off[1:, rows] = off_directions(
            lines.middle[rows], lines.along[rows], focal_px, kind, stances
        )[0]
    pairs = np.array(list(combinations(range(len(off)), 2)))
    apart = np.abs(off[pairs[:, 0]] - off[pairs[:, 1]]) / lines.sigma
    # More than enough is enough: it is the pair that is hardest to tell that counts.
    told = np.minimum(apart, 2 * _TELLS_APART).sum(axis=0)
    best = int(np.argmax(told + 1e-3 * apart.min(axis=0)))
    if apart[:, best].max() < _TELLS_APART:
        return None
    return _told(photo, lines, best, None, None)


def _told(
    photo: PhotoFacts,
    lines: _Lines,
    place: int,
    axis: Axis | None,
    degrees: tuple[float, float] | None,
) -> NextLine:
    centre = np.array([photo.width, photo.height]) / 2
    ends = lines.middle[place] + centre + lines.half_px * np.outer([-1, 1], lines.along[place])
    first, last = sorted(map(tuple, ends.tolist()))
    points: tuple[Point, Point] = (first, last)
    kind: Direction = "level" if lines.level[place] else "plumb"
    return NextLine(
        kind=kind,
        points=points,
        axis=axis,
        from_deg=degrees[0] if degrees else None,
        to_deg=degrees[1] if degrees else None,
    )
