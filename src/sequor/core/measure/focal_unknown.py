"""What an unknown focal length leaves open in the stance.

A focal length that is only assumed is one more unknown, with a prior. The stance is solved for
over that prior, at some focal lengths, each of which counts for what the readings say of it; and
the deviations that are stated are those of which 1.96 hold 95 % of the mixture about the stance
that is taken out: what is told is marginal over the focal length (numerical quadrature; the
mixture is that of Bayes' rule with the readings' likelihood at each).
"""

import math
from dataclasses import replace

import numpy as np
from scipy.special import ndtr

from sequor.core.bisection import greatest
from sequor.core.camera import Matrix
from sequor.core.measure.trials import Trials

LOG_SIGMA = 0.52
"""Root mean square of the logarithm of a focal length beside the assumed one, for lenses from 18 to
85 mm alike (the range is common practice, no published source)."""
_STEPS = np.arange(-2.4, 2.41, 0.8)
"""Where it is solved for, in deviations of the logarithm: further out lies 2 % of the prior."""
_COVERED, _SIGMAS = 0.95, 1.96


def widened(
    trials: Trials, weights: Matrix, found: Matrix, sigma: Matrix, scatter: float
) -> Matrix:
    """Deviations of roll, lean and swing with what the focal length leaves open, shape (3,).

    Parameters
    ----------
    trials : Trials
        At the assumed focal length.
    weights : ndarray, shape (1, N)
        Weights of the readings.
    found : ndarray, shape (1, 4)
        The unknowns at the assumed focal length.
    sigma : ndarray, shape (3,)
        Deviations there; 0 for what is held, which stays so.
    scatter : float
        By how much the readings scatter more than they should, as a factor of the variance.
    """
    middle = len(_STEPS) // 2
    stances, misfits = np.empty((len(_STEPS), 3)), np.empty(len(_STEPS))
    for side in (range(middle, len(_STEPS)), range(middle - 1, -1, -1)):
        solved = found
        for place in side:  # each from the one beside it
            focal = trials.sights.focal * math.exp(LOG_SIGMA * _STEPS[place])
            there = replace(trials, sights=trials.sights.with_changed(focal=focal))
            solved = there.solve_from(weights, solved) if place != middle else found
            z = there.sights.residuals(solved)[0] / there.sights.sigma
            misfits[place] = (weights[0, there.sights.of] * z**2).sum() / scatter
            stances[place] = solved[0, :3]
    loss = (misfits + _STEPS**2) / 2
    share = np.exp(loss.min() - loss)
    share /= share.sum()
    off = stances - found[0, :3]
    off[:, 0] -= np.pi * np.round(off[:, 0] / np.pi)  # a line has no direction
    # The same pixels are fewer degrees of lean and swing for a longer lens.
    longer = np.exp(LOG_SIGMA * _STEPS)[:, None] ** [0, 1, 1]
    return np.array(
        [_deviation(off[:, axis], share, sigma[axis] * longer[:, axis]) for axis in range(3)]
    )


def _deviation(off: Matrix, share: Matrix, sigmas: Matrix) -> float:
    """The deviation of which 1.96 hold 95 % of a mixture of normal distributions."""
    sigma = float(sigmas[len(sigmas) // 2])
    if sigma <= 0:
        return sigma

    def holds_less(trial: float) -> bool:
        most = _SIGMAS * trial
        within = ndtr((most - off) / sigmas) - ndtr((-most - off) / sigmas)
        return bool(share @ within < _COVERED)

    return greatest(holds_less, sigma, float(sigmas.max() + np.abs(off).max()))
