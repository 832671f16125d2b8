"""The pinhole camera, and how its stance moves the picture.

Conventions (docs/how-it-works.md): camera axes x right, y down, z forward; the
stance is the rotation ``R = R_y(swing) R_x(lean) R_z(roll)`` that *corrects* the
picture, so a positive roll turns the picture clockwise on screen. Source: Hartley
& Zisserman, *Multiple View Geometry in Computer Vision*, 2nd ed., sections 6.1
(camera matrix) and 8.4.2 (homography of a rotating camera).
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sequor.core.photo import PhotoFacts
from sequor.core.recipe import FocalSource, Recipe

FULL_FRAME_DIAGONAL_MM = math.hypot(36.0, 24.0)  # ISO 1007
ASSUMED_FOCAL35_MM = 35.0
"""Where neither file nor photographer say: a moderate wide angle (common practice, no published
source)."""

Matrix = NDArray[np.float64]


@dataclass(frozen=True)
class Stance:
    """The corrective rotation, in radians about the camera's z, x and y axes."""

    roll_rad: float = 0.0
    lean_rad: float = 0.0
    swing_rad: float = 0.0


def focal_of(photo: PhotoFacts, recipe: Recipe) -> tuple[FocalSource, float]:
    """The focal length in 35-mm terms that counts, and where it comes from."""
    if recipe.focal35_mm:
        return "stated", recipe.focal35_mm
    if photo.focal35_mm:
        return photo.focal_source, photo.focal35_mm
    return "assumed", ASSUMED_FOCAL35_MM


def focal_length_px(photo: PhotoFacts) -> float:
    """Focal length in source pixels from its 35-mm equivalent, or the stated assumption."""
    return focal_px_of(photo.focal35_mm or ASSUMED_FOCAL35_MM, photo)


def focal_px_of(focal35_mm: float, photo: PhotoFacts) -> float:
    """Focal length in source pixels of one in 35-mm terms: by the diagonal, as CIPA DC-008 has
    it.
    """
    return focal35_mm / FULL_FRAME_DIAGONAL_MM * math.hypot(photo.width, photo.height)


def focal35_of(focal_px: float, photo: PhotoFacts) -> float:
    """The reverse of `focal_px_of`, in millimetres."""
    return focal_px * FULL_FRAME_DIAGONAL_MM / math.hypot(photo.width, photo.height)


def intrinsics(photo: PhotoFacts) -> Matrix:
    """Camera matrix K, 3x3: square pixels, principal point at the centre of the picture."""
    focal = focal_length_px(photo)
    return np.array(
        [[focal, 0.0, photo.width / 2], [0.0, focal, photo.height / 2], [0.0, 0.0, 1.0]]
    )


def rotation(stance: Stance) -> Matrix:
    """Rotation matrix R, 3x3, of a stance."""
    cz, sz = math.cos(stance.roll_rad), math.sin(stance.roll_rad)
    cx, sx = math.cos(stance.lean_rad), math.sin(stance.lean_rad)
    cy, sy = math.cos(stance.swing_rad), math.sin(stance.swing_rad)
    roll = np.array([[cz, -sz, 0.0], [sz, cz, 0.0], [0.0, 0.0, 1.0]])
    lean = np.array([[1.0, 0.0, 0.0], [0.0, cx, -sx], [0.0, sx, cx]])
    swing = np.array([[cy, 0.0, sy], [0.0, 1.0, 0.0], [-sy, 0.0, cy]])
    full: Matrix = swing @ lean @ roll
    return full


def stance_of(matrix: Matrix) -> Stance:
    """The stance of a rotation matrix, 3x3: the reverse of `rotation`, with the lean between -90
    and 90 degrees.
    """
    return Stance(
        roll_rad=math.atan2(matrix[1, 0], matrix[1, 1]),
        lean_rad=math.asin(min(1.0, max(-1.0, -float(matrix[1, 2])))),
        swing_rad=math.atan2(matrix[0, 2], matrix[2, 2]),
    )


def homography(photo: PhotoFacts, stance: Stance) -> Matrix:
    """``H = K R K^-1``, 3x3: source pixels to corrected pixels, unit scale at the centre."""
    return conjugated(intrinsics(photo), rotation(stance))


def conjugated(k: Matrix, turn: Matrix) -> Matrix:
    """``K R K^-1``, 3x3."""
    moved: Matrix = k @ turn @ np.linalg.inv(k)
    return moved


def inverse(h: Matrix) -> Matrix:
    """The inverse of a homography, 3x3."""
    inverted: Matrix = np.linalg.inv(h).astype(np.float64)
    return inverted


def apply_homography(h: Matrix, points: Matrix) -> Matrix:
    """Map points, shape (N, 2), by a homography; returns shape (N, 2)."""
    mapped = np.column_stack([points, np.ones(len(points))]) @ h.T
    plane: Matrix = mapped[:, :2] / mapped[:, 2:]
    return plane
