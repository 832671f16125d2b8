"""The stance by the closed form: vertical and level direction as the directions that lie nearest to
all planes through the camera and the readings.

Exact where the readings are, and a start for the descent where they are not. Source: Hartley &
Zisserman, *Multiple View Geometry*, 2nd ed., sections 8.6 and 5.3 (least-squares solution of
homogeneous equations).
"""

import numpy as np

from sequor.core.camera import Matrix
from sequor.core.stance.sights import EYE_HEIGHT, EYE_TILT, LEVEL, PLUMB, Sights


def closed_form(sights: Sights, weights: Matrix, otherwise: Matrix) -> Matrix:
    """Roll, lean and swing for every row of weights, shape (B, 3).

    Two plumb lines or a horizon give the vertical, and level lines their direction at right angles
    to it; else two level lines give theirs, and a plumb one the vertical at right angles to that.
    Where there are fewer, it is ``otherwise``.
    """
    normals, what = sights.normals(), sights.what
    counted = weights[:, sights.of]
    moment = normals[:, :, None] * normals[:, None, :]
    plumb = np.einsum("bm,mij->bij", counted * (what == PLUMB), moment)
    level = np.einsum("bm,mij->bij", counted * (what == LEVEL), moment)
    plumbs, levels, horizons = (
        (weights[:, sights.known(kind)] > 0).sum(axis=1) for kind in (PLUMB, LEVEL, EYE_HEIGHT)
    )
    # A horizon's plane is itself at right angles to the vertical.
    seen = np.eye(3) - moment
    plumb = plumb + np.einsum("bm,mij->bij", counted * (what == EYE_TILT), seen)
    found = otherwise.copy()
    upright = (plumbs >= 2) | (horizons >= 1)
    flat = ~upright & (levels >= 2)
    down = _nearest(plumb)
    down[down[:, 1] < 0] *= -1
    across = np.column_stack([down[:, 1], -down[:, 0], np.zeros(len(down))])
    first = _stances(_within(level, down, across), down)
    found[upright] = first[upright]
    across = _nearest(level)
    across[across[:, 0] < 0] *= -1
    down = np.column_stack([-across[:, 1], across[:, 0], np.zeros(len(across))])
    second = _stances(across, _within(plumb, across, down))
    found[flat] = second[flat]
    return np.where(np.isfinite(found), found, otherwise)


def _nearest(moment: Matrix) -> Matrix:
    """The unit vectors at right angles to most of what made the moments, shape (B, 3)."""
    vectors: Matrix = np.linalg.eigh(moment)[1][:, :, 0].copy()
    return vectors


def _within(moment: Matrix, axis: Matrix, usual: Matrix) -> Matrix:
    """The same among those at right angles to ``axis``; ``usual`` where nothing tells them apart.

    ``usual`` need not be of unit length, but at right angles to ``axis``.
    """
    length = np.linalg.norm(usual, axis=1, keepdims=True)
    # A vertical that points at the camera has no usual level direction: not a number, then.
    one = np.divide(usual, length, out=np.full_like(usual, np.nan), where=length > 0)
    other = np.cross(axis, one)
    basis = np.stack([one, other], axis=2)
    inner = basis.transpose(0, 2, 1) @ moment @ basis
    angle = 0.5 * np.arctan2(2 * inner[:, 0, 1], inner[:, 0, 0] - inner[:, 1, 1]) + np.pi / 2
    angle = np.where(np.abs(inner).sum(axis=(1, 2)) > 1e-12, angle, 0.0)
    # The half-turn of it that is nearer to the usual one.
    angle = angle - np.pi * np.round(angle / np.pi)
    turned: Matrix = one * np.cos(angle)[:, None] + other * np.sin(angle)[:, None]
    return turned


def _stances(across: Matrix, down: Matrix) -> Matrix:
    """Roll, lean and swing, shape (B, 3), of rotations by their first two rows."""
    forward = np.cross(across, down)
    roll = np.arctan2(down[:, 0], down[:, 1])
    lean = np.arcsin(np.clip(-down[:, 2], -1, 1))
    swing = np.arctan2(across[:, 2], forward[:, 2])
    return np.column_stack([roll, lean, swing])
