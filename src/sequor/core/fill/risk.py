"""Where filling is risky.

Straight edges that cross the seam between the picture and what must be filled.

Sky, grass, water and plain walls continue believably; a gutter, a mast or a kerb that breaks off at
the seam does not. An edge counts when it can be followed straight into the picture for some way
with a gradient of the same sense.
"""

import math
from dataclasses import dataclass
from typing import Any, Literal

import numba as nb
import numpy as np

from sequor.core.fill.membrane import Colours
from sequor.core.neighbourhood import depth_in, gaussian, nearest_outside
from sequor.core.pixels import LUMA, Mask

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
_GOES_ON = 0.4
"""Share of its gradient that an edge has where it goes on beyond the seam."""
_BOWED_PX = 0.8
"""An edge whose places stand off a line by more, as root mean square, is bowed: a whole pixel's
rounding alone gives 0.3."""
_SMOOTH_PX = 1.2
_MEETS = 0.5
"""Sine of the least angle between an edge and the seam, 30 degrees: flatter ones run along it."""
_AROUND_PX, _STANDS_OUT = 12.0, 3.0
"""Within so many pixels the usual slope is taken, which an edge must exceed so many times."""


@dataclass(frozen=True)
class Crossing:
    """An edge that crosses the seam.

    Attributes
    ----------
    side : str
        The side of the frame.
    x, y : float
        Where, on the picture's side of the seam, in pixels of the plan.
    outward : (float, float)
        Unit vector along the edge, x and y, out of the picture.
    rise : (float, float)
        Its gradient there, x and y, in grey levels a pixel.
    """

    side: Side
    x: float
    y: float
    outward: tuple[float, float]
    rise: tuple[float, float]


def crossings_of(picture: Colours, hole: Mask) -> tuple[Crossing, ...]:
    """The straight edges that cross the seam of a hole.

    Parameters
    ----------
    picture : ndarray, shape (height, width, 3), 0 to 255
    hole : ndarray of bool, shape (height, width)
    """
    if not hole.any() or hole.all():
        return ()
    away = depth_in(~hole)
    down, across = gradient_of(picture)
    # In texture, grass or leaves, slopes as steep as this are everywhere about: they continue
    # believably.
    clear = away >= _DEPTH_PX  # nearer, what is measured is the seam
    usual = gaussian(np.where(clear, np.hypot(down, across), 0), _AROUND_PX) / np.maximum(
        gaussian(clear.astype(np.float32), _AROUND_PX), 1e-6
    )
    ring = np.argwhere(clear & (away < _DEPTH_PX + 1))
    rows, columns = ring.T
    normal = nearest_outside(~hole, ring) - ring.T
    normal = normal / np.maximum(np.hypot(*normal), 1e-9)
    slope = np.stack([down[rows, columns], across[rows, columns]])
    steep = np.hypot(*slope)
    # The edge runs at right angles to its gradient; it crosses the seam when it has a part along
    # the seam's normal.
    along = np.stack([-slope[1], slope[0]]) / np.maximum(steep, 1e-9)
    meets = (along * normal).sum(axis=0)
    inward = np.where(meets < 0, along, -along)
    steep_enough = steep >= np.maximum(_SLOPE, _STANDS_OUT * usual[rows, columns])
    found: list[Crossing] = []
    possible = np.flatnonzero(steep_enough & (np.abs(meets) >= _MEETS))
    # The steepest first: a crossing lies in the middle of its edge, not where that begins.
    for i in possible[np.argsort(-steep[possible], kind="stable")]:
        y, x, sense = float(rows[i]), float(columns[i]), slope[:, i] / steep[i]
        if any(abs(c.x - x) + abs(c.y - y) <= _APART_PX for c in found):
            continue
        followed, drift = _followed(down, across, y, x, inward[:, i], sense)
        outward = -(inward[:, i] + drift * sense)
        outward = outward / np.hypot(*outward)
        if followed and float(outward @ normal[:, i]) >= _MEETS:
            side = _side(float(normal[0, i]), float(normal[1, i]))
            away_from = (float(outward[1]), float(outward[0]))
            rise = (float(slope[1, i]), float(slope[0, i]))
            found.append(Crossing(side, x, y, away_from, rise))
    return tuple(found)


def gradient_of(picture: Colours) -> tuple[Any, Any]:
    """How luma rises downwards and to the right, smoothed, in grey levels a pixel."""
    down, across = np.gradient(gaussian(picture @ LUMA, _SMOOTH_PX))
    return down, across


def goes_on(gradient: tuple[Any, Any], hole: Mask, edge: Crossing) -> float:
    """The share of the way that an edge can be followed into a filled hole, up to as far as an
    edge is followed in the picture, or to the border; by the gradient of the filled picture.
    """
    down, across = gradient
    steep = math.hypot(*edge.rise)
    sense = edge.rise[1] / steep, edge.rise[0] / steep
    met, steps = 0, 0
    for step in range(2 * round(_DEPTH_PX), FOLLOWED_PX + 1, 2):
        y, x = edge.y + step * edge.outward[1], edge.x + step * edge.outward[0]
        best, seen = 0.0, False
        reach = 2 + step // 10
        for aside in range(-reach, reach + 1):
            r, c = round(y + sense[0] * aside), round(x + sense[1] * aside)
            if 0 <= r < hole.shape[0] and 0 <= c < hole.shape[1] and hole[r, c]:
                seen = True
                best = max(best, down[r, c] * sense[0] + across[r, c] * sense[1])
        met, steps = met + (best >= _GOES_ON * steep), steps + seen
    return met / steps if steps else 1.0


def _side(down: float, right: float) -> Side:
    if abs(right) > abs(down):
        return "left" if right < 0 else "right"
    return "top" if down < 0 else "bottom"


@nb.njit(cache=True, error_model="numpy")
def _followed(
    down: Any, across: Any, y: float, x: float, inward: Any, sense: Any
) -> tuple[bool, float]:
    """Whether an edge goes on straight for some way, near every step there is a gradient of the
    same sense, and how far it drifts aside a step.
    """
    height, width = down.shape
    drift, steps, aside_2, count = 0.0, 0.0, 0.0, 0
    for step in range(4, FOLLOWED_PX + 1, 2):
        best, where = 0.0, 0
        # An edge that was met a little obliquely may drift aside by a tenth of the way.
        reach = 1 + step // 10
        for aside in range(-reach, reach + 1):
            r = round(y + inward[0] * step + sense[0] * aside)
            c = round(x + inward[1] * step + sense[1] * aside)
            if 0 <= r < height and 0 <= c < width:
                value = down[r, c] * sense[0] + across[r, c] * sense[1]
                if value > best:
                    best, where = value, aside
        if best < 0.6 * _SLOPE:
            return False, 0.0
        drift, steps = drift + where * step, steps + step * step
        aside_2, count = aside_2 + where * where, count + 1
    bowed = math.sqrt(max(aside_2 - drift * drift / steps, 0.0) / count)
    return bowed <= _BOWED_PX, drift / steps
