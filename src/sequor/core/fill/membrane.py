"""The smoothest continuation: values inside a hole that obey Laplace's equation, with the known
pixels around it as their boundary.

Each unknown pixel becomes the mean of its neighbours; the border of the picture carries no
condition of its own (its neighbours are fewer there). Solved by over-relaxed Gauss-Seidel sweeps
(Young 1954) on ever finer grids, each begun with the answer of the coarser one (a cascadic
multigrid method: Bornemann and Deuflhard, "The cascadic multigrid method for elliptic problems",
1996).
"""

from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray

from sequor.core.pixels import Mask

Colours = NDArray[np.float32]
_SWEEPS = 60
"""Sweeps on each grid: with the coarser grid's answer to begin with, what is left is below half a
grey level (tests/core/test_fill.py compares with a sparse solver)."""
_OVER = np.float32(1.85)
"""Over-relaxation, between 1 (none) and 2 (where it diverges): near the best for grids of some 40
pixels, 2 / (1 + sin(pi / 40)) (Young 1954)."""
_COARSEST_PX = 6
"""Pixels of the shorter side of the coarsest grid: sweeps alone reach across it."""


def membrane(values: Colours, hole: Mask) -> Colours:
    """Values, shape (height, width, channels), with those in the hole replaced by the smoothest
    continuation of the others.

    A hole that covers everything stays as it is.
    """
    if not hole.any() or hole.all():
        return values
    out: Colours = values.astype(np.float32, copy=True)
    if min(hole.shape) > _COARSEST_PX:
        small, empty = halved(out, hole)
        if not empty.all():
            out[hole] = doubled_at(membrane(small, empty), np.argwhere(hole))
    _relax(out, np.argwhere(hole).astype(np.int32, order="C"), _SWEEPS)
    return out


def halved(values: Colours, hole: Mask) -> tuple[Colours, Mask]:
    """Half the size: each pixel the mean of the known ones of four.

    A hole only where none of the four is known.
    """
    high, wide = ((side + 1) // 2 for side in hole.shape)
    small = np.zeros((high, wide, values.shape[2]), np.float32)
    empty = np.ones((high, wide), np.bool_)
    _halve(values, hole, small, empty)
    return small, empty


def doubled_at(values: Colours, places: NDArray[np.intp]) -> Colours:
    """What values of half the size are at places, shape (N, 2), of the whole size.

    See `sampled`.
    """
    return sampled(values, (places + 0.5) / 2 - 0.5)


def sampled(values: Colours, places: NDArray[np.float64]) -> Colours:
    """Bilinear interpolation at rows and columns, shape (N, 2), in steps of pixel centres.

    Shape (N, channels); the border continues.
    """
    high, wide = values.shape[:2]
    y, x = np.clip(places[:, 0], 0, high - 1), np.clip(places[:, 1], 0, wide - 1)
    y0, x0 = y.astype(np.intp), x.astype(np.intp)
    y1, x1 = np.minimum(y0 + 1, high - 1), np.minimum(x0 + 1, wide - 1)
    down, across = (y - y0).astype(np.float32)[:, None], (x - x0).astype(np.float32)[:, None]
    left = values[y0, x0] + (values[y1, x0] - values[y0, x0]) * down
    right = values[y0, x1] + (values[y1, x1] - values[y0, x1]) * down
    made: Colours = left + (right - left) * across
    return made


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def _halve(values: Any, hole: Any, small: Any, empty: Any) -> None:
    height, width, channels = values.shape
    for y in range(small.shape[0]):
        for x in range(small.shape[1]):
            count = np.float32(0)
            for v in range(2 * y, min(2 * y + 2, height)):
                for u in range(2 * x, min(2 * x + 2, width)):
                    if not hole[v, u]:
                        count += np.float32(1)
                        for c in range(channels):
                            small[y, x, c] += values[v, u, c]
            empty[y, x] = count == 0
            if count > 1:
                for c in range(channels):
                    small[y, x, c] /= count


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def _relax(values: Any, places: Any, sweeps: int) -> None:
    height, width, channels = values.shape
    for _ in range(sweeps):
        for k in range(len(places)):
            y, x = places[k, 0], places[k, 1]
            if 0 < y < height - 1 and 0 < x < width - 1:
                for c in range(channels):
                    around = values[y - 1, x, c] + values[y + 1, x, c]
                    around += values[y, x - 1, c] + values[y, x + 1, c]
                    values[y, x, c] += _OVER * (np.float32(0.25) * around - values[y, x, c])
                continue
            count = np.float32((y > 0) + (y < height - 1) + (x > 0) + (x < width - 1))
            for c in range(channels):
                total = np.float32(0)
                if y > 0:
                    total += values[y - 1, x, c]
                if y < height - 1:
                    total += values[y + 1, x, c]
                if x > 0:
                    total += values[y, x - 1, c]
                if x < width - 1:
                    total += values[y, x + 1, c]
                values[y, x, c] += _OVER * (total / count - values[y, x, c])
