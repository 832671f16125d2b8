"""A frame that was placed by hand, as far as the outline or the fill allowance lets it be."""

import math
from dataclasses import dataclass, replace

from sequor.core.bisection import greatest
from sequor.core.frame.outline import Outline
from sequor.core.frame.placing import SIZE_STEPS, Wanted, best_frame, empty_limit
from sequor.core.frame.rectangle import Rectangle
from sequor.core.recipe import Point

_MIDDLE: Point = (0.5, 0.5)
_EMPTY_WITHIN = 1e-9
"""A share of the frame that is rounding, not emptiness."""


@dataclass(frozen=True)
class Hand:
    """A frame placed by hand: the point ``at`` lies at ``anchor``, in shares of the frame.

    All is in pixels of the corrected picture (see `recipe.Placed`).
    """

    at: Point
    anchor: Point
    width: float
    height: float
    past: bool

    def frame(self, width: float, height: float, at: Point | None = None) -> Rectangle:
        """The frame of a size whose anchor lies at the point."""
        (x, y), (u, v) = at or self.at, self.anchor
        return Rectangle(x - u * width, y - v * height, width, height)


def placed_frame(outline: Outline, wanted: Wanted, hand: Hand) -> Rectangle:
    """The frame that was placed by hand, as far as it may be.

    A frame moved as a whole keeps its size and goes to the nearest possible place; one that was
    resized keeps its anchor and shrinks.
    """
    ratio = wanted.ratio or hand.width / hand.height
    width, height = hand.width, hand.height
    if wanted.ratio is not None:
        width, height = _same_area(width, height, ratio)
    if hand.past and wanted.allowance > 0:
        return _past(outline, wanted, hand, width, height)
    if hand.anchor != _MIDDLE:
        resized = _resized(outline, wanted, hand, width, height)
        if min(resized.width, resized.height) >= 1:
            return resized
        width, height = hand.width, hand.height
    largest = outline.largest(width / height, hand.at)
    if largest.height < height:
        width, height = largest.width, largest.height
    centre = hand.frame(width, height).centre
    return outline.nearest(width, height, centre, largest.centre)


def _resized(
    outline: Outline, wanted: Wanted, hand: Hand, width: float, height: float
) -> Rectangle:
    """A frame that keeps its anchor and shrinks until it lies inside the outline."""
    if wanted.ratio is None and 0.5 in hand.anchor:
        return _one_side(outline, hand, width, height)
    share = min(1.0, outline.height_at(hand.at, hand.anchor, width / height) / height)
    return hand.frame(width * share, height * share)


def _one_side(outline: Outline, hand: Hand, width: float, height: float) -> Rectangle:
    """A frame of no fixed ratio of which one edge was moved: only that side gives way."""
    wide = hand.anchor[0] != 0.5

    def frame(share: float) -> Rectangle:
        return hand.frame(*((width * share, height) if wide else (width, height * share)))

    if outline.holds(frame(1.0)):
        return frame(1.0)
    return frame(greatest(lambda share: outline.holds(frame(share)), 0.0, 1.0))


def _past(outline: Outline, wanted: Wanted, hand: Hand, width: float, height: float) -> Rectangle:
    """A frame placed by hand that may lie beyond the outline up to the allowance."""
    limit = empty_limit(outline, width / height, wanted.allowance) + _EMPTY_WITHIN

    def allowed(frame: Rectangle) -> bool:
        return outline.empty_share(frame) <= limit

    if allowed(hand.frame(width, height)):
        return hand.frame(width, height)
    if hand.anchor == _MIDDLE:
        fullest = outline.fullest(width, height, outline.box.low, outline.box.high, hand.at)
        if allowed(fullest):
            # On the straight way from the best place to where it was put.
            (gx, gy), (x, y) = fullest.centre, hand.at

            def moved(share: float) -> Rectangle:
                return hand.frame(width, height, (gx + share * (x - gx), gy + share * (y - gy)))

            return moved(greatest(lambda share: allowed(moved(share)), 0.0, 1.0, SIZE_STEPS))
    else:
        share = greatest(
            lambda share: allowed(hand.frame(width * share, height * share)), 0.0, 1.0, SIZE_STEPS
        )
        if min(width, height) * share >= 1:
            return hand.frame(width * share, height * share)
    return best_frame(outline, replace(wanted, ratio=width / height, keep=None, aim=None)).frame


def _same_area(width: float, height: float, ratio: float) -> tuple[float, float]:
    """A size of a ratio with the same area.

    One that has it but for the rounding to whole pixels stays, so that moving never shrinks.
    """
    if abs(width - height * ratio) <= max(1.0, ratio):
        return width, height
    area = width * height
    return math.sqrt(area * ratio), math.sqrt(area / ratio)
