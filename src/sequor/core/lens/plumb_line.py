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
_DIFFERENCE = 1e-5
"""Step of the central differences: the cube root of double precision, in units of k1."""
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
    points = np.concatenate([np.array(trace.points) for trace in traces])
    spare = len(points) - 2 * len(traces) - count
    if spare < 0:
        return None

    def distances(values: Matrix) -> Matrix:
        return _distances(photo, traces, points, values)

    values = np.zeros(count)
    here = distances(values)
    for _ in range(_STEPS):
        steps = np.eye(count) * _DIFFERENCE
        differences = [distances(values + step) - distances(values - step) for step in steps]
        slopes = np.column_stack(differences) / (2 * _DIFFERENCE)
        square = slopes.T @ slopes + np.eye(count) * _PRIOR
        step = -np.linalg.solve(square, slopes.T @ here + _PRIOR * values)
        for _ in range(_HALVINGS):
            trial = distances(values + step)
            if trial @ trial <= here @ here + 1e-12:
                break
            step = step / 2
        values, here = values + step, distances(values + step)
        if np.abs(step).max() < _SETTLED:
            break
    total = float(here @ here)
    # Points that scatter more than their precision explains (chi-square test, 95 %) widen it.
    scatter = max(1.0, total / spare) if spare > 0 and total > chdtri(spare, 0.05) else 1.0
    covariance = np.linalg.inv(square) * scatter
    return [float(v) for v in values], [math.sqrt(float(v)) for v in np.diagonal(covariance)]


def _distances(
    photo: PhotoFacts, traces: tuple[Reading, ...], points: Matrix, values: Matrix
) -> Matrix:
    """Distances of all undistorted points from the line through their trace, in deviations."""
    k1, k2 = (*values, 0.0)[:2]
    straight = RadialDistortion.of(photo, radial(float(k1), float(k2))).undistorted(points)
    borders = np.cumsum([len(trace.points) for trace in traces])[:-1]
    off = []
    for trace, part in zip(traces, np.split(straight, borders), strict=True):
        centred = part - part.mean(axis=0)
        along = np.linalg.eigh(centred.T @ centred)[1][:, 1]
        # The sign of a direction is arbitrary; the way along the trace settles it, so that
        # differences can be taken.
        along = along * (1 if float(along @ (part[-1] - part[0])) >= 0 else -1)
        normal = np.array([-along[1], along[0]])
        off.append(centred @ normal / (trace.sigma_px / math.sqrt(trace.weight)))
    result: Matrix = np.concatenate(off)
    return result
