"""Fit a roughly drawn line to the image edge under it, with sub-pixel precision.

The brightness is sampled across the line at many stations. The straight line that
gathers the most gradient of one sense near the drawn one is found first, which
survives interruptions (branches, people, window gaps); then the sub-pixel
position of the edge at every station, and through these a robust line. The method of
sampling normals is that of active contours (Blake & Isard, *Active Contours*,
1998, chapter 5); the robust weights are Tukey's.
"""

import math
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, map_coordinates, maximum_filter

from sequor.core.camera import Matrix
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
_STEP_PX = 0.5
"""Source pixels between samples across the line: two a pixel, so that nothing falls between."""
_SPACING_PX = 2.0
"""Source pixels between stations along the line: nearer ones would share their pixels."""
_MIN_STATIONS, _MAX_STATIONS = 24, 800
"""Stations on a line: fewer do not tell an edge from noise; the second bounds the time."""
_BLUR_PX = 1.0
"""Standard deviation of the blur of gradients in source pixels: about the width of a sharp edge."""
_NEAR_PX = 2.0
"""A station belongs to the edge when its peak lies within so many source pixels of the line."""
_TRACE_POINTS = 16
"""Points that a followed trace is kept with: enough for any distortion, few to store."""
_LEAST_SHARE, _LEAST_HELD = 0.25, 12
"""A line is held by at least this share of its stations, and by so many."""
_MIN_SHARE = 0.5
"""A trace that shows along less than half of the line says too little of its bend."""
_MIN_CONTRAST = 4.0
"""A trace must stand out from the gradients around by more than so many of their deviations."""
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
_TUKEY = 4.685
"""Tukey's biweight in units of the scatter, for 95 % efficiency on normal errors (textbook)."""
_BLOCKS = 8
"""Parts of a line whose means tell how far it is not straight."""
_MODEL = 1.0
"""How much larger the angle's deviation is than the line's own scatter tells: wood, stone and water
wander slower than a line is long. From the two halves of edges on open photographs (docs/
accuracy.md)."""
_BEND, _CHANCE_BEND = 8 / (2 * math.sqrt(2)), 2.4
"""The share of a line's bend in the deviation of its slope, and the bend, in deviations of the
slope, that chance may make."""
_BRIGHTNESS, _WARMTH = (1 / 3, 1 / 3, 1 / 3), (0.5, 0.0, -0.5)
"""Weights of red, green and blue."""
_LEAST_SIGMA_PX = {_BRIGHTNESS: 0.1, _WARMTH: 0.25}
"""However alike the stations are, each end of a fitted line is no truer than this in pixels: pixels
sample the edge, and it is never quite straight. Colours are often stored at half the resolution."""


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
    coarse = max(1, round(reach_px / _COARSE_PX))
    strip = _strip_along(drawn, distortion, reach_px, coarse)
    if strip is None:
        return []
    found: list[tuple[float, Fit]] = []
    # Most edges are steps in brightness; pale stone against a bright sky is a step from warm to
    # cool only.
    for weights in (_BRIGHTNESS, _WARMTH):
        gradient = _gradient_across(pixels, strip.places, weights, coarse)
        if gradient is None:
            continue
        for score, at_start, at_end in _likeliest(gradient, strip, reach_px, coarse, expected):
            line = strip.start + strip.normal * at_start, strip.end + strip.normal * at_end
            fit = _refined(pixels, line, distortion, weights, coarse + 0.5)
            if fit and not any(_same(fit, other) for _, other in found):
                found.append((score, fit))
        if found:
            break
    return [fit for _, fit in sorted(found, key=lambda one: -one[0])[:_CANDIDATES]]


def reach_of(reading: Reading) -> float:
    """How far from a drawn reading its edge may lie, in source pixels."""
    return min(max(LEAST_REACH_PX, REACH_SIGMAS * reading.sigma_px), MOST_REACH_PX)


def _same(one: Fit, other: Fit) -> bool:
    apart = [math.dist(a, b) for a, b in zip(one.points, other.points, strict=True)]
    return sum(apart) / 2 < _APART_PX


class _Strip(NamedTuple):
    """A strip along a drawn line in the undistorted picture.

    ``where`` says where its stations are along the line, from -1 at the start to 1 at the end,
    ``across`` how far from it brightness is sampled, ``places`` both in source pixels, shape
    (stations, samples, 2).
    """

    start: Matrix
    end: Matrix
    normal: Matrix
    length: float
    where: Matrix
    across: Matrix
    places: Matrix


def _strip_along(
    drawn: tuple[Point, Point] | tuple[Matrix, Matrix],
    distortion: Distortion,
    reach_px: float,
    coarse: int = 1,
    undistorted: bool = False,
) -> _Strip | None:
    """The strip along a line; None for one that is too short or leaves the lens's field.

    With stations and samples ``coarse`` times as far apart; the line may be given as it lies in the
    ``undistorted`` picture.
    """
    # The line lives in the undistorted picture; only the pixels are looked up where the lens has
    # put them.
    ends = np.array(drawn)
    start, end = ends if undistorted else distortion.undistorted(ends)
    length = float(np.hypot(*(end - start)))
    if length < 2 * _SPACING_PX:
        return None
    tangent = (end - start) / length
    normal = np.array([-tangent[1], tangent[0]])
    count = int(np.clip(length / _SPACING_PX / coarse, _MIN_STATIONS, _MAX_STATIONS))
    along = (np.arange(count) + 0.5) / count * length
    step = _STEP_PX * coarse
    margin = reach_px + 4 * coarse
    across = np.arange(-margin, margin + step / 2, step)
    places = start + along[:, None, None] * tangent + across[None, :, None] * normal
    places = distortion.distorted(places.reshape(-1, 2)).reshape(places.shape)
    if not np.isfinite(places).all():
        return None
    return _Strip(start, end, normal, length, 2 * along / length - 1, across, places)


def _likeliest(
    gradient: Matrix, strip: _Strip, reach_px: float, coarse: int, expected: Expected | None
) -> list[tuple[float, float, float]]:
    """Lines that gather clearly more gradient of one sense than those around: a score, and their
    offsets at the start and at the end; the likeliest first, and well apart.
    """
    step = _STEP_PX * coarse
    at_start, at_end, votes, sure = _votes(gradient, strip.where, strip.across, reach_px, step)
    strength = np.abs(votes)
    # Nearer ones preferred, and those that run as drawn, or as others expect.
    likely = strength * np.exp(-(at_start**2 + at_end**2) / (2 * (_HAND * reach_px) ** 2))
    if expected is not None:
        turned = np.arctan2(at_end - at_start, strip.length)
        drawn = math.atan2(*(strip.end - strip.start)[::-1])
        off = drawn + turned - expected.angle_rad
        off = off - math.pi * np.round(off / math.pi)
        likely = likely * np.exp(-0.5 * np.minimum((off / expected.sigma_rad) ** 2, 4.0) / 2)
    found: list[tuple[float, float, float]] = []
    # Only lines that gather more than their neighbours lie on an edge.
    side = round(math.sqrt(len(strength)))
    most = maximum_filter(strength.reshape(side, side), _PEAK, mode="nearest").ravel()
    likely = np.where((sure > _STANDS_OUT) & (strength >= most), likely, 0.0)
    for place in np.argsort(-likely):
        if not likely[place] > _FAINT * likely.max():
            break
        one = float(at_start[place]), float(at_end[place])
        near = _APART_PX * max(coarse, 1.5)
        if all(abs(one[0] - a) + abs(one[1] - b) > 2 * near for _, a, b in found):
            found.append((float(likely[place]), *one))
            if len(found) == _CANDIDATES:
                break
    return found


def _refined(
    pixels: Pixels,
    line: tuple[Matrix, Matrix],
    distortion: Distortion,
    weights: tuple[float, float, float],
    reach_px: float,
) -> Fit | None:
    """The edge along a line of the undistorted picture that it lies on nearly."""
    strip = _strip_along(line, distortion, reach_px, undistorted=True)
    gradient = _gradient_across(pixels, strip.places, weights) if strip else None
    if strip is None or gradient is None:
        return None
    found = _line_through(gradient, strip, reach_px)
    if found is None:
        return None
    offset, slope, slope_sigma, sag, stations = found
    start, end, normal = strip.start, strip.end, strip.normal
    points = np.array(
        [
            start + normal * (offset - slope),
            (start + end) / 2 + normal * (offset + sag),
            end + normal * (offset + slope),
        ]
    )
    height, width = pixels.shape[:2]
    first, middle, last = (
        _point(point) for point in np.clip(distortion.distorted(points), 0, [width, height])
    )
    at_ends = math.hypot(2 * slope_sigma, math.sqrt(2) * _LEAST_SIGMA_PX[weights])
    return Fit(
        points=(first, last),
        middle=middle,
        sigma_rad=math.atan(at_ends / strip.length),
        stations=stations,
    )


def _line_through(
    gradient: Matrix, strip: _Strip, reach_px: float
) -> tuple[float, float, float, float, int] | None:
    """Offset and slope of the straight edge in a strip of gradients, the deviation of the slope,
    its sag, and how many stations hold.
    """
    where, across = strip.where, strip.across
    at_start, at_end, votes, _ = _votes(gradient, where, across, reach_px, _STEP_PX)
    best = int(np.argmax(np.abs(votes)))
    sense = float(np.sign(votes[best])) or 1.0
    line = (at_start[best] + at_end[best]) / 2, (at_end[best] - at_start[best]) / 2
    positions, strengths = _edge_near(gradient * sense, across, line[0] + line[1] * where, _NEAR_PX)
    found = np.isfinite(positions) & (strengths > 0)
    if found.sum() < _LEAST_HELD:
        return None
    fitted_line = _robust_line(where[found], positions[found], strengths[found])
    if fitted_line is None:
        return None
    (offset, slope), slope_sigma, kept = fitted_line
    if kept.sum() < max(_LEAST_HELD, _LEAST_SHARE * len(where)):
        return None
    # Half-way between the ends of a parabola its height over the chord is minus the square's
    # coefficient.
    sag = -float(np.polyfit(where[found][kept], positions[found][kept], 2)[0])
    # What bends more than its scatter explains is not quite straight, and goes on so: two halves of
    # a parabola with a sag s differ by 8 s over their length.
    bend = math.sqrt(max(0.0, sag**2 - (_CHANCE_BEND * slope_sigma) ** 2))
    return offset, slope, math.hypot(slope_sigma, _BEND * bend), sag, int(kept.sum())


def follow_edge(
    pixels: Pixels, drawn: tuple[Point, ...], reach_px: float = REACH_PX
) -> tuple[tuple[Point, ...], float, int] | None:
    """Follow the image edge along a bent line through some clicked points.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    drawn : tuple of Points
        Three or more, in order along the edge, in source pixels.
    reach_px : float
        How far the edge may lie from a smooth curve through them.

    Returns
    -------
    (points, sigma_px, stations) or None
        Points on the edge, evenly spread, the standard deviation with which each was found, and at
        how many stations the edge was seen; None where no edge stands out.
    """
    points = np.array(drawn)
    start, chord = points[0], points[-1] - points[0]
    length = float(np.hypot(*chord))
    if length < 2 * _SPACING_PX * _MIN_STATIONS:
        return None
    tangent = chord / length
    normal = np.array([-tangent[1], tangent[0]])
    u, v = (points - start) @ tangent / length * 2 - 1, (points - start) @ normal
    curve = np.polynomial.Polynomial.fit(u, v, min(len(points) - 1, 3), domain=[-1, 1])
    count = int(np.clip(length / _SPACING_PX, _MIN_STATIONS, _MAX_STATIONS))
    where = (np.arange(count) + 0.5) / count * 2 - 1
    across = np.arange(-reach_px - 4, reach_px + 4 + _STEP_PX / 2, _STEP_PX)
    base = start + ((where + 1) / 2 * length)[:, None] * tangent + curve(where)[:, None] * normal
    gradient = _gradient_across(
        pixels, base[:, None, :] + across[None, :, None] * normal, _BRIGHTNESS
    )
    if gradient is None:
        return None
    found, positions = _stations_of_edge(gradient, where, across, reach_px, near_px=2 * _NEAR_PX)
    if found is None or positions is None:
        return None
    at, off = where[found], positions[found]
    kept = np.ones(len(at), dtype=bool)
    for _ in range(8):
        bend = np.polynomial.Polynomial.fit(at[kept], off[kept], 4, domain=[-1, 1])
        left = off - bend(at)
        scatter = max(1.4826 * float(np.median(np.abs(left[kept]))), 0.05)
        kept = np.abs(left) < 3 * scatter
    if kept.sum() < max(_MIN_STATIONS // 2, _MIN_SHARE * count):
        return None
    groups = [group for group in np.array_split(np.flatnonzero(kept), _TRACE_POINTS) if len(group)]
    middles = np.array(
        [[at[group].mean(), (off[group] + curve(at[group])).mean()] for group in groups]
    )
    places = start + ((middles[:, :1] + 1) / 2 * length) * tangent + middles[:, 1:] * normal
    alike = _correlation(left[kept])
    sigma = math.hypot(
        scatter * math.sqrt(alike / (kept.sum() / len(groups))), _LEAST_SIGMA_PX[_BRIGHTNESS]
    )
    height, width = pixels.shape[:2]
    return (
        tuple(_point(place) for place in np.clip(places, 0, [width, height])),
        sigma,
        int(kept.sum()),
    )


def _stations_of_edge(
    gradient: Matrix, where: Matrix, across: Matrix, reach_px: float, near_px: float = _NEAR_PX
) -> tuple[NDArray[np.bool_], Matrix] | tuple[None, None]:
    """At which stations the strongest edge is seen, and where.

    None where it shows along too little of the line.
    """
    at_start, at_end, votes, _ = _votes(gradient, where, across, reach_px, _STEP_PX)
    nearness = np.exp(-(at_start**2 + at_end**2) / (2 * reach_px) ** 2)
    best = int(np.argmax(np.abs(votes) * nearness))
    middle, slope = (at_start[best] + at_end[best]) / 2, (at_end[best] - at_start[best]) / 2
    sense = float(np.sign(votes[best])) or 1.0
    positions, strengths = _edge_near(gradient * sense, across, middle + slope * where, near_px)
    noise = 1.4826 * float(np.median(np.abs(gradient))) + 1e-3
    threshold = max(_MIN_CONTRAST * noise, 0.3 * float(np.median(strengths)))
    found = np.isfinite(positions) & (strengths > threshold)
    if found.sum() < max(_MIN_STATIONS // 2, _MIN_SHARE * len(where)):
        return None, None
    return found, positions


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
    if reading.kind == "trace":
        followed = follow_edge(pixels, drawn, min(reach_of(reading), REACH_PX))
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


def _gradient_across(
    pixels: Pixels, places: Matrix, weights: tuple[float, float, float], coarse: int = 1
) -> Matrix | None:
    """Smoothed derivative across the line of a weighted sum of the colours, in shares of the full
    range per pixel, in the picture made ``coarse`` times smaller.

    ``places`` are source pixels, shape (stations, offsets, 2); the result has shape (stations,
    offsets). A picture without colours has a brightness, and no warmth: None.
    """
    low = np.floor(places.reshape(-1, 2).min(axis=0)).astype(int) - 3 * coarse
    high = np.ceil(places.reshape(-1, 2).max(axis=0)).astype(int) + 4 * coarse
    height, width, channels = pixels.shape
    left, top = max(low[0], 0), max(low[1], 0)
    right, bottom = min(high[0], width), min(high[1], height)
    patch = pixels[top:bottom, left:right]
    highest = np.float32(np.iinfo(pixels.dtype).max)
    grey: NDArray[Any]
    if channels >= 3:
        grey = (patch[:, :, :3] @ np.array(weights, np.float32)) / highest
    elif weights == _BRIGHTNESS:
        grey = patch[:, :, 0].astype(np.float32) / highest
    else:
        return None
    grey = _smaller(grey, coarse)
    # The first pixel's centre is at (0.5, 0.5), where an array index is 0.
    samples = map_coordinates(
        grey,
        [(places[..., 1] - top) / coarse - 0.5, (places[..., 0] - left) / coarse - 0.5],
        order=1,
        mode="nearest",
    )
    gradient: NDArray[np.float64] = (
        gaussian_filter1d(samples.astype(np.float64), _BLUR_PX / _STEP_PX, axis=1, order=1)
        / _STEP_PX
    )
    return gradient


def _smaller(grey: NDArray[Any], times: int) -> NDArray[Any]:
    """A picture made smaller by whole blocks of pixels; what is left over at its end is cut off."""
    height, width = (max(side // times, 1) * times for side in grey.shape)
    if times == 1 or height > grey.shape[0] or width > grey.shape[1]:
        return grey
    blocks = grey[:height, :width].reshape(height // times, times, width // times, times)
    smaller: NDArray[Any] = blocks.mean(axis=(1, 3), dtype=np.float32)
    return smaller


def _votes(
    gradient: Matrix, where: Matrix, across: Matrix, reach_px: float, step_px: float
) -> tuple[Matrix, Matrix, Matrix, Matrix]:
    """Lines in reach by their offsets at the start and at the end, how much gradient each gathers,
    positive or negative, and how many deviations that is, shape (L,).
    """
    ends = np.arange(-reach_px, reach_px + step_px / 2, step_px)
    at_start, at_end = (grid.ravel() for grid in np.meshgrid(ends, ends, indexing="ij"))
    # A few stations together are enough to choose the line, and make the choice quick.
    groups = np.array_split(np.arange(len(where)), min(len(where), 64))
    coarse = np.array([gradient[group].mean(axis=0) for group in groups])
    middle = np.array([where[group].mean() for group in groups])
    offsets = (at_start + at_end)[:, None] / 2 + (at_end - at_start)[:, None] / 2 * middle
    columns = np.rint((offsets - across[0]) / (across[1] - across[0])).astype(int)
    picked = coarse[np.arange(len(middle)), columns]
    # Every station counts by the root of its gradient, so that one glaring spot does not outvote a
    # long plain edge.
    each = np.sign(picked) * np.sqrt(np.abs(picked))
    votes = each.mean(axis=1)
    sure = np.abs(votes) / (each.std(axis=1) / math.sqrt(len(middle)) + 1e-9)
    return at_start, at_end, votes, sure


def _edge_near(
    gradient: Matrix, across: Matrix, expected: Matrix, near_px: float
) -> tuple[Matrix, Matrix]:
    """Sub-pixel position and strength of the gradient's peak near an expected offset, at every
    station; NaN where there is none.
    """
    stations = np.arange(len(gradient))
    away = np.abs(across[None, :] - expected[:, None]) > near_px
    peak = np.where(away, -np.inf, gradient).argmax(axis=1).clip(1, len(across) - 2)
    before, at, after = (
        gradient[stations, peak - 1],
        gradient[stations, peak],
        gradient[stations, peak + 1],
    )
    bend = before - 2 * at + after
    is_peak = (at >= before) & (at >= after) & (bend < 0)
    shift = np.where(is_peak, 0.5 * (before - after) / np.where(bend < 0, bend, -1), 0)
    positions = np.where(is_peak, across[peak] + shift * _STEP_PX, np.nan)
    return positions, at


def _robust_line(
    where: Matrix, positions: Matrix, strengths: Matrix
) -> tuple[tuple[float, float], float, NDArray[np.bool_]] | None:
    """Offset and slope through the stations by Tukey's weights; the slope's deviation, which
    stations hold.

    Where the edge is strong a station says more of where it lies, up to four times the usual.
    """
    design = np.column_stack([np.ones_like(where), where])
    usual = float(np.median(strengths))
    counts = np.clip(strengths / usual if usual > 0 else 1.0, 0.25, 2.0) ** 2
    weights = counts.copy()
    line: Matrix = np.zeros(2)
    scatter = 0.0
    for _ in range(20):
        weighted = design * weights[:, None]
        normal_matrix = weighted.T @ design
        if np.linalg.cond(normal_matrix) > 1e8:
            return None
        line = np.asarray(np.linalg.solve(normal_matrix, weighted.T @ positions), dtype=np.float64)
        off = positions - design @ line
        scatter = max(1.4826 * float(np.median(np.abs(off))), 0.01)
        biweight = np.clip(1 - (off / (_TUKEY * scatter)) ** 2, 0, None) ** 2
        weights = counts * biweight
    kept = biweight > 0.1
    off = positions - design @ line
    spread = float(np.sqrt(np.average(off**2, weights=weights)))
    # Neighbouring errors are alike (texture, compression), so the stations count for fewer than
    # there are.
    alike = _correlation(off[kept])
    fine = np.linalg.inv((design * biweight[:, None]).T @ design) * max(spread, 0.01) ** 2 * alike
    sigma = _MODEL * max(math.sqrt(float(fine[1, 1])), _by_blocks(where[kept], off[kept]))
    return (float(line[0]), float(line[1])), sigma, kept


def _by_blocks(where: Matrix, off: Matrix) -> float:
    """The slope's deviation from the means of parts of the line, which wander together."""
    blocks = [block for block in np.array_split(np.arange(len(where)), _BLOCKS) if len(block)]
    if len(blocks) < 4:
        return 0.0
    at, means = (np.array([values[block].mean() for block in blocks]) for values in (where, off))
    spread = float(((at - at.mean()) ** 2).sum())
    return math.sqrt(float((means**2).sum()) / (len(blocks) - 2) / spread) if spread else 0.0


def _correlation(off: Matrix) -> float:
    """By how much the variance of a mean grows because neighbouring errors are alike (Bartlett's
    sum over the first lags).
    """
    if len(off) < 12 or not off.std():
        return 1.0
    centred = off - off.mean()
    lags = range(1, min(20, len(off) // 4))
    found = [float(centred[lag:] @ centred[:-lag] / (centred @ centred)) for lag in lags]
    total = 1.0
    for value in found:
        if value < 0.1:
            break
        total += 2 * value
    return total
