"""Readings as arrays: by how much each is off a stance, and how that changes with it.

With intrinsics K and the corrective rotation R, everything plumb meets in the vanishing point
``K R^T e_y`` of the picture as shot, everything level along one front in ``K R^T e_x``, and eye
level is the line ``K^-T R^T e_y`` (Hartley & Zisserman, *Multiple View Geometry*, 2nd ed., section
8.6). A plumb or level reading gives one residual: the angle at its middle between its own direction
and that of its vanishing point. A horizon gives two: its angle from eye level, and its middle's
distance from it. All are in radians, and in units of their standard deviations known whatever the
warp; where they are zero the corrected reading is true.
"""

import math
from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.photo import PhotoFacts
from sequor.core.readings.reading import sigma_rad, tilt_rad
from sequor.core.recipe import Reading

PLUMB, LEVEL, EYE_TILT, EYE_HEIGHT = range(4)
"""What a row of the arrays measures."""
ROLL, LEAN, SWING, SHARED = range(4)
"""The unknowns: the stance, and by how much all levels are tilted alike."""

_MODEL_SIGMA_RAD = math.radians(0.01)
"""Even the best reading is no truer than the edge it was taken from."""
_DIP_RAD = math.radians(0.05)
"""The sea's horizon lies below eye level by 1.76' times the root of the eye's height in metres: a
twentieth of a degree from 3 m up, where most stand; a far plain's does not (nautical almanacs'
table of dip; the formula is from memory)."""
_STEPS = 30
"""Steps of a descent at most, so that no start runs for ever."""


def _of_horizon(reading: Reading) -> tuple[int, ...]:
    """What a horizon measures: both of its angles, or those that the camera tells."""
    only_roll = reading.camera is not None and reading.camera.lean_deg is None
    return (EYE_TILT,) if only_roll else (EYE_TILT, EYE_HEIGHT)


class Sights:
    """Readings as rows of arrays, about the principal point; a horizon has two rows.

    Rows of every argument are trials, columns are readings, or the rows made of them (M).

    Attributes
    ----------
    of : ndarray of int, shape (M,)
        The reading that a row comes from.
    what : ndarray of int, shape (M,)
        PLUMB, LEVEL, EYE_TILT or EYE_HEIGHT.
    sigma, weight : ndarray, shape (M,)
        Standard deviations in radians, and the weights given by hand.
    alike : ndarray, shape (M,)
        By how much what all levels share tilts a row.
    tilt : ndarray, shape (N,)
        Tilts of the readings in the picture as shot.
    """

    def __init__(self, photo: PhotoFacts, readings: tuple[Reading, ...], focal_px: float) -> None:
        whats: list[tuple[int, int]] = []
        for place, reading in enumerate(readings):
            if reading.kind == "horizon":
                whats += [(place, what) for what in _of_horizon(reading)]
            else:
                whats.append((place, PLUMB if reading.direction == "plumb" else LEVEL))
        self.of = np.array([place for place, _ in whats], dtype=int)
        self.what = np.array([what for _, what in whats], dtype=int)
        self.focal = focal_px
        ends = np.array([reading.points for reading in readings], dtype=float).reshape(-1, 2, 2)
        ends = ends - [photo.width / 2, photo.height / 2]
        across = ends[:, 1] - ends[:, 0]
        length = np.hypot(across[:, 0], across[:, 1])
        self.middle = np.ascontiguousarray(ends.mean(axis=1)[self.of])
        self.along = np.ascontiguousarray((across / length[:, None])[self.of])
        self.tilt = np.array([tilt_rad(reading) for reading in readings])
        drawn = np.array([math.hypot(sigma_rad(r), _MODEL_SIGMA_RAD) for r in readings])
        # Both ends of a line of length L that is off by s in angle: its middle is off by s L / 2.
        told = np.array([reading.camera is not None for reading in readings], dtype=bool)
        height = np.hypot(np.where(told, drawn, drawn * length / 2 / focal_px), _DIP_RAD)
        self.sigma = np.where(self.what == EYE_HEIGHT, height[self.of], drawn[self.of])
        self.weight = np.array([reading.weight for reading in readings])[self.of]
        self.alike = (self.what == LEVEL).astype(float)

    def with_changed(self, **parts: Matrix | float) -> "Sights":
        """The same readings with other deviations, say, or seen by another lens."""
        other = object.__new__(Sights)
        other.__dict__.update(self.__dict__, **parts)
        return other

    @property
    def count(self) -> int:
        """How many readings there are."""
        return len(self.tilt)

    def known(self, *whats: int) -> NDArray[np.intp]:
        """The readings that measure one of these."""
        return np.unique(self.of[np.isin(self.what, whats)])

    def normals(self) -> Matrix:
        """Unit normals of the planes through the camera and each row's line, shape (M, 3)."""
        return plane_normals(self.middle, self.along, self.focal)

    def counted(self, weights: Matrix) -> Matrix:
        """Inverse variances of the rows for weights of readings, shape (B, M)."""
        rows: Matrix = weights[:, self.of] * self.weight / self.sigma**2
        return np.ascontiguousarray(rows)

    def residuals(self, found: Matrix) -> Matrix:
        """By how much the rows are off, in radians, for unknowns of shape (B, 4): shape (B, M)."""
        return self.slopes(found, np.full(len(found), self.focal))[0]

    def slopes(self, found: Matrix, focal: Matrix) -> tuple[Matrix, Matrix]:
        """Residuals, shape (B, M), and their slopes by the unknowns and the logarithm of the focal
        length, shape (B, M, 5).
        """
        residual = np.empty((len(found), len(self.of)))
        slopes = np.empty((*residual.shape, 5))
        _residuals(
            np.ascontiguousarray(found),
            focal,
            self.focal,
            self.middle,
            self.along,
            self.what,
            self.alike,
            residual,
            slopes,
        )
        return residual, slopes

    def information(self, found: Matrix, weights: Matrix) -> Matrix:
        """What the readings know of the unknowns, without priors: shape (B, 4, 4)."""
        slopes = self.slopes(found, np.full(len(found), self.focal))[1][:, :, :4]
        counted = self.counted(weights)
        information: Matrix = (slopes * counted[:, :, None]).transpose(0, 2, 1) @ slopes
        return information

    def descend(
        self,
        weights: Matrix,
        starts: Matrix,
        prior: Matrix,
        free: NDArray[np.bool_],
        tight_rad: float,
    ) -> tuple[Matrix, Matrix]:
        """The unknowns, shape (B, 4), that cost least, from every start, and what they cost.

        ``prior`` are inverse covariances about zero, shape (B, 4, 4); what is not ``free``, shape
        (B, 4), stays.
        """
        found: Matrix = np.ascontiguousarray(starts, dtype=float).copy()
        cost: Matrix = _descended(
            found,
            self.counted(weights),
            np.ascontiguousarray(prior),
            np.ascontiguousarray(free),
            self.focal,
            self.middle,
            self.along,
            self.what,
            self.alike,
            tight_rad,
        )
        return found, cost


def plane_normals(middle: Matrix, along: Matrix, focal_px: float) -> Matrix:
    """Unit normals of the planes through the camera and some lines, shape (N, 3): by their middles
    about the principal point and unit vectors along, both of shape (N, 2).
    """
    # (x, y, focal) across (ax, ay, 0), written out.
    (x, y), (ax, ay) = middle.T, along.T
    normal = np.column_stack([-focal_px * ay, focal_px * ax, x * ay - y * ax])
    unit: Matrix = normal / np.linalg.norm(normal, axis=1, keepdims=True)
    return unit


def off_directions(
    middle: Matrix, along: Matrix, focal_px: float, what: int, stances: Matrix
) -> tuple[Matrix, Matrix]:
    """By how much lines are off what is plumb, or level, for some stances.

    Parameters
    ----------
    middle, along : ndarray, shape (N, 2)
        Middles about the principal point, and unit vectors along.
    what : int
        PLUMB or LEVEL.
    stances : ndarray, shape (B, 3)
        Roll, lean and swing.

    Returns
    -------
    off : ndarray, shape (B, N)
        In radians.
    slopes : ndarray, shape (B, N, 3)
        By roll, lean and swing.
    """
    count = len(middle)
    off, slopes = np.empty((len(stances), count)), np.empty((len(stances), count, 5))
    _residuals(
        np.column_stack([stances, np.zeros(len(stances))]),
        np.full(len(stances), focal_px),
        focal_px,
        np.ascontiguousarray(middle),
        np.ascontiguousarray(along),
        np.full(count, what),
        np.zeros(count),
        off,
        slopes,
    )
    return off, slopes[:, :, :3]


@nb.njit(cache=True, error_model="numpy")
def _descended(
    found: Any,
    counted: Any,
    prior: Any,
    free: Any,
    focal: float,
    middle: Any,
    along: Any,
    what: Any,
    alike: Any,
    tight_rad: float,
) -> Any:
    """Move every row of ``found`` to where the weighted squares and the prior cost least, by
    Levenberg-Marquardt; their costs, shape (B,).
    """
    focals, count = np.array([focal]), len(what)
    residual, slopes = np.empty((1, count)), np.empty((1, count, 5))
    residual_there, slopes_there = np.empty((1, count)), np.empty((1, count, 5))
    damped, downhill = np.empty((4, 4)), np.empty(4)
    costs = np.empty(len(found))
    for b in range(len(found)):
        at = found[b : b + 1]
        _residuals(at, focals, focal, middle, along, what, alike, residual, slopes)
        cost = _cost(residual[0], counted[b], at[0], prior[b])
        damping = 1e-4
        for _ in range(_STEPS):
            _normal_equations(
                damped, downhill, counted[b], prior[b], free[b], at[0], residual[0], slopes[0]
            )
            for i in range(4):
                damped[i, i] += (damping + 1e-12) * damped[i, i] + (1e-9 if free[b, i] else 1.0)
            step = -np.linalg.solve(damped, downhill)
            trial = at + step
            _residuals(
                trial, focals, focal, middle, along, what, alike, residual_there, slopes_there
            )
            cost_there = _cost(residual_there[0], counted[b], trial[0], prior[b])
            if cost_there <= cost:
                at[:], residual[:], slopes[:] = trial, residual_there, slopes_there
                cost = cost_there
                damping *= 0.1
            else:
                damping *= 10
            if np.abs(step).max() < tight_rad:
                break
        costs[b] = cost
    return costs


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
    """Fill in the Gauss-Newton curvature, shape (4, 4), and the slope of the cost, shape (4,)."""
    curvature[:] = 0.0
    downhill[:] = 0.0
    for i in range(4):
        if not free[i]:
            continue
        for j in range(4):
            downhill[i] += prior[i, j] * at[j]
            if free[j]:
                curvature[i, j] = prior[i, j]
    for n in range(len(residual)):
        for i in range(4):
            if not free[i] or slopes[n, i] == 0.0:
                continue
            scaled = counted[n] * slopes[n, i]
            downhill[i] += scaled * residual[n]
            for j in range(4):
                if free[j]:
                    curvature[i, j] += scaled * slopes[n, j]


@nb.njit(cache=True, error_model="numpy")
def _cost(residual: Any, counted: Any, at: Any, prior: Any) -> float:
    """The weighted squares of the residuals and what the prior says of the unknowns."""
    total = 0.0
    for n in range(len(residual)):
        total += counted[n] * residual[n] ** 2
    for i in range(4):
        for j in range(4):
            total += at[i] * prior[i, j] * at[j]
    return total


@nb.njit(cache=True, error_model="numpy")
def _residuals(
    found: Any,
    focal: Any,
    unit: float,
    middle: Any,
    along: Any,
    what: Any,
    alike: Any,
    residual: Any,
    slopes: Any,
) -> None:
    """Fill the residuals and slopes of every trial (rows) and reading (columns).

    Distances from eye level are in units of ``unit`` pixels.
    """
    # The vanishing direction R^T e_y or R^T e_x with its derivatives: rows value, by roll, by lean,
    # by swing.
    upright, across = np.empty((4, 3)), np.empty((4, 3))
    for b in range(len(found)):
        sz, cz = math.sin(found[b, 0]), math.cos(found[b, 0])
        sx, cx = math.sin(found[b, 1]), math.cos(found[b, 1])
        sy, cy = math.sin(found[b, 2]), math.cos(found[b, 2])
        upright[0, 0], upright[0, 1], upright[0, 2] = sz * cx, cz * cx, -sx
        upright[1, 0], upright[1, 1], upright[1, 2] = cz * cx, -sz * cx, 0.0
        upright[2, 0], upright[2, 1], upright[2, 2] = -sz * sx, -cz * sx, -cx
        upright[3, 0], upright[3, 1], upright[3, 2] = 0.0, 0.0, 0.0
        across[0, 0] = cy * cz + sy * sx * sz
        across[0, 1] = -cy * sz + sy * sx * cz
        across[0, 2] = sy * cx
        across[1, 0], across[1, 1], across[1, 2] = across[0, 1], -across[0, 0], 0.0
        across[2, 0], across[2, 1], across[2, 2] = sy * cx * sz, sy * cx * cz, -sy * sx
        across[3, 0] = -sy * cz + cy * sx * sz
        across[3, 1] = sy * sz + cy * sx * cz
        across[3, 2] = cy * cx
        f = focal[b]
        for n in range(len(what)):
            x, y, ax, ay = middle[n, 0], middle[n, 1], along[n, 0], along[n, 1]
            slopes[b, n] = 0.0
            if what[n] == EYE_HEIGHT:
                # Eye level is x sin(roll) + y cos(roll) = f tan(lean).
                residual[b, n] = (x * sz + y * cz - f * sx / cx) / unit
                slopes[b, n, 0] = (x * cz - y * sz) / unit
                slopes[b, n, 1] = -f / (cx * cx) / unit
                slopes[b, n, 4] = -f * sx / cx / unit
                continue
            if what[n] == EYE_TILT:
                angle = math.atan2(cz * ay + sz * ax, cz * ax - sz * ay)
                residual[b, n] = angle - math.pi * np.round(angle / math.pi)
                slopes[b, n, 0] = 1.0
                continue
            point = upright if what[n] == PLUMB else across
            # From the reading's middle towards the vanishing point.
            tx, ty = f * point[0, 0] - point[0, 2] * x, f * point[0, 1] - point[0, 2] * y
            angle = math.atan2(tx * ay - ty * ax, tx * ax + ty * ay)
            square = max(tx * tx + ty * ty, 1e-12)
            for axis in range(3):
                dx = f * point[axis + 1, 0] - point[axis + 1, 2] * x
                dy = f * point[axis + 1, 1] - point[axis + 1, 2] * y
                slopes[b, n, axis] = (ty * dx - tx * dy) / square
            slopes[b, n, 4] = f * (ty * point[0, 0] - tx * point[0, 1]) / square
            angle += found[b, 3] * alike[n]
            slopes[b, n, 3] = alike[n]
            residual[b, n] = angle - math.pi * np.round(angle / math.pi)
