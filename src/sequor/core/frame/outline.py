"""The outline of the valid picture, and how frames lie in it.

It is convex where the lens has no radial distortion (`convex`) and may bulge inwards where it has
(`curved`); each kind has its own searches. What only needs areas is the same for both.
"""

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass
from functools import cached_property
from typing import Any, ClassVar

import numba as nb
import numpy as np

from sequor.core.camera import Matrix
from sequor.core.frame.polygon import area_in_box, polygon_area
from sequor.core.frame.rectangle import Rectangle
from sequor.core.recipe import Point

TOUCHING_PX = 1e-6
"""A frame that touches the outline lies inside it; so much is rounding."""


@dataclass(frozen=True)
class Outline(ABC):
    """The outline: ``points``, shape (N, 2), in order, in pixels of the corrected picture."""

    points: Matrix
    curved: ClassVar[bool]

    @cached_property
    def area(self) -> float:
        """Its area in square pixels."""
        return polygon_area(self.points)

    @cached_property
    def box(self) -> Rectangle:
        """The upright box around it."""
        return Rectangle.around(self.points)

    @abstractmethod
    def largest(self, ratio: float | None, preferred: Point) -> Rectangle:
        """The largest frame of a ratio, or of whatever ratio, inside the outline.

        Raises
        ------
        UnusableInput
            When no frame of at least a pixel fits.
        """

    @abstractmethod
    def largest_containing(
        self, ratio: float, keep: Rectangle, preferred: Point
    ) -> Rectangle | None:
        """The largest frame of a ratio that contains a box; None when there is none."""

    @abstractmethod
    def heights(self, points: Matrix, shares: Matrix, ratio: float) -> Matrix:
        """Heights of the largest frames inside the outline, shape (K,), 0 where none fits.

        Parameters
        ----------
        points, shares : ndarray, shape (K, 2)
            The place ``shares`` of each frame, from its top left, lies at the point.
        """

    @abstractmethod
    def nearest(self, width: float, height: float, wanted: Point, inside: Point) -> Rectangle:
        """The frame of a size inside the outline whose centre is nearest to a wanted one.

        ``inside`` is a centre that is possible.
        """

    def height_at(self, point: Point, share: Point, ratio: float) -> float:
        """One height of `heights`."""
        at, shares = np.array([point], dtype=float), np.array([share], dtype=float)
        return float(self.heights(at, shares, ratio)[0])

    def empty_share(self, frame: Rectangle) -> float:
        """The share of a frame that lies outside the outline."""
        inside = area_in_box(self.points, *frame.low, *frame.high)
        return max(0.0, 1 - inside / (frame.width * frame.height))

    def holds(self, frame: Rectangle) -> bool:
        """Whether a frame lies inside the outline, its border included."""
        high = self.height_at(frame.centre, (0.5, 0.5), frame.width / frame.height)
        return high >= frame.height - 2 * TOUCHING_PX

    def fullest(
        self, width: float, height: float, low: Point, high: Point, near: Point
    ) -> Rectangle:
        """The frame of a size with the smallest empty share, nearest to ``near``.

        Its centre lies between ``low`` and ``high``.
        """
        limits = np.array(low), np.array(high)
        x, y = _fullest(self.points, width, height, *limits, np.array(near))
        return Rectangle.about((x, y), width, height)


@nb.njit(cache=True, error_model="numpy")
def _fullest(
    outline: Any, width: float, height: float, low: Any, high: Any, near: Any
) -> tuple[float, float]:
    """The centre with the most picture in the frame.

    A search in eight directions with ever smaller steps.
    """
    x, y = min(max(near[0], low[0]), high[0]), min(max(near[1], low[1]), high[1])
    best = area_in_box(outline, x - width / 2, y - height / 2, x + width / 2, y + height / 2)
    step = 0.25 * max(width, height)
    least = 1e-5 * max(width, height)
    while step > least:
        moved = False
        for direction in range(8):
            angle = direction * math.pi / 4
            tx = min(max(x + step * math.cos(angle), low[0]), high[0])
            ty = min(max(y + step * math.sin(angle), low[1]), high[1])
            area = area_in_box(
                outline, tx - width / 2, ty - height / 2, tx + width / 2, ty + height / 2
            )
            if area > best * (1 + 1e-12):
                best, x, y, moved = area, tx, ty, True
        if not moved:
            step /= 2
    return x, y
