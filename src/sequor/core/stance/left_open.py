"""What is left open in the stance: by a focal length that is only assumed, by a swing that plumb
and level lines together do not tell.

Each is one more unknown, with a prior. The stance is solved for over that prior, at some values,
each of which counts for what the readings say of it; and the deviations that are stated are those
of which 1.96 hold 95 % of the mixture about the stance that is taken out: what is told is marginal
over what is open (numerical quadrature; the mixture is that of Bayes' rule with the readings'
likelihood at each).
"""

import math
from dataclasses import replace
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from sequor.core.bisection import greatest
from sequor.core.camera import ASSUMED_FOCAL35_MM, Matrix, Stance
from sequor.core.stance.sights import LEAN, LEVEL, PLUMB, SHARED, SWING
from sequor.core.stance.trials import Judged, Trials

_USUAL_MM, _BEYOND = (18.0, 85.0), 0.15
"""Lenses between these are as usual as each other, in the logarithm (common practice, no published
source); beyond them less so by this deviation."""
LIKELY_MM = (24.0, 70.0)
"""Most pictures are taken with focal lengths between these (common practice, no published
source)."""
_FOCALS = np.sort([*np.arange(-1.2, 1.21, 0.3), *np.log(np.array(LIKELY_MM) / ASSUMED_FOCAL35_MM)])
"""Logarithms beside the assumed focal length at which it is solved for."""
_SWINGS = np.arange(-2.4, 2.41, 0.2)
"""The same of the swing, finer: a level line is tilted by it from one to the next."""
_CURVED = 1.5
"""The linear deviations stand unless those of the mixture are larger by this factor: then lean and
swing, multiplied, tilt a level line by more than any slope tells."""
_LEVEL_SHARE = 0.5
"""Share of cameras that stand level and square (common practice, no published source)."""
_COVERED, SIGMAS = 0.95, 1.96
"""The share of a mixture that lies within so many of the deviations that are stated for it: those
of a normal distribution."""
_TIGHT_RAD = 1e-9
"""A descent ends at steps this small."""


class _Mixture(NamedTuple):
    """Stances, shape (K, 3), their losses beside the least, shape (K,), in the logarithm, and the
    deviations of each, shape (K, 3).
    """

    stances: Matrix
    losses: Matrix
    sigmas: Matrix

    def about(self, stance: Matrix, sigma: Matrix) -> Matrix:
        """Deviations about a stance, shape (3,), of the axes that have one."""
        share = np.exp(self.losses.min() - self.losses)
        share /= share.sum()
        off = self.stances - stance
        off[:, 0] -= np.pi * np.round(off[:, 0] / np.pi)  # a line has no direction
        return np.array(
            [
                _deviation(off[:, axis], share, self.sigmas[:, axis], float(sigma[axis]))
                for axis in range(3)
            ]
        )


def widened(
    trials: Trials,
    judged: Judged,
    sigma: Matrix,
    determined: NDArray[np.bool_],
    focal_known: bool,
) -> tuple[Matrix, tuple[Stance, Stance] | None]:
    """Deviations of roll, lean and swing with what is left open, shape (3,); and the stances for a
    short and a long lens, `LIKELY_MM`, where the focal length is open.

    Parameters
    ----------
    trials : Trials
        At the focal length of the file, or the assumed one.
    judged : Judged
        The unknowns, and the weights of the readings.
    sigma : ndarray, shape (3,)
        Deviations there; 0 for what is held, which stays so.
    determined : ndarray of bool, shape (3,)
        Which axes the readings measure.
    focal_known : bool
        Whether the focal length is more than an assumption.
    """
    stance = judged.best[0, :3]
    if trials.free[SWING] and not determined[SWING] and _kinds(trials, judged) == {PLUMB, LEVEL}:
        swung = _over_swings(trials, judged, sigma, bool(determined[LEAN])).about(stance, sigma)
        # What is not measured is not told, and its own deviation stays the linear one.
        sigma = np.where(determined & (swung > _CURVED * sigma), swung, sigma)
    if focal_known or not trials.sights.count:
        return sigma, None
    over = _over_focals(trials, judged, sigma)
    places = np.searchsorted(_FOCALS, np.log(np.array(LIKELY_MM) / ASSUMED_FOCAL35_MM))
    short, long = (Stance(*over.stances[place].tolist()) for place in places)
    return over.about(stance, sigma), (short, long)


def _kinds(trials: Trials, judged: Judged) -> set[int]:
    counted = judged.weights[0, trials.sights.of] > 0
    return {int(what) for what in trials.sights.what[counted]}


def _over_swings(trials: Trials, judged: Judged, sigma: Matrix, lean_told: bool) -> _Mixture:
    """What roll and lean are for swings that a camera may have; the last is a camera that stands
    level and square, as many do, where no lean is told.
    """
    swings = np.append(_SWINGS * trials.usual_rad[SWING], 0.0)
    count = len(swings)
    starts = np.repeat(judged.best, count, axis=0)
    starts[:, SWING], starts[:, SHARED] = swings, 0.0
    prior = np.zeros((count, 4, 4))
    prior[:, LEAN, LEAN] = trials.may_be_rad[LEAN] ** -2
    free = np.repeat(trials.free[None], count, axis=0)
    free[:, [SWING, SHARED]] = False
    common = np.log(np.exp(-(_SWINGS**2) / 2).sum()) + _SWINGS**2 / 2
    common = np.append(common - math.log(1 - _LEVEL_SHARE), math.inf)
    if trials.free[LEAN] and not lean_told:
        starts[-1, LEAN], free[-1, LEAN], prior[-1] = 0.0, False, 0.0
        common[:-1] += math.log(trials.may_be_rad[LEAN])
        common[-1] = -math.log(_LEVEL_SHARE)
    weights = np.repeat(judged.weights, count, axis=0)
    found, cost = trials.sights.descend(weights, starts, prior, free, _TIGHT_RAD)
    information = trials.sights.information(found, weights) + prior
    information = np.where(free[:, :, None] & free[:, None, :], information, np.eye(4))
    sigmas = np.sqrt(np.diagonal(np.linalg.inv(information), axis1=1, axis2=2))[:, :3]
    losses = common + (cost + np.linalg.slogdet(information)[1]) / 2
    return _Mixture(found[:, :3], losses, np.where(sigma > 0, sigmas, 0.0))


def _over_focals(trials: Trials, judged: Judged, sigma: Matrix) -> _Mixture:
    """What the stance is for focal lengths that a lens may have."""
    found, weights = judged.best, judged.weights
    scatter = trials.scatter(judged)
    middle = int(np.argmin(np.abs(_FOCALS)))
    stances, misfits = np.empty((len(_FOCALS), 3)), np.empty(len(_FOCALS))
    for side in (range(middle, len(_FOCALS)), range(middle - 1, -1, -1)):
        solved = found
        for place in side:  # each from the one beside it
            focal = trials.sights.focal * math.exp(_FOCALS[place])
            there = replace(trials, sights=trials.sights.with_changed(focal=focal))
            solved = there.solve_from(weights, solved) if place != middle else found
            z = there.sights.residuals(solved)[0] / there.sights.sigma
            misfits[place] = (weights[0, there.sights.of] * z**2).sum() / scatter
            stances[place] = solved[0, :3]
    # The same pixels are fewer degrees of lean and swing for a longer lens.
    longer = np.exp(_FOCALS)[:, None] ** [0, 1, 1]
    lenses = math.log(ASSUMED_FOCAL35_MM) + _FOCALS
    short, long = np.log(_USUAL_MM)
    beyond = np.maximum(0.0, np.maximum(short - lenses, lenses - long)) / _BEYOND
    losses = (misfits + beyond**2) / 2 - np.log(np.gradient(_FOCALS))
    return _Mixture(stances, losses, sigma * longer)


def _deviation(off: Matrix, share: Matrix, sigmas: Matrix, sigma: float) -> float:
    """The deviation of which 1.96 hold 95 % of a mixture of normal distributions; no less than
    ``sigma``.
    """
    if sigma <= 0:
        return sigma

    def holds_less(trial: float) -> bool:
        most = SIGMAS * trial
        within = scipy.special.ndtr((most - off) / sigmas) - scipy.special.ndtr(
            (-most - off) / sigmas
        )
        return bool(share @ within < _COVERED)

    return greatest(holds_less, sigma, float(sigmas.max() + np.abs(off).max() + sigma))
