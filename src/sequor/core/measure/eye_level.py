"""Where readings lie against eye level."""

import math

import numpy as np

from sequor.core.camera import Matrix, Stance, inverse, rotation
from sequor.core.recipe import Reading


def below_eye_level(stance: Stance, k: Matrix, lines: tuple[Reading, ...]) -> Matrix:
    """Angles of the middles of readings below the eye level of a stance, shape (N,), in radians;
    negative above. ``k`` is the camera matrix.
    """
    middles = np.array([line.ends for line in lines]).reshape(-1, 2, 2).mean(axis=1)
    rays = np.column_stack([middles, np.ones(len(middles))]) @ (rotation(stance) @ inverse(k)).T
    below: Matrix = np.arctan2(rays[:, 1], np.hypot(rays[:, 0], rays[:, 2]))
    return below


def tilt_by_direction(below_rad: float, away_rad: float) -> float:
    """By how much a level line is tilted in the picture that lies so far below eye level and runs
    so far away from square to the camera, in radians: ``tan t = tan d tan a``, whatever the roll.
    """
    return math.atan(math.tan(below_rad) * math.tan(away_rad))
