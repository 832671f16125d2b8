"""The stance by the closed form: vertical and level direction as the directions that lie nearest to
all planes through the camera and the readings.

Exact where the readings are, and a start for the descent where they are not. Source: Hartley &
Zisserman, *Multiple View Geometry*, 2nd ed., sections 8.6 and 5.3 (least-squares solution of
homogeneous equations).
"""

import math
from typing import Any

import numba as nb
import numpy as np

from sequor.core.camera import Matrix
from sequor.core.stance.sights import EYE_HEIGHT, EYE_TILT, LEVEL, PLUMB, Sights

_NOTHING = 1e-12
"""Moments smaller than that tell no direction."""


def closed_form(sights: Sights, weights: Matrix, otherwise: Matrix) -> Matrix:
    """Roll, lean and swing for every row of weights, shape (B, 3).

    Two plumb lines or a horizon give the vertical, and level lines their direction at right angles
    to it; else two level lines give theirs, and a plumb one the vertical at right angles to that.
    Where there are fewer, it is ``otherwise``.
    """
    # No reading has two rows of one kind.
    plumbs, levels, horizons = (
        (weights[:, sights.of[sights.what == kind]] > 0).sum(axis=1)
        for kind in (PLUMB, LEVEL, EYE_HEIGHT)
    )
    upright = (plumbs >= _ENOUGH) | (horizons >= 1)
    flat = ~upright & (levels >= _ENOUGH)
    found = otherwise.copy()
    _closed(sights.normals(), sights.what, weights[:, sights.of], upright, flat, found)
    return np.where(np.isfinite(found), found, otherwise)


_ENOUGH = 2
"""Lines that meet in a direction."""


@nb.njit(cache=True, error_model="numpy")
def _closed(normals: Any, what: Any, counted: Any, upright: Any, flat: Any, found: Any) -> None:
    """Fill the rows of ``found`` that two lines or a horizon tell; not numbers where the direction
    lies so that one of the angles is none.
    """
    for b in range(len(found)):
        if not (upright[b] or flat[b]):
            continue
        plumb, level = np.zeros((3, 3)), np.zeros((3, 3))
        _gather(normals, what, counted[b], plumb, level)
        if upright[b]:
            down = _nearest(plumb)
            if down[1] < 0:
                down = -down
            across = _within(level, down, np.array([down[1], -down[0], 0.0]))
        else:
            across = _nearest(level)
            if across[0] < 0:
                across = -across
            down = _within(plumb, across, np.array([-across[1], across[0], 0.0]))
        forward = across[0] * down[1] - across[1] * down[0]
        found[b, 0] = math.atan2(down[0], down[1])
        found[b, 1] = math.asin(min(max(-down[2], -1.0), 1.0))
        found[b, 2] = math.atan2(across[2], forward)


@nb.njit(cache=True, error_model="numpy")
def _gather(normals: Any, what: Any, counted: Any, plumb: Any, level: Any) -> None:
    """Add up the moments of what is plumb and of what is level."""
    for m in range(len(what)):
        normal, weight = normals[m], counted[m]
        for i in range(3):
            for j in range(3):
                part = weight * normal[i] * normal[j]
                if what[m] == PLUMB:
                    plumb[i, j] += part
                elif what[m] == LEVEL:
                    level[i, j] += part
                elif what[m] == EYE_TILT:
                    # A horizon's plane is itself at right angles to the vertical.
                    plumb[i, j] += (weight if i == j else 0.0) - part


@nb.njit(cache=True, error_model="numpy")
def _nearest(moment: Any) -> Any:
    """The unit vector at right angles to most of what made a moment."""
    return np.linalg.eigh(moment)[1][:, 0].copy()


@nb.njit(cache=True, error_model="numpy")
def _within(moment: Any, axis: Any, usual: Any) -> Any:
    """The same among those at right angles to ``axis``; ``usual`` where nothing tells them apart.

    ``usual`` need not be of unit length, but at right angles to ``axis``. A vertical that points at
    the camera has no usual level direction: not a number, then.
    """
    one = usual / math.sqrt(usual[0] ** 2 + usual[1] ** 2 + usual[2] ** 2)
    other = np.array(
        [
            axis[1] * one[2] - axis[2] * one[1],
            axis[2] * one[0] - axis[0] * one[2],
            axis[0] * one[1] - axis[1] * one[0],
        ]
    )
    first, both, second = 0.0, 0.0, 0.0
    for i in range(3):
        for j in range(3):
            first += one[i] * moment[i, j] * one[j]
            both += one[i] * moment[i, j] * other[j]
            second += other[i] * moment[i, j] * other[j]
    angle = 0.0
    if abs(first) + 2 * abs(both) + abs(second) > _NOTHING:
        angle = 0.5 * math.atan2(2 * both, first - second) + math.pi / 2
    # The half-turn of it that is nearer to the usual one.
    angle -= math.pi * round(angle / math.pi)
    return one * math.cos(angle) + other * math.sin(angle)
