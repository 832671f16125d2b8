"""The stance that explains most segments, and how likely each belongs to what is plumb or level.

A mixture: every segment is plumb, or level along one of some walls, or neither. Directions and
shares are estimated in turn (Dempster, Laird & Rubin, "Maximum likelihood from incomplete data via
the EM algorithm", 1977); each kind has a scatter of its own, since trees are less plumb than walls.
"""

import math
from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Matrix
from sequor.core.propose.search import USUAL_DEG
from sequor.core.propose.segments import Segments
from sequor.core.stance.sights import LEVEL, PLUMB, off_directions

_TIGHTENED, _ROUNDS = 10, 16
"""Rounds in which the scatter is made smaller whatever it is, so that a loose crowd does not hide a
tight one; then it is that of the members."""
_FIRST_RAD, _TIGHT_RAD = np.radians([0.8, 0.05])
"""The scatter in the first of those rounds and in the last (set by hand; no trial is recorded)."""
_LEAST_RAD, _MOST_RAD = np.radians([0.02, 0.3])
"""Scatter of a kind about its direction, besides that of the ends: its bounds."""
_TIGHTER = (_TIGHT_RAD / _FIRST_RAD) ** (1 / (_TIGHTENED - 1))
"""Factor from one of them to the next."""
_LEAST_MEMBERS = 1.5
"""A wall with less evidence is none."""
_SAME_RAD = math.radians(12.0)
"""Walls nearer to each other in direction are one."""
_STEPS = 2
"""Steps of the fit in each round; the rounds go on anyway."""


@dataclass(frozen=True)
class Belonging:
    """Directions in the world, and what segments belong to them.

    Attributes
    ----------
    roll_rad, lean_rad : float
        Of the camera.
    walls_rad : tuple of float
        The swing that faces each wall, the wall with most first.
    plumb : ndarray, shape (N,)
        The probability that a segment is plumb.
    level : ndarray, shape (N, W)
        The same along each wall.
    scatter_rad : ndarray, shape (1 + W,)
        How far plumb lines, and those along walls, scatter about their direction, beyond the least.
    likelihood : float
        The logarithm of how much likelier the segments are than without any direction.
    """

    roll_rad: float
    lean_rad: float
    walls_rad: tuple[float, ...]
    plumb: Matrix
    level: Matrix
    scatter_rad: Matrix
    likelihood: float


def refined(
    segments: Segments, focal_px: float, start: tuple[float, float, list[float]]
) -> Belonging:
    """The mixture that explains the segments best, from a start."""
    at = np.array([start[0], start[1], *start[2]])
    scatter = np.full(len(at) - 1, _FIRST_RAD)
    shares = np.full(len(at), 1 / len(at))
    prior = np.array([*np.radians(USUAL_DEG) ** -2, *np.zeros(len(at) - 2)])
    for turn in range(_ROUNDS):
        off = _off(segments, focal_px, at)
        sigma = np.hypot(segments.sigma_rad[:, None], scatter)
        belongs, _ = _belongs(off, sigma, shares, segments)
        weights = belongs * segments.counts[:, None] / sigma**2
        for _ in range(_STEPS):
            at = _stepped(segments, focal_px, at, weights, prior)
        off = _off(segments, focal_px, at)
        if turn < _TIGHTENED:
            scatter = np.maximum(scatter * _TIGHTER, _TIGHT_RAD)
        else:
            counted = belongs * segments.counts[:, None]
            spare = (counted * (off**2 - segments.sigma_rad[:, None] ** 2)).sum(axis=0)
            asked = np.maximum(0.0, spare / np.maximum(counted.sum(axis=0), 0.5))
            scatter = np.clip(np.sqrt(asked), _LEAST_RAD, _MOST_RAD)
        shares = np.append(belongs.sum(axis=0), segments.count - belongs.sum()) + 1.0
        shares /= shares.sum()
        keep = _kept(at, belongs * segments.counts[:, None])
        if not keep.all():
            at = at[np.append([True, True], keep)]
            prior, scatter = prior[: len(at)], scatter[np.append([True], keep)]
            shares = np.append(shares[:-1][np.append([True], keep)], shares[-1])
            shares /= shares.sum()
    off = _off(segments, focal_px, at)
    sigma = np.hypot(segments.sigma_rad[:, None], scatter)
    belongs, likelihood = _belongs(off, sigma, shares, segments)
    order = np.argsort(-(belongs[:, 1:] * segments.length[:, None]).sum(axis=0), kind="stable")
    return Belonging(
        roll_rad=float(at[0]),
        lean_rad=float(at[1]),
        walls_rad=tuple(_half_turn(float(at[2 + wall])) for wall in order),
        plumb=belongs[:, 0],
        level=belongs[:, 1 + order],
        scatter_rad=np.sqrt(
            np.maximum(scatter[np.append([0], 1 + order)] ** 2 - _LEAST_RAD**2, 0.0)
        ),
        likelihood=likelihood - 0.5 * float(prior @ at**2),
    )


def _off(segments: Segments, focal_px: float, at: Matrix) -> Matrix:
    """Angles between the segments and the directions at their middles, shape (N, 1 + W)."""
    return _off_and_slopes(segments, focal_px, at)[0]


def _off_and_slopes(segments: Segments, focal_px: float, at: Matrix) -> tuple[Matrix, Matrix]:
    """The same with slopes by roll, lean and the wall's own direction, shape (N, 1 + W, 3)."""
    walls = np.column_stack([np.tile(at[:2], (len(at) - 2, 1)), at[2:]])
    plumb = off_directions(segments.middle, segments.along, focal_px, PLUMB, at[None, :3])
    level = off_directions(segments.middle, segments.along, focal_px, LEVEL, walls)
    off, slopes = (np.concatenate(both).swapaxes(0, 1) for both in zip(plumb, level, strict=True))
    return off, slopes


def _belongs(
    off: Matrix, sigma: Matrix, shares: Matrix, segments: Segments
) -> tuple[Matrix, float]:
    """Probabilities that segments belong to each direction, and how likely all is."""
    known = shares[:-1] * np.exp(-0.5 * (off / sigma) ** 2) / (math.sqrt(2 * math.pi) * sigma)
    total = known.sum(axis=1) + shares[-1] * segments.usual
    belongs: Matrix = known / total[:, None]
    return belongs, float(segments.counts @ np.log(total / segments.usual))


def _stepped(
    segments: Segments, focal_px: float, at: Matrix, weights: Matrix, prior: Matrix
) -> Matrix:
    """The directions after a Gauss-Newton step."""
    off, slopes = _off_and_slopes(segments, focal_px, at)
    weighted = slopes * weights[..., None]
    curvature = np.diag(prior + 1e-6)
    downhill = prior * at
    curvature[:2, :2] += np.einsum("nki,nkj->ij", weighted[..., :2], slopes[..., :2])
    downhill[:2] += np.einsum("nki,nk->i", weighted[..., :2], off)
    # Only the lines along a wall know its direction.
    wall = weighted[:, 1:, 2]
    shared = np.einsum("nk,nki->ki", wall, slopes[:, 1:, :2])
    curvature[2:, :2] += shared
    curvature[:2, 2:] += shared.T
    curvature[2:, 2:] += np.diag((wall * slopes[:, 1:, 2]).sum(axis=0))
    downhill[2:] += (wall * off[:, 1:]).sum(axis=0)
    step = np.clip(np.linalg.solve(curvature, downhill), -0.05, 0.05)
    stepped: Matrix = at - step
    return stepped


def _kept(at: Matrix, belongs: Matrix) -> Matrix:
    """Which walls have members, and are not another one once more."""
    keep: Matrix = belongs[:, 1:].sum(axis=0) >= _LEAST_MEMBERS
    for one in range(len(keep)):
        for other in range(one):
            apart = abs(_half_turn(float(at[2 + one] - at[2 + other])))
            if keep[one] and keep[other] and apart < _SAME_RAD:
                keep[one] = False
    return keep


def _half_turn(angle: float) -> float:
    """The same direction between -90 and 90 degrees."""
    return angle - math.pi * round(angle / math.pi)
