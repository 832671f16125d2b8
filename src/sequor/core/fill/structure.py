"""Structure before texture: straight edges that cross the seam are led on into the hole first.

Along its own direction a mast, a gutter or a kerb looks the same everywhere. What lies on the line
of such an edge beyond the seam is therefore copied from further back along the same line, with what
stands close beside it; texture is made around it afterwards (the order of Sun et al., "Image
completion with structure propagation", 2005; lines are straight here, as what is levelled is).
"""

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import scipy

from sequor.core.fill.exemplar import Places
from sequor.core.fill.membrane import Colours
from sequor.core.fill.risk import FOLLOWED_PX, Crossing
from sequor.core.pixels import Mask
from sequor.core.recipe import Point

_BESIDE_PX = 6.0
"""So far beside the edge its surroundings come along: the other side of a thin mast, which counts
as the same edge. More takes in what does not go on."""
Segment = tuple[Point, Point]
_SAME_PX, _SAME_TURN = 4.0, 0.1
"""An edge that lies so near to a line that is known, and turned from it by no more than this sine,
6 degrees, is that line's."""
_PARALLEL = 0.2
"""Sine of the least angle at which two lines are said to meet, 12 degrees."""
_REACH_PX = 12
"""Within so many pixels along it an edge enters the hole that it crosses the seam of."""
_BACK_PX = 3
"""What is copied lies so far behind the seam at least, free of pixels that are partly covered."""
_PERIOD_PX = FOLLOWED_PX - _BACK_PX
_OTHER_LEVELS = 20.0
"""Grey levels by which the picture at the seam may differ from what is copied to behind it, along
the edge; more is another thing, which does not go on."""
_MEAN_PX = 6
"""Along so many pixels the colour at the seam is compared with that of what is copied."""


def along_known(edges: Sequence[Crossing], lines: Sequence[Segment]) -> tuple[Crossing, ...]:
    """Edges, those along a line that is known with its place and direction: a reading follows its
    edge across the picture, where a crossing knows but a little of it.

    Parameters
    ----------
    edges : sequence of Crossing
    lines : sequence of two points each, x and y
        Straight in the picture, at any distance from the seam.
    """
    return tuple(_as_known(edge, lines) for edge in edges)


def _as_known(edge: Crossing, lines: Sequence[Segment]) -> Crossing:
    nearest, found = _SAME_PX, edge
    for (ax, ay), (bx, by) in lines:
        length = math.hypot(bx - ax, by - ay)
        if length < 1:
            continue
        across, down = (bx - ax) / length, (by - ay) / length
        if across * edge.outward[0] + down * edge.outward[1] < 0:
            across, down = -across, -down
        turned = abs(across * edge.outward[1] - down * edge.outward[0])
        aside = (edge.x - ax) * -down + (edge.y - ay) * across
        if turned <= _SAME_TURN and abs(aside) < nearest:
            nearest = abs(aside)
            x, y = edge.x + aside * down, edge.y - aside * across
            found = replace(edge, x=x, y=y, outward=(across, down))
    return found


def lead_on(
    colours: Colours, hole: Mask, usable: Mask, edges: Sequence[Crossing]
) -> tuple[Colours, Places, Mask]:
    """Lead edges on into a hole.

    Parameters
    ----------
    colours : ndarray, shape (height, width, 3)
    hole, usable : ndarray of bool, shape (height, width)
        What to fill, and what may be copied.
    edges : sequence of Crossing
        Where the lines of two meet beyond the seam the one with the lesser gradient ends. One that
        the picture on the other side does not go on with is left to the patches.

    Returns
    -------
    colours : ndarray
        A copy with what lies along the edges filled.
    shift : ndarray, shape (height, width, 2)
        Rows and columns to where each such pixel was copied from.
    laid : ndarray of bool
        Which they are.
    """
    made, shift = colours.copy(), np.zeros((*hole.shape, 2), np.int32)
    laid = np.zeros_like(hole)
    beside = np.full(hole.shape, np.inf)
    places = np.argwhere(hole)
    for edge in _going_on(edges, hole):
        aside, sources, on_line = _behind(places, edge, _length(edge, edges))
        step = _step_at(colours, usable, edge)
        across = np.rint(aside).astype(np.intp) + round(_BESIDE_PX)
        on_line[on_line] &= (np.abs(step[across[on_line]]) <= _OTHER_LEVELS).all(axis=1)
        rows, columns = places[on_line].T
        from_rows, from_columns = sources[on_line].T
        high, wide = hole.shape
        possible = (from_rows >= 0) & (from_rows < high) & (from_columns >= 0)
        possible &= from_columns < wide
        possible[possible] &= usable[from_rows[possible], from_columns[possible]]
        apart = np.abs(aside[on_line])
        nearer = possible & (apart < beside[rows, columns])
        at, source = (rows[nearer], columns[nearer]), (from_rows[nearer], from_columns[nearer])
        made[at] = np.clip(colours[source] + step[across[on_line][nearer]], 0, 255)
        shift[at] = np.stack([source[0] - at[0], source[1] - at[1]], axis=-1)
        beside[at] = apart[nearer]
        laid[at] = True
    return made, shift, laid


def _going_on(edges: Sequence[Crossing], hole: Mask) -> list[Crossing]:
    """Those edges that leave the frame, or meet one on the other side of their hole."""
    marks, count = scipy.ndimage.label(hole)
    border = np.concatenate([marks[0], marks[-1], marks[:, 0], marks[:, -1]])
    open_ended = np.isin(np.arange(count + 1), border)

    def within(edge: Crossing) -> bool:
        steps = np.arange(_REACH_PX)[:, None] * edge.outward + (edge.x, edge.y)
        columns, rows = np.rint(steps).astype(np.intp).T
        inside = (rows >= 0) & (rows < hole.shape[0]) & (columns >= 0) & (columns < hole.shape[1])
        entered = marks[rows[inside], columns[inside]]
        return bool(entered.any()) and not open_ended[entered[entered > 0][0]]

    return [
        edge
        for edge in edges
        if not within(edge) or any(_goes_on_as(edge, other) for other in edges)
    ]


def _goes_on_as(edge: Crossing, other: Crossing) -> bool:
    """Whether an edge beyond a hole lies on the line of one before it, as strong and with the same
    side the lighter.
    """
    (across, down), (x, y) = edge.outward, (other.x - edge.x, other.y - edge.y)
    facing = across * other.outward[0] + down * other.outward[1] <= -math.sqrt(1 - _PARALLEL**2)
    ahead = x * across + y * down > 0
    strengths = sorted((math.hypot(*edge.rise), math.hypot(*other.rise)))
    alike = edge.rise[0] * other.rise[0] + edge.rise[1] * other.rise[1] > 0
    return (
        facing
        and ahead
        and abs(x * down - y * across) <= _BESIDE_PX
        and alike
        and strengths[0] >= strengths[1] / 2
    )


def _length(edge: Crossing, edges: Sequence[Crossing]) -> float:
    """How far an edge is led on: to where it meets a stronger one, as a joint ends at a kerb."""
    length = math.inf
    for other in edges:
        across = edge.outward[0] * other.outward[1] - edge.outward[1] * other.outward[0]
        if math.hypot(*other.rise) <= math.hypot(*edge.rise) or abs(across) < _PARALLEL:
            continue
        x, y = other.x - edge.x, other.y - edge.y
        until = (x * other.outward[1] - y * other.outward[0]) / across
        if until > 0 and (x * edge.outward[1] - y * edge.outward[0]) / across > -_BESIDE_PX:
            length = min(length, until - _BESIDE_PX / 2)
    return length


def _behind(places: Any, edge: Crossing, length: float) -> tuple[Any, Any, Any]:
    """How far places lie aside of the line of an edge, from where each is copied, and which of them
    lie along it, up to some length.
    """
    outward = np.array([edge.outward[1], edge.outward[0]])
    off = places - (edge.y, edge.x)
    beyond = off @ outward
    aside = off @ (-outward[1], outward[0])
    # Whole lengths of what was followed, so that neighbours are copied from neighbours.
    back = np.ceil(np.maximum(beyond + _BACK_PX, 1) / _PERIOD_PX) * _PERIOD_PX
    sources = np.rint(places - back[:, None] * outward).astype(np.intp)
    return aside, sources, (beyond > 0) & (beyond <= length) & (np.abs(aside) <= _BESIDE_PX)


def _step_at(colours: Colours, usable: Mask, edge: Crossing) -> Any:
    """By how much the picture just before the seam differs from what is copied to just behind it,
    shape (2 w + 1, 3) for each pixel aside: light that falls off along the edge goes on.
    """
    outward = np.array([edge.outward[1], edge.outward[0]])
    right = np.array([-outward[1], outward[0]])
    along, aside = np.mgrid[-_MEAN_PX:1, -round(_BESIDE_PX) : round(_BESIDE_PX) + 1]
    places = (edge.y, edge.x) + along[..., None] * outward + aside[..., None] * right
    means = []
    for back in (0, _PERIOD_PX):
        rows, columns = np.moveaxis(np.rint(places - back * outward).astype(np.intp), -1, 0)
        rows = np.clip(rows, 0, usable.shape[0] - 1)
        columns = np.clip(columns, 0, usable.shape[1] - 1)
        known = usable[rows, columns][..., None]
        total = np.where(known, colours[rows, columns], 0).sum(axis=0)
        means.append((total / np.maximum(known.sum(axis=0), 1), known.any(axis=0)))
    both = means[0][1] & means[1][1]
    return np.where(both, means[0][0] - means[1][0], 0).astype(np.float32)
