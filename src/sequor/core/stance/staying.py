"""Which axes stay in the picture: what the photographer says, else what the readings show."""

import math
from dataclasses import dataclass

import numpy as np

from sequor.core.camera import ASSUMED_FOCAL35_MM, Matrix, Stance, focal_px_of
from sequor.core.recipe import AXES, Ease, Hold, LeaveIn, PhotoFacts, Reading, Recipe
from sequor.core.stance.eye_level import below_eye_level
from sequor.core.stance.orientation import Measured, measure_stance
from sequor.core.warp.ease import eased, with_trim

LARGE_SWING_DEG = 3.0
"""A swing that one near line alone asks for is doubted from here on."""
_RESTS_ON_SHARE = 0.3
"""A swing rests on a reading when without it less than this share of it is left."""
_FARTHER = 0.5
"""The angle below eye level of a line that is farther, as a share of the nearer one's."""

Three = tuple[bool, bool, bool]


@dataclass(frozen=True)
class Staying:
    """How the camera stood, and what of that is taken out of the picture.

    Attributes
    ----------
    measured : Measured
        What the readings say together.
    below_rad : ndarray, shape (N,)
        Angles of the readings' middles below eye level.
    rests_on : (int, int) or None
        The near reading that alone asks for the swing, and a farther one.
    stay : (bool, bool, bool)
        Which of roll, lean and swing stay in the picture.
    wanted : Stance
        What was measured, with what was added by hand.
    """

    measured: Measured
    below_rad: Matrix
    rests_on: tuple[int, int] | None
    stay: Three
    wanted: Stance

    def turn(self, ease: Ease) -> Matrix:
        """The corrective rotation, 3x3, with an ease."""
        return eased(self.measured.stance, self.wanted, ease, self.stay)


def standing(
    camera: PhotoFacts, lines: tuple[Reading, ...], recipe: Recipe, focal_known: bool = True
) -> Staying:
    """How a camera stood, by readings that steer, as they lie in the undistorted picture.

    ``camera`` has a focal length; ``focal_known`` says whether that is more than an assumption.
    """
    focal35_mm = camera.focal35_mm or ASSUMED_FOCAL35_MM
    hold, leave_in = recipe.hold, recipe.leave_in
    measured = measure_stance(camera, lines, focal35_mm, hold, focal_known, leave_in)
    middles = np.array([line.ends for line in lines]).reshape(-1, 2, 2).mean(axis=1)
    about_centre = middles - [camera.width / 2, camera.height / 2]
    below = below_eye_level(measured.stance, about_centre, focal_px_of(focal35_mm, camera))
    rests_on = rests_on_near(measured, lines, below)
    stay = stays(measured, lines, rests_on is not None, hold, leave_in)
    return Staying(measured, below, rests_on, stay, with_trim(measured.stance, recipe.trim))


def stays(
    measured: Measured,
    readings: tuple[Reading, ...],
    doubted: bool,
    hold: Hold,
    leave_in: LeaveIn,
) -> Three:
    """Whether roll, lean and swing stay in the picture.

    An axis that is held is taken out as it is held; one that nothing measures always stays, and one
    that is only known roughly unless it is asked for. Left to the readings, the roll is taken out,
    and lean and swing as those of a front: the lean where plumb lines ask for it, the swing where
    level lines above and below eye level, or plumb lines beside them, show that there is a front,
    unless it is ``doubted`` since it rests on a near line alone. In a landscape both stay, and so
    does what hardly any camera has and one wrong reading would explain.
    """
    asked = (leave_in.roll, leave_in.lean, leave_in.swing)
    plumbs = any(reading.direction == "plumb" for reading in readings)
    unlikely_lean, unlikely_swing = measured.unlikely
    usual = (
        False,
        not plumbs or unlikely_lean,
        not measured.front or doubted or unlikely_swing,
    )
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
    if abs(float(below_rad[far])) > _FARTHER * float(below_rad[near]):
        return None
    return near, far
