"""Follow the image edge along something that looks bent, through some clicked points."""

import math

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.edges.line import correlation
from sequor.core.edges.strip import (
    BRIGHTNESS,
    LEAST_SIGMA_PX,
    MAX_STATIONS,
    MIN_STATIONS,
    SPACING_PX,
    STEP_PX,
    edge_near,
    gradient_across,
    votes,
)
from sequor.core.pixels import Pixels
from sequor.core.recipe import Point

TRACE_REACH_PX = 10.0
"""How far the edge may lie from a smooth curve through the points: they say where it bends, so more
would only find other edges."""
_NEAR_PX = 4.0
"""A station belongs to the edge when its peak lies within so many source pixels of the line."""
_TRACE_POINTS = 16
"""Points that a followed trace is kept with: enough for any distortion, few to store."""
_MIN_SHARE = 0.5
"""A trace that shows along less than half of the line says too little of its bend."""
_MIN_CONTRAST = 4.0
"""It must stand out from the gradients around by more than so many of their deviations."""


def follow_edge(
    pixels: Pixels, drawn: tuple[Point, ...], reach_px: float = TRACE_REACH_PX
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
    if length < 2 * SPACING_PX * MIN_STATIONS:
        return None
    tangent = chord / length
    normal = np.array([-tangent[1], tangent[0]])
    u, v = (points - start) @ tangent / length * 2 - 1, (points - start) @ normal
    curve = np.polynomial.Polynomial.fit(u, v, min(len(points) - 1, 3), domain=[-1, 1])
    count = int(np.clip(length / SPACING_PX, MIN_STATIONS, MAX_STATIONS))
    where = (np.arange(count) + 0.5) / count * 2 - 1
    across = np.arange(-reach_px - 4, reach_px + 4 + STEP_PX / 2, STEP_PX)
    base = start + ((where + 1) / 2 * length)[:, None] * tangent + curve(where)[:, None] * normal
    places = base[:, None, :] + across[None, :, None] * normal
    gradient = gradient_across(pixels, places, BRIGHTNESS)
    seen = None if gradient is None else _seen(gradient, where, across, reach_px)
    if seen is None:
        return None
    at, off = where[seen[0]], seen[1][seen[0]]
    kept, left, scatter = _on_a_curve(at, off)
    if kept.sum() < max(MIN_STATIONS // 2, _MIN_SHARE * count):
        return None
    groups = [group for group in np.array_split(np.flatnonzero(kept), _TRACE_POINTS) if len(group)]
    middles = np.array(
        [[at[group].mean(), (off[group] + curve(at[group])).mean()] for group in groups]
    )
    found = start + ((middles[:, :1] + 1) / 2 * length) * tangent + middles[:, 1:] * normal
    height, width = pixels.shape[:2]
    inside = np.clip(found, 0, [width, height])
    alike = correlation(left[kept]) / (kept.sum() / len(groups))
    sigma = math.hypot(scatter * math.sqrt(alike), LEAST_SIGMA_PX[BRIGHTNESS])
    return tuple((float(x), float(y)) for x, y in inside), sigma, int(kept.sum())


def _seen(
    gradient: Matrix, where: Matrix, across: Matrix, reach_px: float
) -> tuple[NDArray[np.bool_], Matrix] | None:
    """At which stations the strongest edge is seen, and where.

    None where it shows along too little of the line.
    """
    lines = votes(gradient, where, across, reach_px)
    nearness = np.exp(-(lines.at_start**2 + lines.at_end**2) / (2 * reach_px) ** 2)
    middle, slope, sense = lines.line(int(np.argmax(np.abs(lines.gathered) * nearness)))
    positions, strengths = edge_near(gradient * sense, across, middle + slope * where, _NEAR_PX)
    noise = 1.4826 * float(np.median(np.abs(gradient))) + 1e-3
    threshold = max(_MIN_CONTRAST * noise, 0.3 * float(np.median(strengths)))
    found = np.isfinite(positions) & (strengths > threshold)
    if found.sum() < max(MIN_STATIONS // 2, _MIN_SHARE * len(where)):
        return None
    return found, positions


def _on_a_curve(at: Matrix, off: Matrix) -> tuple[NDArray[np.bool_], Matrix, float]:
    """Which stations lie on a smooth curve, what is left over of each, and how that scatters."""
    kept = np.ones(len(at), dtype=bool)
    for _ in range(8):
        bend = np.polynomial.Polynomial.fit(at[kept], off[kept], 4, domain=[-1, 1])
        left = off - bend(at)
        scatter = max(1.4826 * float(np.median(np.abs(left[kept]))), 0.05)
        kept = np.abs(left) < 3 * scatter
    return kept, left, scatter
