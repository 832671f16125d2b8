"""How likely explanations of the same readings are: all of them right, or one of them wrong.

The evidence of an explanation is what remains of its likelihood and its prior when the stance is
integrated out (Laplace's approximation; MacKay, *Information Theory, Inference, and Learning
Algorithms*, 2003, section 28.1). A reading that says what the others say already is cheap to
believe; one that is taken out costs how seldom a reading is wrong, and how little a wrong one
predicts. How a camera stands has a distribution with the tails that photographs have (Student's),
so that one of 75 degrees is evidence against a reading.
"""

import math

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.stance.sights import LEAN, ROLL, SWING, Sights

_STANDS_RAD = np.radians([3.0, 8.0, 12.0])
"""Scales of the roll, lean and swing of photographs (common practice, no published source)."""
_FREEDOM = 4.0
"""Degrees of freedom of that distribution: one in sixty leans by more than 4 times the scale."""
_HARDLY_RAD = np.radians([30.0, 40.0])
"""A lean and a swing that hardly any camera has: one in fifty or thirty, by that distribution."""
_WRONG = 0.1
"""Share of readings that are wrong (common practice, no published source)."""
_WRONG_RAD, _GROSS = math.radians(10.0), 0.1
"""A wrong one is off by any angle up to this either way; but for this share, which may be off by
any angle at all."""


def log_evidence(
    sights: Sights,
    found: Matrix,
    masks: Matrix,
    free: NDArray[np.bool_],
    shared_rad: float,
) -> Matrix:
    """The logarithm of the evidence of some explanations, up to what they all share, shape (B,).

    Parameters
    ----------
    found : ndarray, shape (B, 4)
        The unknowns by each.
    masks : ndarray, shape (B, N)
        1 for readings that it takes for right, 0 for those that it takes for wrong.
    free : ndarray of bool, shape (4,)
        Unknowns that are not held.
    shared_rad : float
        Deviation of what all levels share.
    """
    rows = masks[:, sights.of]
    z = sights.residuals(found) / sights.sigma
    right = -0.5 * z**2 - np.log(sights.sigma * math.sqrt(2 * math.pi)) + math.log(1 - _WRONG)
    near = np.abs(z * sights.sigma) <= _WRONG_RAD
    wrong = _WRONG * (_GROSS / np.pi + np.where(near, (1 - _GROSS) / (2 * _WRONG_RAD), 0.0))
    told = np.where(rows > 0, right, np.log(wrong)).sum(axis=1)
    prior, curvature = _prior(found)
    information = sights.information(found, masks)
    information[:, range(3), range(3)] += curvature
    information[:, 3, 3] += shared_rad**-2
    both = np.outer(free, free)
    information = np.where(both, information, np.eye(4))
    volume = -0.5 * np.linalg.slogdet(information)[1]
    shared = -0.5 * (found[:, 3] / shared_rad) ** 2
    evidence: Matrix = told + (prior * free[:3]).sum(axis=1) + shared + volume
    return evidence


def is_usual(found: Matrix) -> NDArray[np.bool_]:
    """Whether cameras lean and swing so, shape (B, 2)."""
    usual: NDArray[np.bool_] = np.abs(found[:, [LEAN, SWING]]) < _HARDLY_RAD
    return usual


def log_prior(found: Matrix, free: NDArray[np.bool_]) -> Matrix:
    """The logarithm of how often cameras stand so, shape (B,), of what is not held."""
    common: Matrix = (_prior(found)[0] * free[:3]).sum(axis=1)
    return common


def _prior(found: Matrix) -> tuple[Matrix, Matrix]:
    """The logarithm of how often cameras have each angle, and the curvature of that, both of shape
    (B, 3); a picture on its side is a matter of how the camera was held.
    """
    angles = found[:, [ROLL, LEAN, SWING]].copy()
    angles[:, 0] -= np.pi / 2 * np.round(angles[:, 0] / (np.pi / 2))
    scales = _STANDS_RAD
    far = (angles / scales) ** 2
    log = -(_FREEDOM + 1) / 2 * np.log1p(far / _FREEDOM)
    return log, (_FREEDOM + 1) / (_FREEDOM + far) / scales**2
