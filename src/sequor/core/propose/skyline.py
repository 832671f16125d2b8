"""Eye level over open water or a far plain: one straight boundary over the whole width.

Its pieces between boats and islands may all be short.

Every line from side to side is asked how much of it is a step of one sense, however faint; strong
steps count no more than faint ones, so that a boat does not outvote the water. The sky above is
smoother than what is below.
"""

import math
from dataclasses import dataclass
from typing import Any, NamedTuple

import cv2
import numba as nb
import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.edges.line import robust_line
from sequor.core.lens.distortion import Distortion
from sequor.core.propose.small import Small

_WIDE = 320
"""Pixels across in which is looked: a horizon is wider than anything else."""
_MOST_DEG, _STEP_DEG = 16.0, 0.25
"""Tilts that are tried, and the step to the next (set by hand): at an end of the line it is
less than one of those pixels."""
_BLURS = (1.0, 2.5)
"""Standard deviations in those pixels, for sharp horizons and for hazy ones."""
_COHERENT = 0.38
"""At least so much of the line is a step of one sense, 1 if all of it is: the best line of noise,
foliage or a ridge comes to some 0.25 (tried on generated ones and on open photographs)."""
_AS_MUCH, _STRONG = 0.85, 99.0
"""Share of the most, and the percentile of all steps that is a strong one."""
_CLEARLY = 0.8
"""So much is hardly anything else."""
_SMOOTHER, _CLEARLY_SMOOTHER = 0.75, 1.25
"""The sky's texture against that below, at most; the second for what is clear anyway: what is noise
in haze is the same above and below."""
_CALM = 0.25
"""Less texture than this, in grey levels, is none, whatever there is below."""
_NEAR = 9.0
"""So far from the line, in those pixels, the step is looked for again: islands on one side draw it
up."""
_FINE = (1.2, 4.0, 10.0)
"""Blurs of the small picture in which it is looked for, until it is found in a share of its
columns."""
_ENOUGH = 0.5
"""That share (set by hand; no trial is recorded)."""
_TRIED, _COUNTED = 60, 300
"""Columns that lines are drawn through, and columns that are counted."""
_FEWEST = 60
"""Columns that hold a horizon, at least."""
_LEAST_PX = 0.15
"""However alike the columns are, each end is no truer than this, in source pixels."""
_BAND = 0.16
"""Share of the height that is looked at on either side."""
_PARTS = 24
"""Parts of the width whose usual strength counts."""
_CLEAR, _GRAIN = 6.0, 1.5
"""What is below a line begins so many pixels from it, beyond its own blur; and is blurred by so
much, so that the sensor's noise, which has no direction, does not count."""


Masked = np.ma.MaskedArray[Any, np.dtype[np.float64]]
"""A strip of a picture, masked where it lies outside."""


@dataclass(frozen=True)
class Skyline:
    """A line from one side of the picture to the other.

    Attributes
    ----------
    ends, straight : ndarray, shape (2, 2)
        Its ends in source pixels as shot, and as they lie in the undistorted picture.
    sigma_rad : float
        Standard deviation of its direction.
    stations : int
        At how many columns it was found.
    coherent, held : float
        How much of it is a step of one sense, and at what share of the columns it was found.
    near_px : float
        How far from it, in source pixels, it was looked for.
    glancing : float
        How many times steeper the light changes across it than along it, squared, in what lies
        below: more than 1 where that is seen at a glancing angle, as water or a plain are and the
        wall below a ceiling or a slope that faces the camera are not.
    coarser : float
        How many times stronger what lies below is some way down than close to it: more than 1 where
        it comes nearer, as the ground does and a wall of bricks does not.
    """

    ends: Matrix
    straight: Matrix
    sigma_rad: float
    stations: int
    coherent: float
    held: float
    near_px: float
    glancing: float
    coarser: float


class _Coarse(NamedTuple):
    """A line across the picture: its heights at both sides and its sense, in pixels that are
    ``times`` those of the small picture, and the blur in which it is seen best."""

    coherent: float
    rows: Matrix
    sense: float
    blur: float
    times: float


def skyline_of(small: Small, distortion: Distortion) -> Skyline | None:
    """The likeliest horizon, or None where there is none."""
    coarse = _looked_for(small)
    return _refined(small, coarse, distortion) if coarse else None


def _looked_for(small: Small) -> _Coarse | None:
    """The line from side to side that is most of one sense."""
    height, width = small.grey.shape
    times = width / _WIDE
    if times < 0.5 or height / times < 24:
        return None
    size = (_WIDE, max(1, round(height / times)))
    grey = cv2.resize(small.grey, size, interpolation=cv2.INTER_AREA).astype(np.float32)
    slopes = np.tan(np.radians(np.arange(-_MOST_DEG, _MOST_DEG + 0.01, _STEP_DEG)))
    best: _Coarse | None = None
    for blur in _BLURS:
        step = cv2.GaussianBlur(cv2.Sobel(grey, cv2.CV_32F, 0, 1) / 8, (0, 0), blur)
        faint = 1.5 * float(np.median(np.abs(step))) + 0.1
        sense = np.zeros((len(slopes), size[1]))
        _gather(step / (np.abs(step) + faint), slopes, sense)
        # In haze all that is below the horizon grows darker: of lines that are as much of one sense
        # the one with the strongest step counts.
        strong = np.zeros_like(sense)
        most = float(np.percentile(np.abs(step), _STRONG)) + 0.1
        _gather(step / (np.abs(step) + most), slopes, strong)
        strong[np.abs(sense) < _AS_MUCH * np.abs(sense).max()] = 0.0
        slope, row = divmod(int(np.argmax(np.abs(strong))), size[1])
        found = float(sense[slope, row])
        if best is None or abs(found) > best.coherent:
            rows = row + 0.5 + slopes[slope] * _WIDE / 2 * np.array([-1.0, 1.0])
            best = _Coarse(abs(found), rows, float(np.sign(found)), blur, times)
    if best is None or best.coherent < _COHERENT:
        return None
    smoother = _SMOOTHER if best.coherent < _CLEARLY else _CLEARLY_SMOOTHER
    return best if _sky_above(grey, best.rows, smoother) else None


def _refined(small: Small, coarse: _Coarse, distortion: Distortion) -> Skyline | None:
    """Where the step lies in every column of the small picture, and the line through that."""
    width = small.grey.shape[1]
    found: tuple[int, Matrix, Matrix, float] | None = None
    for blur in _FINE:
        straight, strength = _steps(small, coarse, distortion, blur)
        held = _most_on_a_line(straight, max(1.0, 0.5 * blur) * small.times)
        if found is None or held.sum() > found[0]:
            found = (int(held.sum()), straight[held], strength[held], blur)
        if held.sum() > _ENOUGH * width:
            break
    if found is None or found[0] < _FEWEST:
        return None
    count, straight, strength, blur = found
    first, last = straight[[0, -1], 0]
    where = 2 * (straight[:, 0] - first) / max(last - first, 1e-9) - 1
    fit = robust_line(where, straight[:, 1], strength)
    if fit is None:
        return None
    (offset, slope), slope_sigma, kept = fit
    # A blurred step is seen alike in as many columns as the blur is wide.
    slope_sigma *= math.sqrt(max(1.0, 2 * blur))
    slope_sigma = max(slope_sigma, _by_thirds(where[kept], straight[kept, 1]))
    ends = np.array([[first, offset - slope], [last, offset + slope]])
    glancing, coarser = _below(small, distortion.distorted(ends) / small.times)
    return Skyline(
        ends=distortion.distorted(ends),
        straight=ends,
        sigma_rad=math.atan2(2 * math.hypot(slope_sigma, _LEAST_PX), last - first),
        stations=int(kept.sum()),
        coherent=coarse.coherent,
        held=count / width,
        near_px=_NEAR * coarse.times * small.times,
        glancing=glancing,
        coarser=coarser,
    )


def _by_thirds(where: Matrix, heights: Matrix) -> float:
    """The deviation of a slope by those of three parts of the line: one that is bowed, or made of
    two, is as unsure as they differ.
    """
    parts = np.array_split(np.argsort(where), 3)
    slopes = [np.polyfit(where[part], heights[part], 1)[0] for part in parts]
    return float(np.std(slopes, ddof=1)) / math.sqrt(3)


def _below(small: Small, ends: Matrix) -> tuple[float, float]:
    """How many times steeper the light changes across a line than along it, squared, below it; and
    how many times stronger it does some way down than close to it.

    What lies on the ground is foreshortened at right angles to the horizon, by one over the sine of
    the angle at which it is seen (Gårding, "Shape from texture for smooth curved surfaces",
    *Journal of Mathematical Imaging and Vision*, 1992), and grows coarser towards the camera; what
    faces the camera is alike all over.
    """
    across, along = _changes(small, ends)
    if across.count() < across.size / 2:
        return 0.0, 0.0  # too near to the border to tell
    reach = len(across)
    close, down = (
        _usual((across + along)[rows]) for rows in (slice(0, reach // 4), slice(reach // 2, reach))
    )
    glancing = np.ma.mean(across) / max(np.ma.mean(along), 1e-9)
    return float(glancing), math.sqrt(down / max(close, 1e-9))


def _changes(small: Small, ends: Matrix) -> tuple[Masked, Masked]:
    """How steeply the light changes across a line and along it, squared, in a strip below it, whose
    rows run along the line.
    """
    width = small.grey.shape[1]
    reach = max(8, round(_BAND * small.grey.shape[0]))
    (ax, ay), (bx, by) = ends
    tilt = math.atan2(by - ay, bx - ax)
    cos, sin = math.cos(tilt), math.sin(tilt)
    start = np.array([(ax + bx) / 2, (ay + by) / 2]) - [cos * width / 2, sin * width / 2]
    start += _CLEAR * np.array([-sin, cos])
    turn = np.array([[cos, -sin, start[0]], [sin, cos, start[1]]])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    grey = cv2.GaussianBlur(small.grey.astype(np.float32), (0, 0), _GRAIN)
    strip = cv2.warpAffine(grey, turn, (width, reach), flags=flags)
    inside = cv2.warpAffine(np.ones_like(grey), turn, (width, reach), flags=flags)
    outside = cv2.dilate((inside < 0.999).astype(np.uint8), np.ones((5, 5))) > 0
    across, along = (
        np.ma.array(cv2.Sobel(strip, cv2.CV_32F, *order).astype(float) ** 2, mask=outside)
        for order in ((0, 1), (1, 0))
    )
    return across, along


def _usual(squares: Masked) -> float:
    """The median over parts of a strip: what stands in a few of them does not count."""
    means = [np.ma.mean(part) for part in np.array_split(squares, _PARTS, axis=1)]
    found = [float(mean) for mean in means if mean is not np.ma.masked]
    return float(np.median(found)) if found else 0.0


def _steps(
    small: Small, coarse: _Coarse, distortion: Distortion, blur: float
) -> tuple[Matrix, Matrix]:
    """Where the largest step near a coarse line lies in each column, in source pixels of the
    undistorted picture, shape (N, 2), and how large it is.
    """
    height, width = small.grey.shape
    grey = small.grey.astype(np.float32)
    step = coarse.sense * cv2.GaussianBlur(cv2.Sobel(grey, cv2.CV_32F, 0, 1), (0, 0), blur)
    reach = max(4, round(_NEAR * coarse.times))
    columns = np.arange(width)
    line = np.linspace(coarse.rows[0], coarse.rows[1], width) * coarse.times
    rows = np.round(line - 0.5).astype(int)[:, None] + np.arange(-reach, reach + 1)
    inside = (rows >= 1) & (rows < height - 1)
    strength = np.where(inside, step[np.clip(rows, 0, height - 1), columns[:, None]], 0.0)
    peak = np.argmax(strength, axis=1)
    found = (peak > 0) & (peak < 2 * reach) & (strength[columns, peak] > 0)
    columns, peak = columns[found], peak[found]
    before, at, after = (strength[columns, peak + by] for by in (-1, 0, 1))
    beside = 0.5 * (before - after) / np.minimum(before - 2 * at + after, -1e-6)
    places = np.column_stack([columns + 0.5, rows[columns, peak] + 0.5 + np.clip(beside, -1, 1)])
    straight: Matrix = distortion.undistorted(places * small.times)
    return straight, at


def _most_on_a_line(points: Matrix, beside: float) -> NDArray[np.bool_]:
    """Which points lie beside the line that has most of them: an island's top is no line."""
    if len(points) < _FEWEST:
        return np.zeros(len(points), dtype=bool)
    some = points[np.linspace(0, len(points) - 1, _TRIED).astype(int)]
    one, other = np.triu_indices(_TRIED, _TRIED // 5)
    slope = (some[other, 1] - some[one, 1]) / (some[other, 0] - some[one, 0])
    height = some[one, 1] - slope * some[one, 0]
    few = points[:: max(1, len(points) // _COUNTED)]
    off = np.abs(few[:, 1] - height[:, None] - slope[:, None] * few[:, 0])
    best = int(np.argmax((off < beside).sum(axis=1)))
    held: NDArray[np.bool_] = (
        np.abs(points[:, 1] - height[best] - slope[best] * points[:, 0]) < 2 * beside
    )
    return held


def _sky_above(grey: NDArray[np.float32], rows: Matrix, smoother: float) -> bool:
    """Whether what lies above a line is smoother than what lies below it."""
    band = max(4, round(_BAND * len(grey)))
    texture = np.abs(cv2.Laplacian(grey, cv2.CV_32F))
    at = np.linspace(rows[0], rows[1], grey.shape[1])
    y = np.arange(len(grey))[:, None] + 0.5
    above = texture[(y < at - 2) & (y > at - 2 - band)]
    below = texture[(y > at + 2) & (y < at + 2 + band)]
    if not len(above) or not len(below):
        return False
    return float(above.mean()) <= smoother * float(below.mean()) + _CALM


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _gather(step: Any, slopes: Any, sense: Any) -> None:
    """Fill in the mean along the lines of every slope and height at the middle."""
    height, width = step.shape
    for s in range(len(slopes)):
        for row in range(height):
            reach = slopes[s] * width / 2
            if row - abs(reach) < 2 or row + abs(reach) > height - 3:
                continue
            total = 0.0
            for x in range(width):
                y = row + slopes[s] * (x + 0.5 - width / 2)
                low = math.floor(y)
                share = y - low
                total += step[low, x] * (1 - share) + step[low + 1, x] * share
            sense[s, row] = total / width
