"""Texture for a fill: what the mean of many patches smooths away.

It is copied in one piece from the strip of picture beside the hole.

Only what stands off the local mean is copied, and only as strongly as the picture around has more
of it than the fill; not where the strip differs in colour from the fill, where it would bring in
other things; and weak texture, which no eye misses, less than strong.
"""

from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from sequor.core.fill.exemplar import Places
from sequor.core.fill.membrane import Colours
from sequor.core.neighbourhood import depth_in, gaussian, nearest_outside
from sequor.core.pixels import Mask

_MEAN_PX, _CONTRAST_PX, _AROUND_PX, _JOINED_PX = 4.0, 6.0, 30.0, 2.0
"""Standard deviations, in pixels of the plan: of the local mean that texture stands off (blades and
leaves are narrower), of its contrast nearby and farther around, and of how softly it begins."""
_OTHER_COLOUR = 20.0
"""Grey levels by which the strip may differ from the fill before it is another thing."""
_WEAK = 3 * 1200.0
"""The contrast at which texture comes over by half, in squared grey levels over three channels:
some 35 grey levels; weaker texture no eye misses."""
_APART_PX = 4
"""Pixels beyond the seam at which the strip begins: what lies at it would be doubled there."""
Index = tuple[NDArray[Any], ...]
"""Rows and columns of some pixels."""


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
    looks = _looks_of(known, hole, colours)
    shift, strength = np.zeros((*hole.shape, 2), np.int32), np.zeros(hole.shape, np.float32)
    away, places = depth_in(hole), np.argwhere(hole)
    nearest = nearest_outside(hole, places)
    marks, count = scipy.ndimage.label(hole)
    numbers = marks[hole]
    for number in range(1, count + 1):
        part, near = places[numbers == number].T, nearest[:, numbers == number]
        by = _way_out(part, near, float(away[part[0], part[1]].max()) + _APART_PX)
        rows, columns = part[0] + by[0], part[1] + by[1]
        inside = (rows >= 0) & (rows < hole.shape[0]) & (columns >= 0) & (columns < hole.shape[1])
        here, there = (part[0][inside], part[1][inside]), (rows[inside], columns[inside])
        seam = (near[0][inside], near[1][inside])
        usable = calm[here] & ~hole[there] & ~avoid[there]
        strength[here] = usable * _strength(looks, here, there, seam)
        shift[here] = by
    joined = np.where(hole, gaussian(strength, _JOINED_PX), 0).astype(np.float32)
    return Texture(shift, joined, looks.mean)


class _Looks(NamedTuple):
    """Local means of the picture and of the fill, and how much stands off them.

    ``has`` is what the fill has, ``could`` what the picture has nearby, ``usual`` what it has
    farther around.
    """

    mean: Colours
    around: Colours
    has: NDArray[Any]
    could: NDArray[Any]
    usual: NDArray[Any]


def _looks_of(known: Colours, hole: Mask, colours: Colours) -> _Looks:
    mean, around = _local_mean(known, ~hole), _local_mean(colours, np.ones_like(hole))
    has = gaussian(((colours - around) ** 2).sum(axis=2), _CONTRAST_PX)
    stands_off = np.where(hole, 0, ((known - mean) ** 2).sum(axis=2))
    could, usual = (
        gaussian(stands_off, reach) / np.maximum(gaussian((~hole).astype(np.float32), reach), 1e-6)
        for reach in (_CONTRAST_PX, _AROUND_PX)
    )
    return _Looks(mean, around, has, could, usual)


def _way_out(part: NDArray[Any], nearest: NDArray[Any], far: float) -> Places:
    """Rows and columns that lead from a part of the hole, all together, out of it."""
    inward = (nearest - part).mean(axis=1)
    way: Places = np.rint(inward / max(float(np.hypot(*inward)), 1e-9) * far).astype(np.int32)
    return way


def _strength(looks: _Looks, here: Index, there: Index, seam: Index) -> NDArray[Any]:
    """How strongly texture comes over: not other things, not weak texture, not what is there."""
    could = looks.could[there]
    unlike = ((looks.mean[there] - looks.around[here]) ** 2).sum(axis=1)
    lacking = np.sqrt(np.maximum(could - looks.has[here], 0) / np.maximum(could, 1e-6))
    strong = could / (could + _WEAK)
    # Texture is much the same all around; what stands off more than what lies at the seam is a
    # thing of its own, and not to be doubled.
    at_seam = np.minimum(looks.usual, looks.could)[seam]
    alike = np.minimum(1.0, at_seam / np.maximum(could, 1e-6)) ** 2
    strength: NDArray[Any] = np.exp(-unlike / (6 * _OTHER_COLOUR**2)) * lacking * strong * alike
    return strength


def _local_mean(values: Colours, where: Mask) -> Colours:
    """The mean around every pixel, of the pixels in a mask."""
    weight = where.astype(np.float32)
    total = np.maximum(gaussian(weight, _MEAN_PX), 1e-6)
    means = [gaussian(values[:, :, c] * weight, _MEAN_PX) / total for c in range(values.shape[2])]
    return np.stack(means, axis=-1).astype(np.float32)
