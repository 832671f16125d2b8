"""What the frame keeps beside being large: what was measured, its foot before empty sky, and air
around what must not be cut.
"""

from collections.abc import Callable
from dataclasses import replace

from sequor.core.bisection import greatest
from sequor.core.frame.outline import Outline
from sequor.core.frame.placing import Found, Wanted, best_frame
from sequor.core.frame.rectangle import Rectangle
from sequor.core.frame.wanted import Drawn
from sequor.core.recipe import FrameChoice, Side

_WORTH_KEEPING = 1 / 3
"""Share of the largest frame's area that it may cost to keep what was measured."""
_WORTH_GROUND = 1 / 10
"""The same for the ground that they stand on: it is not what was measured."""
_PARTS_STEPS = 7
"""Halvings of the part of something that is kept: a 128th of it is nothing to the eye."""
_MORE_AIR = 2.0
"""How many times the air there is on the side that a thing looks to (common practice: room to look
into; the figure is ours)."""


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
