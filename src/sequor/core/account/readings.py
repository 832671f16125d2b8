"""The account of every reading: what it says, how far that goes, what is left over."""

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy

from sequor.core.camera import Matrix
from sequor.core.lens.distortion import sag_px
from sequor.core.readings.angles import wrap_axial
from sequor.core.readings.reading import (
    Move,
    hand_points,
    length_px,
    nearest_line,
    reads_as,
    sigma_rad,
    tilt_rad,
)
from sequor.core.recipe import Point, Reading
from sequor.core.solved import SolvedReading
from sequor.core.stance.orientation import Measured
from sequor.core.stance.trials import DISAGREE_DEG, DISAGREE_SIGMAS
from sequor.core.warp.map import Warp

BENT_PX, BENT_SHARE = 2.0, 0.0015
"""A trace stays bent when it sags by more than this, and by more than this share of its length:
what an eye sees of a short line and of a long one."""
_BY_CHANCE = 0.01
"""And by more than points placed as well as these do in one straight line of a hundred."""
_DRAWN = 16
"""Places by which a straight line is drawn where the picture bends."""
_BETWEEN = 33
"""Places along a line between two ends at which its sag is looked for."""
_BEST_SIGMA_DEG, _POOR_SIGMA_DEG = 0.01, 1.0
"""Deviations that are worth all and nothing: the precision people correct to, and a line whose
angle says no more than the eye does."""


@dataclass(frozen=True)
class Undistorted:
    """A reading as it was drawn, and the same line in the undistorted picture."""

    number: int
    reading: Reading
    line: Reading


def account_of(
    one: Undistorted, warp: Warp, measured: Measured, place: int | None
) -> SolvedReading:
    """What a reading says.

    Parameters
    ----------
    one : Undistorted
        The reading.
    warp : Warp
        From the picture as shot to the corrected one.
    measured : Measured
        What all readings say together; ``place`` is this one's among those that steer.
    """
    reading, line = one.reading, one.line
    move = _as_it_comes_out(reading, warp)
    direction = reads_as(line, move)
    residual_deg = math.degrees(tilt_rad(line, move, direction))
    wanted = wanted_deg(reading)
    sigma_deg = math.degrees(sigma_rad(reading))
    outlier = place is not None and (place in measured.outliers or measured.suspects == (place,))
    bend_only = reading.kind == "trace" and reading.serves_as is None
    set_out = reading.kind == "set_out"
    straight, in_hand = (
        warp.distortion.undistorted(np.array(points, dtype=float))
        for points in (reading.points, hand_points(reading))
    )
    before, after = _sags(reading, warp)
    bent = after is not None and after > _straight_px(reading)
    return SolvedReading(
        id=reading.id,
        number=one.number,
        kind=reading.kind,
        active=reading.active,
        reads_as=direction,
        bend_only=bend_only,
        angle_deg=math.degrees(tilt_rad(line, direction=direction)),
        sigma_deg=sigma_deg,
        worth=_worth(sigma_deg),
        residual_deg=residual_deg,
        off_deg=_off_deg(measured, place),
        outlier=outlier,
        disagrees=outlier
        or (
            bent
            if bend_only
            # What steers is judged by the stance: an axis that stays in is left over here.
            else place is None
            and not set_out
            and abs(residual_deg) > max(DISAGREE_SIGMAS * sigma_deg, DISAGREE_DEG)
        ),
        stays_bent=bent,
        becomes=reading.becomes,
        wanted_deg=wanted,
        left_deg=None if wanted is None else _apart_deg(residual_deg, wanted),
        length_px=length_px(reading),
        stations=reading.fitted.stations if reading.fitted else None,
        sag_before_px=before,
        sag_px=after,
        points=reading.points,
        hand_points=hand_points(reading),
        undistorted_points=_points(straight),
        undistorted_hand_points=_points(in_hand),
        corrected_points=drawn_straight(warp, straight, reading.by_points),
        corrected_hand_points=_points(warp.from_undistorted(in_hand)),
        along=_along(reading, warp),
    )


def _along(reading: Reading, warp: Warp) -> tuple[Point, ...]:
    """Places along a line as it lies in the picture as shot, where that is not straight there."""
    if warp.distortion.straight:
        return ()
    if reading.by_points:
        return reading.points
    first, last = warp.distortion.undistorted(np.array(reading.ends, dtype=float))
    share = np.linspace(0, 1, _DRAWN + 1)[:, None]
    return _points(warp.distortion.distorted(first + share * (last - first)))


def _as_it_comes_out(reading: Reading, warp: Warp) -> Move:
    """What takes the undistorted ends of a reading to the corrected picture.

    Where that bends, what is given by points along it lies as they do then.
    """
    if warp.bending is None or not reading.by_points:
        return warp.from_undistorted
    moved = nearest_line(warp.to_corrected(np.array(reading.points, dtype=float)))
    return lambda _: moved


def wanted_deg(reading: Reading) -> float | None:
    """The tilt from true that a reading is to have; None when its direction is left to itself."""
    if reading.becomes == "angle":
        return reading.wanted_deg
    if reading.becomes == "true" and reading.direction is not None:
        return 0.0
    return None


def _straight_px(reading: Reading) -> float:
    """What a reading may sag and still be straight."""
    seen = max(BENT_PX, BENT_SHARE * length_px(reading))
    if reading.fitted or len(reading.points) < 3:
        return seen
    # Each point lies off the line through the ends, which are off as much themselves.
    between = len(reading.points) - 2
    chance = scipy.special.ndtri(1 - _BY_CHANCE / (2 * between))
    return max(seen, float(chance) * math.sqrt(2) * reading.sigma_px)


def _apart_deg(tilt_deg: float, wanted_deg: float) -> float:
    """The angle between two tilts of an undirected line."""
    return math.degrees(wrap_axial(math.radians(tilt_deg - wanted_deg)))


def _worth(sigma_deg: float) -> float:
    """From 0, a deviation of a degree or more, to 1, one of a hundredth or less."""
    worth = math.log(_POOR_SIGMA_DEG / sigma_deg) / math.log(_POOR_SIGMA_DEG / _BEST_SIGMA_DEG)
    return min(1.0, max(0.0, worth))


def _off_deg(measured: Measured, place: int | None) -> float | None:
    if place is None or len(measured.off_rad) < 2:
        return None
    return math.degrees(float(measured.off_rad[place]))


def _sags(reading: Reading, warp: Warp) -> tuple[float | None, float | None]:
    """How far a reading bends as shot and corrected; None where nothing tells it."""
    if reading.by_points:
        bent: Matrix = np.array(reading.points)
    elif reading.fitted and reading.fitted.middle:
        bent = np.array([reading.points[0], reading.fitted.middle, reading.points[1]])
    elif warp.bending is not None:
        # Drawn by two ends it is straight but for what bending did.
        ends = warp.distortion.undistorted(np.array(reading.points))
        between = ends[0] + np.linspace(0, 1, _BETWEEN)[:, None] * (ends[1] - ends[0])
        return 0.0, sag_px(warp.from_undistorted(between))
    else:
        return None, None
    return sag_px(bent), sag_px(warp.to_corrected(bent))


def drawn_straight(warp: Warp, straight: Matrix, single: bool = False) -> tuple[Point, ...]:
    """Where points of the undistorted picture, shape (N, 2), lie in the corrected one; by many
    places between them where that bends, unless they are to be ``single``.
    """
    if warp.bending is not None and not single:
        share = np.linspace(0, 1, _DRAWN, endpoint=False)[:, None]
        pieces = [a + share * (b - a) for a, b in pairwise(straight)]
        straight = np.concatenate([*pieces, straight[-1:]])
    return _points(warp.from_undistorted(straight))


def _points(array: Matrix) -> tuple[Point, ...]:
    return tuple((x, y) for x, y in array.tolist())
