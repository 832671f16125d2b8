"""The outline of a picture without radial distortion: convex, and its searches are exact.

A rectangle of ratio ``a`` with centre (cx, cy) and height s lies inside a half plane
``n . p <= d`` when ``n . c + s (|nx| a + |ny|) / 2 <= d``; so the largest one is a linear programme
in (cx, cy, s). A frame of which the place (u, v), in shares, lies at p reaches from
``p - (u a s, v s)`` to ``p + ((1 - u) a s, (1 - v) s)``; inside a half plane that limits s to
``(d - n . p) / reach`` with the largest ``n . offset`` per unit of height as its reach.
"""

import math
from functools import cached_property
from itertools import combinations

import numpy as np
import scipy

from sequor.core.camera import Matrix
from sequor.core.frame.outline import TOUCHING_PX, Outline
from sequor.core.frame.rectangle import SNAP_PX, Rectangle, no_frame
from sequor.core.recipe import Point


class ConvexOutline(Outline):
    """A convex polygon, given by its vertices in order."""

    curved = False

    def largest(self, ratio: float | None, preferred: Point) -> Rectangle:
        """The largest frame of a ratio, or of whatever ratio, inside the outline."""
        if ratio is None:
            return largest_free_rectangle(self.points, preferred)
        found = largest_rectangle(self.points, ratio, preferred)
        if found is None:
            raise no_frame()
        return found

    def largest_containing(
        self, ratio: float, keep: Rectangle, preferred: Point
    ) -> Rectangle | None:
        """The largest frame of a ratio that contains a box; None when there is none.

        Solved as the linear programme with the four limits of the box as further constraints.
        """
        return largest_rectangle(self.points, ratio, preferred, keep)

    def heights(self, points: Matrix, shares: Matrix, ratio: float) -> Matrix:
        """Heights of the largest frames whose ``shares`` lie at ``points``, both shape (K, 2)."""
        normals, offsets = self._planes
        x, y = normals[:, 0], normals[:, 1]
        u, v = shares[:, :1], shares[:, 1:]
        across = np.maximum(-x * u, x * (1 - u)) * ratio
        reach = across + np.maximum(-y * v, y * (1 - v))
        left = offsets - points @ normals.T
        limits = np.where(reach > 1e-12, np.maximum(left, 0) / np.maximum(reach, 1e-12), np.inf)
        found: Matrix = np.where((left >= -TOUCHING_PX).all(axis=1), limits.min(axis=1), 0.0)
        return found

    def nearest(self, width: float, height: float, wanted: Point, inside: Point) -> Rectangle:
        """The frame of a size whose centre is nearest to a wanted one."""
        normals, offsets = self._planes
        limits = offsets - (np.abs(normals[:, 0]) * width + np.abs(normals[:, 1]) * height) / 2
        centre = _nearest_in_planes(normals, limits, np.array(wanted), np.array(inside))
        return Rectangle.about((float(centre[0]), float(centre[1])), width, height)

    @cached_property
    def _planes(self) -> tuple[Matrix, Matrix]:
        return half_planes(self.points)


def half_planes(outline: Matrix) -> tuple[Matrix, Matrix]:
    """Unit normals (N, 2) and offsets (N,) with ``n . p <= d`` inside a convex outline (N, 2)."""
    edges = np.roll(outline, -1, axis=0) - outline
    normals = np.column_stack([edges[:, 1], -edges[:, 0]]) / np.linalg.norm(edges, axis=1)[:, None]
    offsets = np.einsum("ij,ij->i", normals, outline)
    inside = np.sign(offsets - normals @ outline.mean(axis=0))
    return normals * inside[:, None], offsets * inside


def largest_rectangle(
    outline: Matrix, ratio: float, preferred: Point, keep: Rectangle | None = None
) -> Rectangle | None:
    """The largest upright rectangle of a ratio inside a convex outline; None when none fits.

    Parameters
    ----------
    outline : ndarray, shape (N, 2)
        Corners of the valid picture in order, in pixels.
    ratio : float
        Width over height.
    preferred : (float, float)
        Where the centre should be when the largest rectangle can slide, as a wide frame can in a
        picture that is not turned.
    keep : Rectangle, optional
        What the rectangle must contain.
    """
    normals, offsets = half_planes(outline)
    reach = (np.abs(normals[:, 0]) * ratio + np.abs(normals[:, 1])) / 2
    if keep is not None:
        normals = np.vstack([normals, [[1, 0], [-1, 0], [0, 1], [0, -1]]])
        offsets = np.append(offsets, [keep.x, -keep.x - keep.width, keep.y, -keep.y - keep.height])
        reach = np.append(reach, [-ratio / 2, -ratio / 2, -0.5, -0.5])
    # The optimum of a linear programme lies in a corner: where three of the few half planes
    # (rows n, reach, d) hold exactly.
    meetings = _crossings(np.column_stack([normals, reach]), offsets)
    if not len(meetings) or meetings[:, 2].max() * min(ratio, 1) < 1:
        return None
    height = float(meetings[:, 2].max())
    # Of all rectangles of that size, the one nearest to the preferred centre: their centres fill a
    # point or a stretch.
    ends = _crossings(normals, offsets - reach * height + SNAP_PX)
    largest = meetings[[int(np.argmax(meetings[:, 2]))], :2]
    centre = _nearest(ends if len(ends) else largest, np.array(preferred))
    return Rectangle.about(centre, height * ratio, height)


def largest_free_rectangle(outline: Matrix, preferred: Point) -> Rectangle:
    """The upright rectangle of the largest area, of whatever ratio, inside a convex outline.

    ``log width + log height`` is concave and the rectangles inside the outline
    form a convex set in (cx, cy, width, height), so a local search finds the one
    maximum; its ratio then gives the exact rectangle.
    """
    normals, offsets = half_planes(outline)
    inside = np.column_stack([-normals, -np.abs(normals) / 2])
    start = largest_rectangle(outline, float(np.divide(*np.ptp(outline, axis=0))), preferred)
    if start is None:
        raise no_frame()
    scale = math.hypot(start.width, start.height)
    middle = np.array([start.x + start.width / 2, start.y + start.height / 2])
    room = (offsets - normals @ middle) / scale
    found = scipy.optimize.minimize(
        lambda v: -math.log(v[2]) - math.log(v[3]),
        [0, 0, start.width / scale, start.height / scale],
        jac=lambda v: np.array([0, 0, -1 / v[2], -1 / v[3]]),
        bounds=[(None, None), (None, None), (1e-6, None), (1e-6, None)],
        constraints={"type": "ineq", "fun": lambda v: room + inside @ v, "jac": lambda _: inside},
        method="SLSQP",
        options={"ftol": 1e-12},
    )
    return largest_rectangle(outline, float(found.x[2] / found.x[3]), preferred) or start


def _crossings(rows: Matrix, limits: Matrix) -> Matrix:
    """Points at which as many of the constraints ``rows .

    p <= limits`` as there are unknowns hold exactly, and all others hold.
    """
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


def _nearest_in_planes(normals: Matrix, limits: Matrix, wanted: Matrix, inside: Matrix) -> Matrix:
    """The point nearest to a wanted one in which ``n .

    p <= limit`` for all: itself, its foot on a line, or a corner.
    """
    feet = wanted - normals * (normals @ wanted - limits)[:, None]
    meetings = []
    for i in range(len(normals)):
        for j in range(i):
            square = normals[[i, j]]
            if abs(np.linalg.det(square)) > 1e-12:
                meetings.append(np.linalg.solve(square, limits[[i, j]]))
    trials = np.vstack([wanted, feet, *meetings])
    possible = trials[(trials @ normals.T <= limits + TOUCHING_PX).all(axis=1)]
    if not len(possible):
        return inside
    nearest: Matrix = possible[int(np.argmin(((possible - wanted) ** 2).sum(axis=1)))]
    return nearest
