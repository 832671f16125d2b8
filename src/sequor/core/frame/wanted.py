"""What a recipe asks of the frame, in pixels of the corrected picture."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from sequor.core.account.readings import Undistorted
from sequor.core.bisection import greatest
from sequor.core.errors import UnusableInput
from sequor.core.frame.by_hand import Hand
from sequor.core.frame.outline import Outline
from sequor.core.frame.placing import Found, Wanted, best_frame
from sequor.core.frame.rectangle import Rectangle, in_picture
from sequor.core.readings.reading import reads_as
from sequor.core.recipe import (
    Box,
    FrameChoice,
    PhotoFacts,
    Placed,
    Point,
    Recipe,
    Side,
    target_ratio,
)
from sequor.core.warp.map import Warp, densely

_WORTH_KEEPING = 1 / 3
"""Share of the largest frame's area that it may cost to keep what was measured."""
_WORTH_GROUND = 1 / 10
"""The same for the ground that they stand on: it is not what was measured."""
_GROUND = 1 / 6
"""Of the height of the uprights that were drawn, so much of the ground below them belongs to them
(common practice: a building stands on something; the figure is ours)."""
_PARTS_STEPS = 7
"""Halvings of the part of something that is kept: a 128th of it is nothing to the eye."""
_MORE_AIR = 2.0
"""How many times the air there is on the side that a thing looks to (common practice: room to look
into; the figure is ours)."""


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
            raise UnusableInput("The point to aim at lies outside the picture.")
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


def framing(
    outline: Outline, asked: Wanted, choice: FrameChoice, measured: Drawn | None
) -> tuple[Found, bool]:
    """The best frame, and whether it is smaller than the largest to contain what was measured.

    Parameters
    ----------
    outline, asked : Outline, Wanted
        Where the frame lies, and what is asked of it.
    choice : FrameChoice
        How much air there is around what is kept, and what of the measured things goes first.
    measured : Drawn, optional
        What readings were drawn on, if the frame may keep that. Where it cannot keep all of it, it
        keeps of the uprights what it can, from their foot: a level line is cut by any frame.
    """
    best = best_frame(outline, asked)
    if asked.keep and best.keeps and (choice.air or choice.looks):
        return _with_air(outline, asked, choice, best), False
    if measured is None or asked.keep or asked.aim:
        return best, False
    uprights = measured.uprights if choice.foot_first else None

    def keeping(part: Rectangle, worth: float = _WORTH_KEEPING) -> Found | None:
        found = best_frame(outline, replace(asked, keep=part))
        least = (1 - worth) * _area(best.frame)
        return found if found.keeps and _area(found.frame) >= least else None

    wholes = [(measured.with_ground, _WORTH_GROUND)] if uprights else []
    for whole, worth in [*wholes, (measured.box, _WORTH_KEEPING)]:
        if best.frame.contains(whole):
            return best, False
        found = keeping(whole, worth)
        if found is not None:
            return found, True
    if uprights is None or best.frame.contains(uprights):
        return best, False
    parts = [_from_foot(uprights, part, keeping) for part in (_upwards, _about_foot)]
    found = max(parts, key=lambda part: part[1])[0]
    return found or best, found is not None


def _with_air(outline: Outline, asked: Wanted, choice: FrameChoice, without: Found) -> Found:
    """The best frame with as much of the air that is asked for as there is room for."""
    keep = asked.keep
    assert keep is not None
    found = without

    def fits(share: float) -> bool:
        nonlocal found
        grown = _aired(keep, choice.air * share, choice.looks)
        trial = best_frame(outline, replace(asked, keep=grown))
        if trial.keeps and trial.meets >= without.meets:
            found = trial
        return trial.keeps and trial.meets >= without.meets

    if not fits(1.0):
        greatest(fits, 0.0, 1.0, _PARTS_STEPS)
    return found


def _aired(keep: Rectangle, air: float, looks: Side | None) -> Rectangle:
    """A box with air around it, and more on the side that it looks to."""
    px = air * max(keep.width, keep.height)
    left, right, top, bottom = (
        px * (_MORE_AIR if looks == side else 1.0) for side in ("left", "right", "top", "bottom")
    )
    width, height = keep.width + left + right, keep.height + top + bottom
    return Rectangle(keep.x - left, keep.y - top, width, height)


def _looked_to(keep: Rectangle, looks: Side) -> Point:
    """Where the middle of a frame had best lie: beside the box, on the side that it looks to."""
    (x, y), side = keep.centre, max(keep.width, keep.height)
    dx, dy = {"left": (-1, 0), "right": (1, 0), "top": (0, -1), "bottom": (0, 1)}[looks]
    return x + dx * side / 2, y + dy * side / 2


def _from_foot(
    whole: Rectangle,
    part: Callable[[Rectangle, float], Rectangle],
    keeping: Callable[[Rectangle], Found | None],
) -> tuple[Found | None, float]:
    """The frame that keeps the most of a box, of parts that grow from its foot, and the area of
    what it keeps.
    """
    found: Found | None = None
    kept = 0.0

    def fits(share: float) -> bool:
        nonlocal found, kept
        trial = keeping(part(whole, share))
        area = _area(part(whole, share))
        if trial is not None and area >= kept:
            found, kept = trial, area
        return trial is not None

    greatest(fits, 0.0, 1.0, _PARTS_STEPS)
    return found, kept


def _upwards(whole: Rectangle, share: float) -> Rectangle:
    """The lower part of a box."""
    high = whole.height * share
    return Rectangle(whole.x, whole.y + whole.height - high, whole.width, high)


def _about_foot(whole: Rectangle, share: float) -> Rectangle:
    """A part of a box about the middle of its foot, of its own shape."""
    wide, high = whole.width * share, whole.height * share
    left = whole.x + (whole.width - wide) / 2
    return Rectangle(left, whole.y + whole.height - high, wide, high)


def _area(frame: Rectangle) -> float:
    return frame.width * frame.height


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
            "The box to keep lies outside the picture; draw it over what must not be cut."
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
            "The frame is to be centred between two readings, one of which is no longer there; "
            "choose two again."
        )
    one, other = (known[name] for name in between)
    if reads_as(one) != reads_as(other):
        raise UnusableInput(
            "The frame can be centred between two plumb edges or between two level ones, not "
            "between one of each."
        )
    ends = np.array([*one.ends, *other.ends])
    x, y = warp.from_undistorted(ends).mean(axis=0)
    return (float(x), float(y)), 0 if reads_as(one) == "plumb" else 1


def _corrected(warp: Warp, point: Point) -> Point:
    x, y = warp.to_corrected(np.array([point]))[0]
    return float(x), float(y)
