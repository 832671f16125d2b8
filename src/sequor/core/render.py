"""solution -> pixels: the whole correction in one resampling from the original."""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from sequor.core.bow import Bow
from sequor.core.camera import Matrix, inverse
from sequor.core.frame import Rectangle
from sequor.core.resample import WEIGHTS, Pixels, resample_strip
from sequor.core.solution import Solution

_STRIP_ROWS = 64


class Cancelled(Exception):
    """Raised out of a rendering that was asked to stop."""


@dataclass(frozen=True)
class Rendered:
    """Pixels of shape (height, width, channels), and how many of them no source pixel covers."""

    pixels: Pixels
    empty_pixels: int


def render(
    pixels: Pixels,
    solution: Solution,
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Rendered:
    """Render the frame of a solution at full size.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    solution : Solution
        Made for a photo of that size.
    progress, cancelled : callable
        Told the share done after every strip, and asked whether to stop.

    Raises
    ------
    Cancelled
        When ``cancelled`` said so; nothing is returned then.
    """
    frame = solution.frame
    box = Rectangle(frame.x, frame.y, frame.width, frame.height)
    return render_box(pixels, inverse(solution.matrix), solution.lens, box, progress, cancelled)


def render_small(pixels: Pixels, solution: Solution, scale: float) -> Rendered:
    """Render the frame from a picture that is ``scale`` times the original, at that scale."""
    frame = solution.frame
    shrink = np.diag([scale, scale, 1.0])
    back = shrink @ inverse(solution.matrix) @ inverse(shrink)
    width, height = max(1, int(frame.width * scale)), max(1, int(frame.height * scale))
    return render_box(pixels, back, solution.lens.scaled(scale), Rectangle(frame.x * scale, frame.y * scale, width, height))


def render_view(pixels: Pixels, reduced: float, solution: Solution, box: Rectangle, scale: float) -> Rendered:
    """Render a part of the uncropped corrected picture at some scale, for the screen.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels)
        The original, reduced to the share ``reduced`` of its size.
    box : Rectangle
        The part, in pixels of the uncropped corrected picture.
    scale : float
        Pixels made for every pixel of the uncropped corrected picture.
    """
    back = np.diag([reduced, reduced, 1.0]) @ inverse(solution.matrix) @ np.diag([1 / scale, 1 / scale, 1.0])
    width, height = max(1, round(box.width * scale)), max(1, round(box.height * scale))
    return render_box(pixels, back, solution.lens.scaled(reduced), Rectangle(box.x * scale, box.y * scale, width, height))


def render_straight(pixels: Pixels, lens: Bow, box: Rectangle, scale: float) -> Rendered:
    """Render a part of the straight picture, freed of bow and not turned, at a scale of ``pixels``, whose size ``lens`` is for."""
    width, height = max(1, round(box.width * scale)), max(1, round(box.height * scale))
    return render_box(pixels, np.diag([1 / scale, 1 / scale, 1.0]), lens, Rectangle(box.x * scale, box.y * scale, width, height))


def render_box(
    pixels: Pixels,
    back: Matrix,
    lens: Bow,
    box: Rectangle,
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Rendered:
    """Resample the part of the output plane inside ``box``, whose sides are whole pixels.

    ``back`` takes points of the output plane to the straight picture, and ``lens`` those to source pixels:
    both are composed into one map, so that the picture is resampled once.
    """
    height, width, channels = pixels.shape
    out_width, out_height = int(box.width), int(box.height)
    out = np.zeros((out_height, out_width, channels), pixels.dtype)
    source, flat = np.ascontiguousarray(pixels).reshape(-1), out.reshape(-1)
    across = np.repeat(WEIGHTS, channels, axis=1)
    # Rounding adds a half before truncation, so the largest value keeps its own half.
    highest = np.float32(np.iinfo(pixels.dtype).max)
    back = np.ascontiguousarray(back, dtype=np.float64)
    bow = np.array([*lens.polynomial, *lens.centre, lens.unit_px, lens.fold])
    bowed = not lens.straight

    def strip(first_row: int) -> int:
        if cancelled():
            raise Cancelled
        last_row = min(first_row + _STRIP_ROWS, out_height)
        return int(
            resample_strip(
                source,
                width,
                height,
                channels,
                back,
                bow,
                bowed,
                box.x,
                box.y,
                flat,
                out_width,
                first_row,
                last_row,
                across,
                WEIGHTS,
                highest,
            )
        )

    empty = 0
    starts = range(0, out_height, _STRIP_ROWS)
    with ThreadPoolExecutor(os.cpu_count()) as threads:
        for done, count in enumerate(threads.map(strip, starts), 1):
            empty += count
            progress(done / len(starts))
    return Rendered(out, empty)
