"""File -> upright pixels, with everything that has to survive until the export."""

from dataclasses import dataclass
from pathlib import Path
from typing import cast

import numpy as np
import pyvips

from sequor.core.errors import UnusableInput
from sequor.core.pixels import Pixels
from sequor.pictures.inspect import DEFAULT_MAX_MEGAPIXELS, FileFacts, inspect

# libvips keeps recent operations; an original decoded once is not wanted again.
pyvips.cache_set_max(0)

_FORMATS = {"uchar": 8, "ushort": 16}


@dataclass(frozen=True)
class Picture:
    """An upright picture in memory.

    Attributes
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        One to four channels: grey or RGB, each with or without alpha.
    profile : bytes or None
        Its ICC profile.
    """

    facts: FileFacts
    pixels: Pixels
    profile: bytes | None

    @property
    def bits(self) -> int:
        """Bits per channel, 8 or 16."""
        return 8 * self.pixels.dtype.itemsize


def decode(
    path: Path,
    name: str | None = None,
    max_megapixels: float = DEFAULT_MAX_MEGAPIXELS,
    stored: bool = False,
) -> Picture:
    """Read a picture file whole.

    Raises
    ------
    UnusableInput
        When `inspect` refuses the file, or it is truncated or damaged.
    """
    facts = inspect(path, name, max_megapixels, stored)
    name = name or path.name
    try:
        image = pyvips.Image.new_from_file(str(path), access="sequential", fail_on="truncated")
        pixels = image.numpy()
        profile = image.get("icc-profile-data") if image.get_typeof("icc-profile-data") else None
    except pyvips.Error as problem:
        raise UnusableInput(
            f"{name} is truncated or damaged: its pixels cannot be read to the end."
        ) from problem
    if pixels.dtype not in (np.uint8, np.uint16):
        raise UnusableInput(
            f"{name} holds {image.format} pixels; Sequor reads 8 and 16 bits per channel."
        )
    if pixels.ndim == 2:
        pixels = pixels[:, :, np.newaxis]
    return Picture(facts, upright(pixels, facts.orientation), profile)


def upright(pixels: Pixels, orientation: int) -> Pixels:
    """Apply an orientation value, 1 to 8 (Exif, CIPA DC-008), so that the picture stands as it
    was taken.
    """
    if orientation >= 5:
        pixels = pixels.transpose(1, 0, 2)
    if orientation in (2, 3, 6, 7):
        pixels = pixels[:, ::-1]
    if orientation in (3, 4, 7, 8):
        pixels = pixels[::-1]
    return cast(Pixels, np.ascontiguousarray(pixels))
