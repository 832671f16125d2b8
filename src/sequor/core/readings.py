"""What a single reading says: its angle, how far that can be trusted, what is left over."""

import math
from typing import Literal

import numpy as np

from sequor.core.angles import wrap_axial
from sequor.core.camera import Matrix, apply_homography
from sequor.core.errors import UnusableInput
from sequor.core.recipe import PhotoFacts, Reading

Direction = Literal["level", "plumb"]
MIN_LENGTH_PX = 2.0


def check_reading(reading: Reading, label: str, photo: PhotoFacts) -> None:
    """Refuse a reading that measures nothing: too short, or with an end outside the picture."""
    if length_px(reading) < MIN_LENGTH_PX:
        raise UnusableInput(f"{label} is shorter than {MIN_LENGTH_PX:g} pixels and has no direction; draw it longer.")
    for x, y in reading.points:
        if not (0 <= x <= photo.width and 0 <= y <= photo.height):
            raise UnusableInput(
                f"{label} has an end at {x:g}, {y:g}, outside the picture of {photo.width} x {photo.height} pixels."
            )


def length_px(reading: Reading) -> float:
    """Length of the reading in source pixels."""
    (ax, ay), (bx, by) = reading.points
    return math.hypot(bx - ax, by - ay)


def reads_as(reading: Reading, h: Matrix | None = None) -> Direction:
    """Whether the reading is measured from the horizontal or from the vertical; a check from the nearer of the two."""
    if reading.kind != "check":
        return reading.kind
    (ax, ay), (bx, by) = _ends(reading, h)
    return "level" if abs(bx - ax) >= abs(by - ay) else "plumb"


def tilt_rad(reading: Reading, h: Matrix | None = None, direction: Direction | None = None) -> float:
    """Tilt of the reading from true, in radians, positive clockwise, in (-pi/2, pi/2].

    A level reading is measured from the horizontal, a plumb one from the vertical, a check
    from ``direction`` or the nearer of both. With a homography ``h`` the reading is
    measured after that mapping.
    """
    (ax, ay), (bx, by) = _ends(reading, h)
    dx, dy = bx - ax, by - ay
    return wrap_axial(math.atan2(dy, dx) if (direction or reads_as(reading, h)) == "level" else math.atan2(-dx, dy))


def sigma_rad(reading: Reading) -> float:
    """Standard deviation of the reading's angle in radians: that of its fit, else ``sqrt(2) sigma / length``."""
    if reading.fitted:
        return math.radians(reading.fitted.sigma_deg)
    return math.sqrt(2) * reading.sigma_px / length_px(reading)


def _ends(reading: Reading, h: Matrix | None) -> Matrix:
    points = np.asarray(reading.points, dtype=float)
    return points if h is None else apply_homography(h, points)
