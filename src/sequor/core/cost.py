"""What a frame costs: the share of the picture it keeps, what is lost at each side, and what must be filled."""

import numpy as np

from sequor.core.bow import Bow
from sequor.core.camera import Matrix, apply_homography
from sequor.core.frame import Rectangle, polygon_area
from sequor.core.recipe import PhotoFacts
from sequor.core.room import clipped

_PER_EDGE = 48

Plane = tuple[float, float, float]


def side_planes(frame: Rectangle) -> dict[str, tuple[Plane, ...]]:
    """The regions beside a frame as half planes ``a x + b y <= c``; they meet along the diagonals from its corners, so none overlap."""
    left, top, right, bottom = frame.x, frame.y, frame.x + frame.width, frame.y + frame.height
    return {
        "left": ((1, 0, left), (1, -1, left - top), (1, 1, left + bottom)),
        "top": ((0, 1, top), (-1, 1, top - left), (1, 1, right + top)),
        "right": ((-1, 0, -right), (-1, -1, -right - top), (-1, 1, bottom - right)),
        "bottom": ((0, -1, -bottom), (1, -1, right - bottom), (-1, -1, -left - bottom)),
    }


def inside_planes(frame: Rectangle) -> tuple[Plane, ...]:
    """The frame itself as half planes."""
    return (1, 0, frame.x + frame.width), (-1, 0, -frame.x), (0, 1, frame.y + frame.height), (0, -1, -frame.y)


def share_of_picture(part: Matrix, back: Matrix, bow: Bow, photo: PhotoFacts) -> float:
    """The share of the picture as shot that a part of the corrected picture, shape (N, 2), covers."""
    if len(part) < 3:
        return 0.0
    if not bow.straight:
        steps = (np.arange(_PER_EDGE) / _PER_EDGE)[None, :, None]
        part = (part[:, None] * (1 - steps) + np.roll(part, -1, axis=0)[:, None] * steps).reshape(-1, 2)
    return polygon_area(bow.distorted(apply_homography(back, part))) / (photo.width * photo.height)


def kept_share(outline: Matrix, frame: Rectangle, back: Matrix, bow: Bow, photo: PhotoFacts) -> float:
    """The share of the picture as shot that lies in the frame."""
    return min(1.0, share_of_picture(clipped(outline, inside_planes(frame)), back, bow, photo))


def lost_shares(outline: Matrix, frame: Rectangle, back: Matrix, bow: Bow, photo: PhotoFacts) -> dict[str, float]:
    """The shares of the picture as shot that are lost at the left, the top, the right and the bottom of the frame."""
    return {side: share_of_picture(clipped(outline, planes), back, bow, photo) for side, planes in side_planes(frame).items()}
