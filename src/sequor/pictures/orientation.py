"""How a stored picture is set upright, by Exif's value Orientation (CIPA DC-008, 1 to 8)."""

from typing import cast

import numpy as np

from sequor.core.pixels import Pixels

_LAID_OVER = 5
"""From this value on columns are rows."""
_MIRRORED, _ON_ITS_HEAD = (2, 3, 6, 7), (3, 4, 7, 8)


def upright(pixels: Pixels, orientation: int) -> Pixels:
    """Stored pixels as the picture was taken."""
    if orientation >= _LAID_OVER:
        pixels = pixels.transpose(1, 0, 2)
    if orientation in _MIRRORED:
        pixels = pixels[:, ::-1]
    if orientation in _ON_ITS_HEAD:
        pixels = pixels[::-1]
    return cast(Pixels, np.ascontiguousarray(pixels))


def as_stored(
    point: tuple[float, float], size: tuple[int, int], orientation: int
) -> tuple[float, float]:
    """Where a place of the upright picture lies in the stored one.

    Parameters
    ----------
    size : tuple of int
        Width and height of the stored picture.
    """
    laid_over = orientation >= _LAID_OVER
    width, height = size[::-1] if laid_over else size
    x, y = point
    x = width - x if orientation in _MIRRORED else x
    y = height - y if orientation in _ON_ITS_HEAD else y
    return (y, x) if laid_over else (x, y)
