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

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, map_coordinates

from sequor.core.camera import Matrix
from sequor.core.recipe import FittedTo, Point, Reading
from sequor.core.resample import Pixels

REACH_PX = 10.0
"""How far from the drawn line the edge may lie, in source pixels."""

_STEP_PX = 0.5
_SPACING_PX = 2.0
_MIN_STATIONS, _MAX_STATIONS = 24, 800
_BLUR_PX = 1.0
_NEAR_PX = 2.0
# An edge that shows along less than half of the line says too little of its direction.
_MIN_SHARE = 0.5
_MIN_CONTRAST = 4.0
_TUKEY = 4.685
_BRIGHTNESS, _WARMTH = (1 / 3, 1 / 3, 1 / 3), (0.5, 0.0, -0.5)
# However alike the stations are, each end of a fitted line is no truer than this in pixels: pixels sample the edge,
# and it is never quite straight. Colours are often stored at half the resolution.
_LEAST_SIGMA_PX = {_BRIGHTNESS: 0.1, _WARMTH: 0.25}


@dataclass(frozen=True)
class Fit:
    """A line fitted to an image edge.

    Attributes
    ----------
    points : (Point, Point)
        Its ends, beside the drawn ones, in source pixels.
    sigma_rad : float
        Standard deviation of its angle, from the scatter of the stations.
    stations : int
        At how many stations the edge was found.
    """

    points: tuple[Point, Point]
    sigma_rad: float
    stations: int


def fit_edge(pixels: Pixels, drawn: tuple[Point, Point], reach_px: float = REACH_PX) -> Fit | None:
    """Fit a drawn line to the straight image edge near it.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    drawn : (Point, Point)
        Both ends in source pixels.
    reach_px : float
        How far the edge may lie from the drawn line at any of its points.

    Returns
    -------
    Fit or None
        None where there is no straight edge that stands out.
    """
    start, end = np.array(drawn[0]), np.array(drawn[1])
    length = float(np.hypot(*(end - start)))
    if length < 2 * _SPACING_PX:
        return None
    tangent = (end - start) / length
    normal = np.array([-tangent[1], tangent[0]])
    count = int(np.clip(length / _SPACING_PX, _MIN_STATIONS, _MAX_STATIONS))
    along = (np.arange(count) + 0.5) / count * length
    across = np.arange(-reach_px - 4, reach_px + 4 + _STEP_PX / 2, _STEP_PX)
    # Position of a station along the line, from -1 at the start to 1 at the end.
    where = 2 * along / length - 1
    # Most edges are steps in brightness; pale stone against a bright sky is a step from warm to cool only.
    for weights in (_BRIGHTNESS, _WARMTH):
        gradient = _gradient_across(pixels, start, tangent, normal, along, across, weights)
        fit = _line_through(gradient, where, across, reach_px) if gradient is not None else None
        if fit:
            break
    else:
        return None
    offset, slope, slope_sigma, stations = fit
    ends = [start + normal * (offset - slope), end + normal * (offset + slope)]
    height, width = pixels.shape[:2]
    inside = [np.clip(point, 0, [width, height]) for point in ends]
    return Fit(
        points=((float(inside[0][0]), float(inside[0][1])), (float(inside[1][0]), float(inside[1][1]))),
        sigma_rad=math.atan(math.hypot(2 * slope_sigma, math.sqrt(2) * _LEAST_SIGMA_PX[weights]) / length),
        stations=stations,
    )


def _line_through(gradient: Matrix, where: Matrix, across: Matrix, reach_px: float) -> tuple[float, float, float, int] | None:
    """Offset and slope of the straight edge in a strip of gradients, the deviation of the slope, and how many stations hold."""
    count = len(where)
    best, sense = _strongest_line(gradient, where, across, reach_px)
    positions, strengths = _edge_near(gradient * sense, across, best[0] + best[1] * where)
    noise = 1.4826 * float(np.median(np.abs(gradient))) + 1e-3
    threshold = max(_MIN_CONTRAST * noise, 0.3 * float(np.median(strengths)))
    found = np.isfinite(positions) & (strengths > threshold)
    if found.sum() < max(_MIN_STATIONS // 2, _MIN_SHARE * count):
        return None
    fitted = _robust_line(where[found], positions[found])
    if fitted is None:
        return None
    (offset, slope), slope_sigma, kept = fitted
    if kept < max(_MIN_STATIONS // 2, _MIN_SHARE * count):
        return None
    return offset, slope, slope_sigma, kept


def fitted(reading: Reading, pixels: Pixels) -> Reading | None:
    """The reading fitted to the image edge under it as it was drawn, or None where there is no edge."""
    drawn = reading.fitted.drawn if reading.fitted else reading.points
    fit = fit_edge(pixels, drawn)
    if fit is None:
        return None
    facts = FittedTo(drawn=drawn, sigma_deg=math.degrees(fit.sigma_rad), stations=fit.stations)
    return reading.model_copy(update={"points": fit.points, "fitted": facts})


def _gradient_across(
    pixels: Pixels,
    start: Matrix,
    tangent: Matrix,
    normal: Matrix,
    along: Matrix,
    across: Matrix,
    weights: tuple[float, float, float],
) -> Matrix | None:
    """Smoothed derivative across the line of a weighted sum of the colours, shape (stations, offsets), in shares of the full range per pixel.

    A picture without colours has a brightness, and no warmth: None.
    """
    places = start + along[:, None, None] * tangent + across[None, :, None] * normal
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
    samples = map_coordinates(grey, [places[..., 1] - top - 0.5, places[..., 0] - left - 0.5], order=1, mode="nearest")
    gradient: NDArray[np.float64] = gaussian_filter1d(samples.astype(np.float64), _BLUR_PX / _STEP_PX, axis=1, order=1) / _STEP_PX
    return gradient


def _strongest_line(gradient: Matrix, where: Matrix, across: Matrix, reach_px: float) -> tuple[tuple[float, float], float]:
    """Offset and slope of the line that gathers the most gradient of one sense, nearer ones preferred, and that sense."""
    ends = np.arange(-reach_px, reach_px + 0.25, 0.5)
    at_start, at_end = (grid.ravel() for grid in np.meshgrid(ends, ends, indexing="ij"))
    # A few stations together are enough to choose the line, and make the choice quick.
    groups = np.array_split(np.arange(len(where)), min(len(where), 64))
    coarse = np.array([gradient[group].mean(axis=0) for group in groups])
    middle = np.array([where[group].mean() for group in groups])
    offsets = (at_start + at_end)[:, None] / 2 + (at_end - at_start)[:, None] / 2 * middle
    columns = np.rint((offsets - across[0]) / _STEP_PX).astype(int)
    picked = coarse[np.arange(len(middle)), columns]
    # Every station counts by the root of its gradient, so that one glaring spot does not outvote a long plain edge.
    votes = (np.sign(picked) * np.sqrt(np.abs(picked))).mean(axis=1)
    nearness = np.exp(-(at_start**2 + at_end**2) / (2 * reach_px) ** 2)
    best = int(np.argmax(np.abs(votes) * nearness))
    line = (float(at_start[best] + at_end[best]) / 2, float(at_end[best] - at_start[best]) / 2)
    return line, float(np.sign(votes[best])) or 1.0


def _edge_near(gradient: Matrix, across: Matrix, expected: Matrix) -> tuple[Matrix, Matrix]:
    """Sub-pixel position and strength of the gradient's peak near an expected offset, at every station; NaN where there is none."""
    stations = np.arange(len(gradient))
    away = np.abs(across[None, :] - expected[:, None]) > _NEAR_PX
    peak = np.where(away, -np.inf, gradient).argmax(axis=1).clip(1, len(across) - 2)
    before, at, after = gradient[stations, peak - 1], gradient[stations, peak], gradient[stations, peak + 1]
    bend = before - 2 * at + after
    is_peak = (at >= before) & (at >= after) & (bend < 0)
    shift = np.where(is_peak, 0.5 * (before - after) / np.where(bend < 0, bend, -1), 0)
    positions = np.where(is_peak, across[peak] + shift * _STEP_PX, np.nan)
    return positions, at


def _robust_line(where: Matrix, positions: Matrix) -> tuple[tuple[float, float], float, int] | None:
    """Offset and slope through the stations by Tukey's weights; the slope's deviation; how many stations hold."""
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
    # Neighbouring errors are alike (texture, compression), so the stations count for fewer than there are.
    alike = _correlation(off[kept])
    covariance = np.linalg.inv((design * weights[:, None]).T @ design) * max(spread, 0.01) ** 2 * alike
    return (float(line[0]), float(line[1])), math.sqrt(float(covariance[1, 1])), int(kept.sum())


def _correlation(off: Matrix) -> float:
    """By how much the variance of a mean grows because neighbouring errors are alike (Bartlett's sum over the first lags)."""
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
