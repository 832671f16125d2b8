"""Where things lie against eye level."""

import math

import numpy as np

from sequor.core.camera import Matrix, Stance, rotation


def below_eye_level(stance: Stance, middles: Matrix, focal_px: float) -> Matrix:
    """Angles of points below the eye level of a stance, shape (N,), in radians; negative above.

    ``middles`` are undistorted pixels about the principal point, shape (N, 2).
    """
    rays = np.column_stack([middles, np.full(len(middles), focal_px)]) @ rotation(stance).T
    below: Matrix = np.arctan2(rays[:, 1], np.hypot(rays[:, 0], rays[:, 2]))
    return below


def tilt_by_direction(below_rad: float, away_rad: float) -> float:
    """By how much a level line is tilted in the picture that lies so far below eye level and runs
    so far away from square to the camera, in radians: ``tan t = tan d tan a``, whatever the roll.
    """
    return math.atan(math.tan(below_rad) * math.tan(away_rad))
