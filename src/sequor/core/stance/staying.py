"""Which axes stay in the picture: what the photographer says, else what the readings show."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from sequor.core.camera import ASSUMED_FOCAL35_MM, Matrix, Stance, focal_px_of
from sequor.core.photo import PhotoFacts
from sequor.core.readings.reading import tilt_rad
from sequor.core.recipe import AXES, Axis, Ease, Hold, LeaveIn, Reading, Recipe
from sequor.core.stance.eye_level import below_eye_level
from sequor.core.stance.left_open import SIGMAS
from sequor.core.stance.orientation import Measured, measure_stance
from sequor.core.warp.ease import eased, with_trim

LARGE_SWING_DEG = 3.0
"""A swing that one near line alone asks for is doubted from here on."""
_RESTS_ON_SHARE = 0.3
"""A swing rests on a reading when without it less than this share of it is left."""
_FARTHER = 0.5
"""The angle below eye level of a line that is farther, as a share of the nearer one's."""

OUTSIDE_DEG = 0.5
"""A roll that lies farther outside the tilts of all lines is not given without a word (common
practice, no published source)."""
_LARGE_RAD = math.radians(12.0), math.radians(16.0)
"""Lean and swing from which on what stays is large: one camera in twenty leans or swings by more
(common practice, no published source)."""

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
    without = () if leave_in.turn_the_roll else _not_believed(measured, lines, stay)
    if without:
        still = hold.model_copy(update={f"{axis}_deg": 0.0 for axis in without})
        plain = measure_stance(camera, lines, focal35_mm, still, focal_known, leave_in)
        measured = _with_roll_of(measured, plain)
    return Staying(measured, below, rests_on, stay, with_trim(measured.stance, recipe.trim))


def _not_believed(measured: Measured, lines: tuple[Reading, ...], stay: Three) -> tuple[Axis, ...]:
    """Axes that stay in the picture and yet would turn it, which is not believed of them: a lean or
    a swing that hardly any camera has; and both where the roll that goes with a large one is none
    that any of the lines has.

    The roll is better told without them then. Of 400 drawn sets each of two or three uprights and
    none to two level lines, with lean and swing left in, one line wrong by 1.5 to 4 degrees, 8 to
    157 are such ones, and the roll is off by 1.6 degrees or less at the median where it was 1.5 to
    6.5; of right sets 2 to 8 are, and there it was 0.4 or less and becomes 1.8 to 2.9. Where what
    stays is not large the roll of all together is the better one and stands (0.2 against 1.5).
    """
    strange: list[Axis] = [
        axis
        for axis, unlikely, stays in zip(AXES[1:], measured.unlikely, stay[1:], strict=True)
        if unlikely and stays
    ]
    stance = measured.stance
    large = abs(stance.lean_rad) > _LARGE_RAD[0] or abs(stance.swing_rad) > _LARGE_RAD[1]
    if not (large and stay[1] and stay[2]) or len(lines) < 2:
        return tuple(strange)
    if any(line.kind == "horizon" for line in lines):
        return tuple(strange)
    tilts = [math.degrees(tilt_rad(line)) for line in lines]
    outside = beyond(-math.degrees(stance.roll_rad), tilts) > OUTSIDE_DEG
    return AXES[1:] if outside else tuple(strange)


def _with_roll_of(measured: Measured, plain: Measured) -> Measured:
    """What was measured with the roll of another solution; its deviation reaches both of them."""
    roll, before = plain.stance.roll_rad, measured.stance.roll_rad
    sigma = max(measured.sigma_rad[0], plain.sigma_rad[0], abs(roll - before) / SIGMAS)
    return replace(
        measured,
        stance=replace(measured.stance, roll_rad=roll),
        sigma_rad=(sigma, *measured.sigma_rad[1:]),
        roll_by_all_rad=before,
    )


def beyond(tilt: float, tilts: Sequence[float]) -> float:
    """How far a tilt lies outside some others; negative inside them."""
    return max(min(tilts) - tilt, tilt - max(tilts))


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
