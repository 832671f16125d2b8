"""What a recipe asks of a bending, in pixels of the turned picture."""

import math

import numpy as np

from sequor.core.account.readings import Undistorted, wanted_deg
from sequor.core.bend.bend import Asked, Sides, rectangle_of, sides_of
from sequor.core.bend.lines import BentLine
from sequor.core.camera import Matrix, apply_homography
from sequor.core.frame.rectangle import in_picture
from sequor.core.frame.strokes import under_stroke
from sequor.core.photo import PhotoFacts
from sequor.core.readings.reading import MIN_LENGTH_PX
from sequor.core.recipe import Box, Edges, Reading, Recipe, Stroke
from sequor.core.warp.map import Warp

_MOST_SQUEEZE = 1.25
"""So much is the picture squeezed to keep its own ratio; a turn on its side asks for more."""
_BOX_PLACES = 32
"""Places along each side of a box by which it is known to the mesh: more than cells."""
_STROKE_PLACES = 112
"""Places along the longer side of the picture by which a stroke is known to it: four a cell."""


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
    edges = _in_picture(bend.edges or (), photo)
    for ends in warp.to_corrected(edges.reshape(-1, 2)).reshape(-1, 2, 2):
        lines.append(BentLine(ends, None, 1.0, edge=True))
    boxes = (*bend.still, *((recipe.frame.keep,) if recipe.frame.keep else ()))
    places = [_places(box, photo) for box in boxes]
    places += [_places_under(stroke, photo) for stroke in bend.brushed]
    sides = sides_of(border)
    return Asked(
        sides=sides,
        corners=bend.corners,
        ratio=ratio if ratio is not None and _fits(ratio, sides) else None,
        lines=tuple(line for line in lines if line is not None),
        boxes=tuple(warp.to_corrected(one) for one in places if len(one)),
        limit=bend.max_stretch,
        persistent=bend.persistent,
    )


def _fits(ratio: float, sides: Sides) -> bool:
    """Whether the picture is about of a shape already: else it would be squeezed into it."""
    natural = rectangle_of(sides, None)
    return abs(math.log(natural.width / natural.height / ratio)) < math.log(_MOST_SQUEEZE)


def line_of(reading: Reading, warp: Warp, share: float) -> BentLine | None:
    """What is wanted of a reading; None where nothing is.

    ``share`` is how much of what is left over of readings is bent away.
    """
    if not reading.bends:
        return None
    wanted = wanted_deg(reading)
    return BentLine(
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


def _in_picture(edges: Edges, photo: PhotoFacts) -> Matrix:
    """The edges that lie in the picture and have a direction, shape (N, 2, 2)."""
    ends = np.array(edges, dtype=float).reshape(-1, 2, 2)
    inside = ((ends >= 0) & (ends <= [photo.width, photo.height])).all(axis=(1, 2))
    long_enough = np.hypot(*(ends[:, 1] - ends[:, 0]).T) >= MIN_LENGTH_PX
    kept: Matrix = ends[inside & long_enough]
    return kept


def _places(box: Box, photo: PhotoFacts) -> Matrix:
    """Places all over a box, as far as it lies in the picture, shape (N, 2)."""
    inside = in_picture(box, photo)
    if inside is None:
        return np.zeros((0, 2))
    x, y = (
        np.linspace(low, high, _BOX_PLACES)
        for low, high in zip(inside.low, inside.high, strict=True)
    )
    return np.column_stack([axis.ravel() for axis in np.meshgrid(x, y)])


def _places_under(stroke: Stroke, photo: PhotoFacts) -> Matrix:
    """Places all over what a brush went over, as far as that lies in the picture, shape (N, 2)."""
    scale = _STROKE_PLACES / max(photo.width, photo.height)
    size = max(1, round(photo.width * scale)), max(1, round(photo.height * scale))
    per = np.array([photo.width, photo.height]) / size
    under = under_stroke(np.array(stroke.points) / per, stroke.reach * scale, size)
    places: Matrix = (np.argwhere(under)[:, ::-1] + 0.5) * per
    return places
