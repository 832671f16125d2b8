"""The frame: the largest rectangle of a ratio inside the valid picture, and its cost.

The valid picture is a convex outline. A rectangle of ratio ``a`` with centre
(cx, cy) and height s lies inside a half plane ``n . p <= d`` when
``n . c + s (|nx| a + |ny|) / 2 <= d``; so the largest one is a linear programme
in (cx, cy, s).
"""

import math
from dataclasses import dataclass
from itertools import combinations
from typing import Any, Literal, overload

import numba as nb
import numpy as np
from scipy.optimize import minimize, minimize_scalar

from sequor.core.camera import Matrix
from sequor.core.errors import UnusableInput

_SNAP_PX = 1e-6
_GOLDEN = (math.sqrt(5) - 1) / 2
_LINES = 48
_LACKING_COSTS = 3.0


@dataclass(frozen=True)
class Rectangle:
    """An upright rectangle in continuous pixels: top-left corner, width and height."""

    x: float
    y: float
    width: float
    height: float

    @property
    def corners(self) -> Matrix:
        """The four corners, shape (4, 2), clockwise from the top left."""
        right, bottom = self.x + self.width, self.y + self.height
        return np.array([[self.x, self.y], [right, self.y], [right, bottom], [self.x, bottom]])


def half_planes(outline: Matrix) -> tuple[Matrix, Matrix]:
    """Unit normals (N, 2) and offsets (N,) with ``n . p <= d`` inside a convex outline (N, 2)."""
    edges = np.roll(outline, -1, axis=0) - outline
    normals = np.column_stack([edges[:, 1], -edges[:, 0]]) / np.linalg.norm(edges, axis=1)[:, None]
    offsets = np.einsum("ij,ij->i", normals, outline)
    inside = np.sign(offsets - normals @ outline.mean(axis=0))
    return normals * inside[:, None], offsets * inside


@overload
def largest_rectangle(outline: Matrix, ratio: float, preferred: tuple[float, float]) -> Rectangle: ...
@overload
def largest_rectangle(
    outline: Matrix, ratio: float, preferred: tuple[float, float], keep: Rectangle, none_is_error: Literal[False]
) -> Rectangle | None: ...
def largest_rectangle(
    outline: Matrix, ratio: float, preferred: tuple[float, float], keep: Rectangle | None = None, none_is_error: bool = True
) -> Rectangle | None:
    """The largest upright rectangle of a ratio inside a convex outline.

    Parameters
    ----------
    outline : ndarray, shape (N, 2)
        Corners of the valid picture in order, in pixels.
    ratio : float
        Width over height.
    preferred : (float, float)
        Where the centre should be when the largest rectangle can slide, as a
        wide frame can in a picture that is not turned.
    keep : Rectangle, optional
        What the rectangle must contain.

    Raises
    ------
    UnusableInput
        When no rectangle of at least a pixel fits; with ``none_is_error`` false None is returned instead.
    """
    normals, offsets = half_planes(outline)
    reach = (np.abs(normals[:, 0]) * ratio + np.abs(normals[:, 1])) / 2
    if keep is not None:
        normals = np.vstack([normals, [[1, 0], [-1, 0], [0, 1], [0, -1]]])
        offsets = np.append(offsets, [keep.x, -keep.x - keep.width, keep.y, -keep.y - keep.height])
        reach = np.append(reach, [-ratio / 2, -ratio / 2, -0.5, -0.5])
    # The optimum of a linear programme lies in a corner: where three of the few half planes (rows n, reach, d) hold exactly.
    corners = _crossings(np.column_stack([normals, reach]), offsets)
    if not len(corners) or corners[:, 2].max() * min(ratio, 1) < 1:
        if not none_is_error:
            return None
        raise UnusableInput("No frame of at least one pixel fits into the corrected picture; turn it less.")
    height = float(corners[:, 2].max())
    # Of all rectangles of that size, the one nearest to the preferred centre: their centres fill a point or a stretch.
    ends = _crossings(normals, offsets - reach * height + _SNAP_PX)
    cx, cy = _nearest(ends if len(ends) else corners[[int(np.argmax(corners[:, 2]))], :2], np.array(preferred))
    width = height * ratio
    return Rectangle(cx - width / 2, cy - height / 2, width, height)


def _crossings(rows: Matrix, limits: Matrix) -> Matrix:
    """Points at which as many of the constraints ``rows . p <= limits`` as there are unknowns hold exactly, and all others hold."""
    count = rows.shape[1]
    chosen = np.array(list(combinations(range(len(rows)), count)))
    square = rows[chosen]
    solvable = np.abs(np.linalg.det(square)) > 1e-12
    points = np.linalg.solve(square[solvable], limits[chosen][solvable][:, :, None])[:, :, 0]
    scale = max(1.0, float(np.abs(limits).max()))
    found: Matrix = points[(points @ rows.T <= limits + 1e-9 * scale).all(axis=1)]
    return found


def _nearest(ends: Matrix, wanted: Matrix) -> tuple[float, float]:
    """The point nearest to a wanted one on the stretch that some points in a line span."""
    apart = ends - ends[0]
    far = ends[int(np.argmax((apart**2).sum(axis=1)))] - ends[0]
    length = float(far @ far)
    share = min(1.0, max(0.0, float((wanted - ends[0]) @ far) / length)) if length else 0.0
    x, y = ends[0] + share * far
    return float(x), float(y)


def largest_free_rectangle(outline: Matrix, preferred: tuple[float, float]) -> Rectangle:
    """The upright rectangle of the largest area, of whatever ratio, inside a convex outline.

    ``log width + log height`` is concave and the rectangles inside the outline
    form a convex set in (cx, cy, width, height), so a local search finds the one
    maximum; its ratio then gives the exact rectangle.
    """
    normals, offsets = half_planes(outline)
    inside = np.column_stack([-normals, -np.abs(normals) / 2])
    start = largest_rectangle(outline, float(np.divide(*np.ptp(outline, axis=0))), preferred)
    scale = math.hypot(start.width, start.height)
    middle = np.array([start.x + start.width / 2, start.y + start.height / 2])
    room = (offsets - normals @ middle) / scale
    found = minimize(
        lambda v: -math.log(v[2]) - math.log(v[3]),
        [0, 0, start.width / scale, start.height / scale],
        jac=lambda v: np.array([0, 0, -1 / v[2], -1 / v[3]]),
        bounds=[(None, None), (None, None), (1e-6, None), (1e-6, None)],
        constraints={"type": "ineq", "fun": lambda v: room + inside @ v, "jac": lambda _: inside},
        method="SLSQP",
        options={"ftol": 1e-12},
    )
    return largest_rectangle(outline, float(found.x[2] / found.x[3]), preferred)


def largest_in_curve(outline: Matrix, ratio: float, preferred: tuple[float, float]) -> Rectangle:
    """The largest upright rectangle of a ratio inside a curved outline, which may bulge inwards.

    A rectangle about a centre inside the outline lies within it when no point of the outline lies in the
    rectangle. So the height of the largest one about a centre c is the least over the outline's points p of
    ``max(2 |px - cx| / ratio, 2 |py - cy|)``, and the best centre is searched (see `heights_in_curve` and `search_centre`).

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
        raise UnusableInput("No frame of at least one pixel fits into the corrected picture; turn it less.")
    return Rectangle(float(centre[0]) - best * ratio / 2, float(centre[1]) - best / 2, best * ratio, best)


def largest_free_in_curve(outline: Matrix, preferred: tuple[float, float]) -> Rectangle:
    """The upright rectangle of the largest area inside a curved outline: a golden-section search over its ratio."""

    def area(log_ratio: float) -> float:
        found = largest_in_curve(outline, math.exp(log_ratio), preferred)
        return -found.width * found.height

    width, height = np.ptp(outline, axis=0)
    middle = math.log(width / height)
    best = minimize_scalar(area, bounds=(middle - 0.7, middle + 0.7), method="bounded", options={"xatol": 1e-3})
    return largest_in_curve(outline, math.exp(float(best.x)), preferred)


def border_centres(rectangle: Rectangle) -> Matrix:
    """The centres of the outermost pixels of a rectangle of whole pixels, shape (N, 2)."""
    xs, ys = rectangle.x + 0.5 + np.arange(rectangle.width), rectangle.y + 0.5 + np.arange(rectangle.height)
    top, left = np.full_like(xs, ys[0]), np.full_like(ys, xs[0])
    rows = [np.column_stack([xs, top]), np.column_stack([xs, top + rectangle.height - 1])]
    return np.vstack([*rows, np.column_stack([left, ys]), np.column_stack([left + rectangle.width - 1, ys])])


@nb.njit(cache=True, error_model="numpy")
def _stretch(across: float, down: float, u: float, v: float, ratio: float) -> float:
    """The height of a frame on whose border a point lies that is so far from the place (u, v), in shares, of the frame."""
    side, end = (1 - u if across > 0 else u) * ratio, 1 - v if down > 0 else v
    wide = abs(across) / side if side > 0 else (np.inf if across != 0 else 0.0)
    high = abs(down) / end if end > 0 else (np.inf if down != 0 else 0.0)
    return max(wide, high)


@nb.njit(cache=True, error_model="numpy")
def _height_at(outline: Any, cx: float, cy: float, u: float, v: float, ratio: float, exact: bool) -> float:
    """One height of `heights_in_curve`; only the outline's points are looked at when it need not be ``exact``."""
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
    """Heights of the largest frames of a ratio inside an outline of which the places ``shares`` lie at ``points``, both shape (K, 2).

    The height is the least `_stretch` over the outline. Along one of its segments that is the greater of two convex functions: its least lies
    at an end, where the segment passes the point upright or level, or where both are equal. 0 for a point outside the outline, by the even-odd rule.
    """
    heights = np.empty(len(points))
    for i in range(len(points)):
        heights[i] = _height_at(outline, points[i, 0], points[i, 1], shares[i, 0], shares[i, 1], ratio, True)
    return heights


@nb.njit(cache=True, error_model="numpy")
def _worth(outline: Any, x: float, y: float, ratio: float, preferred: Any, keep: Any, exact: bool) -> float:
    """The height about a centre, less what a frame that must contain ``keep`` (its middle and its size) lacks of it."""
    height = _height_at(outline, x, y, 0.5, 0.5, ratio, exact)
    worth = height - 1e-6 * math.sqrt((x - preferred[0]) ** 2 + (y - preferred[1]) ** 2)
    if keep[2] > 0:
        needed = max((2 * abs(x - keep[0]) + keep[2]) / ratio, 2 * abs(y - keep[1]) + keep[3])
        worth -= _LACKING_COSTS * max(0.0, needed - height)
    return worth


@nb.njit(cache=True, error_model="numpy")
def _best_on_line(
    outline: Any, x: float, low: float, high: float, ratio: float, preferred: Any, keep: Any, exact: bool, steps: int
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
def search_centre(outline: Any, ratio: float, low: Any, high: Any, preferred: Any, keep: Any) -> tuple[float, float]:
    """The centre with the largest frame inside a curved outline.

    The worth of a centre has ridges, which no grid follows; along one line it rises to one top and falls. So it is searched
    along lines: the best y for an x by golden section, the best x on a grid and then by golden section again.
    ``keep`` is the middle and the size of a box to contain; a size of 0 stands for none.
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
            y0, w0 = _best_on_line(outline, x0, by - down, by + down, ratio, preferred, keep, True, 28)
        else:
            left, x0, y0, w0 = x0, x1, y1, w1
            x1 = left + _GOLDEN * (right - left)
            y1, w1 = _best_on_line(outline, x1, by - down, by + down, ratio, preferred, keep, True, 28)
    return (x0, y0) if w0 > w1 else (x1, y1)


def whole_pixels(rectangle: Rectangle, ratio: float | None) -> Rectangle:
    """The largest rectangle of whole pixels with the same centre inside ``rectangle``.

    Its ratio is the wanted one to within the rounding of one side; its corner
    may lie between pixels, since the picture is resampled anyway.
    """
    width = math.floor(rectangle.width + _SNAP_PX)
    height = math.floor(rectangle.height + _SNAP_PX)
    if ratio is not None:
        width, height = min(width, max(1, round(height * ratio))), min(height, max(1, round(width / ratio)))
    if width < 1 or height < 1:
        raise UnusableInput("No frame of at least one pixel fits into the corrected picture; turn it less.")
    x = rectangle.x + (rectangle.width - width) / 2
    y = rectangle.y + (rectangle.height - height) / 2
    return Rectangle(_snap(x), _snap(y), width, height)


def _snap(value: float) -> float:
    return float(round(value)) if abs(value - round(value)) < 2 * _SNAP_PX else value


def polygon_area(points: Matrix) -> float:
    """Area of a simple polygon, shape (N, 2), by the shoelace formula."""
    x, y = points.T
    return abs(float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))) / 2
