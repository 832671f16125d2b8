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
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, map_coordinates

from sequor.core.camera import Matrix
from sequor.core.lens.distortion import Distortion, radial
from sequor.core.pixels import Pixels
from sequor.core.recipe import FittedTo, Point, Reading

REACH_PX = 10.0
"""How far from the drawn line the edge may lie, in source pixels."""

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
"""Points that a followed trace is kept with: enough for any radial distortion, few to store."""
_MIN_SHARE = 0.5
"""An edge that shows along less than half of the line says too little of its direction."""
_MIN_CONTRAST = 4.0
"""An edge must stand out from the gradients around by more than so many of their deviations."""
_TUKEY = 4.685
"""Tukey's biweight in units of the scatter, for 95 % efficiency on normal errors (textbook)."""
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


def fit_edge(
    pixels: Pixels,
    drawn: tuple[Point, Point],
    distortion: Distortion | None = None,
    reach_px: float = REACH_PX,
) -> Fit | None:
    """Fit a drawn line to the image edge near it that is straight in the undistorted picture.

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

    Returns
    -------
    Fit or None
        None where there is no straight edge that stands out.
    """
    distortion = distortion or Distortion(radial(0.0), (0.0, 0.0), 1.0)
    strip = _strip_along(drawn, distortion, reach_px)
    if strip is None:
        return None
    # Most edges are steps in brightness; pale stone against a bright sky is a step from warm to
    # cool only.
    for weights in (_BRIGHTNESS, _WARMTH):
        gradient = _gradient_across(pixels, strip.places, weights)
        found = gradient is not None and _line_through(
            gradient, strip.where, strip.across, reach_px
        )
        if found:
            break
    else:
        return None
    offset, slope, slope_sigma, sag, stations = found
    start, end, normal = strip.start, strip.end, strip.normal
    line = np.array(
        [
            start + normal * (offset - slope),
            (start + end) / 2 + normal * (offset + sag),
            end + normal * (offset + slope),
        ]
    )
    height, width = pixels.shape[:2]
    first, middle, last = (
        _point(point) for point in np.clip(distortion.distorted(line), 0, [width, height])
    )
    at_ends = math.hypot(2 * slope_sigma, math.sqrt(2) * _LEAST_SIGMA_PX[weights])
    return Fit(
        points=(first, last),
        middle=middle,
        sigma_rad=math.atan(at_ends / strip.length),
        stations=stations,
    )


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
    drawn: tuple[Point, Point], distortion: Distortion, reach_px: float
) -> _Strip | None:
    """The strip along a drawn line; None for one that is too short or leaves the lens's field."""
    # The line lives in the undistorted picture; only the pixels are looked up where the lens has
    # put them.
    start, end = distortion.undistorted(np.array(drawn))
    length = float(np.hypot(*(end - start)))
    if length < 2 * _SPACING_PX:
        return None
    tangent = (end - start) / length
    normal = np.array([-tangent[1], tangent[0]])
    count = int(np.clip(length / _SPACING_PX, _MIN_STATIONS, _MAX_STATIONS))
    along = (np.arange(count) + 0.5) / count * length
    across = np.arange(-reach_px - 4, reach_px + 4 + _STEP_PX / 2, _STEP_PX)
    places = start + along[:, None, None] * tangent + across[None, :, None] * normal
    places = distortion.distorted(places.reshape(-1, 2)).reshape(places.shape)
    if not np.isfinite(places).all():
        return None
    return _Strip(start, end, normal, length, 2 * along / length - 1, across, places)


def _line_through(
    gradient: Matrix, where: Matrix, across: Matrix, reach_px: float
) -> tuple[float, float, float, float, int] | None:
    """Offset and slope of the straight edge in a strip of gradients, the deviation of the slope,
    its sag, and how many stations hold.
    """
    found, positions = _stations_of_edge(gradient, where, across, reach_px)
    if found is None or positions is None:
        return None
    count = len(where)
    fitted = _robust_line(where[found], positions[found])
    if fitted is None:
        return None
    (offset, slope), slope_sigma, kept = fitted
    if kept.sum() < max(_MIN_STATIONS // 2, _MIN_SHARE * count):
        return None
    # Half-way between the ends of a parabola its height over the chord is minus the square's
    # coefficient.
    sag = -float(np.polyfit(where[found][kept], positions[found][kept], 2)[0])
    return offset, slope, slope_sigma, sag, int(kept.sum())


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
    best, sense = _strongest_line(gradient, where, across, reach_px)
    positions, strengths = _edge_near(gradient * sense, across, best[0] + best[1] * where, near_px)
    noise = 1.4826 * float(np.median(np.abs(gradient))) + 1e-3
    threshold = max(_MIN_CONTRAST * noise, 0.3 * float(np.median(strengths)))
    found = np.isfinite(positions) & (strengths > threshold)
    if found.sum() < max(_MIN_STATIONS // 2, _MIN_SHARE * len(where)):
        return None, None
    return found, positions


def fitted(
    reading: Reading, pixels: Pixels, distortion: Distortion | None = None
) -> Reading | None:
    """The reading fitted to the image edge under it as it was drawn, or None where there is no
    edge; a trace follows the edge.
    """
    drawn = reading.fitted.drawn if reading.fitted else reading.points
    if reading.kind == "trace":
        followed = follow_edge(pixels, drawn)
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
    fit = fit_edge(pixels, (drawn[0], drawn[-1]), distortion)
    if fit is None:
        return None
    facts = FittedTo(
        drawn=drawn, sigma_deg=math.degrees(fit.sigma_rad), stations=fit.stations, middle=fit.middle
    )
    return reading.model_copy(update={"points": fit.points, "fitted": facts})


def _point(array: Matrix) -> Point:
    return (float(array[0]), float(array[1]))


def _gradient_across(
    pixels: Pixels, places: Matrix, weights: tuple[float, float, float]
) -> Matrix | None:
    """Smoothed derivative across the line of a weighted sum of the colours, in shares of the full
    range per pixel.

    ``places`` are source pixels, shape (stations, offsets, 2); the result has shape (stations,
    offsets). A picture without colours has a brightness, and no warmth: None.
    """
    low = np.floor(places.reshape(-1, 2).min(axis=0)).astype(int) - 3
    high = np.ceil(places.reshape(-1, 2).max(axis=0)).astype(int) + 4
    height, width, channels = pixels.shape
    left, top = max(low[0], 0), max(low[1], 0)
    right, bottom = min(high[0], width), min(high[1], height)
    patch = pixels[top:bottom, left:right]
    if channels >= 3:
        grey = (patch[:, :, :3] @ np.array(weights, np.float32)) / np.iinfo(pixels.dtype).max
    elif weights == _BRIGHTNESS:
        grey = patch[:, :, 0].astype(np.float32) / np.iinfo(pixels.dtype).max
    else:
        return None
    # The first pixel's centre is at (0.5, 0.5), where an array index is 0.
    samples = map_coordinates(
        grey, [places[..., 1] - top - 0.5, places[..., 0] - left - 0.5], order=1, mode="nearest"
    )
    gradient: NDArray[np.float64] = (
        gaussian_filter1d(samples.astype(np.float64), _BLUR_PX / _STEP_PX, axis=1, order=1)
        / _STEP_PX
    )
    return gradient


def _strongest_line(
    gradient: Matrix, where: Matrix, across: Matrix, reach_px: float
) -> tuple[tuple[float, float], float]:
    """Offset and slope of the line that gathers the most gradient of one sense.

    Nearer ones preferred, and that sense.
    """
    ends = np.arange(-reach_px, reach_px + 0.25, 0.5)
    at_start, at_end = (grid.ravel() for grid in np.meshgrid(ends, ends, indexing="ij"))
    # A few stations together are enough to choose the line, and make the choice quick.
    groups = np.array_split(np.arange(len(where)), min(len(where), 64))
    coarse = np.array([gradient[group].mean(axis=0) for group in groups])
    middle = np.array([where[group].mean() for group in groups])
    offsets = (at_start + at_end)[:, None] / 2 + (at_end - at_start)[:, None] / 2 * middle
    columns = np.rint((offsets - across[0]) / _STEP_PX).astype(int)
    picked = coarse[np.arange(len(middle)), columns]
    # Every station counts by the root of its gradient, so that one glaring spot does not outvote a
    # long plain edge.
    votes = (np.sign(picked) * np.sqrt(np.abs(picked))).mean(axis=1)
    nearness = np.exp(-(at_start**2 + at_end**2) / (2 * reach_px) ** 2)
    best = int(np.argmax(np.abs(votes) * nearness))
    line = (float(at_start[best] + at_end[best]) / 2, float(at_end[best] - at_start[best]) / 2)
    return line, float(np.sign(votes[best])) or 1.0


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
    where: Matrix, positions: Matrix
) -> tuple[tuple[float, float], float, NDArray[np.bool_]] | None:
    """Offset and slope through the stations by Tukey's weights; the slope's deviation, which
    stations hold.
    """
    design = np.column_stack([np.ones_like(where), where])
    weights = np.ones_like(where)
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
        weights = np.clip(1 - (off / (_TUKEY * scatter)) ** 2, 0, None) ** 2
    kept = weights > 0.1
    off = positions - design @ line
    spread = float(np.sqrt(np.average(off**2, weights=weights)))
    # Neighbouring errors are alike (texture, compression), so the stations count for fewer than
    # there are.
    alike = _correlation(off[kept])
    covariance = (
        np.linalg.inv((design * weights[:, None]).T @ design) * max(spread, 0.01) ** 2 * alike
    )
    return (float(line[0]), float(line[1])), math.sqrt(float(covariance[1, 1])), kept


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
