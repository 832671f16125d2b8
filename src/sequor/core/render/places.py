"""Where the pixels of an output lie in the source: what the resampling kernel reads from.

A row of the output is gone through in arrays, one step of the way after another (bending,
homography, lens) and without branches, so that the compiler does eight places at once: of 24
megapixels all places take 15 ms by a homography, and the sixteenfold when each pixel goes the whole
way by itself. Places are kept as whole numbers of the table's sub-pixel phases.
"""

import math
from typing import Any, NamedTuple

import numba as nb
import numpy as np

from sequor.core.warp.bending import basis

PHASES = 2048
"""Sub-pixel places in the table of weights: a place is rounded by a 4096th of a pixel at most."""
_EDGE_PX = 1e-6
"""A pixel's centre that lies on the source's border is covered; so much is rounding."""


class Lens(NamedTuple):
    """Distortion as the compiled loops take it (see `lens.distortion`).

    ``unit_px`` is half the diagonal, ``fold`` the radius from which on the picture folds over, in
    that unit; without distortion (``bent`` false) the undistorted picture is the source.
    """

    bent: bool
    c1: float
    c2: float
    c3: float
    c4: float
    c5: float
    c6: float
    p1: float
    p2: float
    centre_x: float
    centre_y: float
    unit_px: float
    fold: float


class Unbend(NamedTuple):
    """The way back from the bent picture as the compiled loops take it (see `unbending`).

    Displacements by a bicubic spline with ``coefficients``, shape (rows, columns, 2), at places
    ``step_x`` and ``step_y`` apart from (``left``, ``top``) on, all in pixels of the output plane;
    nothing is displaced when ``bent`` is false.
    """

    bent: bool
    left: float
    top: float
    step_x: float
    step_y: float
    coefficients: Any


class Place(NamedTuple):
    """The way from a pixel of the output to the source.

    ``left`` and ``top`` are where the output's top-left corner lies in the output plane,
    ``unbend`` takes that plane to the turned picture, ``inverse``, shape (3, 3), that to the
    undistorted one, ``lens`` on to the source, whose size is ``width`` and ``height``.
    """

    unbend: Unbend
    inverse: Any
    lens: Lens
    left: float
    top: float
    width: int
    height: int


class Row(NamedTuple):
    """Room for a part of a row of the output.

    ``x`` and ``y`` are the places on their way, in pixels. Then ``across`` and ``down`` say where
    they are in the source, from the middle of its first pixel less one on, in phases; ``across`` is
    negative where the source does not cover the output. ``line`` is for `displaced_row`.
    """

    line: Any
    x: Any
    y: Any
    across: Any
    down: Any


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def displaced_row(unbend: Any, y: float, line: Any) -> None:
    """Fill ``line``, shape (columns, 2), with the coefficients of the displacement along a row,
    where anything is displaced.
    """
    if not unbend.bent:
        return
    rows = unbend.coefficients.shape[0]
    at = min(max((y - unbend.top) / unbend.step_y, 1.0), rows - 2.0)
    first = min(int(at), rows - 3)
    w0, w1, w2, w3 = basis(at - first)
    c = unbend.coefficients
    for k in range(c.shape[1]):
        for n in range(2):
            line[k, n] = (
                w0 * c[first - 1, k, n]
                + w1 * c[first, k, n]
                + w2 * c[first + 1, k, n]
                + w3 * c[first + 2, k, n]
            )


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def displacement(unbend: Any, x: float, line: Any) -> tuple[float, float]:
    """How far a place of the row that ``line`` was filled for is displaced."""
    columns = line.shape[0]
    at = min(max((x - unbend.left) / unbend.step_x, 1.0), columns - 2.0)
    first = min(int(at), columns - 3)
    w0, w1, w2, w3 = basis(at - first)
    return (
        w0 * line[first - 1, 0]
        + w1 * line[first, 0]
        + w2 * line[first + 1, 0]
        + w3 * line[first + 2, 0],
        w0 * line[first - 1, 1]
        + w1 * line[first, 1]
        + w2 * line[first + 1, 1]
        + w3 * line[first + 2, 1],
    )


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def displacements(unbend: Any, points: Any) -> Any:
    """How far places of the output plane, shape (N, 2), are displaced."""
    found = np.zeros_like(points)
    line = np.empty((unbend.coefficients.shape[1], 2))
    for k in range(len(points)):
        displaced_row(unbend, points[k, 1], line)
        found[k, 0], found[k, 1] = displacement(unbend, points[k, 0], line)
    return found


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def room_for(place: Any, count: int) -> Any:
    """Room for ``count`` pixels of a row."""
    return Row(
        np.empty((place.unbend.coefficients.shape[1], 2)),
        np.empty(count),
        np.empty(count),
        np.empty(count, np.int32),
        np.empty(count, np.int32),
    )


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def places_along(place: Any, row: int, first: int, room: Any) -> None:
    """Fill ``room`` for the pixels of a row of the output from column ``first`` on."""
    x, y = room.x, room.y
    begin, py = first + 0.5 + place.left, row + 0.5 + place.top
    for k in range(len(x)):
        x[k], y[k] = begin + np.int32(k), py
    if place.unbend.bent:
        displaced_row(place.unbend, py, room.line)
        for k in range(len(x)):
            dx, dy = displacement(place.unbend, x[k], room.line)
            x[k] += dx
            y[k] += dy
    _project(place.inverse, room)
    if place.lens.bent:
        _distort(place.lens, room)
    for k in range(len(x)):
        inside_x = (x[k] >= -_EDGE_PX) & (x[k] <= place.width + _EDGE_PX)
        inside_y = (y[k] >= -_EDGE_PX) & (y[k] <= place.height + _EDGE_PX)
        inside = inside_x & inside_y & (room.across[k] == 0)
        room.across[k] = np.int32((x[k] + 0.5) * PHASES + 0.5) if inside else np.int32(-1)
        room.down[k] = np.int32((y[k] + 0.5) * PHASES + 0.5) if inside else np.int32(-1)


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def _project(inverse: Any, room: Any) -> None:
    """Take places by a homography; ``across`` is not 0 where they lie behind it."""
    x, y = room.x, room.y
    for k in range(len(x)):
        scale = 1.0 / (inverse[2, 0] * x[k] + inverse[2, 1] * y[k] + inverse[2, 2])
        to_x = (inverse[0, 0] * x[k] + inverse[0, 1] * y[k] + inverse[0, 2]) * scale
        y[k] = (inverse[1, 0] * x[k] + inverse[1, 1] * y[k] + inverse[1, 2]) * scale
        x[k] = to_x
        room.across[k] = np.int32(0) if scale > 0 else np.int32(-1)


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def _distort(lens: Any, room: Any) -> None:
    """Take undistorted places to the source; ``across`` is not 0 where they lie beyond the fold."""
    x, y = room.x, room.y
    for k in range(len(x)):
        away_x = (x[k] - lens.centre_x) / lens.unit_px
        away_y = (y[k] - lens.centre_y) / lens.unit_px
        square, both = away_x * away_x + away_y * away_y, 2.0 * away_x * away_y
        radius = math.sqrt(square)
        higher = radius * (lens.c4 + radius * (lens.c5 + radius * lens.c6))
        stretch = radius * (lens.c1 + radius * (lens.c2 + radius * (lens.c3 + higher)))
        aslant_x = lens.p1 * both + lens.p2 * (square + 2.0 * away_x * away_x)
        aslant_y = lens.p1 * (square + 2.0 * away_y * away_y) + lens.p2 * both
        x[k] = lens.centre_x + (away_x * (1.0 + stretch) + aslant_x) * lens.unit_px
        y[k] = lens.centre_y + (away_y * (1.0 + stretch) + aslant_y) * lens.unit_px
        if radius >= lens.fold:
            room.across[k] = np.int32(-1)


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def cover_strip(covered: Any, place: Any, first_row: int, last_row: int) -> int:
    """Say of every output pixel in rows [first_row, last_row) whether the source covers it.

    Returns how many are not covered.
    """
    empty, width = 0, covered.shape[1]
    room = room_for(place, width)
    for row in range(first_row, last_row):
        places_along(place, row, 0, room)
        for column in range(width):
            inside = room.across[column] >= 0
            covered[row, column] = inside
            empty += not inside
    return empty
