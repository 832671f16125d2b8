"""Radial distortion: straight things bent along the radius by the lens, and how to undo it.

``r_d = r (1 + c1 r + c2 r^2 + c3 r^3 + c4 r^4)`` takes the radius r of a point of the undistorted
picture to that in the picture as shot, about the principal point, in units of half the diagonal.
The magnification at the centre is one, so correcting the bow neither shrinks nor enlarges the
picture there. With c2 = k1 and c4 = k2 it is the radial model of Brown, "Close-range camera
calibration", 1971; the other powers occur in lens databases. Rendering needs no inverse: it asks
where a point of the undistorted picture lies in the picture as shot.
"""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numba as nb
import numpy as np

from sequor.core.bisection import greatest
from sequor.core.camera import Matrix
from sequor.core.errors import UnusableInput
from sequor.core.recipe import MAX_RADIAL, PhotoFacts, Polynomial

_STEPS = 40
"""Of Newton's method; it ends by itself after some five."""
_SETTLED = 1e-14
_LEAST_SLOPE = 0.05
"""Of r_d where it reaches the corners.

Below it a pixel of the file would be drawn out to twenty.
"""
_NOTHING = 1e-12
"""Coefficients this small are rounding."""


@dataclass(frozen=True)
class RadialDistortion:
    """The radial distortion of a lens on a picture of some size.

    Attributes
    ----------
    polynomial : (float, float, float, float)
        c1 to c4, for radii in units of half the diagonal.
    centre : (float, float)
        Principal point in source pixels.
    unit_px : float
        Half the diagonal in pixels.
    """

    polynomial: Polynomial
    centre: tuple[float, float]
    unit_px: float

    @classmethod
    def of(
        cls, photo: PhotoFacts, polynomial: Polynomial = (0.0, 0.0, 0.0, 0.0)
    ) -> "RadialDistortion":
        """The distortion of a lens whose axis meets the middle of a picture."""
        return cls(
            polynomial,
            (photo.width / 2, photo.height / 2),
            math.hypot(photo.width, photo.height) / 2,
        )

    def scaled(self, scale: float) -> "RadialDistortion":
        """The same distortion for a picture of ``scale`` times the size."""
        return RadialDistortion(
            self.polynomial, (self.centre[0] * scale, self.centre[1] * scale), self.unit_px * scale
        )

    @property
    def straight(self) -> bool:
        """Whether there is no distortion at all."""
        return not any(self.polynomial)

    @cached_property
    def fold(self) -> float:
        """The radius, in units of half the diagonal, from which on the picture would fold over.

        Infinite where it never does.
        """
        c1, c2, c3, c4 = (c if abs(c) > _NOTHING else 0.0 for c in self.polynomial)
        # The slope of r_d must stay positive: the radial part of the map's Jacobian.
        roots = (
            np.roots([5 * c4, 4 * c3, 3 * c2, 2 * c1, 1.0])
            if any((c1, c2, c3, c4))
            else np.zeros(0)
        )
        real = [float(root.real) for root in roots if abs(root.imag) < 1e-9 and root.real > 0]
        return min(real, default=math.inf)

    def distorted(self, points: Matrix) -> Matrix:
        """Where points of the undistorted picture, shape (N, 2), lie in the picture as shot.

        NaN beyond the fold.
        """
        away = (np.asarray(points, dtype=float) - self.centre) / self.unit_px
        radius = np.hypot(away[:, 0], away[:, 1])
        stretch = np.where(radius < self.fold, self._stretch(radius), np.nan)
        bent: Matrix = away * stretch[:, None] * self.unit_px + self.centre
        return bent

    def undistorted(self, points: Matrix) -> Matrix:
        """Where points of the picture as shot, shape (N, 2), lie in the undistorted picture.

        The inverse, by Newton's method.
        """
        points = np.asarray(points, dtype=float)
        if self.straight:
            return points
        away = (points - self.centre) / self.unit_px
        bent = np.hypot(away[:, 0], away[:, 1])
        radius = _straightened(bent, *self.polynomial, self.fold)
        share = np.divide(radius, bent, out=np.ones_like(bent), where=bent > 0)
        straight: Matrix = away * share[:, None] * self.unit_px + self.centre
        return straight

    def corner_shift(self) -> float:
        """How far undoing it moves a corner outwards, in units of half the diagonal."""
        corner = np.array([[self.centre[0] + self.unit_px, self.centre[1]]])
        return float(self.undistorted(corner)[0, 0] - corner[0, 0]) / self.unit_px

    def corner_slope(self) -> float:
        """How fast r_d still grows where it reaches the corners of the picture.

        0 where the picture folds over before them.
        """
        low, high = 0.0, min(self.fold, 4.0)
        if high * float(self._stretch(np.array(high))) < 1:
            return 0.0
        corner = greatest(lambda r: r * float(self._stretch(np.array(r))) < 1, low, high)
        return float(self.slope(np.array(corner)))

    def check(self) -> None:
        """Refuse a distortion that folds the picture over, or nearly does, within its corners."""
        if not self.straight and self.corner_slope() < _LEAST_SLOPE:
            k2 = self.polynomial[3]
            raise UnusableInput(
                f"This bow folds the picture over before its corners: with k2 = {k2:g} the limit "
                f"for k1 is {limit_k1(k2):.3f}. "
                "The bow before it is kept."
            )

    def slope(self, radius: Matrix) -> Matrix:
        """How fast r_d grows at radii in units of half the diagonal."""
        c1, c2, c3, c4 = self.polynomial
        slope: Matrix = 1 + radius * (
            2 * c1 + radius * (3 * c2 + radius * (4 * c3 + radius * 5 * c4))
        )
        return slope

    def _stretch(self, radius: Matrix) -> Matrix:
        c1, c2, c3, c4 = self.polynomial
        stretch: Matrix = 1 + radius * (c1 + radius * (c2 + radius * (c3 + radius * c4)))
        return stretch


@nb.njit(cache=True, error_model="numpy")
def _straightened(bent: Any, c1: float, c2: float, c3: float, c4: float, fold: float) -> Any:
    """The radii that a distortion takes to some radii, by Newton's method, shape (N,)."""
    found = np.empty_like(bent)
    for n in range(len(bent)):
        radius = min(bent[n], fold * 0.9)
        for _ in range(_STEPS):
            stretch = 1 + radius * (c1 + radius * (c2 + radius * (c3 + radius * c4)))
            slope = 1 + radius * (2 * c1 + radius * (3 * c2 + radius * (4 * c3 + radius * 5 * c4)))
            step = (radius * stretch - bent[n]) / max(slope, _LEAST_SLOPE / 10)
            # Never past the fold, beyond which another branch begins.
            most = (radius + fold) / 2 if fold < np.inf else radius * 2 + 1
            radius = min(max(radius - step, radius / 2), most)
            if abs(step) < _SETTLED:
                break
        found[n] = radius
    return found


def limit_k1(k2: float) -> float:
    """The most negative k1 that, with a k2, does not fold the picture over before its corners,
    by bisection.
    """

    def folds(k1: float) -> bool:
        return RadialDistortion(radial(k1, k2), (0.0, 0.0), 1.0).corner_slope() < _LEAST_SLOPE

    return greatest(folds, -MAX_RADIAL, MAX_RADIAL)


def radial(k1: float, k2: float) -> Polynomial:
    """The polynomial of Brown's model with two coefficients."""
    return (0.0, k1, 0.0, k2)


def sag_px(points: Matrix) -> float:
    """How far points, shape (N, 2), lie from the straight line between the first and the last,
    at most, in their unit.
    """
    chord = points[-1] - points[0]
    length = math.hypot(*chord)
    away = points - points[0]
    return (
        float(np.abs(away[:, 0] * chord[1] - away[:, 1] * chord[0]).max() / length)
        if length
        else 0.0
    )
