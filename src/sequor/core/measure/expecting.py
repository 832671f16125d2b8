"""What other readings expect of the angle of a line, so that it finds its edge among several."""

import math

import numpy as np

from sequor.core.camera import intrinsics, rotation
from sequor.core.lens.chosen import distortion_of
from sequor.core.measure.edges import Expected
from sequor.core.measure.orientation import measure_stance
from sequor.core.measure.readings import undistorted_reading
from sequor.core.recipe import PhotoFacts, Reading, Recipe

_LEAST_RAD, _MOST_RAD = math.radians(0.7), math.radians(4.0)
"""Nothing in reality is truer than the first; an expectation less sure than the second is none."""


def expected_angle(photo: PhotoFacts, recipe: Recipe, reading: Reading) -> Expected | None:
    """The angle in the undistorted picture that the others expect; None where they do not know.

    Level lines are expected to run alike only where they are a front's.
    """
    others = [r for r in recipe.readings if r.steers and r.id != reading.id]
    if not reading.steers or len(others) < 2:
        return None
    distortion, _ = distortion_of(photo, recipe)
    lines = tuple(undistorted_reading(other, distortion) for other in others)
    focal35_mm = recipe.focal35_mm or photo.focal35_mm
    if focal35_mm is None:
        return None
    found = measure_stance(photo, lines, focal35_mm, recipe.hold, leave_in=recipe.leave_in)
    plumb = reading.direction == "plumb"
    if not found.determined[1 if plumb else 2] or not (plumb or found.front):
        return None
    camera = photo.model_copy(update={"focal35_mm": focal35_mm})
    axis = np.array([0.0, 1.0, 0.0] if plumb else [1.0, 0.0, 0.0])
    vanishing = intrinsics(camera) @ rotation(found.stance).T @ axis
    middle = distortion.undistorted(np.array(reading.ends)).mean(axis=0)
    towards = vanishing[:2] - vanishing[2] * middle
    sigma = max(_LEAST_RAD, *found.sigma_rad)
    if sigma > _MOST_RAD or not np.hypot(*towards):
        return None
    return Expected(math.atan2(towards[1], towards[0]), sigma)
