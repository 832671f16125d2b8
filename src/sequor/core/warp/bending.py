"""A bending: a smooth map of the corrected picture, by displacements on a mesh.

The displacements are a uniform bicubic B-spline over square cells (de Boor, *A Practical Guide to
Splines*, 1978), so the map has continuous second derivatives inside the mesh. Beyond the mesh it
goes on linearly along each axis from the nearest place of its border.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numba as nb
import numpy as np

from sequor.core.camera import Matrix

_STEPS = 60
"""Of the inverse; Newton's method ends by itself after some four."""
_SETTLED_PX = 1e-10
_BEYOND_PX = 1e-9


@dataclass(frozen=True, eq=False)
class Bending:
    """A map p -> p + d(p) of the plane of the corrected picture.

    Attributes
    ----------
    left, top, cell : float
        Where the mesh begins, and the side of its cells, in pixels.
    shift : ndarray, shape (rows + 3, columns + 3, 2)
        Coefficients of the displacement's spline, in pixels.
    """

    left: float
    top: float
    cell: float
    shift: Matrix

    @property
    def columns(self) -> int:
        """Cells across."""
        return int(self.shift.shape[1]) - 3

    @property
    def rows(self) -> int:
        """Cells down."""
        return int(self.shift.shape[0]) - 3

    @cached_property
    def _mesh(self) -> tuple[float, float, float, Matrix]:
        return self.left, self.top, self.cell, np.ascontiguousarray(self.shift, dtype=np.float64)

    def bent(self, points: Matrix) -> Matrix:
        """Where points of the corrected picture, shape (N, 2), come to lie."""
        places: Matrix = _bent(*self._mesh, np.ascontiguousarray(points, dtype=np.float64))[0]
        return places

    def jacobian(self, points: Matrix) -> Matrix:
        """The derivative of the map at points, shape (N, 2, 2)."""
        found: Matrix = _bent(*self._mesh, np.ascontiguousarray(points, dtype=np.float64))[1]
        return found

    def unbent(self, points: Matrix) -> Matrix:
        """The places in the corrected picture that come to lie at points, shape (N, 2)."""
        found: Matrix = _unbent(*self._mesh, np.ascontiguousarray(points, dtype=np.float64))
        return found

    def moved(self, by: Matrix) -> "Bending":
        """The same with everything moved by some pixels, shape (2,)."""
        return Bending(self.left, self.top, self.cell, self.shift + by)

    def eased(self, share: float) -> "Bending":
        """Only a share of it."""
        return Bending(self.left, self.top, self.cell, self.shift * share)


def stretch_of(jacobian: Matrix) -> tuple[Matrix, Matrix, Matrix]:
    """How far a map stretches, turns and enlarges where its derivative is known.

    Parameters
    ----------
    jacobian : ndarray, shape (N, 2, 2)

    Returns
    -------
    (ndarray, ndarray, ndarray)
        The greater of the largest singular value and of one over the smallest; the turn of the
        nearest similarity, in radians, positive clockwise; the determinant. Each of shape (N,).
        The first is infinite where the map folds.
    """
    a, b = jacobian[:, 0, 0], jacobian[:, 0, 1]
    c, d = jacobian[:, 1, 0], jacobian[:, 1, 1]
    area = a * d - b * c
    # The singular values by the similarity and the antisimilarity that make up the derivative.
    similar, other = np.hypot(a + d, c - b) / 2, np.hypot(a - d, c + b) / 2
    least = np.maximum(similar - other, 1e-12)
    stretch = np.where(area > 0, np.maximum(similar + other, 1 / least), np.inf)
    return stretch, np.arctan2(c - b, a + d), area


@nb.njit(cache=True, error_model="numpy")
def basis(t: float) -> tuple[float, float, float, float]:
    """The four weights of a uniform cubic B-spline at the share ``t`` of a cell."""
    u = 1.0 - t
    return (
        u * u * u / 6.0,
        (3.0 * t * t * t - 6.0 * t * t + 4.0) / 6.0,
        (3.0 * u * u * u - 6.0 * u * u + 4.0) / 6.0,
        t * t * t / 6.0,
    )


@nb.njit(cache=True, error_model="numpy")
def slopes(t: float) -> tuple[float, float, float, float]:
    """Their derivatives by ``t``."""
    u = 1.0 - t
    return (-u * u / 2.0, (3.0 * t * t - 4.0 * t) / 2.0, (4.0 * u - 3.0 * u * u) / 2.0, t * t / 2.0)


@nb.njit(cache=True, error_model="numpy")
def cell_of(at: float, cells: int) -> tuple[int, float]:
    """The cell in which a place along an axis lies, in cells, and the share of it."""
    at = min(max(at, 0.0), float(cells))
    index = min(int(at), cells - 1)
    return index, at - index


@nb.njit(cache=True, error_model="numpy")
def _at(
    left: float, top: float, cell: float, shift: Any, x: float, y: float
) -> tuple[float, float, float, float, float, float]:
    """Where a place comes to lie, and the derivative there, row by row."""
    rows, columns = shift.shape[0] - 3, shift.shape[1] - 3
    i, s = cell_of((x - left) / cell, columns)
    j, t = cell_of((y - top) / cell, rows)
    across, down, along, below = basis(s), basis(t), slopes(s), slopes(t)
    dx = dy = xx = xy = yx = yy = 0.0
    for n in range(4):
        for m in range(4):
            u, v = shift[j + n, i + m, 0], shift[j + n, i + m, 1]
            weight = across[m] * down[n]
            dx += weight * u
            dy += weight * v
            weight = along[m] * down[n] / cell
            xx += weight * u
            yx += weight * v
            weight = across[m] * below[n] / cell
            xy += weight * u
            yy += weight * v
    # Beyond the mesh: on along both axes from the place of its border that is nearest.
    beyond_x, beyond_y = x - (left + (i + s) * cell), y - (top + (j + t) * cell)
    if abs(beyond_x) > _BEYOND_PX or abs(beyond_y) > _BEYOND_PX:
        mixed_x = mixed_y = 0.0
        for n in range(4):
            for m in range(4):
                weight = along[m] * below[n] / (cell * cell)
                mixed_x += weight * shift[j + n, i + m, 0]
                mixed_y += weight * shift[j + n, i + m, 1]
        dx += xx * beyond_x + xy * beyond_y + mixed_x * beyond_x * beyond_y
        dy += yx * beyond_x + yy * beyond_y + mixed_y * beyond_x * beyond_y
        xx, xy = xx + mixed_x * beyond_y, xy + mixed_x * beyond_x
        yx, yy = yx + mixed_y * beyond_y, yy + mixed_y * beyond_x
    return x + dx, y + dy, 1.0 + xx, xy, yx, 1.0 + yy


@nb.njit(cache=True, error_model="numpy")
def _bent(left: float, top: float, cell: float, shift: Any, points: Any) -> tuple[Any, Any]:
    places, jacobians = np.empty_like(points), np.empty((len(points), 2, 2))
    for k in range(len(points)):
        x, y, xx, xy, yx, yy = _at(left, top, cell, shift, points[k, 0], points[k, 1])
        places[k, 0], places[k, 1] = x, y
        jacobians[k, 0, 0], jacobians[k, 0, 1] = xx, xy
        jacobians[k, 1, 0], jacobians[k, 1, 1] = yx, yy
    return places, jacobians


@nb.njit(cache=True, error_model="numpy")
def _unbent(left: float, top: float, cell: float, shift: Any, points: Any) -> Any:
    """The inverse by Newton's method, with shorter steps where a whole one leads away."""
    found = np.empty_like(points)
    for k in range(len(points)):
        wx, wy = points[k, 0], points[k, 1]
        x, y = wx, wy
        bx, by, xx, xy, yx, yy = _at(left, top, cell, shift, x, y)
        off = (bx - wx) ** 2 + (by - wy) ** 2
        for _ in range(_STEPS):
            if off < _SETTLED_PX * _SETTLED_PX:
                break
            area = xx * yy - xy * yx
            if area > 1e-9:
                sx = (yy * (bx - wx) - xy * (by - wy)) / area
                sy = (xx * (by - wy) - yx * (bx - wx)) / area
            else:
                sx, sy = bx - wx, by - wy
            share = 1.0
            while True:
                tx, ty = x - share * sx, y - share * sy
                cx, cy, cxx, cxy, cyx, cyy = _at(left, top, cell, shift, tx, ty)
                away = (cx - wx) ** 2 + (cy - wy) ** 2
                if away < off or share < 1e-3:
                    break
                share /= 2
            if away >= off:
                break
            x, y, bx, by, off = tx, ty, cx, cy, away
            xx, xy, yx, yy = cxx, cxy, cyx, cyy
        found[k, 0], found[k, 1] = x, y
    return found
