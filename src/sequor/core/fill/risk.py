"""Where filling is risky.

Straight edges that cross the seam between the picture and what must be filled.

Sky, grass, water and plain walls continue believably; a gutter, a mast or a kerb that breaks off at
the seam does not. An edge counts when it can be followed straight into the picture for some way
with a gradient of the same sense.
"""

from dataclasses import dataclass
from typing import Any, Literal

import numba as nb
import numpy as np
import scipy

from sequor.core.fill.membrane import Colours
from sequor.core.pixels import Mask

Side = Literal["left", "top", "right", "bottom"]
SIDES: tuple[Side, ...] = ("left", "top", "right", "bottom")
FOLLOWED_PX = 40
"""Pixels of the plan that an edge must be followed into the picture: a thirtieth of its width."""
_SLOPE = 5.0
"""Grey levels a pixel that an edge has at least: below it is haze or a shadow's border."""
_APART_PX = 10
"""Pixels by which two crossings are two: nearer ones are both sides of one mast."""
_DEPTH_PX = 4.0
"""Pixels from the seam at which edges are looked for, so that the seam is none itself."""
_AROUND_PX, _STANDS_OUT = 12.0, 3.0
"""Within so many pixels the usual slope is taken, which an edge must exceed so many times."""


@dataclass(frozen=True)
class Crossing:
    """An edge that crosses the seam: the side of the frame, and where, in pixels of the plan."""

    side: Side
    x: float
    y: float


def crossings_of(picture: Colours, hole: Mask) -> tuple[Crossing, ...]:
    """The straight edges that cross the seam of a hole.

    Parameters
    ----------
    picture : ndarray, shape (height, width, 3), 0 to 255
    hole : ndarray of bool, shape (height, width)
    """
    if not hole.any() or hole.all():
        return ()
    away, (rows, columns) = scipy.ndimage.distance_transform_edt(~hole, return_indices=True)
    # Luma of ITU-R BT.709.
    luma = scipy.ndimage.gaussian_filter(
        picture @ np.array([0.2126, 0.7152, 0.0722], np.float32), 1.2
    )
    down, across = np.gradient(luma)
    # In texture, grass or leaves, slopes as steep as this are everywhere about: they continue
    # believably.
    usual = scipy.ndimage.gaussian_filter(
        np.where(hole, 0, np.hypot(down, across)), _AROUND_PX
    ) / np.maximum(scipy.ndimage.gaussian_filter((~hole).astype(float), _AROUND_PX), 1e-6)
    band = np.argwhere((away >= _DEPTH_PX) & (away < _DEPTH_PX + 1))
    found: list[Crossing] = []
    for y, x in band:
        outward = np.array([rows[y, x] - y, columns[y, x] - x], float)
        outward /= max(float(np.hypot(*outward)), 1e-9)
        slope = np.array([down[y, x], across[y, x]])
        steep = float(np.hypot(*slope))
        # The edge runs at right angles to its gradient; it crosses the seam when it has a part
        # along the seam's normal.
        along = np.array([-slope[1], slope[0]]) / max(steep, 1e-9)
        if steep < max(_SLOPE, _STANDS_OUT * usual[y, x]) or abs(float(along @ outward)) < 0.4:
            continue
        inward = along if float(along @ outward) < 0 else -along
        if not _followed(down, across, float(y), float(x), inward, slope / steep):
            continue
        if all(abs(c.x - x) + abs(c.y - y) > _APART_PX for c in found):
            side: Side = (
                ("left" if outward[1] < 0 else "right")
                if abs(outward[1]) > abs(outward[0])
                else ("top" if outward[0] < 0 else "bottom")
            )
            found.append(Crossing(side, float(x), float(y)))
    return tuple(found)


@nb.njit(cache=True, error_model="numpy")
def _followed(down: Any, across: Any, y: float, x: float, inward: Any, sense: Any) -> bool:
    """Whether an edge goes on straight for some way, near every step there is a gradient of the
    same sense.
    """
    height, width = down.shape
    for step in range(4, FOLLOWED_PX + 1, 2):
        best = 0.0
        # An edge that was met a little obliquely may drift aside by a tenth of the way.
        reach = 1 + step // 10
        for aside in range(-reach, reach + 1):
            r = round(y + inward[0] * step + sense[0] * aside)
            c = round(x + inward[1] * step + sense[1] * aside)
            if 0 <= r < height and 0 <= c < width:
                best = max(best, down[r, c] * sense[0] + across[r, c] * sense[1])
        if best < 0.6 * _SLOPE:
            return False
    return True
