"""The frame as a value: an upright rectangle, and its whole pixels."""

import math
from dataclasses import dataclass

import numpy as np

from sequor.core.camera import Matrix
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Box, Point

SNAP_PX = 1e-6
"""What rounding in double precision leaves of coordinates of some ten thousand pixels."""
CONTAINS_WITHIN_PX = 1.0
"""A frame of whole pixels may lie up to half a pixel inside the exact one at each side, and as much
again where its ratio is rounded; so a box within one pixel of the frame counts as contained."""


@dataclass(frozen=True)
class Rectangle:
    """An upright rectangle in continuous pixels: top-left corner, width and height."""

    x: float
    y: float
    width: float
    height: float

    @property
    def vertices(self) -> Matrix:
        """The four corners, shape (4, 2), clockwise from the top left."""
        right, bottom = self.x + self.width, self.y + self.height
        return np.array([[self.x, self.y], [right, self.y], [right, bottom], [self.x, bottom]])

    @property
    def centre(self) -> Point:
        """Its middle."""
        return self.x + self.width / 2, self.y + self.height / 2

    @property
    def low(self) -> Point:
        """Its top-left corner."""
        return self.x, self.y

    @property
    def high(self) -> Point:
        """Its bottom-right corner."""
        return self.x + self.width, self.y + self.height

    @classmethod
    def about(cls, centre: Point, width: float, height: float) -> "Rectangle":
        """The rectangle of a size about a centre."""
        return cls(centre[0] - width / 2, centre[1] - height / 2, width, height)

    @classmethod
    def around(cls, points: Matrix) -> "Rectangle":
        """The upright box around points, shape (N, 2)."""
        (left, top), (right, bottom) = points.min(axis=0), points.max(axis=0)
        return cls(float(left), float(top), float(right - left), float(bottom - top))

    def grown(self, by: float) -> "Rectangle":
        """The rectangle with so much more at every side."""
        return Rectangle(self.x - by, self.y - by, self.width + 2 * by, self.height + 2 * by)

    def contains(self, box: "Rectangle") -> bool:
        """Whether it contains a box, to within `CONTAINS_WITHIN_PX`."""
        (left, top), (right, bottom) = self.low, self.high
        (box_left, box_top), (box_right, box_bottom) = box.low, box.high
        within = CONTAINS_WITHIN_PX
        return (
            left <= box_left + within
            and top <= box_top + within
            and right >= box_right - within
            and bottom >= box_bottom - within
        )


def in_picture(box: Box, photo: PhotoFacts) -> Rectangle | None:
    """What of a box of the source lies in the picture; None when that is less than a pixel wide or
    high.
    """
    inside = box.inside(photo.width, photo.height)
    if inside is None:
        return None
    width, height = inside.right - inside.left, inside.bottom - inside.top
    return Rectangle(inside.left, inside.top, width, height)


def border_centres(rectangle: Rectangle) -> Matrix:
    """The centres of the outermost pixels of a rectangle of whole pixels, shape (N, 2)."""
    xs, ys = (
        rectangle.x + 0.5 + np.arange(rectangle.width),
        rectangle.y + 0.5 + np.arange(rectangle.height),
    )
    top, left = np.full_like(xs, ys[0]), np.full_like(ys, xs[0])
    rows = [np.column_stack([xs, top]), np.column_stack([xs, top + rectangle.height - 1])]
    return np.vstack(
        [*rows, np.column_stack([left, ys]), np.column_stack([left + rectangle.width - 1, ys])]
    )


def whole_pixels(rectangle: Rectangle, ratio: float | None) -> Rectangle:
    """The largest rectangle of whole pixels with the same centre inside ``rectangle``.

    Its ratio is the wanted one to within the rounding of one side; its corner
    may lie between pixels, since the picture is resampled anyway.
    """
    width = math.floor(rectangle.width + SNAP_PX)
    height = math.floor(rectangle.height + SNAP_PX)
    if ratio is not None:
        width, height = (
            min(width, max(1, round(height * ratio))),
            min(height, max(1, round(width / ratio))),
        )
    if width < 1 or height < 1:
        raise no_frame()
    x = rectangle.x + (rectangle.width - width) / 2
    y = rectangle.y + (rectangle.height - height) / 2
    return Rectangle(_snap(x), _snap(y), width, height)


def _snap(value: float) -> float:
    return float(round(value)) if abs(value - round(value)) < 2 * SNAP_PX else value


def no_frame() -> UnusableInput:
    """The error for a picture in which no frame of at least a pixel fits."""
    return UnusableInput(
        tr("No frame of at least one pixel fits into the corrected picture; turn it less.")
    )
