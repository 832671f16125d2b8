"""The plumb-line method: the radial distortion that makes traces of straight things straight.

Sources: Brown, "Close-range camera calibration", 1971; Devernay & Faugeras, "Straight lines have
to be straight", 2001.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.special import chdtri

from sequor.core.camera import Matrix
from sequor.core.lens.distortion import RadialDistortion, radial
from sequor.core.recipe import PhotoFacts, Reading

K1_DETERMINED, K2_DETERMINED = 0.05, 0.012
"""k1 and k2 are taken to be determined when their standard deviations are below these. An error of
k1 by 0.05 moves a corner by 5 % of half the diagonal, one of k2 that is left out by 1 %."""
_PRIOR = 4.0
"""Inverse variance of a prior at zero: a deviation of half of half the diagonal, as weak as can be;
it only keeps the steps finite where traces say nothing."""
_LEAST_SLOPE = 0.05
"""Nearer to the fold, where ``r_d`` grows no more, a radius would seem to grow without bounds."""
_STEPS, _HALVINGS, _SETTLED = 30, 12, 1e-9
"""Steps of the descent and halvings of one at most, so that it ends; it has settled when no
coefficient moves by more than the last."""


@dataclass(frozen=True)
class Traced:
    """The distortion that makes traces straight.

    ``sigma`` are the standard deviations of k1 and k2, None for one that the traces do not
    determine, which then is zero.
    """

    k1: float
    k2: float
    sigma: tuple[float | None, float | None]


@lru_cache(maxsize=64)
def from_traces(photo: PhotoFacts, traces: tuple[Reading, ...]) -> Traced:
    """k1 and k2 that make every trace straight.

    The squares of the distances of all undistorted points from the line through their trace, in
    units of their standard deviations, are made least by Gauss-Newton steps.
    """
    both = _straightest(photo, traces, 2)
    if both and both[1][1] < K2_DETERMINED:
        return Traced(both[0][0], both[0][1], (both[1][0], both[1][1]))
    one = _straightest(photo, traces, 1)
    if one and one[1][0] < K1_DETERMINED:
        return Traced(one[0][0], 0.0, (one[1][0], None))
    return Traced(0.0, 0.0, (None, None))


def _straightest(
    photo: PhotoFacts, traces: tuple[Reading, ...], count: int
) -> tuple[list[float], list[float]] | None:
    """The first ``count`` of k1 and k2 with their deviations; None where they cannot be found."""
    spare = sum(len(trace.points) for trace in traces) - 2 * len(traces) - count
    if spare < 0:
        return None

    traced = _Traces(photo, traces)
    values = np.zeros(count)
    here, slopes = traced.distances(values)
    for _ in range(_STEPS):
        square = slopes.T @ slopes + np.eye(count) * _PRIOR
        step = -np.linalg.solve(square, slopes.T @ here + _PRIOR * values)
        for _ in range(_HALVINGS):
            trial, at_trial = traced.distances(values + step)
            if trial @ trial <= here @ here + 1e-12:
                break
            step = step / 2
        else:
            break  # no step of any length is better
        values, here, slopes = values + step, trial, at_trial
        if np.abs(step).max() < _SETTLED:
            break
    total = float(here @ here)
    # Points that scatter more than their precision explains (chi-square test, 95 %) widen it.
    scatter = max(1.0, total / spare) if spare > 0 and total > chdtri(spare, 0.05) else 1.0
    covariance = np.linalg.inv(square) * scatter
    return [float(v) for v in values], [math.sqrt(float(v)) for v in np.diagonal(covariance)]


class _Traces:
    """The points of all traces, and how far they lie from straight lines, all at once."""

    def __init__(self, photo: PhotoFacts, traces: tuple[Reading, ...]) -> None:
        self._photo = photo
        self._points = np.concatenate([np.array(trace.points) for trace in traces])
        counts = np.array([len(trace.points) for trace in traces])
        self._first, self._counts = np.cumsum(counts) - counts, counts
        self._of = np.repeat(np.arange(len(traces)), counts)
        deviations = [trace.sigma_px / math.sqrt(trace.weight) for trace in traces]
        self._deviation = np.array(deviations)[self._of]

    def distances(self, values: Matrix) -> tuple[Matrix, Matrix]:
        """Distances of all undistorted points from the line through their trace, in deviations,
        and how each grows with each coefficient.

        1. Undistort the points. From ``r_d = r (1 + k1 r^2 + k2 r^4)`` a radius grows with k1 by
           ``-r^3``, with k2 by ``-r^5``, over ``d r_d / d r``.
        2. Lay a line of total least squares through every trace, along the larger eigenvector of
           its scatter. That turns with the points: the eigenvector ``a`` moves along the normal
           ``n`` by ``n' dC a / (l1 - l2)`` (a perturbation of a symmetric matrix).
        3. The distances along the normals, and their growth, follow.
        """
        k1, k2 = (*values, 0.0)[:2]
        lens = RadialDistortion.of(self._photo, radial(float(k1), float(k2)))
        straight = lens.undistorted(self._points)
        away = (straight - lens.centre) / lens.unit_px
        radius = np.hypot(away[:, 0], away[:, 1])
        slope = np.maximum(np.abs(lens.slope(radius)), _LEAST_SLOPE)
        centred = self._centred(straight)
        scatter = self._summed(centred[:, :, None] * centred[:, None, :])
        lengths, directions = np.linalg.eigh(scatter)
        along = directions[:, :, 1][self._of]
        normal = np.column_stack([-along[:, 1], along[:, 0]])
        over, beside = _dots(centred, normal), _dots(centred, along)
        spread = np.maximum(lengths[:, 1] - lengths[:, 0], np.finfo(float).tiny)
        grown = []
        for power in (2, 4)[: len(values)]:
            moved = self._centred(away * (-(radius**power) / slope * lens.unit_px)[:, None])
            off = _dots(moved, normal)
            turned = self._summed(off * beside + over * _dots(moved, along)) / spread
            grown.append((off - turned[self._of] * beside) / self._deviation)
        return over / self._deviation, np.column_stack(grown)

    def _summed(self, each: Matrix) -> Matrix:
        sums: Matrix = np.add.reduceat(each, self._first, axis=0)
        return sums

    def _centred(self, each: Matrix) -> Matrix:
        means = self._summed(each) / self._counts[:, None]
        centred: Matrix = each - means[self._of]
        return centred


def _dots(one: Matrix, other: Matrix) -> Matrix:
    """The inner products of vectors, shape (N, 2), one by one."""
    products: Matrix = one[:, 0] * other[:, 0] + one[:, 1] * other[:, 1]
    return products
