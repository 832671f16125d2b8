"""The focal length as the readings tell it, where they do.

Two finite vanishing points of directions at right angles fix it (Hartley & Zisserman, *Multiple
View Geometry*, 2nd ed., example 8.27): it joins the stance as one more unknown.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Matrix
from sequor.core.stance.sights import Sights

ESTIMABLE_FOCAL, _EXPLAINING = 0.15, 0.5
"""A focal length is offered, or taken to explain a disagreement, when its relative standard
deviation is below these."""
_LEAST_FOCAL = 1e-4
"""Nor is it ever surer than this (rounding of what was drawn)."""
_SOLVABLE = 1e-10
"""Of the equations, scaled: below this ratio of eigenvalues a direction is not determined."""
_PROFILE_SIGMAS, _PROFILE_RISE = 3.0, 3.0
"""So many deviations away on either side the readings must fit worse by this chi-square (9 if they
depended on it linearly); else the deviation means nothing."""
_STEPS = 40
"""After so many the descent has ended, or does not."""
_MOST_STEP = 0.3
"""Of the logarithm of the focal length, at most, in one step: it is far from linear."""


@dataclass(frozen=True)
class FocalEstimate:
    """A focal length in pixels with its standard deviation."""

    focal_px: float
    sigma_px: float


def focal_from_readings(
    sights: Sights, stance: Matrix, agree: Callable[[Matrix], bool]
) -> tuple[FocalEstimate | None, bool]:
    """The focal length, None if the readings do not determine it, and whether the readings agree
    for some focal length.

    Parameters
    ----------
    sights : Sights
        All readings.
    stance : ndarray, shape (1, 3)
        Where to begin.
    agree : callable
        Whether residuals, shape (M,), are no more than chance.
    """
    start = np.append(stance[0], math.log(sights.focal))
    fit = _fitted(sights, start, np.ones(4, dtype=bool))
    if fit is None:
        return None, False
    values, square, off = fit
    size = np.sqrt(np.diagonal(square))
    if not (size > 0).all():
        return None, False
    scaled = square / np.outer(size, size)
    least = float(np.linalg.eigvalsh(scaled)[0])
    if least < _SOLVABLE:
        return None, False
    # It is the readings' own scatter that says how far they can be trusted.
    spare = len(sights.of) - 4
    scatter = max(1.0, float(off @ off) / spare) if spare > 0 else 1.0
    variance = float(np.linalg.inv(scaled)[3, 3]) / size[3] ** 2 * scatter
    relative = math.hypot(math.sqrt(variance), _LEAST_FOCAL)
    fits = relative < _EXPLAINING and agree(off * sights.sigma / np.sqrt(sights.weight))
    if not relative < ESTIMABLE_FOCAL or not _rises(sights, values, relative, off, scatter):
        return None, fits
    focal = math.exp(float(values[3]))
    return FocalEstimate(focal, focal * relative), fits


def _rises(sights: Sights, values: Matrix, relative: float, off: Matrix, scatter: float) -> bool:
    """Whether the readings fit clearly worse some deviations away."""
    for side in (-1, 1):
        moved = values + np.array([0, 0, 0, side * _PROFILE_SIGMAS * relative])
        there = _fitted(sights, moved, np.array([True, True, True, False]))
        if there is None:
            continue  # nothing near fits at all
        worse = float(there[2] @ there[2]) - float(off @ off)
        if worse < _PROFILE_RISE * scatter:
            return False
    return True


def _fitted(sights: Sights, start: Matrix, free: Matrix) -> tuple[Matrix, Matrix, Matrix] | None:
    """Stance and logarithm of the focal length, shape (4,), by Gauss-Newton steps over those that
    are free; the normal matrix, shape (4, 4), and the residuals in deviations. None where the
    steps do not settle.
    """
    values = start.copy()
    counted = np.sqrt(sights.weight) / sights.sigma
    for _ in range(_STEPS):
        found = np.append(values[:3], 0.0)[None, :]
        residual, slopes = sights.slopes(found, np.exp(values[3:]))
        design, off = slopes[0][:, [0, 1, 2, 4]] * counted[:, None], residual[0] * counted
        square = design.T @ design
        damped = square + np.diag(1e-12 * np.diagonal(square) + 1e-6)
        damped = np.where(np.outer(free, free), damped, np.eye(4))
        step = -np.linalg.solve(damped, np.where(free, design.T @ off, 0.0))
        values = values + np.clip(step, -_MOST_STEP, _MOST_STEP)
        if np.abs(step).max() < 1e-7:
            return values, square, off
    return None
