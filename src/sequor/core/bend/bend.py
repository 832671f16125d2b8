"""From what is wanted of lines, corners and boxes to a bending.

1. Every line is followed by short pieces; each piece is to have the direction that the line is
   wanted in (of one that is only to be straight: that of the whole line, as it comes out).
2. The border of the picture is to lie on an upright rectangle of the same area (He, Chang and Sun,
   "Rectangling panoramic images via warping", ACM TOG 32(4), 2013), as far as that is wanted.
3. In boxes the map is to be one similarity.
4. The mesh of least energy that does so is solved for (`system`), again where directions are
   open, and again where it stretches too much, with those cells stiffer and the edges there giving
   way.
5. Of what would still stretch more than is allowed, or fold, less is done.
"""

import math
from dataclasses import dataclass
from typing import Any

import numba as nb
import numpy as np

from sequor.core.bend.lines import BentLine, Lines
from sequor.core.bend.system import Mesh, Rows, solved
from sequor.core.bisection import greatest
from sequor.core.camera import Matrix
from sequor.core.frame.polygon import polygon_area
from sequor.core.frame.rectangle import Rectangle
from sequor.core.pixels import Mask
from sequor.core.recipe import USUAL_MAX_STRETCH
from sequor.core.warp.bending import Bending, stretch_of

_BORDER = 1e4
"""Weight for the border to lie on the rectangle against the energy of a cell: on 24 megapixels it
then is some hundredths of a pixel off (tests/bench/test_bending.py)."""
CHECKED = 4
"""Places along each side of a cell at which stretch and folding are checked."""
_LEAST_AREA = 0.05
"""Where the picture does not reach the map may squeeze more, but never fold: what is shown there
would have no place of its own."""
_ALONG_RIM = 8
"""The same along each side of a cell on the rim of the mesh, where derivatives are largest: with
four places it still folded by 0.06 between two of them."""
_SQUEEZED, _CLOSE = 0.4, 13
"""Cells whose areas come out smaller than that are looked at by so many places a side: between
quarters of a cell it still folded."""
_NEARLY, _CLOSE_IN = 0.85, 7
"""Cells of the picture that stretch more than that share of the limit are looked at by so many
places a side: between quarters of a cell it went beyond the limit by two per cent."""
_NOWHERE = np.zeros((0, 2))
_LEAST_STIFF = 0.02
"""Cells where no picture is, and which fold, are made stiffer from here on."""
_SPARED, _STIFFER = 0.97, 2.0
"""Cells that stretch more than this share of the limit are made so many times stiffer."""
_ROUNDS, _GIVING_WAY = {True: 16, False: 6}, {True: 2, False: 6}
"""How often that is done before the whole is given up in part, and in how many rounds edges there
give way, of a bending that is persistent and of one that is not: these keep 95 and 59 % of the
photographs of docs/accuracy.md whole at 8 degrees. Where edges give way longer fewer of them stay
straight."""

_SHARE_STEPS = 12
"""Halvings of how much is done: to a four-thousandth."""
SEEN_STRETCH, SEEN_TURN_RAD = 1.05, math.radians(1.0)
"""More than that counts as bent: five per cent, or a degree."""

Sides = tuple[Matrix, Matrix, Matrix, Matrix]


@dataclass(frozen=True)
class Asked:
    """What a bending is asked for, in pixels of the corrected picture.

    Attributes
    ----------
    sides : tuple of four ndarrays, each of shape (N, 2)
        The border of the valid picture, the upper side first, clockwise.
    corners : float
        How much of the way to the rectangle it is to go.
    ratio : float, optional
        Width over height of the rectangle; None takes the one nearest to the border.
    lines : tuple of BentLine
        What is wanted of lines.
    boxes : tuple of ndarrays, each of shape (N, 2)
        Places all over what must not bend.
    limit : float
        The most by which it may change any length or area.
    persistent : bool
        Whether much is tried before less is done (`BendChoice`).
    """

    sides: Sides
    corners: float = 0.0
    ratio: float | None = None
    lines: tuple[BentLine, ...] = ()
    boxes: tuple[Matrix, ...] = ()
    limit: float = USUAL_MAX_STRETCH
    persistent: bool = True


@dataclass(frozen=True)
class Bent:
    """A bending, how much of what was asked is done, and how it distorts where there is picture.

    ``max_stretch`` and ``max_turn_rad`` are the largest anywhere, ``min_jacobian`` and
    ``max_jacobian`` the least and the largest enlargement of areas, ``bent_share`` the share of the
    picture that is stretched or turned so that it can be seen (`SEEN_STRETCH`, `SEEN_TURN_RAD`).
    """

    bending: Bending
    share: float
    bent_share: float
    max_stretch: float
    max_turn_rad: float
    min_jacobian: float
    max_jacobian: float


def bend(asked: Asked) -> Bent:
    """The bending that meets what is asked."""
    outline = np.concatenate(asked.sides)
    mesh = Mesh.over(Rectangle.around(outline))
    inside = _inside(mesh, outline)
    stiff, rigid = _by_cell(mesh, inside.astype(float)).mean(axis=2), _touched(mesh, asked.boxes)
    lines = Lines(asked.lines, mesh)
    given_way = np.zeros(len(asked.lines), np.bool_)
    found: Bending | None = None
    for round_number in range(_ROUNDS[asked.persistent]):
        rows = Rows()
        _border_rows(rows, mesh, asked)
        lines.add_to(rows, found, given_way, asked.corners > 0)
        found = solved(mesh, stiff, rigid, rows)
        if round_number == 0 and lines.any_open:
            continue
        over = _over(found, mesh, inside, outline, asked.limit * _SPARED)
        folds = _folding(found, mesh) if asked.persistent else np.zeros_like(over)
        if not (over | folds).any():
            break
        stiff = stiff * np.where(over, _STIFFER, 1.0)
        stiff = np.where(folds, np.maximum(stiff, _LEAST_STIFF) * _STIFFER, stiff)
        if round_number < _GIVING_WAY[asked.persistent]:
            given_way = given_way | lines.edges_through(over)
    assert found is not None
    near = _near_limit(found, mesh, inside, outline, asked.limit) if asked.persistent else _NOWHERE
    return _limited(found, mesh, inside, np.concatenate([outline, near]), asked.limit)


def rectangle_of(sides: Sides, ratio: float | None) -> Rectangle:
    """The upright rectangle of the area of a border that lies nearest to its sides."""
    top, right, bottom, left = (
        float(side[:, axis].mean()) for side, axis in zip(sides, (1, 0, 1, 0), strict=True)
    )
    area = polygon_area(np.concatenate([side[:-1] for side in sides]))
    shape = ratio if ratio is not None else (right - left) / (bottom - top)
    height = math.sqrt(area / shape)
    return Rectangle.about(((left + right) / 2, (top + bottom) / 2), height * shape, height)


def sides_of(border: Matrix) -> Sides:
    """The four sides of a border, shape (4 n, 2), corners first, as they lie: the upper one first,
    clockwise, each with both its corners.
    """
    each = len(border) // 4
    closed = np.concatenate([border, border[:1]])
    sides = [closed[k * each : (k + 1) * each + 1] for k in range(4)]
    away = np.array([side.mean(axis=0) for side in sides]) - border.mean(axis=0)
    first = int(np.argmax(-away[:, 1] / np.hypot(away[:, 0], away[:, 1])))
    a, b, c, d = (sides[(first + k) % 4] for k in range(4))
    return a, b, c, d


def _border_rows(rows: Rows, mesh: Mesh, asked: Asked) -> None:
    """Each side's places are to come to lie on a side of the rectangle, wherever along it."""
    if asked.corners <= 0:
        return
    rectangle = rectangle_of(asked.sides, asked.ratio)
    (left, top), (right, bottom) = rectangle.low, rectangle.high
    targets = ((1, top), (0, right), (1, bottom), (0, left))
    for side, (axis, to) in zip(asked.sides, targets, strict=True):
        places = mesh.in_cells(side)
        aims = asked.corners * (to - side[:, axis]) / mesh.cell
        apart = np.hypot(*(places[-1] - places[0])) / (len(places) - 1)
        rows.add(places, np.eye(2)[axis], np.zeros(2), aims, _BORDER * apart)


def _touched(mesh: Mesh, boxes: tuple[Matrix, ...]) -> Matrix:
    """1 for every cell that a box touches, else 0, shape (rows, columns)."""
    touched = np.zeros((mesh.rows, mesh.columns))
    for box in boxes:
        across, down = np.floor(mesh.in_cells(box)).astype(int).T
        touched[np.clip(down, 0, mesh.rows - 1), np.clip(across, 0, mesh.columns - 1)] = 1.0
    return touched


def _by_cell(mesh: Mesh, values: Matrix) -> Matrix:
    """Values at the places that are checked, by cell, shape (rows, columns, places)."""
    parts = values.reshape(mesh.rows, CHECKED, mesh.columns, CHECKED)
    return parts.transpose(0, 2, 1, 3).reshape(mesh.rows, mesh.columns, -1)


def _inside(mesh: Mesh, outline: Matrix) -> Mask:
    """Which of the places that are checked the picture covers, shape (N,)."""
    places = mesh.places(CHECKED)
    found: Mask = _in_polygon(places, mesh.columns * CHECKED, np.ascontiguousarray(outline))
    return found


def _over(found: Bending, mesh: Mesh, inside: Mask, outline: Matrix, limit: float) -> Mask:
    """Which cells stretch more than a limit, shape (rows, columns)."""
    strain = np.where(inside, _strain(found.jacobian(mesh.places(CHECKED))), 1.0)
    over: Mask = _by_cell(mesh, strain).max(axis=2) > limit
    beyond = outline[_strain(found.jacobian(outline)) > limit]
    return over | (_touched(mesh, (beyond,)) > 0)


def _doubtful(found: Bending, mesh: Mesh) -> Matrix:
    """Places where a bending might fold: the joints of the mesh, and places close together in the
    cells that are squeezed, shape (N, 2).
    """
    joints = mesh.joints(_ALONG_RIM)
    inner = _by_cell(mesh, stretch_of(found.jacobian(mesh.places(CHECKED)))[2]).min(axis=2)
    squeezed = joints[stretch_of(found.jacobian(joints))[2] < _SQUEEZED]
    cells: Mask = (inner < _SQUEEZED) | (_touched(mesh, (squeezed,)) > 0)
    return np.concatenate([joints, mesh.within(cells, _CLOSE)])


def _folding(found: Bending, mesh: Mesh) -> Mask:
    """Which cells fold, or nearly, where no picture is as well, shape (rows, columns)."""
    places = _doubtful(found, mesh)
    folds: Mask = _touched(mesh, (places[stretch_of(found.jacobian(places))[2] < _LEAST_AREA],)) > 0
    return folds


def _near_limit(found: Bending, mesh: Mesh, inside: Mask, outline: Matrix, limit: float) -> Matrix:
    """Places of the picture close together in the cells that stretch nearly as much as a limit,
    shape (N, 2).
    """
    strain = np.where(inside, _strain(found.jacobian(mesh.places(CHECKED))), 1.0)
    cells: Mask = _by_cell(mesh, strain).max(axis=2) > limit * _NEARLY
    if not cells.any():
        return _NOWHERE
    places = np.ascontiguousarray(mesh.within(cells, _CLOSE_IN))
    covered: Matrix = places[_in_polygon(places, _CLOSE_IN, np.ascontiguousarray(outline))]
    return covered


def _limited(found: Bending, mesh: Mesh, inside: Mask, further: Matrix, limit: float) -> Bent:
    """As much of a bending as neither folds nor stretches more than a limit, at ``further`` places
    as well: on the border of the picture, and where it stretches nearly as much.
    """
    places = mesh.places(CHECKED)
    full = found.jacobian(np.concatenate([places, further])) - np.eye(2)
    covered = np.concatenate([inside, np.ones(len(further), np.bool_)])
    doubtful = found.jacobian(_doubtful(found, mesh)) - np.eye(2)

    def safe(share: float) -> bool:
        jacobian = np.eye(2) + share * full
        least = min(stretch_of(some)[2].min() for some in (jacobian, np.eye(2) + share * doubtful))
        return bool(_strain(jacobian)[covered].max() <= limit and least >= _LEAST_AREA)

    share = 1.0 if safe(1.0) else greatest(safe, 0.0, 1.0, _SHARE_STEPS)
    stretch, turn, area = stretch_of(np.eye(2) + share * full[covered])
    seen = (stretch > SEEN_STRETCH) | (np.abs(turn) > SEEN_TURN_RAD)
    return Bent(
        bending=found if share == 1.0 else found.eased(share),
        share=share,
        bent_share=float(seen[: np.count_nonzero(inside)].mean()),
        max_stretch=float(stretch.max()),
        max_turn_rad=float(np.abs(turn).max()),
        min_jacobian=float(area.min()),
        max_jacobian=float(area.max()),
    )


def _strain(jacobian: Matrix) -> Matrix:
    """By how much lengths or areas change at most, up or down, shape (N,)."""
    stretch, _, area = stretch_of(jacobian)
    held = np.maximum(area, 1e-12)
    strain: Matrix = np.maximum(stretch, np.maximum(held, 1 / held))
    return strain


@nb.njit(cache=True, error_model="numpy")
def _in_polygon(places: Any, columns: int, outline: Any) -> Any:
    """Which places of a grid, row by row, lie in a polygon, by the even-odd rule."""
    inside = np.zeros(len(places), np.bool_)
    crossings = np.empty(len(outline))
    for first in range(0, len(places), columns):
        y, count = places[first, 1], 0
        for k in range(len(outline)):
            ax, ay, bx, by = outline[k - 1, 0], outline[k - 1, 1], outline[k, 0], outline[k, 1]
            if (ay > y) != (by > y):
                crossings[count] = ax + (y - ay) / (by - ay) * (bx - ax)
                count += 1
        for place in range(first, first + columns):
            for k in range(count):
                if places[place, 0] < crossings[k]:
                    inside[place] = not inside[place]
    return inside
