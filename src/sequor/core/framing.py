"""Which frame: the best one for a ratio, a fill allowance, a box to keep and an aim; or the one that was placed by hand.

``allowance`` limits the share of the frame that may be filled: 0 allows nothing, 1 as much as the smallest frame of
that ratio needs that keeps the whole picture. The best frame is the largest one within that limit. For every size
it lies where most of it is covered, so the least share to be filled grows with the size and the limit is met by bisection.
"""

import math
from dataclasses import dataclass, replace

import numpy as np

from sequor.core.camera import Matrix
from sequor.core.composition import Along, crossings, lines_along
from sequor.core.frame import Rectangle
from sequor.core.recipe import Aim, Point
from sequor.core.room import Room, contains, largest_containing

_BISECTIONS = 30
_NARROWINGS, _PLACES = 8, 9
_KEPT_PX = 0.5
_MIDDLE: Point = (0.5, 0.5)


@dataclass(frozen=True)
class Wanted:
    """What a frame is to be like, in pixels of the corrected picture.

    ``ratio`` is None for whatever ratio has the largest area, ``preferred`` where the centre should be when the frame can slide,
    ``keep`` what it must contain. ``aim_at`` is the point that an aim is about, or the middle between two edges, of which ``aim_along``
    says whether only its x or its y counts.
    """

    ratio: float | None
    preferred: Point
    allowance: float = 0.0
    keep: Rectangle | None = None
    aim: Aim | None = None
    aim_at: Point = (0.0, 0.0)
    aim_axis: int | None = None


@dataclass(frozen=True)
class Hand:
    """A frame placed by hand: the point ``at`` lies at ``anchor``, in shares of the frame (see `recipe.Placed`)."""

    at: Point
    anchor: Point
    width: float
    height: float
    past: bool


@dataclass(frozen=True)
class Framed:
    """A frame, and whether it contains what was to be kept and meets the aim."""

    frame: Rectangle
    keeps: bool
    meets: bool


def best_frame(room: Room, wanted: Wanted) -> Framed:
    """The best frame; when none can contain what is to be kept, or meet the aim, the best one that does without.

    Raises
    ------
    UnusableInput
        When no frame of at least a pixel fits.
    """
    if wanted.ratio is None:
        wanted = _with_ratio(room, wanted)
    assert wanted.ratio is not None
    found = _aimed(room, wanted, wanted.ratio) if wanted.aim else _free(room, wanted, wanted.ratio)
    if found is not None:
        return Framed(found, True, True)
    if wanted.keep:
        without = best_frame(room, replace(wanted, keep=None))
        return Framed(_towards(room, without.frame, wanted.keep, wanted.allowance), False, without.meets)
    return Framed(best_frame(room, replace(wanted, aim=None)).frame, True, False)


def placed_frame(room: Room, wanted: Wanted, hand: Hand) -> Rectangle:
    """The frame that was placed by hand, as far as the outline, or with ``past`` the fill allowance, lets it be.

    A frame moved as a whole keeps its size and goes to the nearest possible place; one that was resized keeps its anchor and shrinks.
    """
    ratio = wanted.ratio or hand.width / hand.height
    width, height = (hand.width, hand.height) if wanted.ratio is None else _same_area(hand.width, hand.height, ratio)
    if hand.past and wanted.allowance > 0:
        return _placed_past(room, wanted, hand, width, height)
    (u, v), at = hand.anchor, np.array([hand.at])
    if hand.anchor != _MIDDLE:
        if wanted.ratio is None and 0.5 in hand.anchor:
            width, height = _one_side(room, hand, width, height)
        else:
            share = min(1.0, float(room.heights(at, np.array([hand.anchor]), width / height)[0]) / height)
            width, height = width * share, height * share
        if min(width, height) >= 1:
            return Rectangle(hand.at[0] - u * width, hand.at[1] - v * height, width, height)
        width, height = hand.width, hand.height
    largest = room.largest(width / height, hand.at)
    if largest.height < height:
        width, height = largest.width, largest.height
    centre = (hand.at[0] + (0.5 - u) * width, hand.at[1] + (0.5 - v) * height)
    return room.nearest(width, height, centre, _centre(largest))


def share_to_keep_all(room: Room, ratio: float) -> float:
    """The share that must be filled of the smallest frame of a ratio that keeps the whole picture."""
    high = max(room.box.height, room.box.width / ratio)
    return max(0.0, 1 - room.area / (high * high * ratio))


def allowance_to_keep(room: Room, ratio: float, keep: Rectangle) -> float | None:
    """The least allowance with which a frame of a ratio can contain a box; None when none can."""
    high = max(keep.height, keep.width / ratio)
    whole = share_to_keep_all(room, ratio)
    share = room.empty_share(_around(room, high * ratio, high, keep, _centre(keep)))
    return share / whole if whole > 0 and share <= whole else None


def _free(room: Room, wanted: Wanted, ratio: float) -> Rectangle | None:
    """The best frame without an aim."""
    keep = wanted.keep
    inside = largest_containing(room, ratio, keep, wanted.preferred) if keep else room.largest(ratio, wanted.preferred)
    limit = wanted.allowance * share_to_keep_all(room, ratio)
    if limit <= 0:
        return inside
    start = _centre(inside) if inside else wanted.preferred
    least = max(inside.height if inside else 1.0, max(keep.height, keep.width / ratio) if keep else 0.0)

    def fullest(height: float) -> Rectangle:
        if keep:
            return _around(room, height * ratio, height, keep, start)
        low, high = (room.box.x, room.box.y), (room.box.x + room.box.width, room.box.y + room.box.height)
        return room.fullest(height * ratio, height, low, high, start)

    low, high = least, max(room.box.height, room.box.width / ratio)
    if low >= high:
        return fullest(low) if room.empty_share(fullest(low)) <= limit else inside
    if room.empty_share(fullest(low)) > limit + 1e-9:
        return inside
    for _ in range(_BISECTIONS):
        middle = (low + high) / 2
        low, high = (middle, high) if room.empty_share(fullest(middle)) <= limit else (low, middle)
    return fullest(high if wanted.allowance >= 1 else low)


def _aimed(room: Room, wanted: Wanted, ratio: float) -> Rectangle | None:
    """The best frame that meets an aim: the largest one over all lines or crossings of the guide."""
    aim = wanted.aim
    assert aim is not None
    if wanted.aim_axis is not None:
        return _along_line(room, wanted, ratio)
    fixed = [(place, place) for place in crossings(aim.guide)] if aim.meets == "crossing" else []
    sliding: tuple[Along, ...] = lines_along(aim.guide) if aim.meets == "line" else ()
    limit = wanted.allowance * share_to_keep_all(room, ratio)
    best: Rectangle | None = None
    for place, _ in fixed:
        best = _larger(best, _anchored(room, wanted, ratio, place, limit))
    for along in sliding:
        best = _larger(best, _slid(room, wanted, ratio, along, limit))
    return best


def _anchored(room: Room, wanted: Wanted, ratio: float, shares: Point, limit: float) -> Rectangle | None:
    """The largest frame of which a place, in shares, lies at the point of the aim."""
    at = wanted.aim_at
    height = float(room.heights(np.array([at]), np.array([shares]), ratio)[0])

    def frame(high: float) -> Rectangle:
        return Rectangle(at[0] - shares[0] * high * ratio, at[1] - shares[1] * high, high * ratio, high)

    if limit > 0:
        low, high = max(height, 1.0), 4 * max(room.box.height, room.box.width / ratio)
        for _ in range(_BISECTIONS):
            middle = (low + high) / 2
            low, high = (middle, high) if room.empty_share(frame(middle)) <= limit else (low, middle)
        height = low
    return _if_keeping(frame(height), wanted.keep) if height * min(ratio, 1) >= 1 else None


def _slid(room: Room, wanted: Wanted, ratio: float, along: Along, limit: float) -> Rectangle | None:
    """The largest frame of which some place along a line of the guide lies at the point of the aim."""
    best: Rectangle | None = None
    low, high = 0.0, 1.0
    for _ in range(_NARROWINGS):
        places = np.linspace(low, high, _PLACES)
        if limit > 0:
            found = [_anchored(room, wanted, ratio, along(float(t)), limit) for t in places]
            sizes = np.array([f.height if f else 0.0 for f in found])
        else:
            shares = np.array([along(float(t)) for t in places])
            sizes = room.heights(np.repeat([wanted.aim_at], len(shares), axis=0), shares, ratio)
            found = [_anchored(room, wanted, ratio, along(float(t)), 0.0) for t in places] if wanted.keep else []
            if found:
                sizes = np.where([f is not None for f in found], sizes, 0.0)
        place = int(np.argmax(sizes))
        best = _larger(best, _anchored(room, wanted, ratio, along(float(places[place])), limit))
        step = (high - low) / (_PLACES - 1)
        low, high = max(0.0, float(places[place]) - step), min(1.0, float(places[place]) + step)
    return best


def _along_line(room: Room, wanted: Wanted, ratio: float) -> Rectangle | None:
    """The largest frame whose centre has the x, or the y, of the aim's point."""
    axis = wanted.aim_axis
    assert axis is not None
    fixed = wanted.aim_at[axis]
    start, span = (room.box.y, room.box.height) if axis == 0 else (room.box.x, room.box.width)
    limit = wanted.allowance * share_to_keep_all(room, ratio)

    def centres(free: Matrix) -> Matrix:
        same = np.full(len(free), fixed)
        return np.column_stack([same, free] if axis == 0 else [free, same])

    if limit <= 0:
        low, high, best = start, start + span, None
        for _ in range(12):
            free = np.linspace(low, high, 33)
            heights = room.heights(centres(free), np.full((len(free), 2), 0.5), ratio)
            frames = [_about((float(x), float(y)), h, ratio) for (x, y), h in zip(centres(free), heights, strict=True)]
            fits = np.array(
                [
                    h >= 1 and (wanted.keep is None or contains(f, wanted.keep, _KEPT_PX))
                    for h, f in zip(heights, frames, strict=True)
                ]
            )
            place = int(np.argmax(np.where(fits, heights, -1.0)))
            if fits[place]:
                best = _larger(best, frames[place])
            step = (high - low) / 32
            low, high = float(free[place]) - step, float(free[place]) + step
        return best

    def fullest(height: float) -> Rectangle:
        width = height * ratio
        least, most = (room.box.x, room.box.y), (room.box.x + room.box.width, room.box.y + room.box.height)
        if wanted.keep:
            least, most = _centres_around(width, height, wanted.keep)
        pinned_low = (fixed, least[1]) if axis == 0 else (least[0], fixed)
        pinned_high = (fixed, most[1]) if axis == 0 else (most[0], fixed)
        return room.fullest(width, height, pinned_low, pinned_high, wanted.preferred)

    low, high = 1.0, 4 * max(room.box.height, room.box.width / ratio)
    for _ in range(_BISECTIONS):
        middle = (low + high) / 2
        low, high = (middle, high) if room.empty_share(fullest(middle)) <= limit else (low, middle)
    return _if_keeping(fullest(low), wanted.keep)


def _placed_past(room: Room, wanted: Wanted, hand: Hand, width: float, height: float) -> Rectangle:
    """A frame placed by hand that may lie beyond the outline up to the allowance."""
    limit = wanted.allowance * share_to_keep_all(room, width / height) + 1e-9
    u, v = hand.anchor

    def frame(share: float, at: Point = hand.at) -> Rectangle:
        return Rectangle(at[0] - u * width * share, at[1] - v * height * share, width * share, height * share)

    if room.empty_share(frame(1.0)) <= limit:
        return frame(1.0)
    if hand.anchor == _MIDDLE:
        span = (room.box.x, room.box.y), (room.box.x + room.box.width, room.box.y + room.box.height)
        fullest = room.fullest(width, height, *span, hand.at)
        if room.empty_share(fullest) <= limit:
            goal, low, high = _centre(fullest), 0.0, 1.0
            for _ in range(_BISECTIONS):
                share = (low + high) / 2
                at = (hand.at[0] + share * (goal[0] - hand.at[0]), hand.at[1] + share * (goal[1] - hand.at[1]))
                low, high = (low, share) if room.empty_share(frame(1.0, at)) <= limit else (share, high)
            return frame(1.0, (hand.at[0] + high * (goal[0] - hand.at[0]), hand.at[1] + high * (goal[1] - hand.at[1])))
        return best_frame(room, replace(wanted, ratio=width / height, keep=None, aim=None)).frame
    low, high = 0.0, 1.0
    for _ in range(_BISECTIONS):
        share = (low + high) / 2
        low, high = (share, high) if room.empty_share(frame(share)) <= limit else (low, share)
    if min(width, height) * low < 1:
        return best_frame(room, replace(wanted, ratio=width / height, keep=None, aim=None)).frame
    return frame(low)


def _one_side(room: Room, hand: Hand, width: float, height: float) -> tuple[float, float]:
    """A frame of no fixed ratio of which one edge was moved: only that side gives way."""
    u, v = hand.anchor
    wide = u != 0.5

    def fits(share: float) -> bool:
        w, h = (width * share, height) if wide else (width, height * share)
        return room.holds(Rectangle(hand.at[0] - u * w, hand.at[1] - v * h, w, h))

    low, high = 0.0, 1.0
    if fits(1.0):
        return width, height
    for _ in range(40):
        share = (low + high) / 2
        low, high = (share, high) if fits(share) else (low, share)
    return (width * low, height) if wide else (width, height * low)


def _with_ratio(room: Room, wanted: Wanted) -> Wanted:
    """A free frame's ratio: that of the largest area inside, on the way to that of the whole picture as the allowance grows."""
    inside = room.largest(None, wanted.preferred)
    if wanted.keep and not contains(inside, wanted.keep):
        # Of some ratios between the box's own and the picture's, the one with the largest frame that contains the box.
        trials = np.geomspace(wanted.keep.width / wanted.keep.height, inside.width / inside.height, 17)
        frames = [largest_containing(room, float(ratio), wanted.keep, wanted.preferred) for ratio in trials]
        inside = max((f for f in frames if f), key=lambda f: f.width * f.height, default=inside)
    a = wanted.allowance
    return replace(wanted, ratio=(inside.width / inside.height) ** (1 - a) * (room.box.width / room.box.height) ** a)


def _towards(room: Room, frame: Rectangle, keep: Rectangle, allowance: float) -> Rectangle:
    """A frame moved towards what it cannot contain, as far as it stays inside the outline; one that may be filled stays."""
    if allowance > 0:
        return frame
    return room.nearest(frame.width, frame.height, _centre(keep), _centre(frame))


def _around(room: Room, width: float, height: float, keep: Rectangle, near: Point) -> Rectangle:
    """The frame of a size that contains a box and has the smallest empty share."""
    low, high = _centres_around(width, height, keep)
    return room.fullest(width, height, low, high, near)


def _centres_around(width: float, height: float, keep: Rectangle) -> tuple[Point, Point]:
    """The least and the greatest centre of a frame of a size that contains a box."""
    middle = _centre(keep)
    slack_x, slack_y = max(0.0, (width - keep.width) / 2), max(0.0, (height - keep.height) / 2)
    return (middle[0] - slack_x, middle[1] - slack_y), (middle[0] + slack_x, middle[1] + slack_y)


def _same_area(width: float, height: float, ratio: float) -> tuple[float, float]:
    """A size of a ratio with the same area; one that has it but for the rounding to whole pixels stays, so that moving never shrinks."""
    if abs(width - height * ratio) <= max(1.0, ratio):
        return width, height
    area = width * height
    return math.sqrt(area * ratio), math.sqrt(area / ratio)


def _about(centre: Point, height: float, ratio: float) -> Rectangle:
    return Rectangle(centre[0] - height * ratio / 2, centre[1] - height / 2, height * ratio, height)


def _centre(frame: Rectangle) -> Point:
    return frame.x + frame.width / 2, frame.y + frame.height / 2


def _if_keeping(frame: Rectangle, keep: Rectangle | None) -> Rectangle | None:
    return frame if keep is None or contains(frame, keep, _KEPT_PX) else None


def _larger(one: Rectangle | None, other: Rectangle | None) -> Rectangle | None:
    return other if one is None or (other is not None and other.height > one.height) else one
