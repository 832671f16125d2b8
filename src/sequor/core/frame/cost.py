"""What a frame costs: the share of the picture that it keeps, and what is lost at each side."""

import numpy as np

from sequor.core.camera import Matrix
from sequor.core.frame.polygon import Plane, clipped, polygon_area
from sequor.core.frame.rectangle import Rectangle
from sequor.core.photo import PhotoFacts
from sequor.core.warp.map import Warp

_PER_EDGE = 48
"""Points along each edge of a part whose outline radial distortion bends."""
_AROUND = 400
"""Points around a part of a bent picture: its outline is given by as many already."""


def side_planes(frame: Rectangle) -> dict[str, tuple[Plane, ...]]:
    """The regions beside a frame as half planes ``a x + b y <= c``.

    They meet along the diagonals from its corners, so none overlap.
    """
    (left, top), (right, bottom) = frame.low, frame.high
    return {
        "left": ((1, 0, left), (1, -1, left - top), (1, 1, left + bottom)),
        "top": ((0, 1, top), (-1, 1, top - left), (1, 1, right + top)),
        "right": ((-1, 0, -right), (-1, -1, -right - top), (-1, 1, bottom - right)),
        "bottom": ((0, -1, -bottom), (1, -1, right - bottom), (-1, -1, -left - bottom)),
    }


def inside_planes(frame: Rectangle) -> tuple[Plane, ...]:
    """The frame itself as half planes."""
    (left, top), (right, bottom) = frame.low, frame.high
    return (1, 0, right), (-1, 0, -left), (0, 1, bottom), (0, -1, -top)


def share_of_picture(part: Matrix, warp: Warp, photo: PhotoFacts) -> float:
    """The share of the picture as shot that a part of the corrected one, shape (N, 2), covers."""
    if len(part) < 3:
        return 0.0
    if warp.bending is not None:
        part = _evenly(part)
    elif not warp.straight:
        steps = (np.arange(_PER_EDGE) / _PER_EDGE)[None, :, None]
        after = np.roll(part, -1, axis=0)
        part = (part[:, None] * (1 - steps) + after[:, None] * steps).reshape(-1, 2)
    return polygon_area(warp.to_source(part)) / (photo.width * photo.height)


def _evenly(part: Matrix) -> Matrix:
    """Points around a polygon that has many already, shape (M, 2), so that none are far apart."""
    after = np.roll(part, -1, axis=0)
    length = np.hypot(*(after - part).T)
    pieces = np.maximum(1, np.ceil(length / length.sum() * _AROUND)).astype(int)
    first = np.repeat(np.arange(len(part)), pieces)
    before = np.repeat(np.cumsum(pieces) - pieces, pieces)
    share = ((np.arange(len(first)) - before) / pieces[first])[:, None]
    even: Matrix = part[first] * (1 - share) + after[first] * share
    return even


def kept_share(outline: Matrix, frame: Rectangle, warp: Warp, photo: PhotoFacts) -> float:
    """The share of the picture as shot that lies in the frame."""
    return min(1.0, share_of_picture(clipped(outline, inside_planes(frame)), warp, photo))


def lost_shares(
    outline: Matrix, frame: Rectangle, warp: Warp, photo: PhotoFacts
) -> dict[str, float]:
    """The shares of the picture as shot that are lost at the left, top, right and bottom."""
    return {
        side: share_of_picture(clipped(outline, planes), warp, photo)
        for side, planes in side_planes(frame).items()
    }
