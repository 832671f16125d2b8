"""The camera's own level as a reading: the line of eye level that follows from how it was held.

Everything level far away meets on the line ``K^-T R^T e_y`` of the picture (Hartley & Zisserman,
*Multiple View Geometry*, 2nd ed., section 8.6); a camera that says its roll and lean says where
that line lies. It is weighed as a horizon that is read off the picture is, with a deviation of its
own, which is far larger than that of any line that is drawn.
"""

import math

import numpy as np

from sequor.core.camera import Stance, focal_length_px, rotation
from sequor.core.photo import CameraLevel, CameraPose, PhotoFacts
from sequor.core.recipe import Point, Reading

USUAL_SIGMA_DEG = 1.0
"""Levels in cameras are good to about a degree (common practice, no published source)."""
ID = "camera"


def reading_of(level: CameraLevel, photo: PhotoFacts) -> Reading:
    """The reading that a pose is, in a picture with some focal length."""
    return Reading(id=ID, kind="horizon", points=points_of(level, photo), camera=level)


def points_of(pose: CameraPose, photo: PhotoFacts) -> tuple[Point, Point]:
    """Two points of the line of eye level, the focal length before and after its foot; what is not
    told is taken for zero, and does not count (`stance.sights`).
    """
    stance = Stance(math.radians(pose.roll_deg or 0.0), math.radians(pose.lean_deg or 0.0))
    focal = focal_length_px(photo)
    across, down, ahead = rotation(stance).T @ np.array([0.0, 1.0, 0.0])
    length = math.hypot(across, down)
    along = np.array([down, -across]) / length
    foot = -ahead * focal / length**2 * np.array([across, down])
    middle = np.array([photo.width / 2, photo.height / 2]) + foot
    (x0, y0), (x1, y1) = (middle - focal * along).tolist(), (middle + focal * along).tolist()
    return (x0, y0), (x1, y1)
