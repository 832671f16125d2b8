"""The picture made small and grey, in which is looked for what the original then tells exactly."""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sequor.core.pixels import Pixels

EDGE_PX = 1400
"""The longer side of a small picture: more costs time and finds more texture, not more walls."""


@dataclass(frozen=True)
class Small:
    """A small grey picture, shape (h, w), uint8, each pixel of it so many source pixels wide."""

    grey: Pixels
    times: float


def made_small(pixels: Pixels, edge_px: int = EDGE_PX) -> Small:
    """A picture, shape (height, width, channels), uint8 or uint16, reduced by areas."""
    height, width, channels = pixels.shape
    times = max(1.0, max(height, width) / edge_px)
    size = max(1, round(width / times)), max(1, round(height / times))
    reduced: NDArray[Any] = (
        cv2.resize(pixels, size, interpolation=cv2.INTER_AREA) if times > 1 else pixels
    )
    if reduced.dtype != np.uint8:
        reduced = reduced >> 8
    reduced = reduced.reshape(*reduced.shape[:2], -1)
    colours = 3 if channels >= 3 else 1
    grey = reduced[:, :, :colours].astype(np.float32).mean(axis=2)
    return Small(np.round(grey).astype(np.uint8), width / size[0])
