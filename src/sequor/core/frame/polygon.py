"""Polygons: their area, what is left of one in half planes, and how much of one lies in a box."""

from collections.abc import Sequence
from typing import Any

import numba as nb
import numpy as np

from sequor.core.camera import Matrix

Plane = tuple[float, float, float]
"""The half plane ``a x + b y <= c``."""


def polygon_area(points: Matrix) -> float:
    """Area of a simple polygon, shape (N, 2), by the shoelace formula."""
    x, y = points.T
    return abs(float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))) / 2


def clipped(polygon: Matrix, planes: Sequence[Plane]) -> Matrix:
    """The part of a polygon, shape (N, 2), in which ``a x + b y <= c`` holds for every (a, b, c).

    Sutherland and Hodgman 1974.
    """
    part: Matrix = _clipped(np.ascontiguousarray(polygon), np.array(planes, float))
    return part


@nb.njit(cache=True, error_model="numpy")
def _clipped(polygon: Any, planes: Any) -> Any:
    part, made = polygon, np.empty((2 * len(polygon) + 2 * len(planes), 2))
    for a, b, c in planes:
        count = 0
        for i in range(len(part)):
            x0, y0, x1, y1 = part[i - 1, 0], part[i - 1, 1], part[i, 0], part[i, 1]
            before, here = a * x0 + b * y0 - c, a * x1 + b * y1 - c
            if (before < 0 < here) or (here < 0 < before):
                t = before / (before - here)
                made[count] = x0 + t * (x1 - x0), y0 + t * (y1 - y0)
                count += 1
            if here <= 0:
                made[count] = x1, y1
                count += 1
        if count < 3:
            return np.zeros((0, 2))
        part = made[:count].copy()
    return part


@nb.njit(cache=True, error_model="numpy")
def _area_left_of(x: float, left: float, right: float) -> float:
    """The integral up to x of how far a place lies into the strip from ``left`` to ``right``."""
    if x <= left:
        return 0.0
    if x <= right:
        return 0.5 * (x - left) ** 2
    return (right - left) * (x - 0.5 * (left + right))


@nb.njit(cache=True, error_model="numpy")
def area_in_box(outline: Any, left: float, top: float, right: float, bottom: float) -> float:
    """Area of the part of a polygon inside an upright box.

    By Green's theorem: how far the outline lies into the strip between left and right, summed along
    it over the heights between top and bottom. Nothing needs to be cut out for that.
    """
    area = 0.0
    for i in range(len(outline)):
        x0, y0, x1, y1 = outline[i - 1, 0], outline[i - 1, 1], outline[i, 0], outline[i, 1]
        low, high = max(min(y0, y1), top), min(max(y0, y1), bottom)
        if low >= high:
            continue
        slope = (x1 - x0) / (y1 - y0)
        start, end = x0 + (low - y0) * slope, x0 + (high - y0) * slope
        if abs(end - start) < 1e-6 * (right - left):
            into = min(max(0.5 * (start + end), left), right) - left
        else:
            into = (_area_left_of(end, left, right) - _area_left_of(start, left, right)) / (
                end - start
            )
        area += into * (high - low) if y1 > y0 else -into * (high - low)
    return abs(area)
