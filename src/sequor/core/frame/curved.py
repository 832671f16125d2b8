"""The outline of a picture freed of radial distortion: curved, and it may bulge inwards.

A rectangle about a centre inside the outline lies within it when no point of the outline lies in
the rectangle. So the height of the largest one about a centre c is the least over the outline's
points p of ``max(2 |px - cx| / ratio, 2 |py - cy|)``, and the best centre is searched.
"""

import math
from typing import Any

import numba as nb
import numpy as np
import scipy
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.frame.outline import TOUCHING_PX, Outline
from sequor.core.frame.rectangle import Rectangle, no_frame
from sequor.core.recipe import Point

_GOLDEN = (math.sqrt(5) - 1) / 2
_LINES = 48
"""Upright lines on which the best centre is looked for first; it is then found between the best
one's neighbours. tests/core/test_placing.py compares with brute force."""
_LACKING_COSTS = 3.0
"""What a pixel that a frame lacks of the box to keep costs against a pixel of its height: more than
one, so that no larger frame makes up for it."""
_RATIO_SPAN = 0.7
"""The largest free frame's ratio is looked for within this of the box around the outline, in
logarithms: a factor of two."""


class CurvedOutline(Outline):
    """A curve, given by many points close together."""

    curved = True

    def largest(self, ratio: float | None, preferred: Point) -> Rectangle:
        """The largest frame of a ratio, or of whatever ratio, inside the outline."""
        if ratio is None:
            return largest_free_in_curve(self.points, preferred)
        return largest_in_curve(self.points, ratio, preferred)

    def largest_containing(
        self, ratio: float, keep: Rectangle, preferred: Point
    ) -> Rectangle | None:
        """The largest frame of a ratio that contains a box; None when there is none.

        The centres at which a frame of height h contains the box fill an upright rectangle; the
        search takes what a frame lacks of the box off its worth.
        """
        wanted = np.array([*keep.centre, keep.width, keep.height])
        low, high = np.array(self.box.low), np.array(self.box.high)
        centre = search_centre(self.points, ratio, low, high, np.array(preferred, float), wanted)
        height = self.height_at(centre, (0.5, 0.5), ratio)
        frame = Rectangle.about(centre, height * ratio, height)
        return frame if height > 0 and frame.contains(keep) else None

    def heights(self, points: Matrix, shares: Matrix, ratio: float) -> Matrix:
        """Heights of the largest frames whose ``shares`` lie at ``points``, both shape (K, 2)."""
        return np.asarray(heights_in_curve(self.points, points, shares, ratio))

    def nearest(self, width: float, height: float, wanted: Point, inside: Point) -> Rectangle:
        """The frame of a size whose centre is nearest to a wanted one."""
        centre = self._nearest_centre(width, height, np.array(wanted), np.array(inside))
        return Rectangle.about((float(centre[0]), float(centre[1])), width, height)

    def _nearest_centre(
        self, width: float, height: float, wanted: Matrix, inside: Matrix
    ) -> Matrix:
        def possible(centres: Matrix) -> NDArray[np.bool_]:
            shares = np.full(centres.shape, 0.5)
            return self.heights(centres, shares, width / height) >= height - TOUCHING_PX

        if possible(wanted[None])[0]:
            return wanted
        low, high = 0.0, 1.0
        for _ in range(40):
            share = (low + high) / 2
            low, high = (
                (low, share)
                if possible((wanted + share * (inside - wanted))[None])[0]
                else (share, high)
            )
        best = wanted + high * (inside - wanted)
        reach = float(np.linalg.norm(best - wanted))
        turns = np.linspace(0, 2 * math.pi, 16, endpoint=False)
        around = np.column_stack([np.cos(turns), np.sin(turns)])
        while reach > 1e-3:
            trials = best + around * reach
            trials = trials[possible(trials)]
            away = np.linalg.norm(trials - wanted, axis=1)
            if len(trials) and away.min() < np.linalg.norm(best - wanted) - 1e-9:
                best = trials[int(np.argmin(away))]
            else:
                reach /= 2
        return best


def largest_in_curve(outline: Matrix, ratio: float, preferred: Point) -> Rectangle:
    """The largest upright rectangle of a ratio inside a curved outline, which may bulge inwards.

    A rectangle about a centre inside the outline lies within it when no point of the outline lies
    in the rectangle. So the height of the largest one about a centre c is the least over the
    outline's points p of ``max(2 |px - cx| / ratio, 2 |py - cy|)``, and the best centre is searched
    (see `heights_in_curve` and `search_centre`).

    Parameters
    ----------
    outline : ndarray, shape (N, 2)
        Points of the outline, close together.
    ratio, preferred
        As for `largest_rectangle`.
    """
    low, high = outline.min(axis=0), outline.max(axis=0)
    nothing = np.array([np.nan, np.nan, 0.0, 0.0])
    centre = np.array(search_centre(outline, ratio, low, high, np.array(preferred, float), nothing))
    best = float(heights_in_curve(outline, centre[None], np.full((1, 2), 0.5), ratio)[0])
    if best * min(ratio, 1) < 1:
        raise no_frame()
    return Rectangle(
        float(centre[0]) - best * ratio / 2, float(centre[1]) - best / 2, best * ratio, best
    )


def largest_free_in_curve(outline: Matrix, preferred: Point) -> Rectangle:
    """The upright rectangle of the largest area inside a curved outline.

    A golden-section search over its ratio.
    """

    def area(log_ratio: float) -> float:
        found = largest_in_curve(outline, math.exp(log_ratio), preferred)
        return -found.width * found.height

    width, height = np.ptp(outline, axis=0)
    middle = math.log(width / height)
    best = scipy.optimize.minimize_scalar(
        area,
        bounds=(middle - _RATIO_SPAN, middle + _RATIO_SPAN),
        method="bounded",
        options={"xatol": 1e-3},
    )
    return largest_in_curve(outline, math.exp(float(best.x)), preferred)


@nb.njit(cache=True, error_model="numpy")
def _stretch(across: float, down: float, u: float, v: float, ratio: float) -> float:
    """The height of a frame on whose border a point lies that is so far from the place (u, v),
    in shares, of the frame.
    """
    side, end = (1 - u if across > 0 else u) * ratio, 1 - v if down > 0 else v
    wide = abs(across) / side if side > 0 else (np.inf if across != 0 else 0.0)
    high = abs(down) / end if end > 0 else (np.inf if down != 0 else 0.0)
    return max(wide, high)


@nb.njit(cache=True, error_model="numpy")
def _height_at(
    outline: Any, cx: float, cy: float, u: float, v: float, ratio: float, exact: bool
) -> float:
    """One height of `heights_in_curve`.

    Only the outline's points are looked at when it need not be ``exact``.
    """
    least, inside = np.inf, False
    for j in range(len(outline)):
        x0, y0 = outline[j - 1, 0] - cx, outline[j - 1, 1] - cy
        x1, y1 = outline[j, 0] - cx, outline[j, 1] - cy
        if (y0 > 0) != (y1 > 0) and x0 - y0 / (y1 - y0) * (x1 - x0) > 0:
            inside = not inside
        least = min(least, _stretch(x1, y1, u, v, ratio))
    if not inside or not exact:
        return least if inside else 0.0
    side_most, end_most = max(u, 1 - u) * ratio, max(v, 1 - v)
    for j in range(len(outline)):
        x0, y0 = outline[j - 1, 0] - cx, outline[j - 1, 1] - cy
        x1, y1 = outline[j, 0] - cx, outline[j, 1] - cy
        # A segment that stays beyond what is known already on either axis cannot matter.
        if min(x0, x1) > least * side_most or max(x0, x1) < -least * side_most:
            continue
        if min(y0, y1) > least * end_most or max(y0, y1) < -least * end_most:
            continue
        dx, dy = x1 - x0, y1 - y0
        for k in range(6):
            if k == 0:
                slope, start = dx, x0
            elif k == 1:
                slope, start = dy, y0
            else:
                # The four diagonals from the place to the corners of the frame.
                side, end = (1 - u if k % 2 else u) * ratio, 1 - v if k < 4 else v
                sx, sy = 1.0 if k % 2 else -1.0, 1.0 if k < 4 else -1.0
                slope, start = sx * dx * end - sy * dy * side, sx * x0 * end - sy * y0 * side
            if slope == 0:
                continue
            share = -start / slope
            if 0 < share < 1:
                least = min(least, _stretch(x0 + share * dx, y0 + share * dy, u, v, ratio))
    return least


@nb.njit(cache=True, error_model="numpy")
def heights_in_curve(outline: Any, points: Any, shares: Any, ratio: float) -> Any:
    """Heights of the largest frames of a ratio inside an outline of which the places ``shares`` lie
    at ``points``, both shape (K, 2).

    The height is the least `_stretch` over the outline. Along one of its segments that is the
    greater of two convex functions: its least lies at an end, where the segment passes the point
    upright or level, or where both are equal. 0 for a point outside the outline, by the even-odd
    rule.
    """
    heights = np.empty(len(points))
    for i in range(len(points)):
        heights[i] = _height_at(
            outline, points[i, 0], points[i, 1], shares[i, 0], shares[i, 1], ratio, True
        )
    return heights


@nb.njit(cache=True, error_model="numpy")
def _worth(
    outline: Any, x: float, y: float, ratio: float, preferred: Any, keep: Any, exact: bool
) -> float:
    """The height about a centre.

    Less what a frame that must contain ``keep`` (its middle and its size) lacks of it.
    """
    height = _height_at(outline, x, y, 0.5, 0.5, ratio, exact)
    worth = height - 1e-6 * math.sqrt((x - preferred[0]) ** 2 + (y - preferred[1]) ** 2)
    if keep[2] > 0:
        needed = max((2 * abs(x - keep[0]) + keep[2]) / ratio, 2 * abs(y - keep[1]) + keep[3])
        worth -= _LACKING_COSTS * max(0.0, needed - height)
    return worth


@nb.njit(cache=True, error_model="numpy")
def _best_on_line(
    outline: Any,
    x: float,
    low: float,
    high: float,
    ratio: float,
    preferred: Any,
    keep: Any,
    exact: bool,
    steps: int,
) -> tuple[float, float]:
    """The best centre above one another with that x, and its worth, by golden-section search."""
    y0, y1 = high - _GOLDEN * (high - low), low + _GOLDEN * (high - low)
    w0 = _worth(outline, x, y0, ratio, preferred, keep, exact)
    w1 = _worth(outline, x, y1, ratio, preferred, keep, exact)
    for _ in range(steps):
        if w0 > w1:
            high, y1, w1 = y1, y0, w0
            y0 = high - _GOLDEN * (high - low)
            w0 = _worth(outline, x, y0, ratio, preferred, keep, exact)
        else:
            low, y0, w0 = y0, y1, w1
            y1 = low + _GOLDEN * (high - low)
            w1 = _worth(outline, x, y1, ratio, preferred, keep, exact)
    return (y0, w0) if w0 > w1 else (y1, w1)


@nb.njit(cache=True, error_model="numpy")
def search_centre(
    outline: Any, ratio: float, low: Any, high: Any, preferred: Any, keep: Any
) -> tuple[float, float]:
    """The centre with the largest frame inside a curved outline.

    The worth of a centre has ridges, which no grid follows; along one line it rises to one top and
    falls. So it is searched along lines: the best y for an x by golden section, the best x on a
    grid and then by golden section again. ``keep`` is the middle and the size of a box to contain;
    a size of 0 stands for none.
    """
    step = (high[0] - low[0]) / _LINES
    bx, by, best = low[0], low[1], -np.inf
    for i in range(1, _LINES):
        x = low[0] + i * step
        y, worth = _best_on_line(outline, x, low[1], high[1], ratio, preferred, keep, False, 18)
        if worth > best:
            bx, by, best = x, y, worth
    left, right = bx - step, bx + step
    down = 0.1 * (high[1] - low[1])
    x0, x1 = right - _GOLDEN * (right - left), left + _GOLDEN * (right - left)
    y0, w0 = _best_on_line(outline, x0, by - down, by + down, ratio, preferred, keep, True, 28)
    y1, w1 = _best_on_line(outline, x1, by - down, by + down, ratio, preferred, keep, True, 28)
    for _ in range(24):
        if w0 > w1:
            right, x1, y1, w1 = x1, x0, y0, w0
            x0 = right - _GOLDEN * (right - left)
            y0, w0 = _best_on_line(
                outline, x0, by - down, by + down, ratio, preferred, keep, True, 28
            )
        else:
            left, x0, y0, w0 = x0, x1, y1, w1
            x1 = left + _GOLDEN * (right - left)
            y1, w1 = _best_on_line(
                outline, x1, by - down, by + down, ratio, preferred, keep, True, 28
            )
    return (x0, y0) if w0 > w1 else (x1, y1)
