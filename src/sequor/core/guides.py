"""Guides: a straight level or plumb line held against the corrected picture, and the angle of the edge under it."""

import math

import numpy as np

from sequor.core.angles import in_words, wrap_axial
from sequor.core.camera import Matrix, apply_homography, inverse
from sequor.core.fit import fit_edge
from sequor.core.recipe import Direction, Point, Value
from sequor.core.resample import Pixels
from sequor.core.solution import Solution


class HeldAgainst(Value):
    """What a guide shows: the angle from the guide to the edge under it, None where there is no clear edge; positive clockwise."""

    angle_deg: float | None
    sigma_deg: float | None
    words: str


def edge_under_guide(pixels: Pixels, solution: Solution, direction: Direction, ends: tuple[Point, Point]) -> HeldAgainst:
    """Fit the edge of the original that lies under a guide and measure it in the corrected picture.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels)
        The upright original.
    solution : Solution
        How the picture is corrected.
    direction : {"level", "plumb"}
        Which way the guide runs.
    ends : (Point, Point)
        The stretch of the guide that lies on the picture, in pixels of the uncropped corrected picture.
    """
    height, width = pixels.shape[:2]
    source = solution.lens.distorted(apply_homography(inverse(solution.matrix), np.array(ends)))
    if not ((source >= 0) & (source <= [width, height])).all():
        return HeldAgainst(angle_deg=None, sigma_deg=None, words="beside the picture")
    fit = fit_edge(pixels, (_point(source[0]), _point(source[1])), solution.lens)
    if fit is None:
        return HeldAgainst(angle_deg=None, sigma_deg=None, words="no clear edge")
    (px, py), (qx, qy) = apply_homography(solution.matrix, solution.lens.undistorted(np.array(fit.points)))
    along = math.atan2(qy - py, qx - px) if direction == "level" else math.atan2(px - qx, qy - py)
    angle_deg = math.degrees(wrap_axial(along))
    return HeldAgainst(angle_deg=angle_deg, sigma_deg=math.degrees(fit.sigma_rad), words=in_words(angle_deg))


def _point(array: Matrix) -> Point:
    return (float(array[0]), float(array[1]))
