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

import numpy as np

from sequor.core.bend.limits import Bent, Looked, MeshedPicture
from sequor.core.bend.lines import BentLine, Lines
from sequor.core.bend.system import Mesh, Rows, solved
from sequor.core.camera import Matrix
from sequor.core.frame.polygon import polygon_area
from sequor.core.frame.rectangle import Rectangle
from sequor.core.recipe import USUAL_MAX_STRETCH
from sequor.core.warp.bending import Bending

_BORDER = 1e4
"""Weight for the border to lie on the rectangle against the energy of a cell: on 24 megapixels it
then is some hundredths of a pixel off (tests/bench/test_bending.py)."""
_LEAST_STIFF = 0.02
"""Cells where no picture is, and which fold, are made stiffer from here on."""
_SPARED, _STIFFER = 0.97, 2.0
"""Cells that stretch more than this share of the limit are made so many times stiffer."""
_ROUNDS, _GIVING_WAY = {True: 16, False: 6}, {True: 2, False: 6}
"""How often that is done before the whole is given up in part, and in how many rounds edges there
give way, of a bending that is persistent and of one that is not: these keep 95 and 59 % of the
photographs of docs/accuracy.md whole at 8 degrees. Where edges give way longer fewer of them stay
straight."""

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


def bend(asked: Asked) -> Bent:
    """The bending that meets what is asked."""
    outline = np.ascontiguousarray(np.concatenate(asked.sides))
    mesh = Mesh.over(Rectangle.around(outline))
    picture = MeshedPicture(mesh, outline)
    stiff, rigid = picture.covered, mesh.touched(asked.boxes)
    lines = Lines(asked.lines, mesh)
    given_way = np.zeros(len(asked.lines), np.bool_)
    found: Bending | None = None
    for round_number in range(_ROUNDS[asked.persistent]):
        rows = Rows()
        _border_rows(rows, mesh, asked)
        lines.add_to(rows, found, given_way, asked.corners > 0)
        found = solved(mesh, stiff, rigid, rows, upright=asked.persistent)
        looked = Looked(found, picture)
        if round_number == 0 and lines.any_open:
            continue
        over = looked.over(asked.limit * _SPARED)
        folds = looked.folding() if asked.persistent else np.zeros_like(over)
        if not (over | folds).any():
            break
        stiff = stiff * np.where(over, _STIFFER, 1.0)
        stiff = np.where(folds, np.maximum(stiff, _LEAST_STIFF) * _STIFFER, stiff)
        if round_number < _GIVING_WAY[asked.persistent]:
            given_way = given_way | lines.edges_through(over)
    return looked.limited(asked.limit, rigid if asked.persistent else None)


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
