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
    ``max(2 |px - cx| / ratio, 2 |py - cy|)``, and the best centre is found by a search on ever finer grids.

    Parameters
    ----------
    outline : ndarray, shape (N, 2)
        Points of the outline, close together.
    ratio, preferred
        As for `largest_rectangle`.
    """
    low, high = outline.min(axis=0), outline.max(axis=0)
    centre, reach = (low + high) / 2, (high - low) / 2
    nearly = 1e-6
    best = 0.0
    steps = np.linspace(-1, 1, 9)
    for _ in range(34):
        grid = centre + np.array([[x, y] for x in steps for y in steps]) * reach
        heights = _heights(outline, grid, ratio)
        place = int(np.argmax(heights - nearly * np.hypot(*(grid - preferred).T)))
        if heights[place] >= best:
            best, centre = float(heights[place]), grid[place]
        steps = np.linspace(-1, 1, 5)
        reach = reach * 0.6
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
    best = minimize_scalar(area, bounds=(middle - 0.7, middle + 0.7), method="bounded", options={"xatol": 1e-4})
    return largest_in_curve(outline, math.exp(float(best.x)), preferred)


def border_centres(rectangle: Rectangle) -> Matrix:
    """The centres of the outermost pixels of a rectangle of whole pixels, shape (N, 2)."""
    xs, ys = rectangle.x + 0.5 + np.arange(rectangle.width), rectangle.y + 0.5 + np.arange(rectangle.height)
    top, left = np.full_like(xs, ys[0]), np.full_like(ys, xs[0])
    rows = [np.column_stack([xs, top]), np.column_stack([xs, top + rectangle.height - 1])]
    return np.vstack([*rows, np.column_stack([left, ys]), np.column_stack([left + rectangle.width - 1, ys])])


@nb.njit(cache=True, error_model="numpy")
def _heights(outline: Any, centres: Any, ratio: float) -> Any:
    """Height of the largest rectangle of a ratio about every centre; 0 for a centre outside the outline, by the even-odd rule."""
    heights = np.empty(len(centres))
    for i in range(len(centres)):
        cx, cy = centres[i, 0], centres[i, 1]
        least, inside = np.inf, False
        for j in range(len(outline)):
            x0, y0 = outline[j - 1, 0], outline[j - 1, 1]
            x1, y1 = outline[j, 0], outline[j, 1]
            least = min(least, max(abs(x1 - cx) / ratio, abs(y1 - cy)))
            if (y0 > cy) != (y1 > cy) and cx < x0 + (cy - y0) / (y1 - y0) * (x1 - x0):
                inside = not inside
        heights[i] = 2 * least if inside else 0.0
    return heights


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
