"""The best frame for a ratio, a fill allowance, a box to keep and an aim.

``allowance`` limits the share of the frame that may be filled: 0 allows nothing, 1 as much as the
smallest frame of that ratio needs that keeps the whole picture. The best frame is the largest one
within that limit. For every size it lies where most of it is covered, so the least share to be
filled grows with the size and the limit is met by bisection.
"""

from dataclasses import dataclass, replace

import numpy as np

from sequor.core.bisection import greatest
from sequor.core.camera import Matrix
from sequor.core.frame.composition import Along, crossings, lines_along
from sequor.core.frame.outline import Outline
from sequor.core.frame.rectangle import Rectangle
from sequor.core.recipe import Aim, Point

SIZE_STEPS = 30
"""Halvings of a frame's size: a 10^9th of it, far below a pixel."""
_NARROWINGS, _PLACES = 8, 9
"""Along a guide's line nine places are tried, then nine between the best one's neighbours, eight
times: the last ones are a 60,000th of the line apart."""
_LINE_NARROWINGS, _LINE_PLACES = 12, 33
"""The same for a centre along a whole line of the picture.

Whose best place may be a sharp ridge.
"""
_MOST_TIMES_BOX = 4.0
"""No frame needs to be larger than this many times the picture."""
_KEEP_RATIOS = 17
"""Ratios tried for a free frame that must contain a box.

Between the box's own and the largest's.
"""
_EMPTY_WITHIN = 1e-9
"""A share of the frame that is rounding, not emptiness."""


@dataclass(frozen=True)
class Wanted:
    """What a frame is to be like, in pixels of the corrected picture.

    ``ratio`` is None for whatever ratio has the largest area, ``preferred`` where the centre should
    be when the frame can slide, ``keep`` what it must contain. ``aim_at`` is the point that an aim
    is about, or the middle between two edges, of which ``aim_axis`` says whether only its x (0) or
    its y (1) counts.
    """

    ratio: float | None
    preferred: Point
    allowance: float = 0.0
    keep: Rectangle | None = None
    aim: Aim | None = None
    aim_at: Point = (0.0, 0.0)
    aim_axis: int | None = None


@dataclass(frozen=True)
class Found:
    """A frame, and whether it contains what was to be kept and meets the aim."""

    frame: Rectangle
    keeps: bool
    meets: bool


def best_frame(outline: Outline, wanted: Wanted) -> Found:
    """The best frame; when it cannot keep the box, or meet the aim, the best one without that.

    Raises
    ------
    UnusableInput
        When no frame of at least a pixel fits.
    """
    if wanted.ratio is None:
        wanted = replace(wanted, ratio=_free_ratio(outline, wanted))
    assert wanted.ratio is not None
    find = _aimed if wanted.aim else _unaimed
    found = find(outline, wanted, wanted.ratio)
    if found is not None:
        return Found(found, True, True)
    if wanted.keep:
        without = best_frame(outline, replace(wanted, keep=None))
        towards = _towards(outline, without.frame, wanted.keep, wanted.allowance)
        return Found(towards, False, without.meets)
    return Found(best_frame(outline, replace(wanted, aim=None)).frame, True, False)


def share_to_keep_all(outline: Outline, ratio: float) -> float:
    """The share to be filled of the smallest frame of a ratio that keeps the whole picture."""
    high = _height_around(outline, ratio)
    return max(0.0, 1 - outline.area / (high * high * ratio))


def allowance_to_keep(outline: Outline, ratio: float, keep: Rectangle) -> float | None:
    """The least allowance with which a frame of a ratio can contain a box; None when none can."""
    high = max(keep.height, keep.width / ratio)
    whole = share_to_keep_all(outline, ratio)
    share = outline.empty_share(_fullest_keeping(outline, high * ratio, high, keep, keep.centre))
    return share / whole if whole > 0 and share <= whole else None


def empty_limit(outline: Outline, ratio: float, allowance: float) -> float:
    """The share of a frame of a ratio that an allowance lets be filled."""
    return allowance * share_to_keep_all(outline, ratio)


def _height_around(outline: Outline, ratio: float) -> float:
    """The height of the smallest frame of a ratio around the whole picture."""
    return max(outline.box.height, outline.box.width / ratio)


def _unaimed(outline: Outline, wanted: Wanted, ratio: float) -> Rectangle | None:
    """The best frame without an aim."""
    keep = wanted.keep
    inside = (
        outline.largest_containing(ratio, keep, wanted.preferred)
        if keep
        else outline.largest(ratio, wanted.preferred)
    )
    limit = empty_limit(outline, ratio, wanted.allowance)
    if limit <= 0:
        return inside
    start = inside.centre if inside else wanted.preferred
    needed = max(keep.height, keep.width / ratio) if keep else 0.0
    low, high = max(inside.height if inside else 1.0, needed), _height_around(outline, ratio)

    def fullest(height: float) -> Rectangle:
        if keep:
            return _fullest_keeping(outline, height * ratio, height, keep, start)
        return outline.fullest(height * ratio, height, outline.box.low, outline.box.high, start)

    if low >= high:
        return fullest(low) if outline.empty_share(fullest(low)) <= limit else inside
    if outline.empty_share(fullest(low)) > limit + _EMPTY_WITHIN:
        return inside
    if wanted.allowance >= 1:
        return fullest(high)
    return fullest(
        greatest(lambda h: outline.empty_share(fullest(h)) <= limit, low, high, SIZE_STEPS)
    )


def _aimed(outline: Outline, wanted: Wanted, ratio: float) -> Rectangle | None:
    """The best frame that meets an aim: the largest over all lines or crossings of the guide."""
    aim = wanted.aim
    assert aim is not None
    limit = empty_limit(outline, ratio, wanted.allowance)
    if wanted.aim_axis is not None:
        if limit <= 0:
            return _inside_along_line(outline, wanted, ratio, wanted.aim_axis)
        return _filled_along_line(outline, wanted, ratio, wanted.aim_axis, limit)
    best: Rectangle | None = None
    if aim.meets == "crossing":
        for place in crossings(aim.guide):
            best = _larger(best, _anchored(outline, wanted, ratio, place, limit))
    else:
        for along in lines_along(aim.guide):
            best = _larger(best, _slid(outline, wanted, ratio, along, limit))
    return best


def _anchored(
    outline: Outline, wanted: Wanted, ratio: float, shares: Point, limit: float
) -> Rectangle | None:
    """The largest frame of which a place, in shares, lies at the point of the aim."""
    at = wanted.aim_at
    height = outline.height_at(at, shares, ratio)

    def frame(high: float) -> Rectangle:
        return Rectangle(
            at[0] - shares[0] * high * ratio, at[1] - shares[1] * high, high * ratio, high
        )

    if limit > 0:
        most = _MOST_TIMES_BOX * _height_around(outline, ratio)
        height = greatest(
            lambda h: outline.empty_share(frame(h)) <= limit, max(height, 1.0), most, SIZE_STEPS
        )
    return _if_keeping(frame(height), wanted.keep) if height * min(ratio, 1) >= 1 else None


def _slid(
    outline: Outline, wanted: Wanted, ratio: float, along: Along, limit: float
) -> Rectangle | None:
    """The largest frame of which some place along a line of the guide lies at the aim's point."""
    best: Rectangle | None = None
    low, high = 0.0, 1.0
    for _ in range(_NARROWINGS):
        places = np.linspace(low, high, _PLACES)
        place = int(np.argmax(_sizes_along(outline, wanted, ratio, along, limit, places)))
        best = _larger(best, _anchored(outline, wanted, ratio, along(float(places[place])), limit))
        step = (high - low) / (_PLACES - 1)
        low, high = max(0.0, places[place] - step), min(1.0, places[place] + step)
    return best


def _sizes_along(
    outline: Outline, wanted: Wanted, ratio: float, along: Along, limit: float, places: Matrix
) -> Matrix:
    """Heights of the frames at places along a line of the guide; 0 where none is possible."""
    if limit <= 0 and wanted.keep is None:
        shares = np.array([along(float(t)) for t in places])
        return outline.heights(np.repeat([wanted.aim_at], len(shares), axis=0), shares, ratio)
    found = [_anchored(outline, wanted, ratio, along(float(t)), limit) for t in places]
    return np.array([frame.height if frame else 0.0 for frame in found])


def _inside_along_line(
    outline: Outline, wanted: Wanted, ratio: float, axis: int
) -> Rectangle | None:
    """The largest frame inside the outline whose centre has the x, or the y, of the aim's point."""
    fixed = wanted.aim_at[axis]
    box = outline.box
    low, high = (box.y, box.y + box.height) if axis == 0 else (box.x, box.x + box.width)
    best: Rectangle | None = None
    for _ in range(_LINE_NARROWINGS):
        free = np.linspace(low, high, _LINE_PLACES)
        same = np.full(len(free), fixed)
        centres = np.column_stack([same, free] if axis == 0 else [free, same])
        heights = outline.heights(centres, np.full((len(free), 2), 0.5), ratio)
        frames = [
            _if_keeping(Rectangle.about((float(x), float(y)), h * ratio, h), wanted.keep)
            if h >= 1
            else None
            for (x, y), h in zip(centres, heights, strict=True)
        ]
        place = int(np.argmax([frame.height if frame else -1.0 for frame in frames]))
        best = _larger(best, frames[place])
        step = (high - low) / (_LINE_PLACES - 1)
        low, high = float(free[place]) - step, float(free[place]) + step
    return best


def _filled_along_line(
    outline: Outline, wanted: Wanted, ratio: float, axis: int, limit: float
) -> Rectangle | None:
    """The same with some of the frame left to be filled."""
    fixed = wanted.aim_at[axis]

    def fullest(height: float) -> Rectangle:
        width = height * ratio
        low, high = outline.box.low, outline.box.high
        if wanted.keep:
            low, high = _centres_around(width, height, wanted.keep)
        pinned_low = (fixed, low[1]) if axis == 0 else (low[0], fixed)
        pinned_high = (fixed, high[1]) if axis == 0 else (high[0], fixed)
        return outline.fullest(width, height, pinned_low, pinned_high, wanted.preferred)

    most = _MOST_TIMES_BOX * _height_around(outline, ratio)
    height = greatest(lambda h: outline.empty_share(fullest(h)) <= limit, 1.0, most, SIZE_STEPS)
    return _if_keeping(fullest(height), wanted.keep)


def _free_ratio(outline: Outline, wanted: Wanted) -> float:
    """A free frame's ratio.

    That of the largest area inside, on the way to that of the whole picture as the allowance grows.
    """
    inside = outline.largest(None, wanted.preferred)
    keep = wanted.keep
    if keep and not inside.contains(keep):
        ratios = keep.width / keep.height, inside.width / inside.height
        trials = np.geomspace(*ratios, _KEEP_RATIOS)
        frames = [outline.largest_containing(float(r), keep, wanted.preferred) for r in trials]
        inside = max((f for f in frames if f), key=lambda f: f.width * f.height, default=inside)
    box, a = outline.box, wanted.allowance
    return float((inside.width / inside.height) ** (1 - a) * (box.width / box.height) ** a)


def _towards(outline: Outline, frame: Rectangle, keep: Rectangle, allowance: float) -> Rectangle:
    """A frame moved towards what it cannot contain as far as it stays inside the outline.

    One that may be filled stays.
    """
    if allowance > 0:
        return frame
    return outline.nearest(frame.width, frame.height, keep.centre, frame.centre)


def _fullest_keeping(
    outline: Outline, width: float, height: float, keep: Rectangle, near: Point
) -> Rectangle:
    """The frame of a size that contains a box and has the smallest empty share."""
    low, high = _centres_around(width, height, keep)
    return outline.fullest(width, height, low, high, near)


def _centres_around(width: float, height: float, keep: Rectangle) -> tuple[Point, Point]:
    """The least and the greatest centre of a frame of a size that contains a box."""
    (x, y) = keep.centre
    slack_x, slack_y = max(0.0, (width - keep.width) / 2), max(0.0, (height - keep.height) / 2)
    return (x - slack_x, y - slack_y), (x + slack_x, y + slack_y)


def _if_keeping(frame: Rectangle, keep: Rectangle | None) -> Rectangle | None:
    return frame if keep is None or frame.contains(keep) else None


def _larger(one: Rectangle | None, other: Rectangle | None) -> Rectangle | None:
    if one is None or (other is not None and other.height > one.height):
        return other
    return one
