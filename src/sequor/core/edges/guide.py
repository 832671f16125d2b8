"""Guides: a straight level or plumb line held against the corrected picture, and the angle of
the edge under it.
"""

import math
from typing import Literal

import numpy as np

from sequor.core.camera import Matrix
from sequor.core.edges.fitting import fit_edge
from sequor.core.pixels import Pixels
from sequor.core.readings.angles import tilt_of
from sequor.core.recipe import Direction, Point
from sequor.core.value import Value
from sequor.core.warp.map import Warp


class HeldAgainst(Value):
    """What a guide shows: the angle from it to the edge under it, positive clockwise.

    There is none where the guide lies beside the picture, or on no clear edge.
    """

    found: Literal["edge", "no_edge", "beside"]
    angle_deg: float | None = None
    sigma_deg: float | None = None


def edge_under_guide(
    pixels: Pixels, warp: Warp, direction: Direction, ends: tuple[Point, Point]
) -> HeldAgainst:
    """Fit the edge of the original that lies under a guide and measure it in the corrected picture.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels)
        The upright original.
    warp : Warp
        How the picture is corrected.
    direction : {"level", "plumb"}
        Which way the guide runs.
    ends : (Point, Point)
        The stretch of the guide that lies on the picture, in pixels of the uncropped corrected
        picture.
    """
    height, width = pixels.shape[:2]
    source = warp.to_source(np.array(ends))
    if not ((source >= 0) & (source <= [width, height])).all():
        return HeldAgainst(found="beside")
    fit = fit_edge(pixels, (_point(source[0]), _point(source[1])), warp.distortion)
    if fit is None:
        return HeldAgainst(found="no_edge")
    (px, py), (qx, qy) = warp.to_corrected(np.array(fit.points))
    angle_deg = math.degrees(tilt_of(qx - px, qy - py, direction))
    return HeldAgainst(found="edge", angle_deg=angle_deg, sigma_deg=math.degrees(fit.sigma_rad))


def _point(array: Matrix) -> Point:
    return (float(array[0]), float(array[1]))
