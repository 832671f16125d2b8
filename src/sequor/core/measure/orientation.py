"""From readings to the stance: one solver for every number of readings.

With intrinsics K and the corrective rotation R, everything plumb meets in the
vanishing point ``K R^T e_y`` of the picture as shot, everything level (along the
front that is set square) in ``K R^T e_x`` (Hartley & Zisserman, *Multiple View
Geometry*, 2nd ed., section 8.6). A reading's residual is the angle at its middle between
its own direction and that of its vanishing point, in units of its standard
deviation. In the picture as shot that deviation is known, whatever the warp; and
where the residual is zero the corrected reading is true.

Roll, lean and swing follow by Levenberg-Marquardt steps. Weak priors keep lean and
swing at zero where the readings do not determine them, and fade out where they
do. All sub-sets of readings that are needed to judge single readings are solved
at the same time, as rows of one array.
"""

import math
from dataclasses import dataclass
from itertools import combinations
from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy.special import chdtri

from sequor.core.camera import Matrix, Stance, focal_px_of
from sequor.core.measure.readings import sigma_rad, tilt_rad
from sequor.core.recipe import AXES, Hold, PhotoFacts, Reading

PRIOR_SIGMA_DEG = {"lean": 5.0, "swing": 2.5}
"""Degrees that a camera may point off level and off square before readings are asked: they decide
only what the readings leave open (see docs/how-it-works.md, weak priors)."""
DISAGREE_SIGMAS = 3.0
"""A reading off by more of its deviations is no chance: one in 370 of normal errors."""
DISAGREE_DEG = 0.1
"""Less than this is not seen, however sure it is (common practice, no published source)."""
ESTIMABLE_FOCAL = 0.15
"""A focal length is offered when its relative standard deviation is below this."""

_MODEL_SIGMA_RAD = math.radians(0.01)
"""Even the best reading is no truer than the edge it was taken from."""
_PRIOR_SIGMA_RAD = np.radians([PRIOR_SIGMA_DEG[axis] for axis in AXES[1:]])
_FADE_FROM, _FADE_TO = 10.0, 100.0
"""Where the data are better than a prior by these factors (in variance), it begins to fade and is
gone."""
_DETERMINED = 0.5
"""An axis is measured when its deviation is below this share of what was known before."""
_CLEARLY = 9.0
"""One explanation is clearly better than another when its chi-square is less by this much (99.7 %,
one degree of freedom)."""
_MAX_PAIRS_OF = 10
"""Readings up to which every pair is left out once (45 sub-sets); of more, fours are sampled."""
_SAMPLES = 80
"""Fours that are sampled: with a third of the readings wrong one in five holds none of them, and to
find no such one among 80 has a chance of 2e-8."""
_STEPS = 30
"""Steps of the descent at most, so that no start runs for ever."""
_ROUGH_RAD, _TIGHT_RAD = 1e-5, 1e-11
"""A descent ends at steps this small: to compare starts, and for the result (its rounding)."""


@dataclass(frozen=True)
class FocalEstimate:
    """A focal length in pixels with its standard deviation, and whether all readings agree when
    it is taken.
    """

    focal_px: float
    sigma_px: float
    agrees: bool


@dataclass(frozen=True)
class Measured:
    """What the readings say together. Arrays run over the readings that were given.

    Attributes
    ----------
    stance : Stance
        Measured, or held where an axis is held.
    sigma_rad : (float, float, float)
        Standard deviations of roll, lean and swing; 0 where the axis is not measured.
    determined : (bool, bool, bool)
        Whether the readings determine the axis. What they do not is taken as zero.
    outliers : frozenset of int
        Readings that do not fit the others.
    suspects : tuple of int
        Readings each of which, if left out, makes all others agree; one: it is the odd one
        out; several: the readings contradict each other and cannot say which is right.
    off_rad : ndarray, shape (N,)
        By how much every reading is off what all others say.
    without : ndarray, shape (N, 3)
        Roll, lean and swing without each reading.
    without_determined : ndarray of bool, shape (N, 3)
        Which of them are still determined then.
    focal : FocalEstimate or None
        What the readings say of the focal length, where they determine it.
    """

    stance: Stance
    sigma_rad: tuple[float, float, float]
    determined: tuple[bool, bool, bool]
    outliers: frozenset[int]
    suspects: tuple[int, ...]
    off_rad: Matrix
    without: Matrix
    without_determined: NDArray[np.bool_]
    focal: FocalEstimate | None


def measure_stance(
    photo: PhotoFacts,
    readings: tuple[Reading, ...],
    focal35_mm: float,
    hold: Hold,
    focal_known: bool = True,
) -> Measured:
    """Find roll, lean and swing from readings, all of which steer.

    Parameters
    ----------
    photo : PhotoFacts
        For the size of the picture.
    readings : tuple of Reading
        Level and plumb ones; any number, none included.
    focal35_mm : float
        Focal length in 35-mm terms.
    hold : Hold
        Axes that stay at a value.
    focal_known : bool
        Whether the focal length is more than an assumption.
    """
    held = (hold.roll_deg, hold.lean_deg, hold.swing_deg)
    free = np.array([value is None for value in held])
    start = np.radians([value or 0.0 for value in held])
    sights = _Sights(photo, readings, focal_px_of(focal35_mm, photo), free)
    count = len(readings)
    # Row 0 takes all readings, row i + 1 all but reading i.
    masks = np.vstack([np.ones((1, count)), 1 - np.eye(count)])
    found = sights.solve(masks, sights.starts(masks, start))
    agrees = sights.agree(found, masks)
    weights = np.ones((1, count))
    best = found[:1]
    focal = sights.focal_length(best) if free.all() and count >= 4 else None
    # A focal length that is only assumed may be what is wrong, and no reading.
    explained = not focal_known and focal is not None and focal.agrees
    suspects = () if agrees[0] or explained else sights.likeliest(found[1:], masks[1:], agrees[1:])
    if not agrees[0] and not explained and len(suspects) < 2:
        weights, best = sights.without_outliers(found, start)
    residual = sights.residuals(best)[0]
    outliers = (
        frozenset()
        if explained
        else frozenset(int(i) for i in np.flatnonzero(sights.disagree(residual)))
    )
    sigma, determined = sights.deviations(
        best, weights, scatter=np.ones((1, count)) if len(suspects) > 1 else weights
    )
    return Measured(
        stance=Stance(*(float(angle) for angle in best[0])),
        sigma_rad=(float(sigma[0, 0]), float(sigma[0, 1]), float(sigma[0, 2])),
        determined=(bool(determined[0, 0]), bool(determined[0, 1]), bool(determined[0, 2])),
        outliers=outliers,
        suspects=suspects,
        off_rad=np.diagonal(sights.residuals(found[1:])) if count else np.zeros(0),
        without=found[1:],
        without_determined=sights.determined(found[1:], masks[1:]),
        focal=focal,
    )


class _Sights:
    """Readings as arrays, about the principal point.

    Rows of every argument are trials, columns are readings.
    """

    def __init__(
        self,
        photo: PhotoFacts,
        readings: tuple[Reading, ...],
        focal_px: float,
        free: NDArray[np.bool_],
    ) -> None:
        ends = np.array([reading.points for reading in readings], dtype=float).reshape(-1, 2, 2) - [
            photo.width / 2,
            photo.height / 2,
        ]
        self.middle = ends.mean(axis=1)
        along = ends[:, 1] - ends[:, 0]
        self.along = along / np.hypot(along[:, 0], along[:, 1])[:, None]
        self.plumb = np.array([reading.direction == "plumb" for reading in readings], dtype=bool)
        self.tilt = np.array([tilt_rad(reading) for reading in readings])
        self.sigma = np.array(
            [math.hypot(sigma_rad(reading), _MODEL_SIGMA_RAD) for reading in readings]
        )
        self.weight = np.array([reading.weight for reading in readings])
        self.focal = focal_px
        self.free = free

    def starts(self, masks: Matrix, held: Matrix) -> Matrix:
        """Where to begin: the roll that the undirected angles have on average, and nothing else,
        shape (B, 3).
        """
        rows = np.repeat(held[None, :], len(masks), axis=0)
        if self.free[0]:
            counted = masks * self.weight / self.sigma**2
            # Angles are doubled, so that a line and the same line drawn backwards agree (Mardia &
            # Jupp, section 1.3).
            rows[:, 0] = -0.5 * np.arctan2(
                counted @ np.sin(2 * self.tilt), counted @ np.cos(2 * self.tilt)
            )
        return rows

    def residuals(self, stances: Matrix) -> Matrix:
        """Angles from the vanishing points' directions in radians, shape (B, N)."""
        return self._angles(stances, np.full(len(stances), self.focal))[0]

    def disagree(self, residual: Matrix) -> NDArray[np.bool_]:
        """Which residuals are more than chance, and large enough to see."""
        large: NDArray[np.bool_] = np.abs(residual) > np.maximum(
            DISAGREE_SIGMAS * self.sigma, math.radians(DISAGREE_DEG)
        )
        return large

    def agree(self, stances: Matrix, masks: Matrix) -> NDArray[np.bool_]:
        """Whether the readings that a row takes agree with its stance, shape (B,)."""
        odd: NDArray[np.bool_] = np.logical_and(self.disagree(self.residuals(stances)), masks > 0)
        fit: NDArray[np.bool_] = np.logical_not(np.any(odd, axis=1))
        return fit

    def likeliest(
        self, without: Matrix, masks: Matrix, agrees: NDArray[np.bool_]
    ) -> tuple[int, ...]:
        """Of the readings without which the others agree.

        Those without which they agree clearly best, and with the least lean and swing.
        """
        cost = (masks * (self.residuals(without) / self.sigma) ** 2).sum(axis=1) + self.strangeness(
            without
        )
        return tuple(
            int(i)
            for i in np.flatnonzero(agrees & (cost < cost[agrees].min(initial=math.inf) + _CLEARLY))
        )

    def strangeness(self, stances: Matrix) -> Matrix:
        """How far lean and swing are from what a camera usually has, as a chi-square, shape
        (B,).
        """
        far: Matrix = ((stances[:, 1:] / (2 * _PRIOR_SIGMA_RAD)) ** 2).sum(axis=1)
        return far

    def solve(self, weights: Matrix, starts: Matrix) -> Matrix:
        """The stance for every row of weights, shape (B, 3)."""
        prior = np.zeros((len(starts), 3, 3))
        prior[:, 1, 1], prior[:, 2, 2] = _PRIOR_SIGMA_RAD**-2
        free = np.repeat(self.free[None, :], len(starts), axis=0)
        stances = self._descend(weights, starts, prior, free, _ROUGH_RAD)
        stances = self._descend(
            weights,
            stances,
            self._faded_prior(self._information(stances, weights)),
            free,
            _ROUGH_RAD,
        )
        # What is not measured is not guessed: it goes to zero, and the rest is found anew.
        measured = self.determined(stances, weights)
        stances = np.where(free & ~measured, 0.0, stances)
        return self._descend(
            weights,
            stances,
            self._faded_prior(self._information(stances, weights)),
            measured,
            _TIGHT_RAD,
        )

    def without_outliers(self, found: Matrix, held: Matrix) -> tuple[Matrix, Matrix]:
        """Weights that leave out what does not fit, shape (1, N), and the stance with them, shape
        (1, 3).

        The start is the best of many sub-sets by a cost that does not grow beyond the precision
        (Torr & Zisserman, "MLESAC", 2000).
        """
        masks = _subsets(len(self.sigma))
        tried = (
            np.vstack([found, self.solve(masks, self.starts(masks, held))]) if len(masks) else found
        )
        z = np.abs(self.residuals(tried)) / self.sigma
        cost = (self.weight * np.minimum(z, DISAGREE_SIGMAS) ** 2).sum(axis=1) + self.strangeness(
            tried
        )
        stance = tried[[int(np.argmin(cost))]]
        weights = np.ones((1, len(self.sigma)))
        for _ in range(20):
            z = np.abs(self.residuals(stance)) / self.sigma
            weights = np.minimum(1.0, (DISAGREE_SIGMAS / np.maximum(z, 1e-9)) ** 2) ** 2
            before, stance = stance, self.solve(weights, stance)
            if np.abs(stance - before).max() < 1e-10:
                break
        return weights, stance

    def determined(self, stances: Matrix, weights: Matrix) -> NDArray[np.bool_]:
        """Which free axes the readings measure, shape (B, 3): the roll always.

        Lean and swing where they say clearly more than the prior.
        """
        data = self._information(stances, weights)
        known: NDArray[np.bool_] = self.free & np.any(weights > 0, axis=1, keepdims=True)
        known[:, 1:] &= (
            _roots(data + self._faded_prior(data), known)[:, 1:] < _DETERMINED * _PRIOR_SIGMA_RAD
        )
        return known

    def deviations(
        self, stances: Matrix, weights: Matrix, scatter: Matrix
    ) -> tuple[Matrix, NDArray[np.bool_]]:
        """Standard deviations of the axes, shape (B, 3), 0 where not measured, and which are
        measured.

        Readings that scatter more than their precision explains, by the chi-square test at 95 %
        over those in ``scatter``, widen the deviations.
        """
        data = self._information(stances, weights)
        determined = self.determined(stances, weights)
        total = (scatter * (self.residuals(stances) / self.sigma) ** 2).sum(axis=1)
        spare = (scatter > 0.5).sum(axis=1) - determined.sum(axis=1)
        least = np.maximum(spare, 1)
        widened = np.where((spare > 0) & (total > chdtri(least, 0.05)), np.sqrt(total / least), 1.0)
        return _roots(data + self._faded_prior(data), determined) * widened[:, None], determined

    def focal_length(self, stance: Matrix) -> FocalEstimate | None:
        """The focal length, if the readings determine it.

        Two finite vanishing points at right angles.
        """
        values = np.append(stance[0], math.log(self.focal))[None, :]
        counted = (np.sqrt(self.weight) / self.sigma)[None, :]
        for _ in range(_STEPS):
            residual, slopes = self._angles(values[:, :3], np.exp(values[:, 3]))
            design, off = slopes[0] * counted.T, residual[0] * counted[0]
            square = design.T @ design
            step = -np.linalg.solve(
                square + np.diag(1e-9 * np.diagonal(square) + 1e-9), design.T @ off
            )
            values = values + np.clip(step, -0.3, 0.3)
            if np.abs(step).max() < 1e-7:
                break
        else:
            return None
        # It is the readings' own scatter that says how far they can be trusted.
        spare = len(self.sigma) - 4
        scatter = max(1.0, float(off @ off) / spare) if spare > 0 else 1.0
        relative = math.sqrt(float(np.linalg.pinv(square, hermitian=True)[3, 3]) * scatter)
        focal = math.exp(float(values[0, 3]))
        if not 0 < relative < ESTIMABLE_FOCAL:
            return None
        return FocalEstimate(focal, focal * relative, not self.disagree(residual[0]).any())

    def _descend(
        self,
        weights: Matrix,
        stances: Matrix,
        prior: Matrix,
        free: NDArray[np.bool_],
        tight_rad: float,
    ) -> Matrix:
        """Levenberg-Marquardt for every row, each moving its free axes."""
        counted = np.ascontiguousarray(
            np.broadcast_to(weights * self.weight / self.sigma**2, (len(stances), len(self.sigma)))
        )
        sights = self.middle, self.along, self.plumb
        found: Matrix = _descended(
            np.ascontiguousarray(stances[:, :3]),
            counted,
            prior,
            free,
            self.focal,
            *sights,
            tight_rad,
        )
        return found

    def _information(self, stances: Matrix, weights: Matrix) -> Matrix:
        """What the readings know, without priors: inverse covariance, shape (B, 3, 3)."""
        slopes = self._angles(stances, np.full(len(stances), self.focal))[1][:, :, :3]
        counted = weights * self.weight / self.sigma**2
        information: Matrix = (slopes * counted[:, :, None]).transpose(0, 2, 1) @ slopes
        return information

    def _faded_prior(self, data: Matrix) -> Matrix:
        """The priors on lean and swing, less where the data say more, shape (B, 3, 3)."""
        known = data[:, 1:, 1:].copy()
        if self.free[0]:
            roll = np.maximum(data[:, 0, 0], 1e-30)[:, None, None]
            known -= data[:, 1:, :1] @ data[:, :1, 1:] / roll
        scaled = known * np.outer(_PRIOR_SIGMA_RAD, _PRIOR_SIGMA_RAD)
        for axis in (0, 1):
            if not self.free[axis + 1]:
                scaled[:, axis, :] = scaled[:, :, axis] = 0.0
        better, directions = np.linalg.eigh(scaled)
        gone = np.clip(
            np.log(np.maximum(better, 1) / _FADE_FROM) / math.log(_FADE_TO / _FADE_FROM), 0, 1
        )
        share = 1 - gone**2 * (3 - 2 * gone)
        faded = (directions * share[:, None, :]) @ directions.transpose(0, 2, 1)
        prior = np.zeros_like(data)
        prior[:, 1:, 1:] = faded / np.outer(_PRIOR_SIGMA_RAD, _PRIOR_SIGMA_RAD)
        return prior

    def _angles(self, stances: Matrix, focal: Matrix) -> tuple[Matrix, Matrix]:
        """Residuals in radians, shape (B, N), and their slopes, shape (B, N, 4).

        The slopes are those by roll, lean, swing and log focal length.
        """
        residual = np.empty((len(stances), len(self.sigma)))
        slopes = np.empty((*residual.shape, 4))
        _angles_between(
            np.ascontiguousarray(stances[:, :3]),
            focal,
            self.middle,
            self.along,
            self.plumb,
            residual,
            slopes,
        )
        return residual, slopes


@nb.njit(cache=True, error_model="numpy")
def _descended(
    starts: Any,
    counted: Any,
    prior: Any,
    free: Any,
    focal: float,
    middles: Any,
    along: Any,
    plumb: Any,
    tight_rad: float,
) -> Any:
    """The stances, shape (B, 3), that cost least, by Levenberg-Marquardt from every start (rows).

    The cost is that of the weighted residuals and of the prior.
    """
    found, focals, count = starts.copy(), np.array([focal]), len(middles)
    residual, slopes = np.empty((1, count)), np.empty((1, count, 4))
    residual_there, slopes_there = np.empty((1, count)), np.empty((1, count, 4))
    damped, downhill = np.empty((3, 3)), np.empty(3)
    for b in range(len(starts)):
        at = found[b : b + 1]
        _angles_between(at, focals, middles, along, plumb, residual, slopes)
        cost = _cost(residual[0], counted[b], at[0], prior[b])
        damping = 1e-4
        for _ in range(_STEPS):
            _normal_equations(
                damped, downhill, counted[b], prior[b], free[b], at[0], residual[0], slopes[0]
            )
            least = 1e-9 * (max(damped[0, 0], damped[1, 1], damped[2, 2]) + 1)
            for i in range(3):
                damped[i, i] += damping * damped[i, i] + least + (0.0 if free[b, i] else 1.0)
            step = -np.linalg.solve(damped, downhill)
            trial = at + step
            _angles_between(trial, focals, middles, along, plumb, residual_there, slopes_there)
            cost_there = _cost(residual_there[0], counted[b], trial[0], prior[b])
            if cost_there <= cost:
                at[:], residual[:], slopes[:], cost = (
                    trial,
                    residual_there,
                    slopes_there,
                    cost_there,
                )
                damping *= 0.1
            else:
                damping *= 10
            if np.abs(step).max() < tight_rad:
                break
    return found


@nb.njit(cache=True, error_model="numpy")
def _normal_equations(
    curvature: Any,
    downhill: Any,
    counted: Any,
    prior: Any,
    free: Any,
    at: Any,
    residual: Any,
    slopes: Any,
) -> None:
    """Fill in the Gauss-Newton curvature, shape (3, 3), and the slope of the cost, shape (3,)."""
    count = len(residual)
    for i in range(3):
        downhill[i] = 0.0
        for j in range(3):
            curvature[i, j] = 0.0
            if free[i] and free[j]:
                curvature[i, j] = prior[i, j]
                for n in range(count):
                    curvature[i, j] += counted[n] * slopes[n, i] * slopes[n, j]
            if free[i]:
                downhill[i] += prior[i, j] * at[j]
        if free[i]:
            for n in range(count):
                downhill[i] += counted[n] * slopes[n, i] * residual[n]


@nb.njit(cache=True, error_model="numpy")
def _cost(residual: Any, counted: Any, at: Any, prior: Any) -> float:
    """The weighted squares of the residuals and what the prior says of a stance."""
    total = 0.0
    for n in range(len(residual)):
        total += counted[n] * residual[n] ** 2
    for i in range(3):
        for j in range(3):
            total += at[i] * prior[i, j] * at[j]
    return total


@nb.njit(cache=True, error_model="numpy")
def _angles_between(
    stances: Any, focal: Any, middles: Any, along: Any, plumb: Any, residual: Any, slopes: Any
) -> None:
    """Fill the residuals and slopes of every stance (rows) and reading (columns)."""
    # The vanishing direction R^T e_y or R^T e_x with its derivatives: rows value, by roll, by lean,
    # by swing.
    upright, across = np.empty((4, 3)), np.empty((4, 3))
    for b in range(len(stances)):
        sz, cz = math.sin(stances[b, 0]), math.cos(stances[b, 0])
        sx, cx = math.sin(stances[b, 1]), math.cos(stances[b, 1])
        sy, cy = math.sin(stances[b, 2]), math.cos(stances[b, 2])
        upright[0, 0], upright[0, 1], upright[0, 2] = sz * cx, cz * cx, -sx
        upright[1, 0], upright[1, 1], upright[1, 2] = cz * cx, -sz * cx, 0.0
        upright[2, 0], upright[2, 1], upright[2, 2] = -sz * sx, -cz * sx, -cx
        upright[3, 0], upright[3, 1], upright[3, 2] = 0.0, 0.0, 0.0
        across[0, 0], across[0, 1], across[0, 2] = (
            cy * cz + sy * sx * sz,
            -cy * sz + sy * sx * cz,
            sy * cx,
        )
        across[1, 0], across[1, 1], across[1, 2] = (
            -cy * sz + sy * sx * cz,
            -cy * cz - sy * sx * sz,
            0.0,
        )
        across[2, 0], across[2, 1], across[2, 2] = sy * cx * sz, sy * cx * cz, -sy * sx
        across[3, 0], across[3, 1], across[3, 2] = (
            -sy * cz + cy * sx * sz,
            sy * sz + cy * sx * cz,
            cy * cx,
        )
        f = focal[b]
        for n in range(len(middles)):
            point = upright if plumb[n] else across
            # From the reading's middle towards the vanishing point.
            tx = f * point[0, 0] - point[0, 2] * middles[n, 0]
            ty = f * point[0, 1] - point[0, 2] * middles[n, 1]
            ax, ay = along[n, 0], along[n, 1]
            angle = math.atan2(tx * ay - ty * ax, tx * ax + ty * ay)
            residual[b, n] = angle - math.pi * np.round(angle / math.pi)
            square = max(tx * tx + ty * ty, 1e-12)
            for axis in range(3):
                dx = f * point[axis + 1, 0] - point[axis + 1, 2] * middles[n, 0]
                dy = f * point[axis + 1, 1] - point[axis + 1, 2] * middles[n, 1]
                slopes[b, n, axis] = (ty * dx - tx * dy) / square
            slopes[b, n, 3] = f * (ty * point[0, 0] - tx * point[0, 1]) / square


def _subsets(count: int) -> Matrix:
    """Sub-sets of readings, shape (B, N), from which an agreeing one may start.

    All without two, or of many readings fours drawn at random.
    """
    if count <= _MAX_PAIRS_OF:
        left_out = list(combinations(range(count), 2)) if count > 3 else []
        masks = np.ones((len(left_out), count))
        for row, pair in enumerate(left_out):
            masks[row, pair] = 0
        return masks
    random = np.random.default_rng(count)
    some = np.zeros((_SAMPLES, count))
    for sample in some:
        sample[random.choice(count, 4, replace=False)] = 1
    return some


def _roots(information: Matrix, chosen: NDArray[np.bool_]) -> Matrix:
    """Standard deviations of the chosen axes, the others being fixed at their values and 0 here,
    shape (B, 3).
    """
    both = chosen[:, :, None] & chosen[:, None, :]
    inverted = np.linalg.inv(
        np.where(both, information, 0.0) + np.eye(3) * np.where(chosen, 1e-9, 1.0)[:, None, :]
    )
    roots: Matrix = np.where(chosen, np.sqrt(np.maximum(np.einsum("bii->bi", inverted), 0)), 0.0)
    return roots
