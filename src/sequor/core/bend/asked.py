"""What a recipe asks of a bending, in pixels of the turned picture."""

import math

import numpy as np

from sequor.core.bend.bend import Asked, sides_of
from sequor.core.bend.lines import Line
from sequor.core.camera import Matrix, apply_homography
from sequor.core.measure.account import Undistorted, wanted_deg
from sequor.core.recipe import Box, PhotoFacts, Reading, Recipe
from sequor.core.warp.map import Warp

_BOX_PLACES = 24
"""Places along each side of a box by which it is known to the mesh: more than cells."""


def asked_of(
    recipe: Recipe,
    photo: PhotoFacts,
    warp: Warp,
    border: Matrix,
    readings: tuple[Undistorted, ...],
    ratio: float | None,
) -> Asked:
    """What is asked.

    Parameters
    ----------
    warp : Warp
        The map without bending.
    border : ndarray, shape (4 n, 2)
        The border of the picture in pixels of the turned one, from its corner on.
    ratio : float, optional
        Width over height of the frame if that is to be the shape of the whole picture.
    """
    bend = recipe.bend
    lines = [line_of(one.reading, warp, bend.lines) for one in readings]
    edges = np.array(bend.edges or (), dtype=float).reshape(-1, 2)
    for ends in warp.to_corrected(edges).reshape(-1, 2, 2):
        lines.append(Line(ends, None, 1.0, edge=True))
    boxes = (*bend.still, *((recipe.frame.keep,) if recipe.frame.keep else ()))
    return Asked(
        sides=sides_of(border),
        corners=bend.corners,
        ratio=ratio,
        lines=tuple(line for line in lines if line is not None),
        boxes=tuple(warp.to_corrected(_places(box, photo)) for box in boxes),
        limit=bend.max_stretch,
    )


def line_of(reading: Reading, warp: Warp, share: float) -> Line | None:
    """What is wanted of a reading; None where nothing is.

    ``share`` is how much of what is left over of readings is bent away.
    """
    if not reading.active or reading.kind == "check":
        return None
    wanted = wanted_deg(reading)
    return Line(
        points=_curve(reading, warp),
        wanted_rad=None if wanted is None else _direction_rad(reading, wanted),
        share=0.0 if reading.becomes == "stays" else share,
    )


def _direction_rad(reading: Reading, tilt_deg: float) -> float:
    """The direction of a tilt, positive clockwise on the screen, where y points down."""
    upright = reading.direction == "plumb"
    return math.radians(tilt_deg) + (math.pi / 2 if upright else 0.0)


def _curve(reading: Reading, warp: Warp) -> Matrix:
    """Points along a reading in the turned picture: of a fitted one with the edge's middle."""
    points = np.array(reading.points, dtype=float)
    if not reading.by_points and reading.fitted and reading.fitted.middle:
        points = np.array([points[0], reading.fitted.middle, points[1]])
    elif not reading.by_points and not warp.distortion.straight:
        # Drawn by two ends it is straight in the undistorted picture.
        return apply_homography(warp.homography, warp.distortion.undistorted(points))
    return warp.to_corrected(points)


def _places(box: Box, photo: PhotoFacts) -> Matrix:
    """Places all over a box, as far as it lies in the picture, shape (N, 2)."""
    x = np.linspace(max(0.0, box.left), min(photo.width, box.right), _BOX_PLACES)
    y = np.linspace(max(0.0, box.top), min(photo.height, box.bottom), _BOX_PLACES)
    return np.column_stack([axis.ravel() for axis in np.meshgrid(x, y)])
