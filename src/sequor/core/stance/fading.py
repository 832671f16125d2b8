"""What a camera usually does fades where readings tell: the prior of lean and swing, weaker in each
direction the more is known there.
"""

import math
from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.stance.sights import LEAN, ROLL, SHARED, SWING

_FADE_FROM, _FADE_TO = 0.65, 2.6
"""Where the readings know a direction better than the prior by these factors (in variance), it
begins to fade and is gone."""


def faded(
    data: Matrix,
    prior: Matrix,
    usual: NDArray[np.float64],
    free: NDArray[np.bool_],
    strength: float,
) -> Matrix:
    """The prior where readings know less than it.

    Parameters
    ----------
    data : ndarray, shape (B, 4, 4)
        What the readings know of roll, lean, swing and what is shared, as information.
    prior : ndarray, shape (4, 4)
        Inverse covariance of what is usual.
    usual : ndarray, shape (2,)
        Deviations of lean and swing that are usual, in radians.
    free : ndarray of bool, shape (4,)
        What is not held.
    strength : float
        The share of the prior at its full strength.

    Returns
    -------
    ndarray, shape (B, 4, 4)
    """
    found = np.repeat(prior[None], len(data), axis=0)
    _fade(np.ascontiguousarray(data), prior, usual, free, strength, found)
    return found


@nb.njit(cache=True, error_model="numpy")
def _fade(data: Any, prior: Any, usual: Any, free: Any, strength: float, found: Any) -> None:
    at_once = 1e-9 if free[ROLL] else 1e30
    for b in range(len(data)):
        one = data[b]
        # What they know of lean and swing, whatever the roll and what is shared: by elimination.
        roll, both = one[ROLL, ROLL] + at_once, one[ROLL, SHARED]
        shared = one[SHARED, SHARED] + prior[SHARED, SHARED] + at_once - both * both / roll
        lean = one[LEAN, SHARED] - one[LEAN, ROLL] * both / roll
        swing = one[SWING, SHARED] - one[SWING, ROLL] * both / roll
        a = one[LEAN, LEAN] - one[LEAN, ROLL] ** 2 / roll - lean * lean / shared
        c = one[SWING, SWING] - one[SWING, ROLL] ** 2 / roll - swing * swing / shared
        d = one[LEAN, SWING] - one[LEAN, ROLL] * one[SWING, ROLL] / roll - lean * swing / shared
        a, c = a * usual[0] * usual[0] * free[LEAN], c * usual[1] * usual[1] * free[SWING]
        d = d * usual[0] * usual[1] * free[LEAN] * free[SWING]
        # The two directions in which the most and the least is known.
        angle = 0.5 * math.atan2(2 * d, a - c)
        away = math.hypot((a - c) / 2, d)
        most, least = _left((a + c) / 2 + away), _left((a + c) / 2 - away)
        cos, sin = math.cos(angle), math.sin(angle)
        found[b, LEAN, LEAN] = (most * cos * cos + least * sin * sin) / usual[0] ** 2
        found[b, SWING, SWING] = (most * sin * sin + least * cos * cos) / usual[1] ** 2
        across = (most - least) * cos * sin / (usual[0] * usual[1])
        found[b, LEAN, SWING] = found[b, SWING, LEAN] = across
        for i in range(LEAN, SWING + 1):
            for j in range(LEAN, SWING + 1):
                found[b, i, j] *= strength


@nb.njit(cache=True, error_model="numpy")
def _left(known: float) -> float:
    """The share of the prior that is left where so much is known of a direction, in its units."""
    gone = math.log(max(known, _FADE_FROM) / _FADE_FROM) / math.log(_FADE_TO / _FADE_FROM)
    gone = min(max(gone, 0.0), 1.0)
    return 1 - gone**2 * (3 - 2 * gone)
