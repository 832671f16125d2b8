"""File -> upright pixels, with everything that has to survive until the export."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any, cast

import numpy as np
import pyvips

from sequor.core.errors import UnusableInput
from sequor.core.pixels import Pixels
from sequor.pictures.checksums import deflated_rows_are_sound
from sequor.pictures.inspect import DEFAULT_MAX_MEGAPIXELS, FileFacts, inspect

# libvips keeps recent operations; an original decoded once is not wanted again.
pyvips.cache_set_max(0)

_STRICTEST = {"JPEG": "warning"}
"""What a format's decoder is told to fail on. That of JPEG warns of broken data and goes on; those
of the others warn of harmless things too, such as unknown tags, and fail at broken data."""
_MOST_CHANNELS = 4
_LOOK_ROWS = 16


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
    """Read a picture file whole, as strictly as its format lets it be checked.

    Raises
    ------
    UnusableInput
        When `inspect` refuses the file, or it is truncated or damaged: it says how much of it
        could be read.
    """
    facts = inspect(path, name, max_megapixels, stored)
    name = name or path.name
    try:
        image = _opened(path, facts)
        pixels = as_pixels(image)
        profile = image.get("icc-profile-data") if image.get_typeof("icc-profile-data") else None
    except pyvips.Error as problem:
        raise UnusableInput(
            f"{name} is truncated or damaged: {_readable(path, facts)} rows can be read. "
            "Copy it from the camera or its card again."
        ) from problem
    if not stored and not deflated_rows_are_sound(path):
        raise UnusableInput(
            f"{name} is damaged: some of its rows are not what was written, by their checksums. "
            "Copy it from the camera or its card again."
        )
    if pixels.dtype not in (np.uint8, np.uint16):
        raise UnusableInput(
            f"{name} holds {image.format} pixels; Sequor reads 8 and 16 bits per channel."
        )
    if pixels.shape[2] > _MOST_CHANNELS:
        raise UnusableInput(
            f"{name} holds {pixels.shape[2]} channels; Sequor reads grey and RGB, with or without "
            "transparency. Flatten it first."
        )
    pixels = upright(pixels, facts.orientation)
    if pixels.shape[:2] != (facts.height, facts.width):
        raise UnusableInput(
            f"{name} is damaged: it claims {facts.width} x {facts.height} pixels and holds "
            f"{pixels.shape[1]} x {pixels.shape[0]}."
        )
    return Picture(facts, pixels, profile)


def _opened(path: Path, facts: FileFacts) -> Any:
    fail_on = _STRICTEST.get(facts.format, "error")
    return pyvips.Image.new_from_file(str(path), access="sequential", fail_on=fail_on)


def _readable(path: Path, facts: FileFacts) -> str:
    """How many of the rows of a damaged file can be read, such as ``1,200 of 4,000``."""
    done, height = 0, facts.height
    try:
        image = _opened(path, facts)
        height, region = image.height, pyvips.Region.new(image)
        while done < height:
            rows = min(_LOOK_ROWS, height - done)
            region.fetch(0, done, image.width, rows)
            done += rows
    except pyvips.Error:
        pass
    return f"{done:,} of {height:,}"


def as_pixels(image: pyvips.Image) -> Pixels:
    """The pixels of a libvips image, shape (height, width, channels) however small it is."""
    pixels: Pixels = image.numpy().reshape(image.height, image.width, image.bands)
    return pixels


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
