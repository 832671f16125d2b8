"""The bow of the lens: straight things bent along the radius, and how to straighten them.

``r_d = r (1 + c1 r + c2 r^2 + c3 r^3 + c4 r^4)`` takes the radius r of a point of the straight picture
to that in the picture as shot, about the principal point, in units of half the diagonal. The
magnification at the centre is one, so correcting the bow neither shrinks nor enlarges the picture there.
With c2 = k1 and c4 = k2 it is the radial model of Brown, "Close-range camera calibration", 1971; the
other powers occur in lens databases. Rendering needs no inverse: it asks where a point of the
straight picture lies in the picture as shot.
"""

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from scipy.special import chdtri

from sequor.core.camera import Matrix
from sequor.core.errors import UnusableInput
from sequor.core.recipe import PhotoFacts, Reading, Recipe

_STEPS = 40
# k2 is taken to be determined when its standard deviation is below this; else it stays at zero.
_K2_DETERMINED = 0.012
_K1_DETERMINED = 0.05
_LEAST_SLOPE = 0.05
_NOTHING = 1e-12


@dataclass(frozen=True)
class Bow:
    """The bow of a lens on a picture of some size.

    Attributes
    ----------
    polynomial : (float, float, float, float)
        c1 to c4, for radii in units of half the diagonal.
    centre : (float, float)
        Principal point in source pixels.
    unit_px : float
        Half the diagonal in pixels.
    """

    polynomial: tuple[float, float, float, float]
    centre: tuple[float, float]
    unit_px: float

    @classmethod
    def of(cls, photo: PhotoFacts, polynomial: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)) -> "Bow":
        """The bow of a lens whose axis meets the middle of a picture."""
        return cls(polynomial, (photo.width / 2, photo.height / 2), math.hypot(photo.width, photo.height) / 2)

    def scaled(self, scale: float) -> "Bow":
        """The same bow for a picture of ``scale`` times the size."""
        return Bow(self.polynomial, (self.centre[0] * scale, self.centre[1] * scale), self.unit_px * scale)

    @property
    def straight(self) -> bool:
        """Whether there is no bow at all."""
        return not any(self.polynomial)

    @cached_property
    def fold(self) -> float:
        """The radius, in units of half the diagonal, from which on the picture would fold over; infinite where it never does."""
        c1, c2, c3, c4 = (c if abs(c) > _NOTHING else 0.0 for c in self.polynomial)
        # The slope of r_d must stay positive: the radial part of the map's Jacobian.
        roots = np.roots([5 * c4, 4 * c3, 3 * c2, 2 * c1, 1.0]) if any((c1, c2, c3, c4)) else np.zeros(0)
        real = [float(root.real) for root in roots if abs(root.imag) < 1e-9 and root.real > 0]
        return min(real, default=math.inf)

    def distorted(self, points: Matrix) -> Matrix:
        """Where points of the straight picture, shape (N, 2), lie in the picture as shot; NaN beyond the fold."""
        away = (np.asarray(points, dtype=float) - self.centre) / self.unit_px
        radius = np.hypot(away[:, 0], away[:, 1])
        stretch = np.where(radius < self.fold, self._stretch(radius), np.nan)
        bent: Matrix = away * stretch[:, None] * self.unit_px + self.centre
        return bent

    def undistorted(self, points: Matrix) -> Matrix:
        """Where points of the picture as shot, shape (N, 2), lie in the straight picture: the inverse, by Newton's method."""
        points = np.asarray(points, dtype=float)
        if self.straight:
            return points
        away = (points - self.centre) / self.unit_px
        bent = np.hypot(away[:, 0], away[:, 1])
        radius = np.minimum(bent, self.fold * 0.9)
        for _ in range(_STEPS):
            step = (radius * self._stretch(radius) - bent) / np.maximum(self._slope(radius), _LEAST_SLOPE / 10)
            # Never past the fold, beyond which another branch begins.
            radius = np.clip(radius - step, radius / 2, (radius + self.fold) / 2 if math.isfinite(self.fold) else radius * 2 + 1)
            if np.abs(step).max(initial=0) < 1e-14:
                break
        share = np.divide(radius, bent, out=np.ones_like(bent), where=bent > 0)
        straight: Matrix = away * share[:, None] * self.unit_px + self.centre
        return straight

    def corner_slope(self) -> float:
        """How fast r_d still grows where it reaches the corners of the picture; 0 where the picture folds over before them."""
        low, high = 0.0, min(self.fold, 4.0)
        if high * float(self._stretch(np.array(high))) < 1:
            return 0.0
        for _ in range(60):
            middle = (low + high) / 2
            low, high = (low, middle) if middle * float(self._stretch(np.array(middle))) >= 1 else (middle, high)
        return float(self._slope(np.array(high)))

    def check(self) -> None:
        """Refuse a bow that folds the picture over, or nearly does, within its corners."""
        if not self.straight and self.corner_slope() < _LEAST_SLOPE:
            k2 = self.polynomial[3]
            raise UnusableInput(
                f"This bow folds the picture over before its corners: with k2 = {k2:g} the limit for k1 is {limit_k1(k2):.3f}. "
                "The bow before it is kept."
            )

    def _slope(self, radius: Matrix) -> Matrix:
        c1, c2, c3, c4 = self.polynomial
        slope: Matrix = 1 + radius * (2 * c1 + radius * (3 * c2 + radius * (4 * c3 + radius * 5 * c4)))
        return slope

    def _stretch(self, radius: Matrix) -> Matrix:
        c1, c2, c3, c4 = self.polynomial
        stretch: Matrix = 1 + radius * (c1 + radius * (c2 + radius * (c3 + radius * c4)))
        return stretch


def limit_k1(k2: float) -> float:
    """The most negative k1 that, with a k2, does not fold the picture over before its corners; by bisection."""
    low, high = -2.0, 2.0
    for _ in range(40):
        middle = (low + high) / 2
        folds = Bow((0.0, middle, 0.0, k2), (0.0, 0.0), 1.0).corner_slope() < _LEAST_SLOPE
        low, high = (middle, high) if folds else (low, middle)
    return high


def radial(k1: float, k2: float) -> tuple[float, float, float, float]:
    """The polynomial of Brown's model with two coefficients."""
    return (0.0, k1, 0.0, k2)


def sag_px(points: Matrix) -> float:
    """How far points, shape (N, 2), lie from the straight line between the first and the last, at most, in their unit."""
    chord = points[-1] - points[0]
    length = math.hypot(*chord)
    away = points - points[0]
    return float(np.abs(away[:, 0] * chord[1] - away[:, 1] * chord[0]).max() / length) if length else 0.0


@dataclass(frozen=True)
class Traced:
    """The bow that makes traces straight.

    ``sigma`` are the standard deviations of k1 and k2, None for one that the traces do not
    determine, which then is zero.
    """

    k1: float
    k2: float
    sigma: tuple[float | None, float | None]


@lru_cache(maxsize=64)
def from_traces(photo: PhotoFacts, traces: tuple[Reading, ...]) -> Traced:
    """k1 and k2 that make every trace straight: the plumb-line method.

    The squares of the distances of all straightened points from the line through their trace, in units
    of their standard deviations, are made least by Gauss-Newton steps. Sources: Brown, "Close-range
    camera calibration", 1971; Devernay & Faugeras, "Straight lines have to be straight", 2001.
    """
    both = _straightest(photo, traces, 2)
    if both and both[1][1] < _K2_DETERMINED:
        return Traced(both[0][0], both[0][1], (both[1][0], both[1][1]))
    one = _straightest(photo, traces, 1)
    if one and one[1][0] < _K1_DETERMINED:
        return Traced(one[0][0], 0.0, (one[1][0], None))
    return Traced(0.0, 0.0, (None, None))


def bow_of(photo: PhotoFacts, recipe: Recipe) -> tuple[Bow, Traced | None]:
    """The bow that a recipe asks for, and what the traces say when they decide it; refuses one that folds the picture over."""
    chosen, traced = recipe.bow, None
    polynomial = radial(0.0, 0.0)
    if chosen.source == "hand":
        polynomial = radial(chosen.k1, chosen.k2)
    elif chosen.source == "database":
        polynomial = chosen.polynomial
    elif chosen.source == "traces":
        traces = tuple(reading for reading in recipe.readings if reading.kind == "trace" and reading.active)
        if traces:
            traced = from_traces(PhotoFacts(width=photo.width, height=photo.height), traces)
            polynomial = radial(traced.k1, traced.k2)
    bow = Bow.of(photo, polynomial)
    bow.check()
    return bow, traced


def _straightest(photo: PhotoFacts, traces: tuple[Reading, ...], count: int) -> tuple[list[float], list[float]] | None:
    """The first ``count`` of k1 and k2 with their deviations, or None where they cannot be found."""
    points = np.concatenate([np.array(trace.points) for trace in traces])
    sigma = np.concatenate([np.full(len(trace.points), trace.sigma_px / math.sqrt(trace.weight)) for trace in traces])
    borders = np.cumsum([len(trace.points) for trace in traces])[:-1]

    def distances(values: Matrix) -> Matrix:
        k1, k2 = (*values, 0.0)[:2]
        straight = Bow.of(photo, radial(float(k1), float(k2))).undistorted(points)
        off = []
        for part in np.split(straight, borders):
            centred = part - part.mean(axis=0)
            _, directions = np.linalg.eigh(centred.T @ centred)
            # The sign of a direction is arbitrary; the way along the trace settles it, so that differences can be taken.
            along = directions[:, 1] * (1 if float(directions[:, 1] @ (part[-1] - part[0])) >= 0 else -1)
            normal = np.array([-along[1], along[0]])
            off.append(centred @ normal)
        result: Matrix = np.concatenate(off) / sigma
        return result

    spare = len(points) - 2 * len(traces) - count
    if spare < 0:
        return None
    values = np.zeros(count)
    here = distances(values)
    for _ in range(30):
        slopes = np.column_stack([(distances(values + step) - distances(values - step)) / 2e-5 for step in np.eye(count) * 1e-5])
        square = slopes.T @ slopes
        # As weak as can be: half the picture's size of bow.
        square_kept = square + np.eye(count) * 4.0
        step = -np.linalg.solve(square_kept, slopes.T @ here + 4.0 * values)
        for _ in range(12):
            trial = distances(values + step)
            if trial @ trial <= here @ here + 1e-12:
                break
            step = step / 2
        values, here = values + step, distances(values + step)
        if np.abs(step).max() < 1e-9:
            break
    scatter = max(1.0, float(here @ here) / spare) if spare > 0 and here @ here > chdtri(spare, 0.05) else 1.0
    covariance = np.linalg.inv(square_kept) * scatter
    return [float(v) for v in values], [math.sqrt(float(v)) for v in np.diagonal(covariance)]
