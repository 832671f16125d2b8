"""The grain of a picture: how strong it is, and giving a fill as much of it as its surroundings
have.

The strength is estimated with the mask of Immerkaer, "Fast noise variance estimation", 1996, which
answers to nothing smooth, over small blocks; the smoothest of them tell the grain, the others
texture.
"""

import math
from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray

from sequor.core.pixels import Mask, Pixels

BLOCK_PX = 12
"""Side of a block in pixels: a hundred values of the mask tell a deviation to 8 %."""
_SMOOTHEST = 8
"""Percentile of the blocks that tells the grain: the smoothest, but for the few that are smooth by
chance or clipped."""
_MOST_BLOCKS = 4000
"""Blocks that are looked at, evenly spread; more tell no more and take time."""


def grain_strength(pixels: Pixels, where: Mask) -> float | None:
    """Standard deviation of the grain of the pixels in a mask, in steps of 8 bits.

    None where no block fits.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels)
    where : ndarray of bool, shape (height, width)
    """
    rows, columns = where.shape[0] // BLOCK_PX, where.shape[1] // BLOCK_PX
    inner = (
        where[: rows * BLOCK_PX, : columns * BLOCK_PX]
        .reshape(rows, BLOCK_PX, columns, BLOCK_PX)
        .all(axis=(1, 3))
    )
    blocks = np.argwhere(inner)
    if not len(blocks):
        return None
    blocks = np.ascontiguousarray(blocks[:: max(1, len(blocks) // _MOST_BLOCKS)])
    return (
        float(np.percentile(_block_strengths(pixels, blocks), _SMOOTHEST))
        * 255
        / float(np.iinfo(pixels.dtype).max)
    )


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _block_strengths(pixels: Any, blocks: Any) -> NDArray[np.float64]:
    channels = min(pixels.shape[2], 3)
    strengths = np.empty(len(blocks))
    for k in range(len(blocks)):
        top, left = blocks[k, 0] * BLOCK_PX, blocks[k, 1] * BLOCK_PX
        total = 0.0
        for y in range(top + 1, top + BLOCK_PX - 1):
            for x in range(left + 1, left + BLOCK_PX - 1):
                for c in range(channels):
                    corners = (
                        np.float64(pixels[y - 1, x - 1, c])
                        + pixels[y - 1, x + 1, c]
                        + pixels[y + 1, x - 1, c]
                        + pixels[y + 1, x + 1, c]
                    )
                    sides = (
                        np.float64(pixels[y - 1, x, c])
                        + pixels[y + 1, x, c]
                        + pixels[y, x - 1, c]
                        + pixels[y, x + 1, c]
                    )
                    total += abs(corners - 2 * sides + 4 * np.float64(pixels[y, x, c]))
        strengths[k] = math.sqrt(math.pi / 2) / 6 * total / ((BLOCK_PX - 2) ** 2 * channels)
    return strengths
