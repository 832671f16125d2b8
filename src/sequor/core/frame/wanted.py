"""What a recipe asks of the frame, in pixels of the corrected picture."""

from dataclasses import dataclass

import numpy as np

from sequor.core.account.readings import Undistorted
from sequor.core.errors import UnusableInput
from sequor.core.frame.by_hand import Hand
from sequor.core.frame.placing import Wanted
from sequor.core.frame.rectangle import Rectangle, in_picture
from sequor.core.language import tr
from sequor.core.photo import PhotoFacts
from sequor.core.readings.reading import reads_as
from sequor.core.recipe import Box, Placed, Point, Recipe, Side, target_ratio
from sequor.core.warp.map import Warp, densely

_GROUND = 1 / 6
"""Of the height of the uprights that were drawn, so much of the ground below them belongs to them
(common practice: a building stands on something; the figure is ours)."""


def wanted_frame(
    recipe: Recipe, photo: PhotoFacts, warp: Warp, readings: tuple[Undistorted, ...]
) -> Wanted:
    """What is asked of the frame.

    Raises
    ------
    UnusableInput
        When the box to keep or the point of the aim lies outside the picture, or the aim names
        readings that are not there.
    """
    choice = recipe.frame
    at, axis = (0.0, 0.0), None
    if choice.aim and choice.aim.point:
        x, y = choice.aim.point
        if not (0 <= x <= photo.width and 0 <= y <= photo.height):
            raise UnusableInput(tr("The point to aim at lies outside the picture."))
        at = _corrected(warp, (x, y))
    elif choice.aim and choice.aim.between:
        at, axis = _midway(choice.aim.between, readings, warp)
    keep = _around(choice.keep, photo, warp) if choice.keep else None
    middle = _corrected(warp, (photo.width / 2, photo.height / 2))
    return Wanted(
        ratio=target_ratio(choice, photo),
        preferred=_looked_to(keep, choice.looks) if keep and choice.looks else middle,
        allowance=recipe.fill.allowance,
        keep=keep,
        aim=choice.aim,
        aim_at=at,
        aim_axis=axis,
    )


@dataclass(frozen=True)
class Drawn:
    """The boxes around all that readings were drawn on, and around the uprights among it."""

    box: Rectangle
    uprights: Rectangle | None

    @property
    def with_ground(self) -> Rectangle:
        """The box with some of what uprights stand on: nobody draws to where they end."""
        if self.uprights is None:
            return self.box
        ground = self.uprights.y + self.uprights.height * (1 + _GROUND)
        bottom = max(self.box.y + self.box.height, ground)
        return Rectangle(self.box.x, self.box.y, self.box.width, bottom - self.box.y)


def _looked_to(keep: Rectangle, looks: Side) -> Point:
    """Where the middle of a frame had best lie: beside the box, on the side that it looks to."""
    (x, y), side = keep.centre, max(keep.width, keep.height)
    dx, dy = {"left": (-1, 0), "right": (1, 0), "top": (0, -1), "bottom": (0, 1)}[looks]
    return x + dx * side / 2, y + dy * side / 2


def around_readings(readings: tuple[Undistorted, ...], warp: Warp) -> Drawn | None:
    """What readings that count were drawn on, in the corrected picture."""
    active = [one for one in readings if one.reading.active]
    box = _box_of(active, warp)
    uprights = _box_of([one for one in active if one.reading.direction == "plumb"], warp)
    return Drawn(box, uprights) if box else None


def _box_of(readings: list[Undistorted], warp: Warp) -> Rectangle | None:
    """The upright box around the ends of readings; None of none."""
    if not readings:
        return None
    ends = np.array([one.line.ends for one in readings])
    return Rectangle.around(warp.from_undistorted(ends.reshape(-1, 2)))


def hand_of(placed: Placed | None, warp: Warp) -> Hand | None:
    """A frame placed by hand."""
    if placed is None:
        return None
    at = _corrected(warp, placed.at)
    return Hand(at, placed.anchor, placed.width, placed.height, placed.past)


def _around(box: Box, photo: PhotoFacts, warp: Warp) -> Rectangle:
    """The upright box around a box of the source, as far as that lies in the picture."""
    inside = in_picture(box, photo)
    if inside is None:
        raise UnusableInput(
            tr("The box to keep lies outside the picture; draw it over what must not be cut.")
        )
    vertices = inside.vertices
    straight = warp.straight
    return Rectangle.around(warp.to_corrected(vertices if straight else densely(vertices)))


def _midway(
    between: tuple[str, str], readings: tuple[Undistorted, ...], warp: Warp
) -> tuple[Point, int]:
    """The middle between two readings, and the axis along which it counts."""
    known = {one.reading.id: one.line for one in readings}
    if any(name not in known for name in between):
        raise UnusableInput(
            tr(
                "The frame is to be centred between two readings, one of which is no "
                "longer there; choose two again."
            )
        )
    one, other = (known[name] for name in between)
    if reads_as(one) != reads_as(other):
        raise UnusableInput(
            tr(
                "The frame can be centred between two plumb edges or between two level "
                "ones, not between one of each."
            )
        )
    ends = np.array([*one.ends, *other.ends])
    x, y = warp.from_undistorted(ends).mean(axis=0)
    return (float(x), float(y)), 0 if reads_as(one) == "plumb" else 1


def _corrected(warp: Warp, point: Point) -> Point:
    x, y = warp.to_corrected(np.array([point]))[0]
    return float(x), float(y)
