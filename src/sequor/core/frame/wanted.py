"""What a recipe asks of the frame, in pixels of the corrected picture."""

from dataclasses import replace

import numpy as np

from sequor.core.account.readings import Undistorted
from sequor.core.errors import UnusableInput
from sequor.core.frame.by_hand import Hand
from sequor.core.frame.outline import Outline
from sequor.core.frame.placing import Found, Wanted, best_frame
from sequor.core.frame.rectangle import Rectangle, in_picture
from sequor.core.readings.reading import reads_as
from sequor.core.recipe import Box, PhotoFacts, Placed, Point, Recipe, target_ratio
from sequor.core.warp.map import Warp, densely

_WORTH_KEEPING = 1 / 3
"""Share of the largest frame's area that it may cost to keep what was measured."""


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
    return Wanted(
        ratio=target_ratio(choice, photo),
        preferred=_corrected(warp, (photo.width / 2, photo.height / 2)),
        allowance=recipe.fill.allowance,
        keep=_around(choice.keep, photo, warp) if choice.keep else None,
        aim=choice.aim,
        aim_at=at,
        aim_axis=axis,
    )


def framing(outline: Outline, asked: Wanted, measured: Rectangle | None) -> tuple[Found, bool]:
    """The best frame, and whether it is smaller than the largest to contain what was measured.

    Parameters
    ----------
    outline, asked : Outline, Wanted
        Where the frame lies, and what is asked of it.
    measured : Rectangle, optional
        The box around all that readings were drawn on, if the frame may keep that.
    """
    best = best_frame(outline, asked)
    if measured is None or asked.keep or asked.aim or best.frame.contains(measured):
        return best, False
    keeping = best_frame(outline, replace(asked, keep=measured))
    if keeping.keeps and _area(keeping.frame) >= (1 - _WORTH_KEEPING) * _area(best.frame):
        return keeping, True
    return best, False


def _area(frame: Rectangle) -> float:
    return frame.width * frame.height


def around_readings(readings: tuple[Undistorted, ...], warp: Warp) -> Rectangle | None:
    """The box around all readings that count, in the corrected picture."""
    drawn = [one.line.ends for one in readings if one.reading.active]
    if not drawn:
        return None
    return Rectangle.around(warp.from_undistorted(np.array(drawn).reshape(-1, 2)))


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
