"""Distortion: straight things bent by the lens, and how to undo it.

A point at (x, y) from the lens's centre in the undistorted picture, at the radius r, in units of
half the diagonal, lies in the picture as shot at

    x (1 + c1 r + c2 r^2 + ... + c6 r^6) + 2 p1 x y + p2 (r^2 + 2 x^2)
    y (1 + c1 r + c2 r^2 + ... + c6 r^6) + p1 (r^2 + 2 y^2) + 2 p2 x y

With c2 = k1, c4 = k2, c6 = k3 and the other powers zero that is the model of Brown, "Close-range
camera calibration", 1971, whose second part comes from lens elements that are not quite centred;
odd powers occur in lens databases. The magnification at the centre is one, so undoing it neither
shrinks nor enlarges the picture there. Rendering needs no inverse: it asks where a point of the
undistorted picture lies in the picture as shot.
"""

import math
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numba as nb
import numpy as np

from sequor.core.bisection import greatest
from sequor.core.camera import Matrix
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.lens_choice import MAX_RADIAL
from sequor.core.photo import Coefficients, PhotoFacts

_STEPS = 40
"""Of Newton's method; it ends by itself after some five."""
_SETTLED = 1e-14
LEAST_SLOPE = 0.05
"""Of r_d where it reaches the corners.

Below it a pixel of the file would be drawn out to twenty.
"""
MAX_TANGENTIAL = 0.05
"""Of p1 and p2; lenses have some thousandths."""
_NOTHING = 1e-12
"""Coefficients this small are rounding."""


@dataclass(frozen=True)
class Distortion:
    """The distortion of a lens on a picture of some size.

    Attributes
    ----------
    polynomial : (float, float, float, float, float, float)
        c1 to c6, for radii in units of half the diagonal.
    centre : (float, float)
        Where the lens's axis meets the picture, in source pixels.
    unit_px : float
        Half the diagonal in pixels.
    tangential : (float, float)
        p1 and p2.
    """

    polynomial: Coefficients
    centre: tuple[float, float]
    unit_px: float
    tangential: tuple[float, float] = (0.0, 0.0)

    @classmethod
    def of(
        cls,
        photo: PhotoFacts,
        polynomial: tuple[float, ...] = (),
        tangential: tuple[float, float] = (0.0, 0.0),
        off_centre: tuple[float, float] = (0.0, 0.0),
    ) -> "Distortion":
        """The distortion on a picture: its first coefficients, and how far its centre is off the
        middle of the picture, in units of half the diagonal.
        """
        unit = math.hypot(photo.width, photo.height) / 2
        c1, c2, c3, c4, c5, c6 = (*polynomial, *(0.0,) * (6 - len(polynomial)))
        return cls(
            (c1, c2, c3, c4, c5, c6),
            (photo.width / 2 + off_centre[0] * unit, photo.height / 2 + off_centre[1] * unit),
            unit,
            tangential,
        )

    def scaled(self, scale: float) -> "Distortion":
        """The same distortion for a picture of ``scale`` times the size."""
        x, y = self.centre
        return replace(self, centre=(x * scale, y * scale), unit_px=self.unit_px * scale)

    @property
    def straight(self) -> bool:
        """Whether there is no distortion at all."""
        return not any(self.polynomial) and not any(self.tangential)

    @cached_property
    def fold(self) -> float:
        """The radius, in units of half the diagonal, from which on the picture would fold over.

        Infinite where it never does.
        """
        known = [c if abs(c) > _NOTHING else 0.0 for c in self.polynomial]
        # The slope of r_d must stay positive: the radial part of the map's Jacobian.
        if not any((known[0], known[2], known[4], known[5])):
            return _fold_of(known[1], known[3])
        slope = [(power + 1) * c for power, c in enumerate(known, 1)]
        roots = np.roots([*slope[::-1], 1.0])
        real = [float(root.real) for root in roots if abs(root.imag) < 1e-9 and root.real > 0]
        return min(real, default=math.inf)

    def distorted(self, points: Matrix) -> Matrix:
        """Where points of the undistorted picture, shape (N, 2), lie in the picture as shot.

        NaN beyond the fold.
        """
        away = (np.asarray(points, dtype=float) - self.centre) / self.unit_px
        radius = np.hypot(away[:, 0], away[:, 1])
        stretch = np.where(radius < self.fold, self._stretch(radius), np.nan)
        bent: Matrix = (away * stretch[:, None] + self._aslant(away)) * self.unit_px + self.centre
        return bent

    def _aslant(self, away: Matrix) -> Matrix:
        """The tangential part at points in units of half the diagonal about the centre."""
        p1, p2 = self.tangential
        x, y = away.T
        square = x * x + y * y
        both = 2 * x * y
        return np.column_stack(
            [p1 * both + p2 * (square + 2 * x * x), p1 * (square + 2 * y * y) + p2 * both]
        )

    def undistorted(self, points: Matrix) -> Matrix:
        """Where points of the picture as shot, shape (N, 2), lie in the undistorted picture.

        The inverse, by Newton's method.
        """
        points = np.asarray(points, dtype=float)
        if self.straight:
            return points
        seen = (points - self.centre) / self.unit_px
        polynomial, tangential = np.array(self.polynomial), np.array(self.tangential)
        away = _straightened(seen, polynomial, tangential, self.fold)
        straight: Matrix = away * self.unit_px + self.centre
        return straight

    def corner_shift(self) -> float:
        """How far undoing it moves a corner outwards, in units of half the diagonal."""
        return float(_straight_radius(1.0, np.array(self.polynomial), self.fold)) - 1.0

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
        if max(map(abs, self.tangential)) > MAX_TANGENTIAL or not self._centred():
            raise UnusableInput(tr("No lens is as far off its centre as this one."))
        if not self.straight and self.corner_slope() < LEAST_SLOPE:
            k2 = self.polynomial[3]
            raise UnusableInput(
                tr(
                    "This bow folds the picture over before its corners: with k2 = {k2:g} the "
                    "limit for k1 is {limit_k1:.3f}. The bow before it is kept.",
                    k2=k2,
                    limit_k1=limit_k1(k2),
                )
            )

    def _centred(self) -> bool:
        """Whether the centre lies well inside the picture, whose half diagonal the unit is."""
        x, y = self.centre
        return 0 < x < 2 * self.unit_px and 0 < y < 2 * self.unit_px

    def slope(self, radius: Matrix) -> Matrix:
        """How fast r_d grows at radii in units of half the diagonal."""
        slope: Matrix = np.ones_like(radius)
        for power, c in enumerate(self.polynomial, 1):
            slope = slope + (power + 1) * c * radius**power
        return slope

    def _stretch(self, radius: Matrix) -> Matrix:
        stretch: Matrix = np.ones_like(radius)
        for power, c in enumerate(self.polynomial, 1):
            stretch = stretch + c * radius**power
        return stretch


@nb.njit(cache=True, error_model="numpy")
def _straightened(seen: Any, polynomial: Any, tangential: Any, fold: float) -> Any:
    """Where a distortion has points from, shape (N, 2), in units of half the diagonal about the
    centre.
    """
    p1, p2 = tangential
    away = np.empty_like(seen)
    for n in range(len(seen)):
        x, y = seen[n]
        for _ in range(_STEPS):
            # The radial part is undone exactly; what is left of the other is small, so that taking
            # it off at the last place found settles fast.
            square, both = x * x + y * y, 2 * x * y
            bent_x = seen[n, 0] - p1 * both - p2 * (square + 2 * x * x)
            bent_y = seen[n, 1] - p1 * (square + 2 * y * y) - p2 * both
            bent = np.hypot(bent_x, bent_y)
            share = _straight_radius(bent, polynomial, fold) / bent if bent > 0 else 1.0
            moved = max(abs(bent_x * share - x), abs(bent_y * share - y))
            x, y = bent_x * share, bent_y * share
            if (p1 == 0 and p2 == 0) or moved < _SETTLED:
                break
        away[n] = x, y
    return away


@nb.njit(cache=True, error_model="numpy")
def _straight_radius(bent: float, polynomial: Any, fold: float) -> float:
    """The radius that a distortion takes to another, by Newton's method."""
    radius = min(bent, fold * 0.9)
    for _ in range(_STEPS):
        stretch, slope = 0.0, 0.0
        for power in range(6, 0, -1):
            stretch = (stretch + polynomial[power - 1]) * radius
            slope = (slope + (power + 1) * polynomial[power - 1]) * radius
        stretch, slope = 1 + stretch, 1 + slope
        step = (radius * stretch - bent) / max(slope, LEAST_SLOPE / 10)
        # Never past the fold, beyond which another branch begins.
        most = (radius + fold) / 2 if fold < np.inf else radius * 2 + 1
        radius = min(max(radius - step, radius / 2), most)
        if abs(step) < _SETTLED:
            break
    return radius


def _fold_of(k1: float, k2: float) -> float:
    """The least radius at which ``1 + 3 k1 r^2 + 5 k2 r^4``, the slope of r_d, is zero."""
    half = -1.5 * k1
    inside = half * half - 5 * k2
    if inside < 0:
        return math.inf
    # Of the forms of the quadratic formula the one that holds where k2 is zero, too.
    below = [half + math.sqrt(inside), half - math.sqrt(inside)]
    return min((1 / math.sqrt(one) for one in below if one > 0), default=math.inf)


def limit_k1(k2: float) -> float:
    """The most negative k1 that, with a k2, does not fold the picture over before its corners,
    by bisection.
    """

    def folds(k1: float) -> bool:
        return Distortion(radial(k1, k2), (0.0, 0.0), 1.0).corner_slope() < LEAST_SLOPE

    return greatest(folds, -MAX_RADIAL, MAX_RADIAL)


def radial(k1: float, k2: float = 0.0, k3: float = 0.0) -> Coefficients:
    """The polynomial of Brown's model."""
    return (0.0, k1, 0.0, k2, 0.0, k3)


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
