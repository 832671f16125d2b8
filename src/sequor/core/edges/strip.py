"""Brightness sampled across a line at many stations, and the lines in it that lie on an edge.

The method of sampling normals is that of active contours (Blake & Isard, *Active Contours*, 1998,
chapter 5). All works in the picture as it is, or made smaller by whole blocks of pixels (`coarse`):
what is soft there, by haze or focus, is sharp in the small one.
"""

import math
from typing import Any, NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.lens.distortion import Distortion
from sequor.core.pixels import Pixels
from sequor.core.recipe import Point

Weights = tuple[float, float, float]
STEP_PX = 0.5
"""Pixels between samples across the line: two a pixel, so that nothing falls between."""
SPACING_PX = 2.0
"""Pixels between stations along the line: nearer ones would share their pixels."""
MIN_STATIONS, MAX_STATIONS = 24, 800
"""Stations on a line: fewer do not tell an edge from noise; the second bounds the time."""
BRIGHTNESS: Weights = (1 / 3, 1 / 3, 1 / 3)
WARMTH: Weights = (0.5, 0.0, -0.5)
"""Weights of red, green and blue."""
LEAST_SIGMA_PX = {BRIGHTNESS: 0.1, WARMTH: 0.25}
"""However alike the stations are, each end of a fitted line is no truer than this in pixels: pixels
sample the edge, and it is never quite straight. Colours are often stored at half the resolution."""
_BLUR_PX = 1.0
"""Standard deviation of the blur of gradients in pixels: about the width of a sharp edge."""
_GROUPS = 64
"""Stations that are put together to choose a line: a few are enough, and make the choice quick."""


class Strip(NamedTuple):
    """A strip along a drawn line in the undistorted picture.

    ``where`` says where its stations are along the line, from -1 at the start to 1 at the end,
    ``across`` how far from it brightness is sampled, ``places`` both in source pixels, shape
    (stations, samples, 2). Pixels are ``coarse`` source pixels wide and high.
    """

    start: Matrix
    end: Matrix
    normal: Matrix
    length: float
    where: Matrix
    across: Matrix
    places: Matrix
    coarse: int


class Votes(NamedTuple):
    """Lines in reach by their offsets at the start and at the end, how much gradient each gathers,
    positive or negative, and how many deviations that is, shape (L,).
    """

    at_start: Matrix
    at_end: Matrix
    gathered: Matrix
    sure: Matrix

    def line(self, place: int) -> tuple[float, float, float]:
        """Offset in the middle, slope and sense of one of them."""
        start, end = float(self.at_start[place]), float(self.at_end[place])
        return (start + end) / 2, (end - start) / 2, float(np.sign(self.gathered[place])) or 1.0


def strip_along(
    drawn: tuple[Point, Point] | tuple[Matrix, Matrix],
    distortion: Distortion,
    reach_px: float,
    coarse: int = 1,
    undistorted: bool = False,
) -> Strip | None:
    """The strip along a line; None for one that is too short or leaves the lens's field.

    With stations and samples ``coarse`` times as far apart; the line may be given as it lies in the
    ``undistorted`` picture.
    """
    # The line lives in the undistorted picture; only the pixels are looked up where the lens has
    # put them.
    ends = np.array(drawn)
    start, end = ends if undistorted else distortion.undistorted(ends)
    length = float(np.hypot(*(end - start)))
    if length < 2 * SPACING_PX:
        return None
    tangent = (end - start) / length
    normal = np.array([-tangent[1], tangent[0]])
    count = int(np.clip(length / SPACING_PX / coarse, MIN_STATIONS, MAX_STATIONS))
    along = (np.arange(count) + 0.5) / count * length
    step = STEP_PX * coarse
    margin = reach_px + 4 * coarse
    across = np.arange(-margin, margin + step / 2, step)
    places = start + along[:, None, None] * tangent + across[None, :, None] * normal
    places = distortion.distorted(places.reshape(-1, 2)).reshape(places.shape)
    if not np.isfinite(places).all():
        return None
    return Strip(start, end, normal, length, 2 * along / length - 1, across, places, coarse)


def gradient_across(
    pixels: Pixels, places: Matrix, weights: Weights, coarse: int = 1
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
    elif weights == BRIGHTNESS:
        grey = patch[:, :, 0].astype(np.float32) / highest
    else:
        return None
    grey = _smaller(grey, coarse)
    # The first pixel's centre is at (0.5, 0.5), where an array index is 0.
    samples = scipy.ndimage.map_coordinates(
        grey,
        [(places[..., 1] - top) / coarse - 0.5, (places[..., 0] - left) / coarse - 0.5],
        order=1,
        mode="nearest",
    )
    gradient: NDArray[np.float64] = (
        scipy.ndimage.gaussian_filter1d(
            samples.astype(np.float64), _BLUR_PX / STEP_PX, axis=1, order=1
        )
        / STEP_PX
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


def votes(gradient: Matrix, where: Matrix, across: Matrix, reach_px: float) -> Votes:
    """What every line within a reach gathers, in steps of the samples at each end."""
    step = float(across[1] - across[0])
    ends = np.arange(-reach_px, reach_px + step / 2, step)
    at_start, at_end = (grid.ravel() for grid in np.meshgrid(ends, ends, indexing="ij"))
    groups = np.array_split(np.arange(len(where)), min(len(where), _GROUPS))
    together = np.array([gradient[group].mean(axis=0) for group in groups])
    middle = np.array([where[group].mean() for group in groups])
    offsets = (at_start + at_end)[:, None] / 2 + (at_end - at_start)[:, None] / 2 * middle
    columns = np.rint((offsets - across[0]) / step).astype(int)
    picked = together[np.arange(len(middle)), columns]
    # Every station counts by the root of its gradient, so that one glaring spot does not outvote a
    # long plain edge.
    each = np.sign(picked) * np.sqrt(np.abs(picked))
    gathered = each.mean(axis=1)
    sure = np.abs(gathered) / (each.std(axis=1) / math.sqrt(len(middle)) + 1e-9)
    return Votes(at_start, at_end, gathered, sure)


def edge_near(
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
    positions = np.where(is_peak, across[peak] + shift * (across[1] - across[0]), np.nan)
    return positions, at


def width_of(gradient: Matrix, across: Matrix, along: Matrix) -> float:
    """The width at half of its height of the gradient beside a line, on the mean of all stations.

    ``along`` is the offset of the line at every station.
    """
    step = float(across[1] - across[0])
    most = min(float(along.min() - across[0]), float(across[-1] - along.max()))
    beside = np.arange(-most, most + step / 2, step)
    columns = np.rint((along[:, None] + beside - across[0]) / step).astype(int)
    columns = columns.clip(0, len(across) - 1)
    profile = gradient[np.arange(len(gradient))[:, None], columns].mean(axis=0)
    middle = int(np.argmin(np.abs(beside)))
    high = profile > profile[middle] / 2
    below = np.flatnonzero(~high)
    before, after = below[below < middle], below[below > middle]
    left = before[-1] if len(before) else -1
    right = after[0] if len(after) else len(high)
    return float(right - left - 1) * step
