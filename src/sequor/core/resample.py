"""The resampling kernel: one pass from source pixels to output pixels.

Interpolation is by the Lanczos-windowed sinc with eight taps a side (Duchon,
"Lanczos filtering in one and two dimensions", 1979; Turkowski, "Filters for
common resampling tasks", 1990), from a table of 2048 sub-pixel phases whose
weights each sum to one. The loops are compiled by Numba and release the
interpreter lock, so strips of one picture can run on several threads.
"""

import math
from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray

TAPS = 8
PHASES = 2048
_BEFORE = TAPS // 2 - 1
_EDGE_PX = 1e-6

Pixels = NDArray[np.uint8] | NDArray[np.uint16]


def lanczos_table() -> NDArray[np.float32]:
    """Weights of the eight taps for every sub-pixel phase, shape (PHASES + 1, TAPS)."""
    offsets = np.arange(PHASES + 1)[:, None] / PHASES - (np.arange(TAPS) - _BEFORE)
    weights = np.sinc(offsets) * np.sinc(offsets / (TAPS / 2))
    weights[np.abs(weights) < 1e-12] = 0.0
    table: NDArray[np.float32] = (weights / weights.sum(axis=1, keepdims=True)).astype(np.float32)
    return table


WEIGHTS = lanczos_table()


@nb.njit(nogil=True, fastmath=True, cache=True, error_model="numpy")
def resample_strip(
    source: Any,
    width: int,
    height: int,
    channels: int,
    inverse: Any,
    lens: Any,
    bowed: bool,
    left: float,
    top: float,
    out: Any,
    out_width: int,
    first_row: int,
    last_row: int,
    across: Any,
    down: Any,
    highest: np.float32,
) -> int:
    """Fill rows [first_row, last_row) of ``out`` and count their empty pixels.

    Parameters
    ----------
    source, out : flat arrays of uint8 or uint16
        Pixels row by row, channels interleaved.
    width, height, channels : int
        Shape of the source.
    inverse : ndarray, shape (3, 3)
        Output plane to pixels of the straight picture.
    lens : ndarray, shape (8,)
        c1 to c4, the centre, half the diagonal and the radius at which the picture folds (see bow.py).
    bowed : bool
        Whether the lens has a bow; without one the straight picture is the source.
    left, top : float
        Where the output's top-left corner lies in the output plane.
    across : ndarray, shape (PHASES + 1, TAPS * channels)
        The weight table with every weight repeated for each channel.
    down : ndarray, shape (PHASES + 1, TAPS)
        The weight table.
    highest : float32
        Largest value of the pixel type.

    Returns
    -------
    int
        How many output pixels have their centre outside the source; they are left untouched.
    """
    # Unsigned indices keep Numba from adding a test for negative ones to every access.
    columns = np.empty(TAPS * channels, np.float32)
    count = np.uint64(TAPS * channels)
    stride = np.uint64(width * channels)
    target = np.uint64(first_row * out_width * channels)
    nothing = np.float32(0)
    empty = 0
    for row in range(first_row, last_row):
        py = row + 0.5 + top
        for column in range(out_width):
            px = column + 0.5 + left
            scale = 1.0 / (inverse[2, 0] * px + inverse[2, 1] * py + inverse[2, 2])
            x = (inverse[0, 0] * px + inverse[0, 1] * py + inverse[0, 2]) * scale
            y = (inverse[1, 0] * px + inverse[1, 1] * py + inverse[1, 2]) * scale
            if bowed:
                away_x = (x - lens[4]) / lens[6]
                away_y = (y - lens[5]) / lens[6]
                radius = math.sqrt(away_x * away_x + away_y * away_y)
                if radius >= lens[7]:
                    empty += 1
                    target += np.uint64(channels)
                    continue
                stretch = 1.0 + radius * (lens[0] + radius * (lens[1] + radius * (lens[2] + radius * lens[3])))
                x = lens[4] + away_x * stretch * lens[6]
                y = lens[5] + away_y * stretch * lens[6]
            if not (x >= -_EDGE_PX and y >= -_EDGE_PX and x <= width + _EDGE_PX and y <= height + _EDGE_PX and scale > 0):
                empty += 1
                target += np.uint64(channels)
                continue
            ix = math.floor(x - 0.5)
            iy = math.floor(y - 0.5)
            fx = np.uint64(int((x - 0.5 - ix) * PHASES + 0.5))
            fy = np.uint64(int((y - 0.5 - iy) * PHASES + 0.5))
            if ix >= _BEFORE and iy >= _BEFORE and ix + TAPS - _BEFORE <= width and iy + TAPS - _BEFORE <= height:
                r0 = np.uint64(((iy - _BEFORE) * width + ix - _BEFORE) * channels)
                r1 = r0 + stride
                r2 = r1 + stride
                r3 = r2 + stride
                r4 = r3 + stride
                r5 = r4 + stride
                r6 = r5 + stride
                r7 = r6 + stride
                w0 = down[fy, np.uint64(0)]
                w1 = down[fy, np.uint64(1)]
                w2 = down[fy, np.uint64(2)]
                w3 = down[fy, np.uint64(3)]
                w4 = down[fy, np.uint64(4)]
                w5 = down[fy, np.uint64(5)]
                w6 = down[fy, np.uint64(6)]
                w7 = down[fy, np.uint64(7)]
                # All eight rows in one expression: the compiler keeps the sums in vector registers.
                for i in range(count):
                    columns[i] = across[fx, i] * (
                        w0 * np.float32(source[r0 + i])
                        + w1 * np.float32(source[r1 + i])
                        + w2 * np.float32(source[r2 + i])
                        + w3 * np.float32(source[r3 + i])
                        + w4 * np.float32(source[r4 + i])
                        + w5 * np.float32(source[r5 + i])
                        + w6 * np.float32(source[r6 + i])
                        + w7 * np.float32(source[r7 + i])
                    )
            else:
                # Within four pixels of the border: the border pixel stands for what lies beyond it.
                for i in range(count):
                    columns[i] = nothing
                for j in range(TAPS):
                    line = min(max(iy - _BEFORE + j, 0), height - 1) * width
                    weight = down[fy, np.uint64(j)]
                    for t in range(TAPS):
                        at = (line + min(max(ix - _BEFORE + t, 0), width - 1)) * channels
                        for c in range(channels):
                            k = np.uint64(t * channels + c)
                            columns[k] += weight * across[fx, k] * np.float32(source[np.uint64(at + c)])
            for c in range(np.uint64(channels)):
                total = np.float32(0.5)
                for t in range(np.uint64(TAPS)):
                    total += columns[t * np.uint64(channels) + c]
                out[target + c] = min(max(total, nothing), highest)
            target += np.uint64(channels)
    return empty
