"""Rectangles that face the camera: four linked readings, which share their vertices."""

from itertools import pairwise

import numpy as np

from sequor.core.camera import Matrix
from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr
from sequor.core.lens.distortion import Distortion
from sequor.core.recipe import Kind, Point, Reading

_MIN_SIDE_PX = 8.0
"""A shorter side has no direction worth speaking of."""
SIDES: tuple[tuple[Kind, str], ...] = (
    ("level", mark("upper side")),
    ("plumb", mark("right side")),
    ("level", mark("lower side")),
    ("plumb", mark("left side")),
)


def rectangle(
    vertices: tuple[Point, Point, Point, Point], group: str, sigma_px: float = 1.0
) -> tuple[Reading, ...]:
    """Two level and two plumb readings along the sides of something rectangular.

    Parameters
    ----------
    vertices : four Points
        In any order, in source pixels.
    group : str
        The name that links the four readings; their ids begin with it.
    sigma_px : float
        Standard deviation with which each corner was placed.

    Raises
    ------
    UnusableInput
        When the vertices are not those of a quadrilateral with all angles below 180 degrees.
    """
    ring = _around(np.array(vertices, dtype=float))
    return tuple(
        Reading(
            id=f"{group}-{i}",
            kind=kind,
            points=(_point(ring[i]), _point(ring[(i + 1) % 4])),
            sigma_px=sigma_px,
            name=name,
            group=group,
        )
        for i, (kind, name) in enumerate(SIDES)
    )


def joined(readings: tuple[Reading, ...], distortion: Distortion) -> tuple[Reading, ...]:
    """The sides of a rectangle, each fitted to its edge, brought to meet in common vertices."""
    sides = [distortion.undistorted(np.array(reading.ends)) for reading in readings]
    meetings = [_meeting(a, b) for a, b in pairwise((sides[-1], *sides))]
    vertices = distortion.distorted(np.array(meetings))
    return tuple(
        reading.model_copy(update={"points": (_point(start), _point(end))})
        for reading, start, end in zip(
            readings, vertices, np.roll(vertices, -1, axis=0), strict=True
        )
    )


def _around(vertices: Matrix) -> Matrix:
    """Four vertices clockwise on screen from the top left."""
    middle = vertices.mean(axis=0)
    order = np.argsort(np.arctan2(vertices[:, 1] - middle[1], vertices[:, 0] - middle[0]))
    ring = vertices[order]
    ring = np.roll(ring, -int(np.argmin(ring.sum(axis=1))), axis=0)
    edges = np.roll(ring, -1, axis=0) - ring
    turns = edges[:, 0] * np.roll(edges[:, 1], -1) - edges[:, 1] * np.roll(edges[:, 0], -1)
    if (turns <= 0).any() or np.hypot(edges[:, 0], edges[:, 1]).min() < _MIN_SIDE_PX:
        raise UnusableInput(
            tr(
                "These four corners do not make a rectangle seen from anywhere; place one "
                "at each corner."
            )
        )
    return ring


def _meeting(one: Matrix, other: Matrix) -> tuple[float, float]:
    """Where two sides meet: the cross product of their lines (Hartley & Zisserman, 2.2.1)."""
    first, second = (np.cross([*line[0], 1.0], [*line[1], 1.0]) for line in (one, other))
    x, y, w = np.cross(first, second)
    return (float(x / w), float(y / w))


def _point(array: Matrix) -> Point:
    return (float(array[0]), float(array[1]))
