"""What other readings expect of the angle of a line, so that it finds its edge among several."""

import math

import numpy as np

from sequor.core.camera import Stance, focal_of, intrinsics, rotation
from sequor.core.edges.fitting import Expected
from sequor.core.lens.chosen import distortion_of
from sequor.core.photo import PhotoFacts
from sequor.core.readings.reading import undistorted_reading
from sequor.core.recipe import AXES, Point, Reading, Recipe
from sequor.core.stance.orientation import measure_stance

_LEAST_RAD, _MOST_RAD = math.radians(0.7), math.radians(4.0)
"""Nothing in reality is truer than the first; an expectation less sure than the second is none."""
_DEPENDS_ON = {"horizon": AXES[:1], "plumb": AXES[:2], "level": AXES}
"""The axes that the angle of a line in the picture depends on."""


def expected_angle(photo: PhotoFacts, recipe: Recipe, reading: Reading) -> Expected | None:
    """The angle in the undistorted picture that the others expect; None where they do not know.

    Level lines are expected to run alike only where they are a front's.
    """
    others = [r for r in recipe.readings if r.steers and r.id != reading.id]
    source, focal35_mm = focal_of(photo, recipe)
    if not reading.steers or len(others) < 2 or source == "assumed":
        return None
    distortion, _ = distortion_of(photo, recipe)
    lines = tuple(undistorted_reading(other, distortion) for other in others)
    found = measure_stance(photo, lines, focal35_mm, recipe.hold, leave_in=recipe.leave_in)
    kind = "horizon" if reading.kind == "horizon" else str(reading.direction)
    places = [AXES.index(axis) for axis in _DEPENDS_ON[kind]]
    sigma = max(_LEAST_RAD, *(found.sigma_rad[place] for place in places))
    held = [getattr(recipe.hold, f"{axis}_deg") is not None for axis in AXES]
    known = all(found.determined[place] or held[place] for place in places)
    if not known or sigma > _MOST_RAD or (kind == "level" and not found.front):
        return None
    if kind == "horizon":
        return Expected(-found.stance.roll_rad, sigma)
    x, y = distortion.undistorted(np.array(reading.ends)).mean(axis=0)
    camera = photo.model_copy(update={"focal35_mm": focal35_mm})
    return Expected(_towards(camera, found.stance, kind == "plumb", (float(x), float(y))), sigma)


def _towards(camera: PhotoFacts, stance: Stance, plumb: bool, middle: Point) -> float:
    """The angle at a point towards where everything plumb, or level along the front, meets."""
    axis = np.array([0.0, 1.0, 0.0] if plumb else [1.0, 0.0, 0.0])
    x, y, w = intrinsics(camera) @ rotation(stance).T @ axis
    return math.atan2(y - w * middle[1], x - w * middle[0])
