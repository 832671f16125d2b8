"""Which axes stay in the picture: what the photographer says, else what the readings show."""

import math

import numpy as np

from sequor.core.camera import Matrix
from sequor.core.measure.orientation import Measured
from sequor.core.recipe import AXES, Hold, LeaveIn, Reading

LARGE_SWING_DEG = 3.0
"""A swing that one near line alone asks for is doubted from here on."""
_RESTS_ON_SHARE = 0.3
"""A swing rests on a reading when without it less than this share of it is left."""
_FARTHER = 0.5
"""The angle below eye level of a line that is farther, as a share of the nearer one's."""

Three = tuple[bool, bool, bool]


def stays(
    measured: Measured,
    readings: tuple[Reading, ...],
    below_rad: Matrix,
    hold: Hold,
    leave_in: LeaveIn,
) -> Three:
    """Whether roll, lean and swing stay in the picture.

    An axis that is held is taken out as it is held; one that nothing measures always stays, and one
    that is only known roughly unless it is asked for. Left
    to the readings, the roll is taken out, and lean and swing as those of a front: the lean where
    plumb lines ask for it, the swing where level lines above and below eye level, or plumb lines
    beside them, show that there is a front, unless it rests on a near line alone. In a landscape
    both stay.

    Parameters
    ----------
    measured : Measured
        What the readings say together.
    readings : tuple of Reading
        Those that steer.
    below_rad : ndarray, shape (N,)
        Angles of their middles below eye level.
    """
    asked = (leave_in.roll, leave_in.lean, leave_in.swing)
    plumbs = any(reading.direction == "plumb" for reading in readings)
    doubted = rests_on_near(measured, readings, below_rad) is not None
    usual = (False, not plumbs, not measured.front or doubted)
    free = tuple(getattr(hold, f"{axis}_deg") is None for axis in AXES)
    roll, lean, swing = (
        free[place]
        and (
            bool(asked[place]) or not measured.roughly[place]
            if asked[place] is not None
            else usual[place] or not measured.determined[place]
        )
        for place in range(3)
    )
    return roll, lean, swing


def rests_on_near(
    measured: Measured, readings: tuple[Reading, ...], below_rad: Matrix
) -> tuple[int, int] | None:
    """A near level reading that alone asks for a large swing, and the farthest other level one."""
    swing = measured.stance.swing_rad
    if not measured.roughly[2] or abs(swing) < math.radians(LARGE_SWING_DEG):
        return None
    levels = [
        place
        for place, reading in enumerate(readings)
        if reading.direction == "level" and place not in measured.outliers
    ]
    rests = [
        place
        for place in levels
        if readings[place].kind == "level"
        and (
            not measured.without_determined[place, 2]
            or abs(float(measured.without[place, 2])) < _RESTS_ON_SHARE * abs(swing)
        )
    ]
    if not rests or len(levels) < 2:
        return None
    # What runs away from the camera near it, a rail, a kerb or a quay, lies well below eye level.
    near = max(rests, key=lambda place: float(below_rad[place]))
    far = min(
        (place for place in levels if place != near),
        key=lambda place: abs(float(below_rad[place])),
    )
    if abs(float(below_rad[far])) > _FARTHER * float(np.max(below_rad[near])):
        return None
    return near, far
