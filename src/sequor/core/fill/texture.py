"""Texture for a fill: what the mean of many patches smooths away.

Copied in one piece from the strip of picture beside the hole.

Only what stands off the local mean is copied, and only as strongly as the picture around has more
of it than the fill; not where the strip differs in colour from the fill, where it would bring in
other things; and weak texture, which no eye misses, less than strong.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt, gaussian_filter, label

from sequor.core.fill.exemplar import Places
from sequor.core.fill.membrane import Colours
from sequor.core.pixels import Mask

_MEAN_PX, _CONTRAST_PX, _AROUND_PX, _JOINED_PX = 4.0, 6.0, 30.0, 2.0
_OTHER_COLOUR = 20.0
_WEAK = 3 * 1200.0
_APART_PX = 4


@dataclass(frozen=True)
class Texture:
    """Where texture is copied from, and how strongly.

    Attributes
    ----------
    shift : ndarray, shape (height, width, 2)
        Rows and columns from a pixel of the hole to where its texture comes from.
    strength : ndarray, shape (height, width)
        0 to 1; 0 outside the hole.
    mean : ndarray, shape (height, width, 3)
        The local mean of the picture that texture stands off.
    """

    shift: Places
    strength: NDArray[np.float32]
    mean: Colours


def texture_of(known: Colours, hole: Mask, avoid: Mask, colours: Colours, calm: Mask) -> Texture:
    """The texture for a filled hole.

    Parameters
    ----------
    known, colours : ndarray, shape (height, width, 3)
        The picture, and the picture with its hole filled.
    hole, avoid, calm : ndarray of bool, shape (height, width)
        What is filled, what must not be copied from, and what was filled calmly: only that lacks
        texture.
    """
    if not (calm & hole).any():
        return Texture(
            np.zeros((*hole.shape, 2), np.int32), np.zeros(hole.shape, np.float32), known
        )
    mean, around = _local_mean(known, ~hole), _local_mean(colours, np.ones_like(hole))
    has = gaussian_filter(((colours - around) ** 2).sum(axis=2), _CONTRAST_PX)
    weight = np.maximum(gaussian_filter((~hole).astype(np.float32), _CONTRAST_PX), 1e-6)
    stands_off = np.where(hole, 0, ((known - mean) ** 2).sum(axis=2))
    could = gaussian_filter(stands_off, _CONTRAST_PX) / weight
    # Texture is much the same all around; what stands off more than what lies at the seam is a
    # thing of its own, and not to be doubled.
    usual = gaussian_filter(stands_off, _AROUND_PX) / np.maximum(
        gaussian_filter((~hole).astype(np.float32), _AROUND_PX), 1e-6
    )
    shift, strength = np.zeros((*hole.shape, 2), np.int32), np.zeros(hole.shape, np.float32)
    away, nearest = distance_transform_edt(hole, return_indices=True)
    marks, count = label(hole)
    for number in range(1, count + 1):
        rows, columns = np.nonzero(marks == number)
        inward = np.array(
            [
                (nearest[0][rows, columns] - rows).mean(),
                (nearest[1][rows, columns] - columns).mean(),
            ]
        )
        by = np.rint(
            inward / max(float(np.hypot(*inward)), 1e-9) * (away[rows, columns].max() + _APART_PX)
        ).astype(np.int32)
        inside = (
            (rows + by[0] >= 0)
            & (rows + by[0] < hole.shape[0])
            & (columns + by[1] >= 0)
            & (columns + by[1] < hole.shape[1])
        )
        rows, columns = rows[inside], columns[inside]
        there, seam = (
            (rows + by[0], columns + by[1]),
            (nearest[0][rows, columns], nearest[1][rows, columns]),
        )
        usable = ~hole[there] & ~avoid[there]
        unlike = ((mean[there] - around[rows, columns]) ** 2).sum(axis=1)
        lacking = np.sqrt(
            np.maximum(could[there] - has[rows, columns], 0) / np.maximum(could[there], 1e-6)
        )
        strong = calm[rows, columns] * could[there] / (could[there] + _WEAK)
        alike = (
            np.minimum(1.0, np.minimum(usual, could)[seam] / np.maximum(could[there], 1e-6)) ** 2
        )
        strength[rows, columns] = (
            usable * np.exp(-unlike / (6 * _OTHER_COLOUR**2)) * lacking * strong * alike
        )
        shift[rows, columns] = by
    joined = np.where(hole, gaussian_filter(strength, _JOINED_PX), 0).astype(np.float32)
    return Texture(shift, joined, mean)


def _local_mean(values: Colours, where: Mask) -> Colours:
    """The mean around every pixel, of the pixels in a mask."""
    weight = where.astype(np.float32)
    total = np.maximum(gaussian_filter(weight, _MEAN_PX), 1e-6)
    means = [
        gaussian_filter(values[:, :, c] * weight, _MEAN_PX) / total for c in range(values.shape[2])
    ]
    return np.stack(means, axis=-1).astype(np.float32)
