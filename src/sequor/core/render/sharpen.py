"""Sharpening for the size of the output: one pass after the resampling, of the brightness alone.

An unsharp mask of a small radius: what a blur takes out is added again, to all colours alike, so
that none is tinted, and no pixel becomes brighter or darker than its neighbours were, so that no
halo shows (common practice, no published source).
"""

import numpy as np
import scipy

from sequor.core.pixels import LUMA, Pixels

_RADIUS_PX = 0.8
_NEAR_PX = 5
"""Side of the square whose brightness bounds that of its middle."""
_ROWS, _BESIDE = 512, 8


def sharpened(pixels: Pixels, amount: float) -> Pixels:
    """Pixels, shape (height, width, channels), with so much of what a blur takes out added."""
    top = float(np.iinfo(pixels.dtype).max)
    made = pixels.copy()
    colours = 1 if pixels.shape[2] < 3 else 3
    for start in range(0, len(pixels), _ROWS):
        first, last = max(0, start - _BESIDE), min(len(pixels), start + _ROWS + _BESIDE)
        rows = pixels[first:last, :, :colours].astype(np.float32)
        luma = rows[:, :, 0] if colours == 1 else rows @ LUMA
        wanted = luma + amount * (luma - scipy.ndimage.gaussian_filter(luma, _RADIUS_PX))
        bounded = np.clip(
            wanted,
            scipy.ndimage.minimum_filter(luma, _NEAR_PX),
            scipy.ndimage.maximum_filter(luma, _NEAR_PX),
        )
        own = slice(start - first, start - first + min(_ROWS, len(pixels) - start))
        changed = rows[own] + (bounded - luma)[own, :, None]
        made[start : start + _ROWS, :, :colours] = np.clip(changed, 0, top) + 0.5
    return made
