"""Lines that a bending is to keep or to set right, followed by short pieces of the mesh's size."""

import math
from dataclasses import dataclass

import numpy as np
import scipy

from sequor.core.bend.system import Mesh, Rows
from sequor.core.camera import Matrix
from sequor.core.pixels import Mask
from sequor.core.warp.bending import Bending

_HELD = 1e6
"""Weight of readings against the energy of a cell: what contradicts nothing is met to a hundredth
of a degree (tests/bench/test_bending.py)."""
_EDGE, _ASLANT, _NEAR_RAD = 2000.0, 0.15, math.radians(12.0)
"""Weight of the direction of edges that run level or plumb, the share of it for those that run
aslant, and how near is near: an eye sees upright and level things turn."""
_FOLLOWING = 20.0
"""The same where only readings bend: what runs beside one goes with it."""
_STRAIGHT, _GIVEN_WAY = 1e4, 0.03
"""Weight of edges to stay straight in the direction that the first solution found, and what is left
of it where they ask for too much."""
_PIECE = 0.34
"""Of a cell: the length of the pieces that lines are followed by."""
_LEAST_PIECES, _MOST_PIECES = 4, 400
"""Of one line, at least and at most (set by hand): the shortest is held at more than its ends."""


@dataclass(frozen=True)
class BentLine:
    """A line of the corrected picture, and what is wanted of it.

    Attributes
    ----------
    points : ndarray, shape (N, 2)
        Along it; a smooth curve goes through them.
    wanted_rad : float, optional
        The direction that it is to have, from x to y; None lets it be whatever it comes out as.
    share : float
        How much of what is left over, its angle and its sag, is bent away.
    edge : bool
        One found in the picture, which gives way where it cannot be met, rather than a reading.
    """

    points: Matrix
    wanted_rad: float | None
    share: float
    edge: bool = False


class Lines:
    """Several lines, by all their pieces.

    Attributes
    ----------
    middles, alongs, lengths : ndarray, shapes (M, 2), (M, 2), (M,)
        The pieces: their middles, unit vectors along, and lengths, in cells.
    of : ndarray, shape (M,)
        Which line each belongs to.
    """

    def __init__(self, lines: tuple[BentLine, ...], mesh: Mesh) -> None:
        self._ends = np.array([line.points[[0, -1]] for line in lines]).reshape(-1, 2, 2)
        starts, pieces, self.of = _followed_all(lines, mesh)
        self.middles = starts + pieces / 2
        self.lengths = np.hypot(pieces[:, 0], pieces[:, 1])
        self.alongs = pieces / self.lengths[:, None]
        self._now = directions(self._ends)
        self._wanted = np.array(
            [now if line.wanted_rad is None else line.wanted_rad
             for line, now in zip(lines, self._now, strict=True)], dtype=float,
        )  # fmt: skip
        self._edge = np.array([line.edge for line in lines], dtype=bool)
        self._share = np.array([1.0 if line.edge else line.share for line in lines])
        self._open = np.array(
            [line.edge or (line.wanted_rad is None and line.share > 0) for line in lines],
            dtype=bool,
        )

    @property
    def any_open(self) -> bool:
        """Whether the direction of any is what comes out."""
        return bool(self._open.any())

    def add_to(
        self, rows: Rows, found: Bending | None, given_way: Mask, upright: bool = True
    ) -> None:
        """What they ask of a mesh.

        Parameters
        ----------
        found : Bending, optional
            A solution from which open directions are taken.
        given_way : ndarray, shape (N,)
            Which edges ask for too much.
        upright : bool
            Whether edges are to keep their direction, rather than to follow readings beside them.
        """
        if not len(self.middles):
            return
        now, wanted = self._now, self._wanted.copy()
        weight = np.full(len(now), _HELD)
        off_true = np.remainder(now + math.pi / 4, math.pi / 2) - math.pi / 4
        near = np.exp(-((off_true / _NEAR_RAD) ** 2))
        direct = (_EDGE if upright else _FOLLOWING) * (_ASLANT + (1 - _ASLANT) * near)
        if found is None:
            weight[self._open] = direct[self._open]
        else:
            bent = directions(found.bent(self._ends.reshape(-1, 2)).reshape(-1, 2, 2))
            wanted[self._open] = bent[self._open]
            weight[self._edge] = _STRAIGHT * np.where(given_way, _GIVEN_WAY, 1.0)[self._edge]
        turn = _axial(wanted - now) * np.where(self._open, 1.0, self._share)
        own = np.arctan2(self.alongs[:, 1], self.alongs[:, 0])
        off = np.remainder(own - now[self.of] + math.pi, 2 * math.pi) - math.pi
        target = (now + turn)[self.of] + (1 - self._share)[self.of] * off
        normals = np.column_stack([-np.sin(target), np.cos(target)])
        aims = -(normals * self.alongs).sum(axis=1)
        rows.add(self.middles, normals, self.alongs, aims, weight[self.of] * self.lengths)

    def edges_through(self, cells: Mask) -> Mask:
        """Which edges go through some of the cells, shape (N,)."""
        rows, columns = cells.shape
        across, down = np.floor(self.middles).astype(int).T
        there = cells[np.clip(down, 0, rows - 1), np.clip(across, 0, columns - 1)]
        through = np.bincount(self.of, there, minlength=len(self._edge)) > 0
        met: Mask = through & self._edge
        return met


def _followed_all(lines: tuple[BentLine, ...], mesh: Mesh) -> tuple[Matrix, Matrix, Matrix]:
    """Where all pieces start, how far they go, and which line each belongs to."""
    in_cells = [mesh.in_cells(line.points) for line in lines]
    straight = np.array([k for k, points in enumerate(in_cells) if len(points) == 2], dtype=int)
    ends = np.array([in_cells[k] for k in straight]).reshape(-1, 2, 2)
    across = ends[:, 1] - ends[:, 0]
    counts = np.ceil(np.hypot(across[:, 0], across[:, 1]) / _PIECE).astype(int)
    counts = np.clip(counts, _LEAST_PIECES, _MOST_PIECES)
    place = np.repeat(np.arange(len(straight)), counts)
    step = np.arange(len(place)) - np.repeat(np.cumsum(counts) - counts, counts)
    pieces = across[place] / counts[place][:, None]
    starts, ways = [ends[place, 0] + step[:, None] * pieces], [pieces]
    of = [straight[place]]
    for k, points in enumerate(in_cells):
        if len(points) > 2:
            places = followed(points, _PIECE)
            starts.append(places[:-1])
            ways.append(places[1:] - places[:-1])
            of.append(np.full(len(places) - 1, k))
    return np.concatenate(starts), np.concatenate(ways), np.concatenate(of)


def followed(points: Matrix, piece: float) -> Matrix:
    """Places along the smooth curve through points, shape (M, 2), not farther apart than that."""
    steps = np.hypot(*(points[1:] - points[:-1]).T)
    distinct = np.concatenate([[True], steps > 1e-9 * (1 + steps.sum())])
    points = points[distinct]
    along = np.concatenate([[0.0], np.cumsum(steps[distinct[1:]])])
    count = min(_MOST_PIECES, max(_LEAST_PIECES, math.ceil(along[-1] / piece)))
    at = np.linspace(0.0, along[-1], count + 1)
    if len(points) < 3:
        straight: Matrix = points[0] + (at / along[-1])[:, None] * (points[-1] - points[0])
        return straight
    places: Matrix = scipy.interpolate.CubicSpline(along, points)(at)
    return places


def directions(ends: Matrix) -> Matrix:
    """Directions from the first to the second of two ends each, shape (N, 2, 2), in radians."""
    across = ends[:, 1] - ends[:, 0]
    found: Matrix = np.arctan2(across[:, 1], across[:, 0])
    return found


def _axial(angle_rad: Matrix) -> Matrix:
    """Angles between undirected lines, within a quarter turn."""
    wrapped: Matrix = angle_rad - math.pi * np.round(angle_rad / math.pi)
    return wrapped
