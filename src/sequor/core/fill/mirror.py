"""Continuation by mirroring.

What lies beyond the outline of the picture is its mirror image across the outline.

Where two sides of the outline are nearly equally far, about the corners, the images across both are
blended by their distances, so that no line shows where one gives way to the other.
"""

from typing import Any

import numba as nb
import numpy as np

_BLENDED = 1.6
"""Images across two sides are blended where the farther side is less than so many times as far."""
_NEIGHBOURS = 0.5
"""Cosine of the least angle, 60 degrees, between two sides that count as two: a curved outline has
many neighbouring pieces."""


@nb.njit(nogil=True, cache=True, error_model="numpy")
def mirror_strip(
    before: Any, pixels: Any, covered: Any, outline: Any, first: int, last: int
) -> None:
    """Fill what is not covered in rows [first, last) of ``pixels``.

    Parameters
    ----------
    before : ndarray, shape (height, width, channels)
        The rendered frame.
    pixels : ndarray of the same shape
        The frame to fill.
    covered : ndarray of bool, shape (height, width)
    outline : ndarray, shape (N, 2)
        The outline of the valid picture, in pixels of the frame.
    """
    _, width, channels = before.shape
    top = np.float32(255) if pixels.itemsize == 1 else np.float32(65535)
    count = len(outline)
    values, other = np.empty(channels, np.float32), np.empty(channels, np.float32)
    for row in range(first, last):
        for column in range(width):
            if covered[row, column]:
                continue
            px, py = column + 0.5, row + 0.5
            nearest, bx, by = np.inf, 0.0, 0.0
            for i in range(count):
                fx, fy = _foot(outline, i, px, py)
                away = np.hypot(fx - px, fy - py)
                if away < nearest:
                    nearest, bx, by = away, fx, fy
            # The nearest foot on the outline that lies in quite another direction.
            second, sx, sy = np.inf, 0.0, 0.0
            for i in range(count):
                fx, fy = _foot(outline, i, px, py)
                away = np.hypot(fx - px, fy - py)
                along = (fx - px) * (bx - px) + (fy - py) * (by - py)
                if away < second and along < _NEIGHBOURS * away * nearest:
                    second, sx, sy = away, fx, fy
            _mirrored(before, covered, 2 * bx - px, 2 * by - py, bx, by, values)
            if second < _BLENDED * nearest and nearest > 0:
                _mirrored(before, covered, 2 * sx - px, 2 * sy - py, sx, sy, other)
                share = np.float32(0.5 * (1 - (second / nearest - 1) / (_BLENDED - 1)))
                for c in range(channels):
                    values[c] += share * (other[c] - values[c])
            for c in range(channels):
                pixels[row, column, c] = min(max(values[c] + np.float32(0.5), np.float32(0)), top)


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _foot(outline: Any, i: int, px: float, py: float) -> tuple[float, float]:
    """The point of a side of the outline that is nearest to a point."""
    ax, ay = outline[i - 1, 0], outline[i - 1, 1]
    ux, uy = outline[i, 0] - ax, outline[i, 1] - ay
    square = ux * ux + uy * uy
    share = min(1.0, max(0.0, ((px - ax) * ux + (py - ay) * uy) / square)) if square > 0 else 0.0
    return ax + share * ux, ay + share * uy


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _mirrored(
    before: Any, covered: Any, x: float, y: float, fx: float, fy: float, values: Any
) -> None:
    """The pixel at a mirrored place; where that lies outside the picture.

    The last one on the way to it from the outline.
    """
    height, width, channels = before.shape
    row, column = -1, -1
    share = 1.0
    while share > 0.001:
        r, c = int(np.floor(fy + share * (y - fy))), int(np.floor(fx + share * (x - fx)))
        if 0 <= r < height and 0 <= c < width and covered[r, c]:
            row, column = r, c
            break
        share *= 0.9
    if row < 0:
        row, column = min(max(int(fy), 0), height - 1), min(max(int(fx), 0), width - 1)
        row, column = _covered_near(covered, row, column)
    for k in range(channels):
        values[k] = before[row, column, k]


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _covered_near(covered: Any, row: int, column: int) -> tuple[int, int]:
    """The first covered pixel found on growing squares about a place."""
    height, width = covered.shape
    for away in range(max(height, width)):
        for dy in range(-away, away + 1):
            step = 1 if abs(dy) == away else max(1, 2 * away)
            for dx in range(-away, away + 1, step):
                r, c = row + dy, column + dx
                if 0 <= r < height and 0 <= c < width and covered[r, c]:
                    return r, c
    return row, column
