"""A corner of the picture pulled by eye: the turn, and the proportion, that bring it there.

The three turns of a camera move all four corners. They are found by least squares with the pulled
corner where the hand has it and the others where they were, up to a shift and a scale, which the
layout gives anyway (scipy.optimize.least_squares). The proportion is free only where that fits the
corners much better.
"""

import math
from dataclasses import dataclass

import numpy as np
import scipy

from sequor.core.camera import Matrix, Stance, apply_homography, conjugated, rotation
from sequor.core.recipe import Point

_PULLED = 3.0
"""How many times the pulled corner counts against one of the others: it is under the hand."""
_ASKS_FOR_IT = 0.5
"""The proportion gives way where with it less than this share of what turns alone leave over, in
squares, is left (the figure is ours: a pull along the diagonal never asks, one across it does)."""
_MOST_PULL, _FAR = 0.5, 1e6
"""No corner is pulled by more than this share of the diagonal at once; what is farther than so many
diagonals is no place."""
_MOST_RAD, _MOST_PROPORTION = math.radians(60.0), 0.5
"""No pull turns the picture by more, or stretches it by more than this, in the logarithm."""


@dataclass(frozen=True)
class Pulled:
    """What a pull adds: turns in radians, and a factor of height against width."""

    roll_rad: float
    lean_rad: float
    swing_rad: float
    proportion: float


def pulled(
    k: Matrix, stance: Stance, proportion: float, corners: Matrix, corner: int, by: Point
) -> Pulled:
    """What brings a corner of the picture to where a hand pulls it, and leaves the others.

    Parameters
    ----------
    k : ndarray, shape (3, 3)
        The camera matrix.
    stance, proportion : Stance, float
        What is taken out now, and height against width now.
    corners : ndarray, shape (4, 2)
        Of the undistorted picture.
    corner, by : int, Point
        Which of them is pulled, and by how much, in pixels of the corrected picture.
    """
    size = float(np.hypot(*np.ptp(corners, axis=0)))
    wanted = _placed(k, stance, proportion, corners)
    length = float(np.hypot(*by))
    wanted[corner] += np.array(by) * min(1.0, _MOST_PULL * size / max(length, 1.0))
    weights = np.ones((4, 1))
    weights[corner] = _PULLED

    def left(change: Matrix) -> Matrix:
        """What is left between the corners and where they are wanted, shape (4, 2)."""
        turned = Stance(
            stance.roll_rad + change[0], stance.lean_rad + change[1], stance.swing_rad + change[2]
        )
        factor = float(np.exp(change[3])) if len(change) > 3 else 1.0
        there = _placed(k, turned, proportion * factor, corners)
        counts = weights**2
        a, b = (
            points - np.average(points, axis=0, weights=counts[:, 0]) for points in (there, wanted)
        )
        scale = float((counts * a * b).sum() / (counts * a * a).sum())
        short: Matrix = scale * a - b
        return short

    def off(change: Matrix) -> Matrix:
        # Turned so far that a corner lies behind the camera it is nowhere near.
        return np.clip(np.nan_to_num(weights * left(change) / size), -_FAR, _FAR).ravel()

    most = np.array([_MOST_RAD, _MOST_RAD, _MOST_RAD, _MOST_PROPORTION])
    turned = scipy.optimize.least_squares(off, np.zeros(3), bounds=(-most[:3], most[:3]))
    both = scipy.optimize.least_squares(off, np.append(turned.x, 0.0), bounds=(-most, most))
    roll, lean, swing, stretch = np.append(turned.x, 0.0)
    if both.cost < _ASKS_FOR_IT * turned.cost:
        roll, lean, swing, stretch = both.x
    return Pulled(float(roll), float(lean), float(swing), math.exp(stretch))


def _placed(k: Matrix, stance: Stance, proportion: float, corners: Matrix) -> Matrix:
    """Where corners lie when a stance is taken out."""
    places = apply_homography(conjugated(k, rotation(stance)), corners)
    stretched: Matrix = places * [1.0, proportion]
    return stretched
