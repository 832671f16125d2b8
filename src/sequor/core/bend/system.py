"""The system of a bending: what its mesh shall do, as one sparse least-squares problem.

Unknown are the coefficients of the displacement (`bending`). The energy is that of as-similar-as-
possible meshes: every place stays a similarity of itself, of about the same size as its
neighbours (Zhang et al., "A shape-preserving approach to image resizing", 2009; Carroll et al.,
"Optimizing content-preserving projections for wide-angle images", 2009), here with the integrals
over a spline's cells instead of quads. What lines, borders and boxes ask are further rows. Each
row touches the coefficients of one cell only, so the normal equations are a band, which LAPACK's
Cholesky factorisation solves.
"""

import math
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numba as nb
import numpy as np
import scipy

from sequor.core.camera import Matrix
from sequor.core.frame.rectangle import Rectangle
from sequor.core.pixels import Mask
from sequor.core.warp.bending import Bending, basis, cell_of, slopes

LONG_SIDE_CELLS = 28
"""Cells along the longer side of the mesh."""
_SIMILAR, _SIZE, _TURN, _SMOOTH = 1.0, 1.0, 0.2, 0.05
"""Weights of the energy: for every place to stay a similarity of itself, to keep its size, not to
turn (else a picture would turn back to close its corners), and to be like its neighbours. Tried on
pictures rolled by 2 to 8 degrees (tests/bench/test_bending.py)."""
_TURN_MIDDLE, _MIDDLE = 16.0, 0.3
"""The weight not to turn in the middle of the picture, and how far from its border that begins, as
a share of the shorter side."""
_OUTSIDE = 0.02
"""Weight of the energy where the picture does not reach."""
_RIGID = 1e4
"""Of places that must not bend."""
_REGULAR, _ROUNDING = 1e-8, 1e-14
"""Added to the diagonal, so that what nothing holds stays where it is; and the share of its largest
that rounding may take from it, so that any number of lines on one place leaves it positive."""


@dataclass
class Rows:
    """Rows of the system, in cells of the mesh; each is ``a . u = b`` for the 16 coefficients of
    its cell, with a weight.

    A row at (x, y) asks for ``normal . D = aim``, where D is the displacement itself (``order``
    0), or its derivative in the direction ``along``.
    """

    places: list[Matrix] = field(default_factory=list)
    normals: list[Matrix] = field(default_factory=list)
    alongs: list[Matrix] = field(default_factory=list)
    aims: list[Matrix] = field(default_factory=list)
    weights: list[Matrix] = field(default_factory=list)

    def add(
        self, places: Matrix, normals: Matrix, alongs: Matrix, aims: Matrix, weights: Matrix
    ) -> None:
        """Some more, each given by arrays of N; ``alongs`` of zeros stand for the displacement."""
        self.places.append(places)
        self.normals.append(np.broadcast_to(normals, places.shape))
        self.alongs.append(np.broadcast_to(alongs, places.shape))
        self.aims.append(np.broadcast_to(aims, len(places)))
        self.weights.append(np.broadcast_to(weights, len(places)))

    def arrays(self) -> tuple[Matrix, Matrix, Matrix, Matrix, Matrix]:
        """All of them."""
        if not self.places:
            none = np.zeros((0, 2))
            return none, none, none, np.zeros(0), np.zeros(0)
        parts = (self.places, self.normals, self.alongs, self.aims, self.weights)
        places, normals, alongs, aims, weights = (
            np.ascontiguousarray(np.concatenate(part), dtype=np.float64) for part in parts
        )
        return places, normals, alongs, aims, weights


@dataclass(frozen=True)
class Mesh:
    """Square cells over a box of the corrected picture, in pixels."""

    left: float
    top: float
    cell: float
    columns: int
    rows: int

    @classmethod
    def over(cls, box: Rectangle) -> "Mesh":
        """The mesh over a box."""
        cell = max(box.width, box.height) / LONG_SIDE_CELLS
        columns, rows = (max(4, math.ceil(side / cell - 1e-9)) for side in (box.width, box.height))
        (x, y), wide, high = box.centre, columns * cell, rows * cell
        return cls(x - wide / 2, y - high / 2, cell, columns, rows)

    def in_cells(self, points: Matrix) -> Matrix:
        """Points, shape (N, 2), in cells from the mesh's corner."""
        return (points - [self.left, self.top]) / self.cell

    def places(self, finer: int) -> Matrix:
        """Middles of ``finer`` times ``finer`` parts of every cell, in pixels, shape (N, 2)."""
        across = (np.arange(self.columns * finer) + 0.5) / finer
        down = (np.arange(self.rows * finer) + 0.5) / finer
        x, y = np.meshgrid(across, down)
        return np.column_stack([x.ravel(), y.ravel()]) * self.cell + [self.left, self.top]

    def joints(self, finer: int) -> Matrix:
        """The corners of all cells, and ``finer`` places along each of their sides that lies on
        the rim, in pixels, shape (N, 2).
        """
        x, y = np.meshgrid(np.arange(self.columns + 1), np.arange(self.rows + 1))
        across = np.arange(self.columns * finer + 1) / finer
        down = np.arange(self.rows * finer + 1) / finer
        rim = [np.column_stack([across, np.full_like(across, at)]) for at in (0, self.rows)]
        rim += [np.column_stack([np.full_like(down, at), down]) for at in (0, self.columns)]
        joints: Matrix = np.concatenate([np.column_stack([x.ravel(), y.ravel()]), *rim])
        return joints * self.cell + [self.left, self.top]

    def within(self, cells: Mask, finer: int) -> Matrix:
        """``finer`` times ``finer`` places all over some cells, shape (rows, columns), their sides
        among them, in pixels, shape (N, 2).
        """
        down, across = np.nonzero(cells)
        share = np.linspace(0, 1, finer)
        x, y = (at.ravel() for at in np.meshgrid(share, share))
        places: Matrix = np.column_stack(
            [(across[:, None] + x).ravel(), (down[:, None] + y).ravel()]
        )
        return places * self.cell + [self.left, self.top]

    def touched(self, boxes: tuple[Matrix, ...]) -> Matrix:
        """1 for every cell in which places lie that are given by boxes, each of shape (N, 2), in
        pixels; else 0, shape (rows, columns).
        """
        touched = np.zeros((self.rows, self.columns))
        for box in boxes:
            across, down = np.floor(self.in_cells(box)).astype(int).T
            touched[np.clip(down, 0, self.rows - 1), np.clip(across, 0, self.columns - 1)] = 1.0
        return touched

    def bending(self, shift: Matrix) -> Bending:
        """The bending with coefficients in cells."""
        return Bending(self.left, self.top, self.cell, shift * self.cell)


def solved(mesh: Mesh, covered: Matrix, rigid: Matrix, rows: Rows, upright: bool = True) -> Bending:
    """The bending of least energy that meets the rows by their weights.

    Parameters
    ----------
    covered : ndarray, shape (rows, columns)
        The share of each cell that the picture covers.
    rigid : ndarray, shape (rows, columns)
        1 for cells over which the map is to be one similarity.
    upright : bool
        Whether such cells are not to turn either.
    """
    columns, down = mesh.columns, mesh.rows
    # Along the shorter side first: the band is as wide as that.
    strides = (down + 3, 1) if down <= columns else (1, columns + 3)
    count = 2 * (columns + 3) * (down + 3)
    width = 2 * (3 * max(strides) + 3 * min(strides)) + 2
    band, right = np.zeros((width, count)), np.zeros(count)
    everywhere = _OUTSIDE + (1 - _OUTSIDE) * covered
    kinds = (
        (everywhere, _cell_energy(_SIMILAR, _SIZE, _TURN, _SMOOTH)),
        (everywhere * _middle(mesh), _cell_energy(0.0, 0.0, _TURN_MIDDLE, 0.0)),
        (rigid, _cell_energy(_RIGID, 0.0, _RIGID if upright else 0.0, _RIGID)),
    )
    strength = np.stack([much for much, _ in kinds], axis=2)
    _add_energy(band, strength, np.stack([kind for _, kind in kinds]), *strides)
    _add_rows(band, right, *rows.arrays(), columns, down, *strides)
    band[0] += _REGULAR + _ROUNDING * band[0].max()
    factor = scipy.linalg.cholesky_banded(band, lower=True, overwrite_ab=True, check_finite=False)
    found = scipy.linalg.cho_solve_banded((factor, True), right, check_finite=False)
    across, downwards = np.arange(columns + 3), np.arange(down + 3)
    at = across[None, :] * strides[0] + downwards[:, None] * strides[1]
    return mesh.bending(np.stack([found[2 * at], found[2 * at + 1]], axis=2))


def _middle(mesh: Mesh) -> Matrix:
    """How far from the border each cell lies: 0 there to 1 in the middle, shape (rows, columns)."""
    reach = _MIDDLE * min(mesh.columns, mesh.rows)
    across, down = (np.arange(count) + 0.5 for count in (mesh.columns, mesh.rows))
    from_side = np.minimum(across, mesh.columns - across)
    from_end = np.minimum(down, mesh.rows - down)
    near = np.clip(np.minimum(from_side[None, :], from_end[:, None]) / reach, 0, 1)
    middle: Matrix = near**2
    return middle


@lru_cache(maxsize=4)
def _cell_energy(similar: float, size: float, turn: float, smooth: float) -> Matrix:
    """The energy of one cell, shape (32, 32), of coefficients in the order (down, across, x or y).

    By Gauss-Legendre quadrature with four places a side, exact for the products of cubics.
    """
    at, weight = np.polynomial.legendre.leggauss(4)
    at, weight = (at + 1) / 2, weight / 2
    total = np.zeros((32, 32))
    for s, ws in zip(at, weight, strict=True):
        for t, wt in zip(at, weight, strict=True):
            first = np.outer(basis(t), slopes(s)).ravel(), np.outer(slopes(t), basis(s)).ravel()
            second = (
                np.outer(basis(t), _curves(s)).ravel(),
                np.outer(_curves(t), basis(s)).ravel(),
                math.sqrt(2) * np.outer(slopes(t), slopes(s)).ravel(),
            )
            rows = [
                (similar, _pair(first[0], -first[1])),
                (similar, _pair(first[1], first[0])),
                (size, _pair(first[0], first[1])),
                (turn, _pair(first[1], -first[0])),
                *((smooth, _pair(one, 0 * one)) for one in second),
                *((smooth, _pair(0 * one, one)) for one in second),
            ]
            for strength, row in rows:
                total += ws * wt * strength * np.outer(row, row)
    return total


def _pair(x: Matrix, y: Matrix) -> Matrix:
    return np.column_stack([x, y]).ravel()


def _curves(t: float) -> tuple[float, float, float, float]:
    """Second derivatives of `basis`."""
    return 1 - t, 3 * t - 2, 1 - 3 * t, t


@nb.njit(cache=True, error_model="numpy")
def _add_energy(band: Any, strength: Any, energies: Any, across: int, down: int) -> None:
    """Add every cell's energies, each as strong as it is there, to the lower band of the normal
    equations.
    """
    places, total = np.empty(32, np.int64), np.empty((32, 32))
    for j in range(strength.shape[0]):
        for i in range(strength.shape[1]):
            for n in range(4):
                for m in range(4):
                    at = 2 * ((i + m) * across + (j + n) * down)
                    places[2 * (4 * n + m)], places[2 * (4 * n + m) + 1] = at, at + 1
            total[:] = strength[j, i, 0] * energies[0]
            for kind in range(1, len(energies)):
                if strength[j, i, kind] > 0:
                    total += strength[j, i, kind] * energies[kind]
            for p in range(32):
                for q in range(32):
                    if places[p] >= places[q]:
                        band[places[p] - places[q], places[q]] += total[p, q]


@nb.njit(cache=True, error_model="numpy")
def _add_rows(
    band: Any,
    right: Any,
    points: Any,
    normals: Any,
    alongs: Any,
    aims: Any,
    weights: Any,
    columns: int,
    rows: int,
    across: int,
    down: int,
) -> None:
    """Add the rows' squares to the lower band, and what they aim at to the right-hand side."""
    places, row = np.empty(32, np.int64), np.empty(32)
    for k in range(len(points)):
        i, s = cell_of(points[k, 0], columns)
        j, t = cell_of(points[k, 1], rows)
        ax, ay = alongs[k, 0], alongs[k, 1]
        wide, high, along, below = basis(s), basis(t), slopes(s), slopes(t)
        value = ax == 0.0 and ay == 0.0
        for n in range(4):
            for m in range(4):
                if value:
                    weight = wide[m] * high[n]
                else:
                    weight = ax * along[m] * high[n] + ay * wide[m] * below[n]
                at, p = 2 * ((i + m) * across + (j + n) * down), 2 * (4 * n + m)
                places[p], places[p + 1] = at, at + 1
                row[p], row[p + 1] = normals[k, 0] * weight, normals[k, 1] * weight
        for p in range(32):
            much = weights[k] * row[p]
            right[places[p]] += much * aims[k]
            for q in range(32):
                if places[p] >= places[q]:
                    band[places[p] - places[q], places[q]] += much * row[q]
