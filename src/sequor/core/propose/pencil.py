"""Readings before anybody took them: how they are named, and which were refused or are there."""

import math

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.recipe import MAX_SIGMA_PX, MIN_SIGMA_PX, Kind, Reading, Recipe


def drawn(kind: Kind, points: Matrix, sigma_px: float) -> Reading:
    """A reading along some points, shape (N, 2), named by where it lies, so that it is the same
    whenever the picture is read.
    """
    places = ",".join(f"{round(v)}" for v in points[[0, -1]].ravel())
    return Reading(
        id=f"{kind[0]}{places}"[:40],
        kind=kind,
        points=tuple((float(x), float(y)) for x, y in points),
        sigma_px=float(np.clip(sigma_px, MIN_SIGMA_PX, MAX_SIGMA_PX)),
    )


def refused(ends: Matrix, recipe: Recipe, beside_px: float) -> NDArray[np.bool_]:
    """Which segments as shot, shape (N, 2, 2), lie on a line that was rubbed out."""
    return _on_any(ends, [np.array(line) for line in recipe.rubbed_out], beside_px)


def read_already(ends: Matrix, recipe: Recipe, beside_px: float) -> NDArray[np.bool_]:
    """Which of them lie on a reading that is there."""
    return _on_any(ends, [np.array(reading.ends) for reading in recipe.readings], beside_px)


def _on_any(ends: Matrix, lines: list[Matrix], beside_px: float) -> NDArray[np.bool_]:
    found = np.zeros(len(ends), dtype=bool)
    for line in lines:
        found |= _along(ends, line, beside_px)
    return found


def _along(ends: Matrix, line: Matrix, beside_px: float) -> NDArray[np.bool_]:
    """Which segments lie on a line, shape (2, 2), at least by half."""
    length = math.dist(*line)
    if not length:
        return np.zeros(len(ends), dtype=bool)
    unit = (line[1] - line[0]) / length
    away = np.abs((ends - line[0]) @ [-unit[1], unit[0]]).max(axis=1)
    places = np.sort((ends - line[0]) @ unit, axis=1)
    shared = np.minimum(places[:, 1], length) - np.maximum(places[:, 0], 0)
    whole = np.maximum(places[:, 1] - places[:, 0], 1e-9)
    found: NDArray[np.bool_] = (away < beside_px) & (shared > 0.5 * np.minimum(whole, length))
    return found
