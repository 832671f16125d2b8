"""The frame: the largest rectangle of a ratio inside the valid picture, and its cost.

The valid picture is a convex outline. A rectangle of ratio ``a`` with centre
(cx, cy) and height s lies inside a half plane ``n . p <= d`` when
``n . c + s (|nx| a + |ny|) / 2 <= d``; so the largest one is a linear programme
in (cx, cy, s).
"""

import math
from dataclasses import dataclass

import numpy as np
from scipy.optimize import linprog, minimize, minimize_scalar

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


def largest_rectangle(outline: Matrix, ratio: float, preferred: tuple[float, float]) -> Rectangle:
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

    Raises
    ------
    UnusableInput
        When no rectangle of at least a pixel fits.
    """
    normals, offsets = half_planes(outline)
    reach = (np.abs(normals[:, 0]) * ratio + np.abs(normals[:, 1])) / 2
    best = linprog([0, 0, -1], np.column_stack([normals, reach]), offsets, bounds=[(None, None), (None, None), (0, None)])
    if not best.success or best.x[2] * min(ratio, 1) < 1:
        raise UnusableInput("No frame of at least one pixel fits into the corrected picture; turn it less.")
    height = float(best.x[2])
    # Of all rectangles of that size, the one nearest to the preferred centre (L1 distance: variables cx, cy, |dx|, |dy|).
    px, py = preferred
    slack = offsets - reach * height + _SNAP_PX
    aside = [[1, 0, -1, 0], [-1, 0, -1, 0], [0, 1, 0, -1], [0, -1, 0, -1]]
    near = linprog(
        [0, 0, 1, 1],
        np.vstack([np.column_stack([normals, np.zeros_like(normals)]), aside]),
        np.concatenate([slack, [px, -px, py, -py]]),
        bounds=[(None, None), (None, None), (0, None), (0, None)],
    )
    cx, cy = (near if near.success else best).x[:2]
    width = height * ratio
    return Rectangle(float(cx) - width / 2, float(cy) - height / 2, width, height)


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
        away = np.abs(outline[None] - grid[:, None])
        heights = 2 * np.maximum(away[..., 0] / ratio, away[..., 1]).min(axis=1)
        # A point outside the outline is no centre, however far from it.
        heights = np.where(_inside(outline, grid), heights, 0.0)
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


def _inside(outline: Matrix, points: Matrix) -> Matrix:
    """Whether points lie inside a closed polygon, by the even-odd rule."""
    x0, y0 = outline[:, 0], outline[:, 1]
    x1, y1 = np.roll(x0, -1), np.roll(y0, -1)
    px, py = points[:, :1], points[:, 1:]
    crosses = (y0 > py) != (y1 > py)
    at = x0 + (py - y0) / np.where(y1 == y0, 1, y1 - y0) * (x1 - x0)
    odd: Matrix = ((crosses & (px < at)).sum(axis=1) % 2).astype(bool)
    return odd


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
