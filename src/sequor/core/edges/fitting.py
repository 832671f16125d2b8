"""Fit a roughly drawn line to the image edge under it, with sub-pixel precision.

The straight lines near the drawn one that gather gradient of one sense are found first, which
survives interruptions (branches, people, window gaps); then the sub-pixel position of the edge at
every station (`edge_strip`), and through these a robust line (`edge_line`). An edge that is too
soft to be seen so, in haze or out of focus, is looked for in smaller pictures.
"""

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import scipy

from sequor.core.camera import Matrix
from sequor.core.edges.line import robust_line
from sequor.core.edges.strip import (
    BRIGHTNESS,
    LEAST_SIGMA_PX,
    WARMTH,
    Strip,
    Weights,
    edge_near,
    gradient_across,
    strip_along,
    votes,
    width_of,
)
from sequor.core.edges.trace import TRACE_REACH_PX, follow_edge
from sequor.core.lens.distortion import Distortion, radial
from sequor.core.pixels import Pixels
from sequor.core.recipe import FittedTo, Point, Reading

REACH_PX = 10.0
"""How far from the drawn line the edge may lie, in source pixels, where nobody says how well it was
drawn."""
REACH_SIGMAS, LEAST_REACH_PX, MOST_REACH_PX = 9.0, 4.0, 160.0
"""The same in deviations with which an end was placed, about screen pixels at the zoom where it was
drawn, and at least and at most in source pixels."""
_COARSE_PX = 12.0
"""With more reach the edge is looked for in a smaller picture first, in which it reaches so far."""
_SOFTNESS = (1, 4, 12)
"""Times by which the picture is made smaller to see an edge, each where those before saw none."""
_SHARP_PX, _PROFILE_PX = 6.0, 12.0
"""An edge wider than the first, at half of its gradient, is soft: one that is as sharp as the blur
lets it has some three pixels. It is looked at so far to either side."""
_BESIDE = 1.5
"""A line lies so near to its soft edge, in pixels of the picture in which that is sharp."""
_NEAR_PX = 2.0
"""A station belongs to the edge when its peak lies within so many pixels of the line."""
_LEAST_SHARE, _LEAST_HELD = 0.25, 12
"""A line is held by at least this share of its stations, and by so many."""
_STANDS_OUT = 6.0
"""The gradient along an edge has one sense: its mean is more than so many of its own deviations. Of
all lines in reach of noise or texture the best comes to some four."""
_HAND = 0.5
"""Share of the reach that is a deviation of where a hand draws."""
_PEAK = 5
"""Lines on either side, half a step apart at each end, that one on an edge outdoes."""
_FAINT = 0.2
"""An edge less likely than the likeliest by this factor is none that was meant."""
_CANDIDATES = 5
"""Edges in reach that can be stepped to."""
_APART_PX = 2.5
"""Edges nearer to each other than this, on the mean of both ends, are the same."""
_BEND, _CHANCE_BEND = 8 / (2 * math.sqrt(2)), 2.4
"""The share of a line's bend in the deviation of its slope, and the bend, in deviations of the
slope, that chance may make."""


@dataclass(frozen=True)
class Fit:
    """A line fitted to an image edge.

    Attributes
    ----------
    points : (Point, Point)
        Its ends, beside the drawn ones, in source pixels.
    middle : Point
        Where the edge lies half-way between them, which tells its sag.
    sigma_rad : float
        Standard deviation of its angle, from the scatter of the stations.
    stations : int
        At how many stations the edge was found.
    """

    points: tuple[Point, Point]
    middle: Point
    sigma_rad: float
    stations: int


@dataclass(frozen=True)
class Expected:
    """The angle that other readings expect of a line, with its standard deviation, in radians."""

    angle_rad: float
    sigma_rad: float


def fit_edge(
    pixels: Pixels,
    drawn: tuple[Point, Point],
    distortion: Distortion | None = None,
    reach_px: float = REACH_PX,
    choice: int = 0,
    expected: Expected | None = None,
) -> Fit | None:
    """Fit a drawn line to an image edge near it that is straight in the undistorted picture.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    drawn : (Point, Point)
        Both ends in source pixels.
    distortion : Distortion, optional
        That of the lens; none by default.
    reach_px : float
        How far the edge may lie from the drawn line at any of its points.
    choice : int
        Which of the edges in reach, the likeliest first; it goes round.
    expected : Expected, optional
        What other readings say of its angle.

    Returns
    -------
    Fit or None
        None where there is no straight edge that stands out.
    """
    fits = edges_in_reach(pixels, drawn, distortion, reach_px, expected)
    return fits[choice % len(fits)] if fits else None


def edges_in_reach(
    pixels: Pixels,
    drawn: tuple[Point, Point],
    distortion: Distortion | None = None,
    reach_px: float = REACH_PX,
    expected: Expected | None = None,
) -> list[Fit]:
    """Every edge that a drawn line may be meant for, the likeliest first; see `fit_edge`."""
    distortion = distortion or Distortion(radial(0.0), (0.0, 0.0), 1.0)
    for soft in (times for times in _SOFTNESS if times == 1 or times <= reach_px / 2):
        # Most edges are steps in brightness; pale stone against a bright sky is a step from warm to
        # cool only.
        for weights in (BRIGHTNESS, WARMTH):
            found = _as_soft_as(soft, pixels, drawn, distortion, weights, reach_px, expected)
            if found:
                return found
    return []


def _as_soft_as(
    soft: int,
    pixels: Pixels,
    drawn: tuple[Point, Point],
    distortion: Distortion,
    weights: Weights,
    reach_px: float,
    expected: Expected | None,
) -> list[Fit]:
    """The edges that are seen in a picture made smaller by so much, the likeliest first."""
    coarse = soft * max(1, round(reach_px / soft / _COARSE_PX))
    strip = strip_along(drawn, distortion, reach_px, coarse)
    gradient = gradient_across(pixels, strip.places, weights, coarse) if strip else None
    if strip is None or gradient is None:
        return []
    found: list[Fit] = []
    for at_start, at_end in _likeliest(gradient, strip, reach_px, expected):
        line = strip.start + strip.normal * at_start, strip.end + strip.normal * at_end
        widest = 2 * reach_px
        fit = _refined(pixels, line, distortion, weights, coarse + 0.5 * soft, soft, widest)
        if fit and not any(_same(fit, other) for other in found):
            found.append(fit)
    return found


def reach_of(reading: Reading) -> float:
    """How far from a drawn reading its edge may lie, in source pixels."""
    return min(max(LEAST_REACH_PX, REACH_SIGMAS * reading.sigma_px), MOST_REACH_PX)


def _same(one: Fit, other: Fit) -> bool:
    apart = [math.dist(a, b) for a, b in zip(one.points, other.points, strict=True)]
    return sum(apart) / 2 < _APART_PX


def _likeliest(
    gradient: Matrix, strip: Strip, reach_px: float, expected: Expected | None
) -> list[tuple[float, float]]:
    """Lines that gather clearly more gradient of one sense than those around, by their offsets at
    the start and at the end; the likeliest first, and well apart.
    """
    lines = votes(gradient, strip.where, strip.across, reach_px)
    at_start, at_end, strength = lines.at_start, lines.at_end, np.abs(lines.gathered)
    # Nearer ones preferred, and those that run as drawn, or as others expect.
    likely = strength * np.exp(-(at_start**2 + at_end**2) / (2 * (_HAND * reach_px) ** 2))
    if expected is not None:
        turned = np.arctan2(at_end - at_start, strip.length)
        drawn = math.atan2(*(strip.end - strip.start)[::-1])
        off = drawn + turned - expected.angle_rad
        off = off - math.pi * np.round(off / math.pi)
        likely = likely * np.exp(-0.5 * np.minimum((off / expected.sigma_rad) ** 2, 9.0))
    found: list[tuple[float, float]] = []
    # Only lines that gather more than their neighbours lie on an edge.
    side = round(math.sqrt(len(strength)))
    most = scipy.ndimage.maximum_filter(strength.reshape(side, side), _PEAK, mode="nearest").ravel()
    likely = np.where((lines.sure > _STANDS_OUT) & (strength >= most), likely, 0.0)
    for place in np.argsort(-likely):
        if not likely[place] > _FAINT * likely.max():
            break
        one = float(at_start[place]), float(at_end[place])
        near = _APART_PX * max(strip.coarse, 1.5)
        if all(abs(one[0] - a) + abs(one[1] - b) > 2 * near for a, b in found):
            found.append(one)
            if len(found) == _CANDIDATES:
                break
    return found


def _refined(
    pixels: Pixels,
    line: tuple[Matrix, Matrix],
    distortion: Distortion,
    weights: Weights,
    beside_px: float,
    soft: int,
    widest_px: float,
) -> Fit | None:
    """The edge that lies so near to a line of the undistorted picture; a soft one as it is seen in
    a picture so small that it is sharp there. What is wider than ``widest_px`` is no edge.
    """
    strip = strip_along(line, distortion, _PROFILE_PX * soft, soft, undistorted=True)
    gradient = gradient_across(pixels, strip.places, weights, soft) if strip else None
    if strip is None or gradient is None:
        return None
    found = _line_through(gradient, strip, beside_px)
    if found is None:
        return None
    if found.width_px > _SHARP_PX:
        if found.width_px * soft > widest_px:
            return None
        softer = soft * math.ceil(found.width_px / _SHARP_PX)
        beside = max(beside_px, _BESIDE * softer)
        return _refined(pixels, line, distortion, weights, beside, softer, widest_px)
    start, end, normal = strip.start, strip.end, strip.normal
    points = np.array(
        [
            start + normal * (found.offset - found.slope),
            (start + end) / 2 + normal * (found.offset + found.sag),
            end + normal * (found.offset + found.slope),
        ]
    )
    height, width = pixels.shape[:2]
    first, middle, last = (
        _point(point) for point in np.clip(distortion.distorted(points), 0, [width, height])
    )
    at_ends = math.hypot(2 * found.slope_sigma, math.sqrt(2) * soft * LEAST_SIGMA_PX[weights])
    return Fit(
        points=(first, last),
        middle=middle,
        sigma_rad=math.atan(at_ends / strip.length),
        stations=found.stations,
    )


class _Line(NamedTuple):
    """A straight edge in a strip: its offset in the middle, its slope and sag, the deviation of the
    slope, how many stations hold, and how wide it is in pixels of the strip.
    """

    offset: float
    slope: float
    slope_sigma: float
    sag: float
    stations: int
    width_px: float


def _line_through(gradient: Matrix, strip: Strip, beside_px: float) -> _Line | None:
    """The straight edge in a strip of gradients, so near to its middle."""
    where, across, pixel = strip.where, strip.across, strip.coarse
    lines = votes(gradient, where, across, beside_px)
    middle, tilt, sense = lines.line(int(np.argmax(np.abs(lines.gathered))))
    along = middle + tilt * where
    positions, strengths = edge_near(gradient * sense, across, along, _NEAR_PX * pixel)
    found = np.isfinite(positions) & (strengths > 0)
    if found.sum() < _LEAST_HELD:
        return None
    fitted_line = robust_line(where[found], positions[found], strengths[found])
    if fitted_line is None:
        return None
    (offset, slope), slope_sigma, kept = fitted_line
    strayed = abs(offset) + abs(slope) > 2 * beside_px + _NEAR_PX * pixel
    if strayed or kept.sum() < max(_LEAST_HELD, _LEAST_SHARE * len(where)):
        return None
    # Half-way between the ends of a parabola its height over the chord is minus the square's
    # coefficient.
    sag = -float(np.polyfit(where[found][kept], positions[found][kept], 2)[0])
    # What bends more than its scatter explains is not quite straight, and goes on so: two halves of
    # a parabola with a sag s differ by 8 s over their length.
    bend = math.sqrt(max(0.0, sag**2 - (_CHANCE_BEND * slope_sigma) ** 2))
    width = width_of(gradient * sense, across, offset + slope * where) / pixel
    sigma = math.hypot(slope_sigma, _BEND * bend)
    return _Line(offset, slope, sigma, sag, int(kept.sum()), width)


def fitted(
    reading: Reading,
    pixels: Pixels,
    distortion: Distortion | None = None,
    expected: Expected | None = None,
) -> Reading | None:
    """The reading fitted to the image edge under it as it was drawn, or None where there is no
    edge; a trace follows the edge. ``expected`` as in `fit_edge`.
    """
    drawn = reading.fitted.drawn if reading.fitted else reading.points
    choice = reading.fitted.choice if reading.fitted else 0
    if reading.by_points:
        followed = follow_edge(pixels, drawn, min(reach_of(reading), TRACE_REACH_PX))
        if followed is None:
            return None
        points, sigma_px, stations = followed
        slope = (
            math.sqrt(12 / len(points))
            * sigma_px
            / math.hypot(points[-1][0] - points[0][0], points[-1][1] - points[0][1])
        )
        facts = FittedTo(drawn=drawn, sigma_deg=math.degrees(slope), stations=stations)
        return reading.model_copy(update={"points": points, "sigma_px": sigma_px, "fitted": facts})
    ends = drawn[0], drawn[-1]
    fit = fit_edge(pixels, ends, distortion, reach_of(reading), choice, expected)
    if fit is None:
        return None
    facts = FittedTo(
        drawn=drawn,
        sigma_deg=math.degrees(fit.sigma_rad),
        stations=fit.stations,
        middle=fit.middle,
        choice=choice,
    )
    return reading.model_copy(update={"points": fit.points, "fitted": facts})


def _point(array: Matrix) -> Point:
    return (float(array[0]), float(array[1]))
