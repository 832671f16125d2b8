"""Curved edges of a picture whose lens is not known: pieces of straight things that the lens bends.

Segments that follow each other with a slight turn are strung together; the lens that makes most of
such strings straight is that of the picture, if it does so clearly (Devernay & Faugeras, "Straight
lines have to be straight", Machine Vision and Applications 13, 2001).
"""

import math

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.edges.fitting import fitted
from sequor.core.errors import UnusableInput
from sequor.core.lens.distortion import Distortion, sag_px
from sequor.core.lens.plumb_line import ACROSS, DOWN, K1, P1, P2, Traced, from_traces
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.propose.pencil import drawn
from sequor.core.propose.segments import Segments
from sequor.core.recipe import Reading

_TURN_RAD = math.radians(5.0)
"""The next piece turns by no more (set by hand; no trial is recorded)."""
_ASIDE, _GAP = 2.5, 0.35
"""The next piece begins so near to where the last one points, in pixels of the small picture, and
leaves a gap no longer than this share of both together."""
_LEAST_SHARE = 0.22
"""Of the picture's longer side: a shorter string hardly bends."""
_MOST, _FEWEST = 8, 4
"""Strings that are looked at, and that must agree."""
_BENT_PX = 1.2
"""Sag in pixels of the small picture, as the median of all strings: less is not worth finding."""
_ODD = 2
"""So many strings may be bent in reality."""
_STRAIGHTER = 0.4
"""The lens leaves no more than this share of their sag."""
_HAND_PX = 2.0
"""Deviation of the points along a string, in source pixels."""
_SURE = 5.0
"""Deviations that its first coefficient is from none, at least."""
_BROKEN_PX, _FEW = 2.0, 0.05
"""A straight segment would not have been found in one piece where the lens bends it by more, in
pixels of the small picture; at most this share of the length of all segments is of that kind."""


def traces_of(
    pixels: Pixels, photo: PhotoFacts, segments: Segments, times: float
) -> tuple[Reading, ...]:
    """Traces along edges that a lens bends; none where no lens does it clearly."""
    size = PhotoFacts(width=photo.width, height=photo.height)
    strings = _strings(segments, times, _LEAST_SHARE * max(photo.width, photo.height))
    sags = [sag_px(string) for string in strings]
    if len(strings) < _FEWEST or float(np.median(sags)) < _BENT_PX / 2 * times:
        return ()
    # A dozen points along each are enough to begin with.
    some = [s[np.unique(np.linspace(0, len(s) - 1, 12).astype(int))] for s in strings]
    followed = [fitted(drawn("trace", points, _HAND_PX), pixels) for points in some]
    traces = tuple(reading for reading in followed if reading is not None)
    for _ in range(_ODD + 1):
        if len(traces) < _FEWEST:
            break
        before = np.array([sag_px(np.array(reading.points)) for reading in traces])
        try:
            found = from_traces(size, traces)
        except UnusableInput:
            return ()
        lens = found.distortion(size)
        after = np.array([sag_px(lens.undistorted(np.array(r.points))) for r in traces])
        worst = int(np.argmax(after))
        if after[worst] > 3 * max(float(np.median(after)), 0.5 * times):
            # Something that is bent in reality.
            traces = (*traces[:worst], *traces[worst + 1 :])
            continue
        bent = float(np.median(before)) > _BENT_PX * times
        straighter = float(np.median(after)) < _STRAIGHTER * float(np.median(before))
        told = bent and straighter and _clearly_a_lens(found)
        return traces if told and _leaves_straight(lens, segments, times) else ()
    return ()


def _clearly_a_lens(found: Traced) -> bool:
    """Whether what was found is a bow about the middle of the picture, and no other bend.

    Lenses are off their centre by a hair; edges that are bent in reality want anything.
    """
    beside = any(found.values[name] for name in (P1, P2, ACROSS, DOWN))
    known = K1 in found.sigma and not beside
    return known and abs(found.k1) > _SURE * found.sigma[K1]


def _leaves_straight(lens: Distortion, segments: Segments, times: float) -> bool:
    """Whether segments that are straight as shot may be pieces of what the lens bends."""
    ends, shares = segments.seen, np.linspace(0, 1, 5)[None, :, None]
    points = ends[:, :1] * (1 - shares) + ends[:, 1:] * shares
    straightened = lens.undistorted(points.reshape(-1, 2)).reshape(points.shape)
    sags = np.array([sag_px(line) for line in straightened])
    lengths = np.hypot(*(ends[:, 1] - ends[:, 0]).T)
    broken = lengths[~(sags < _BROKEN_PX * times)].sum()
    return bool(broken <= _FEW * lengths.sum())


def _strings(segments: Segments, times: float, least_px: float) -> list[Matrix]:
    """Points along strings of segments, in source pixels as shot; the longest strings first."""
    waiting = list(range(segments.count))
    found = []
    while waiting:
        first = waiting.pop(0)
        string = [segments.seen[first]]
        for end in (1, 0):
            while True:
                place = _next(segments, waiting, string, end, _ASIDE * times)
                if place is None:
                    break
                piece = segments.seen[waiting.pop(place)]
                string.insert(len(string) if end else 0, _alike(piece, string[-1 if end else 0]))
        points = np.array(string).reshape(-1, 2)
        if len(string) > 1 and math.dist(points[0], points[-1]) >= least_px:
            found.append(points)
    return sorted(found, key=lambda points: -math.dist(points[0], points[-1]))[:_MOST]


def _next(
    segments: Segments, waiting: list[int], string: list[Matrix], end: int, aside: float
) -> int | None:
    """Which of the waiting segments goes on where a string ends, or begins."""
    if not waiting:
        return None
    last = string[-1] if end else string[0][::-1]
    along = (last[1] - last[0]) / math.dist(*last)
    ends = segments.seen[waiting] - last[1]
    ahead = ends @ along
    beside = ends @ np.array([-along[1], along[0]])
    near, far = np.sort(ahead, axis=1).T
    rows = np.arange(len(waiting))
    starts = np.argmin(ahead, axis=1)
    turn = np.abs(
        np.arctan2(
            beside[rows, 1 - starts] - beside[rows, starts],
            ahead[rows, 1 - starts] - ahead[rows, starts],
        )
    )
    length = far - near
    gap = np.maximum(near, 0)
    fits: NDArray[np.bool_] = (
        (turn < _TURN_RAD)
        & (np.abs(beside[rows, starts]) < aside + gap * math.tan(_TURN_RAD) / 2)
        & (near > -0.2 * length)
        & (gap < _GAP * (length + math.dist(*last)))
    )
    if not fits.any():
        return None
    return int(np.argmin(np.where(fits, gap + np.abs(beside[rows, starts]), np.inf)))


def _alike(piece: Matrix, neighbour: Matrix) -> Matrix:
    """A piece that runs the same way as its neighbour."""
    same = float((piece[1] - piece[0]) @ (neighbour[1] - neighbour[0])) > 0
    return piece if same else piece[::-1]
