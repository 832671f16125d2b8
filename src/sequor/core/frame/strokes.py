"""Strokes of a brush: where they lie in the corrected picture, what of a frame is under them."""

import math
from collections.abc import Sequence
from typing import Any

import numba as nb
import numpy as np

from sequor.core.camera import Matrix
from sequor.core.pixels import Mask
from sequor.core.recipe import Point, Stroke
from sequor.core.solved import MarkedStroke, SolvedFrame
from sequor.core.warp.map import Warp

_THINNEST_PX = math.sqrt(0.5)
"""Half the diagonal of a pixel: within it the middle of some pixel lies, wherever it is."""


def marked(stroke: Stroke, warp: Warp, copied_from: Point | None = None) -> MarkedStroke:
    """A stroke in pixels of the uncropped corrected picture, and where it is copied from.

    Its width is that at its middle: a brush is small beside the picture. What the map does not lead
    anywhere is left out.
    """
    points = np.array(stroke.points)
    middle = points[len(points) // 2]
    beside = [(0.0, 0.0), (stroke.reach, 0.0), (0.0, stroke.reach), copied_from or (0.0, 0.0)]
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        laid = warp.to_corrected(np.concatenate([points, middle + np.array(beside)]))
    places, (here, right, below, source) = laid[:-4], laid[-4:]
    reach = float((np.hypot(*(right - here)) + np.hypot(*(below - here))) / 2)
    if not np.isfinite(reach):
        return MarkedStroke(points=(), reach=0.0)
    copied = copied_from is not None and np.isfinite(source).all()
    return MarkedStroke(
        points=_points(places[np.isfinite(places).all(axis=1)]),
        reach=reach,
        copied=_points(np.array([source, here])) if copied else None,
    )


def _points(places: Matrix) -> Any:
    return tuple((float(x), float(y)) for x, y in places)


def under_stroke(points: Matrix, reach: float, size: tuple[int, int]) -> Mask:
    """What of pixels is under one stroke given in them.

    Parameters
    ----------
    points : ndarray, shape (N, 2)
        Along its middle.
    reach : float
        Half its width.
    size : (int, int)
        Width and height.

    Returns
    -------
    ndarray of bool, shape (height, width)
        As of `stroked`.
    """
    under = np.zeros((size[1], size[0]), np.bool_)
    _cover(under, np.concatenate([points[:1], points]), max(reach, _THINNEST_PX))
    return under


def stroked(
    strokes: Sequence[MarkedStroke], frame: SolvedFrame, size: tuple[int, int]
) -> list[Mask]:
    """What of a frame is under each stroke.

    Parameters
    ----------
    strokes : sequence of MarkedStroke
    frame : SolvedFrame
        In the same pixels as they are.
    size : (int, int)
        Width and height of the pixels that are told.

    Returns
    -------
    list of ndarray of bool, shape (height, width)
        A pixel is under a stroke where its middle is; of one that is thinner than pixels those that
        it goes through are.
    """
    return [under_any([stroke], frame, size) for stroke in strokes]


def under_any(strokes: Sequence[MarkedStroke], frame: SolvedFrame, size: tuple[int, int]) -> Mask:
    """What of a frame is under any of the strokes; see `stroked`."""
    width, height = size
    scale = np.array([width / frame.width, height / frame.height])
    under = np.zeros((height, width), np.bool_)
    for stroke in strokes:
        if stroke.points:
            points = (np.array(stroke.points) - [frame.x, frame.y]) * scale
            under |= under_stroke(points, stroke.reach * float(scale.mean()), size)
    return under


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _cover(under: Any, points: Any, reach: float) -> None:
    """Mark what lies within reach of a line through points."""
    height, width = under.shape
    for i in range(len(points) - 1):
        x0, y0, x1, y1 = points[i, 0], points[i, 1], points[i + 1, 0], points[i + 1, 1]
        left = int(min(max(np.floor(min(x0, x1) - reach), 0), width))
        right = int(min(max(np.ceil(max(x0, x1) + reach), 0), width))
        top = int(min(max(np.floor(min(y0, y1) - reach), 0), height))
        bottom = int(min(max(np.ceil(max(y0, y1) + reach), 0), height))
        along_x, along_y = x1 - x0, y1 - y0
        length = max(along_x**2 + along_y**2, 1e-12)
        for row in range(top, bottom):
            for column in range(left, right):
                if under[row, column]:
                    continue
                x, y = column + 0.5 - x0, row + 0.5 - y0
                share = min(max((x * along_x + y * along_y) / length, 0.0), 1.0)
                apart = (x - share * along_x) ** 2 + (y - share * along_y) ** 2
                under[row, column] = apart <= reach**2
