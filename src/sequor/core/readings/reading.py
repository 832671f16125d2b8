"""What a single reading says: its angle, how far that can be trusted, what is left over."""

import math
from collections.abc import Callable

import numpy as np

from sequor.core.camera import Matrix
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.core.readings.angles import tilt_of
from sequor.core.recipe import Direction, Point, Reading

MIN_LENGTH_PX = 2.0
"""Source pixels: a shorter line has no direction."""


def check_reading(reading: Reading, number: int, photo: PhotoFacts) -> None:
    """Refuse a reading that measures nothing: too short, or with an end outside the picture."""
    if reading.camera:
        return  # it was told and not drawn, and lies where it lies
    label = tr("Reading {number}", number=number)
    if length_px(reading) < MIN_LENGTH_PX:
        raise UnusableInput(
            tr(
                "{label} is shorter than {min_length_px:g} pixels and has no direction; "
                "draw it longer.",
                label=label,
                min_length_px=MIN_LENGTH_PX,
            )
        )
    for x, y in reading.points:
        if not (0 <= x <= photo.width and 0 <= y <= photo.height):
            raise UnusableInput(
                tr(
                    "{label} has an end at {x:g}, {y:g}, outside the picture of {width} x "
                    "{height} pixels.",
                    label=label,
                    x=x,
                    y=y,
                    width=photo.width,
                    height=photo.height,
                )
            )


def length_px(reading: Reading) -> float:
    """Length of the reading from end to end, in source pixels."""
    (ax, ay), (bx, by) = reading.ends
    return math.hypot(bx - ax, by - ay)


def hand_points(reading: Reading) -> tuple[Point, ...]:
    """The points that can be taken in hand, of a trace that follows an edge those that were
    drawn.
    """
    if reading.by_points and reading.fitted:
        return reading.fitted.drawn
    return reading.points


Move = Callable[[Matrix], Matrix]
"""A map of points, shape (N, 2)."""


def reads_as(reading: Reading, move: Move | None = None) -> Direction:
    """Whether the reading is measured from the horizontal or from the vertical.

    One that stands for neither from the nearer, a set-out line always from the horizontal.
    """
    if reading.direction:
        return reading.direction
    if reading.kind == "set_out":
        return "level"
    (ax, ay), (bx, by) = _ends(reading, move)
    return "level" if abs(bx - ax) >= abs(by - ay) else "plumb"


def tilt_rad(
    reading: Reading, move: Move | None = None, direction: Direction | None = None
) -> float:
    """Tilt of the reading from true, in radians, positive clockwise, in (-pi/2, pi/2].

    A level reading is measured from the horizontal, a plumb one from the vertical, another
    from ``direction`` or the nearer of both. With a map ``move`` the reading is measured after it.
    """
    (ax, ay), (bx, by) = _ends(reading, move)
    return tilt_of(bx - ax, by - ay, direction or reads_as(reading, move))


def sigma_rad(reading: Reading) -> float:
    """Standard deviation of the reading's angle in radians: that of its fit.

    Else ``sqrt(2) sigma / length``.
    """
    if reading.camera:
        return math.radians(reading.camera.sigma_deg)
    if reading.fitted:
        return math.radians(reading.fitted.sigma_deg)
    # The slope of a line through n evenly spaced points: sqrt(12 / n) for many, sqrt(2) for the two
    # ends.
    count = len(reading.points)
    return (
        math.sqrt(12 * (count - 1) / (count * (count + 1))) * reading.sigma_px / length_px(reading)
    )


def undistorted_reading(reading: Reading, distortion: Distortion) -> Reading:
    """The reading in the straight picture: its ends moved there.

    For one given by points along it the ends of the line nearest to them.
    """
    if not reading.by_points:
        if distortion.straight:
            return reading
        a, b = distortion.undistorted(np.array(reading.points))
        return reading.model_copy(update={"points": (_point(a), _point(b))})
    a, b = nearest_line(distortion.undistorted(np.array(reading.points)))
    return reading.model_copy(update={"points": (_point(a), _point(b))})


def nearest_line(points: Matrix) -> Matrix:
    """The ends of the straight line nearest to points, shape (N, 2), from beside the first to
    beside the last; shape (2, 2).
    """
    middle = points.mean(axis=0)
    along = np.linalg.eigh((points - middle).T @ (points - middle))[1][:, 1]
    ends: Matrix = middle + ((points[[0, -1]] - middle) @ along)[:, None] * along
    return ends


def _point(array: Matrix) -> Point:
    return (float(array[0]), float(array[1]))


def _ends(reading: Reading, move: Move | None) -> Matrix:
    points = np.asarray(reading.ends, dtype=float)
    return points if move is None else move(points)
