"""The room that a frame has: the outline of the valid picture, and how frames lie in it.

The outline is convex without a bow and may bulge inwards with one. A frame of ratio ``a`` and height h
of which a point lies at p, in shares (u, v) of the frame from its top left, reaches from ``p - (u a h, v h)`` to
``p + ((1 - u) a h, (1 - v) h)``. Inside a half plane ``n . q <= d`` that limits h to ``(d - n . p) / reach`` with the largest
``n . offset`` per unit of height as its reach; about a point inside a curved outline, to the least over the outline's points
at which that point would come to lie on the frame's border.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.frame import (
    Rectangle,
    half_planes,
    heights_in_curve,
    largest_free_in_curve,
    largest_free_rectangle,
    largest_in_curve,
    largest_rectangle,
    polygon_area,
    search_centre,
)
from sequor.core.recipe import Point

_TOUCHING_PX = 1e-6
_KEPT_PX = 0.01


@dataclass(frozen=True)
class Room:
    """The outline of the valid picture, shape (N, 2) in order; ``curved`` when its points stand for a curve."""

    outline: Matrix
    curved: bool

    @cached_property
    def area(self) -> float:
        """Its area in square pixels."""
        return polygon_area(self.outline)

    @cached_property
    def box(self) -> Rectangle:
        """The upright box around it."""
        low, high = self.outline.min(axis=0), self.outline.max(axis=0)
        return Rectangle(float(low[0]), float(low[1]), float(high[0] - low[0]), float(high[1] - low[1]))

    def largest(self, ratio: float | None, preferred: Point) -> Rectangle:
        """The largest frame of a ratio, or of whatever ratio, inside the outline."""
        if self.curved:
            return largest_in_curve(self.outline, ratio, preferred) if ratio else largest_free_in_curve(self.outline, preferred)
        return largest_rectangle(self.outline, ratio, preferred) if ratio else largest_free_rectangle(self.outline, preferred)

    def heights(self, points: Matrix, shares: Matrix, ratio: float) -> Matrix:
        """Heights of the largest frames whose ``shares``, shape (K, 2), lie at ``points``, shape (K, 2); 0 where none fits."""
        points, shares = np.atleast_2d(points).astype(float), np.atleast_2d(shares).astype(float)
        if self.curved:
            return np.asarray(heights_in_curve(self.outline, points, shares, ratio))
        normals, offsets = self._planes
        x, y = normals[:, 0], normals[:, 1]
        u, v = shares[:, :1], shares[:, 1:]
        reach = np.maximum(-x * u, x * (1 - u)) * ratio + np.maximum(-y * v, y * (1 - v))
        left = offsets - points @ normals.T
        limits = np.where(reach > 1e-12, np.maximum(left, 0) / np.maximum(reach, 1e-12), np.inf)
        found: Matrix = np.where((left >= -_TOUCHING_PX).all(axis=1), limits.min(axis=1), 0.0)
        return found

    def empty_share(self, frame: Rectangle) -> float:
        """The share of a frame that lies outside the outline."""
        inside = _area_in_box(self.outline, frame.x, frame.y, frame.x + frame.width, frame.y + frame.height)
        return max(0.0, 1 - inside / (frame.width * frame.height))

    def holds(self, frame: Rectangle) -> bool:
        """Whether a frame lies inside the outline, its border included."""
        middle = np.array([[frame.x + frame.width / 2, frame.y + frame.height / 2]])
        high = float(self.heights(middle, np.array([[0.5, 0.5]]), frame.width / frame.height)[0])
        return high >= frame.height - 2 * _TOUCHING_PX

    def fullest(self, width: float, height: float, low: Point, high: Point, near: Point) -> Rectangle:
        """Of all frames of a size with centres between ``low`` and ``high``, the one with the smallest empty share; nearest to ``near``."""
        x, y = _fullest(self.outline, width, height, np.array(low), np.array(high), np.array(near))
        return Rectangle(x - width / 2, y - height / 2, width, height)

    def nearest(self, width: float, height: float, wanted: Point, inside: Point) -> Rectangle:
        """The frame of a size inside the outline whose centre is nearest to a wanted one; ``inside`` is a centre that is possible."""
        if self.curved:
            centre = self._nearest_in_curve(width, height, np.array(wanted), np.array(inside))
        else:
            normals, offsets = self._planes
            limits = offsets - (np.abs(normals[:, 0]) * width + np.abs(normals[:, 1]) * height) / 2
            centre = _nearest_in_planes(normals, limits, np.array(wanted), np.array(inside))
        return Rectangle(float(centre[0]) - width / 2, float(centre[1]) - height / 2, width, height)

    def _nearest_in_curve(self, width: float, height: float, wanted: Matrix, inside: Matrix) -> Matrix:
        def possible(centres: Matrix) -> NDArray[np.bool_]:
            shares = np.full(centres.shape, 0.5)
            return self.heights(centres, shares, width / height) >= height - _TOUCHING_PX

        if possible(wanted[None])[0]:
            return wanted
        low, high = 0.0, 1.0
        for _ in range(40):
            share = (low + high) / 2
            low, high = (low, share) if possible((wanted + share * (inside - wanted))[None])[0] else (share, high)
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

    @cached_property
    def _planes(self) -> tuple[Matrix, Matrix]:
        return half_planes(self.outline)


def largest_containing(room: Room, ratio: float, keep: Rectangle, preferred: Point) -> Rectangle | None:
    """The largest frame of a ratio inside the outline that contains a box; None when there is none.

    The centres at which a frame of height h contains the box fill an upright rectangle; where the largest height about a centre
    is at least h for one of them, a frame fits. For a convex outline that makes a linear programme, which is solved with the
    four limits of the box as further constraints; for a curved one the centre is searched (see `frame.search_centre`).
    """
    if not room.curved:
        return largest_rectangle(room.outline, ratio, preferred, keep, none_is_error=False)
    low, high = np.array([room.box.x, room.box.y]), np.array([room.box.x + room.box.width, room.box.y + room.box.height])
    wanted = np.array([keep.x + keep.width / 2, keep.y + keep.height / 2, keep.width, keep.height])
    centre = np.array([search_centre(room.outline, ratio, low, high, np.array(preferred, float), wanted)])
    high_most = float(room.heights(centre, np.full((1, 2), 0.5), ratio)[0])
    x, y = float(centre[0, 0]), float(centre[0, 1])
    frame = Rectangle(x - high_most * ratio / 2, y - high_most / 2, high_most * ratio, high_most)
    return frame if contains(frame, keep, _KEPT_PX) else None


def contains(frame: Rectangle, box: Rectangle, within: float = 0.0) -> bool:
    """Whether a frame contains a box, to within some pixels."""
    return (
        frame.x <= box.x + within
        and frame.y <= box.y + within
        and frame.x + frame.width >= box.x + box.width - within
        and frame.y + frame.height >= box.y + box.height - within
    )


def clipped(polygon: Matrix, planes: Sequence[tuple[float, float, float]]) -> Matrix:
    """The part of a polygon, shape (N, 2), in which ``a x + b y <= c`` holds for every (a, b, c); Sutherland and Hodgman 1974."""
    part: Matrix = _clipped(np.ascontiguousarray(polygon), np.array(planes, float))
    return part


def _nearest_in_planes(normals: Matrix, limits: Matrix, wanted: Matrix, inside: Matrix) -> Matrix:
    """The point nearest to a wanted one in which ``n . p <= limit`` for all: itself, its foot on a line, or a corner."""
    feet = wanted - normals * (normals @ wanted - limits)[:, None]
    corners = []
    for i in range(len(normals)):
        for j in range(i):
            square = normals[[i, j]]
            if abs(np.linalg.det(square)) > 1e-12:
                corners.append(np.linalg.solve(square, limits[[i, j]]))
    trials = np.vstack([wanted, feet, *corners])
    possible = trials[(trials @ normals.T <= limits + _TOUCHING_PX).all(axis=1)]
    if not len(possible):
        return inside
    nearest: Matrix = possible[int(np.argmin(((possible - wanted) ** 2).sum(axis=1)))]
    return nearest


@nb.njit(cache=True, error_model="numpy")
def _clipped(polygon: Any, planes: Any) -> Any:
    part, made = polygon, np.empty((2 * len(polygon) + 2 * len(planes), 2))
    for a, b, c in planes:
        count = 0
        for i in range(len(part)):
            x0, y0, x1, y1 = part[i - 1, 0], part[i - 1, 1], part[i, 0], part[i, 1]
            before, here = a * x0 + b * y0 - c, a * x1 + b * y1 - c
            if (before < 0 < here) or (here < 0 < before):
                t = before / (before - here)
                made[count] = x0 + t * (x1 - x0), y0 + t * (y1 - y0)
                count += 1
            if here <= 0:
                made[count] = x1, y1
                count += 1
        if count < 3:
            return np.zeros((0, 2))
        part = made[:count].copy()
    return part


@nb.njit(cache=True, error_model="numpy")
def _area_left_of(x: float, left: float, right: float) -> float:
    """The integral up to x of how far a place lies into the strip from ``left`` to ``right``."""
    if x <= left:
        return 0.0
    if x <= right:
        return 0.5 * (x - left) ** 2
    return (right - left) * (x - 0.5 * (left + right))


@nb.njit(cache=True, error_model="numpy")
def _area_in_box(outline: Any, left: float, top: float, right: float, bottom: float) -> float:
    """Area of the part of a polygon inside an upright box.

    By Green's theorem: how far the outline lies into the strip between left and right, summed along it over the heights
    between top and bottom. Nothing needs to be cut out for that.
    """
    area = 0.0
    for i in range(len(outline)):
        x0, y0, x1, y1 = outline[i - 1, 0], outline[i - 1, 1], outline[i, 0], outline[i, 1]
        low, high = max(min(y0, y1), top), min(max(y0, y1), bottom)
        if low >= high:
            continue
        slope = (x1 - x0) / (y1 - y0)
        start, end = x0 + (low - y0) * slope, x0 + (high - y0) * slope
        if abs(end - start) < 1e-6 * (right - left):
            into = min(max(0.5 * (start + end), left), right) - left
        else:
            into = (_area_left_of(end, left, right) - _area_left_of(start, left, right)) / (end - start)
        area += into * (high - low) if y1 > y0 else -into * (high - low)
    return abs(area)


@nb.njit(cache=True, error_model="numpy")
def _fullest(outline: Any, width: float, height: float, low: Any, high: Any, near: Any) -> tuple[float, float]:
    """The centre with the most picture in the frame: a search in eight directions with ever smaller steps."""
    x, y = min(max(near[0], low[0]), high[0]), min(max(near[1], low[1]), high[1])
    best = _area_in_box(outline, x - width / 2, y - height / 2, x + width / 2, y + height / 2)
    step = 0.25 * max(width, height)
    least = 1e-5 * max(width, height)
    while step > least:
        moved = False
        for direction in range(8):
            angle = direction * math.pi / 4
            tx = min(max(x + step * math.cos(angle), low[0]), high[0])
            ty = min(max(y + step * math.sin(angle), low[1]), high[1])
            area = _area_in_box(outline, tx - width / 2, ty - height / 2, tx + width / 2, ty + height / 2)
            if area > best * (1 + 1e-12):
                best, x, y, moved = area, tx, ty, True
        if not moved:
            step /= 2
    return x, y
