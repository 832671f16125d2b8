"""File -> upright pixels, with everything that has to survive until the export."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any, cast

import numpy as np
import pyvips
import simplejpeg

from sequor.core.errors import UnusableInput
from sequor.core.pixels import Pixels
from sequor.pictures.checksums import deflated_rows_are_sound
from sequor.pictures.inspect import DEFAULT_MAX_MEGAPIXELS, FileFacts, inspect

# libvips keeps recent operations; an original decoded once is not wanted again.
pyvips.cache_set_max(0)

_STRICT, _LENIENT = "error", "none"
"""What libvips is told to fail on: warnings, such as of unknown tags, are harmless, but in JPEG,
which has a reader of its own here."""
_END_OF_IMAGE = b"\xff\xd9"
"""The marker EOI (ITU-T T.81, table B.1)."""
_MOST_CHANNELS = 4
_BYTES = {"uchar": 1, "char": 1, "ushort": 2, "short": 2, "uint": 4, "int": 4, "float": 4}
_LOOK_ROWS = 16


class Damaged(UnusableInput):
    """A picture that can be read in part: not taken in unless it is wanted so; ``how`` says what is
    wrong with it.
    """

    def __init__(self, name: str, how: str) -> None:
        super().__init__(
            f"{name} is truncated or damaged: {how}. Copy it from the camera or its card again; if "
            "there is no better copy, it can be taken in as it is."
        )
        self.name, self.how = name, how

    def __reduce__(self) -> tuple[type["Damaged"], tuple[str, str]]:
        return Damaged, (self.name, self.how)


@dataclass(frozen=True)
class DecodedPicture:
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
    damaged: bool = False,
) -> DecodedPicture:
    """Read a picture file whole, as strictly as its format lets it be checked.

    Parameters
    ----------
    path, name, max_megapixels, stored
        See `inspect`. A stored original was checked when it came in, and is known by its hash:
        what was taken in is read again, whatever it is.
    damaged : bool
        Read what can be read of a damaged file; what cannot is what the decoder leaves there.

    Raises
    ------
    UnusableInput
        When `inspect` refuses the file, or it is truncated or damaged: it says how much of it
        could be read.
    """
    facts = inspect(path, name, max_megapixels, stored)
    name = name or path.name
    lenient = stored or damaged
    try:
        image = _opened(path, _LENIENT if lenient else _STRICT)
        profile = image.get("icc-profile-data") if image.get_typeof("icc-profile-data") else None
        strictly = facts.format == "JPEG" and not lenient
        pixels = _strict_jpeg(path) if strictly else as_pixels(image)
    except (pyvips.Error, ValueError) as problem:
        if damaged:
            raise UnusableInput(
                f"{name} is so damaged that nothing of it can be read as a picture."
            ) from problem
        raise Damaged(
            name, f"{_readable(path, facts)} rows can be read without a fault"
        ) from problem
    if not lenient and not deflated_rows_are_sound(path):
        raise Damaged(name, "some of its rows are not what was written, by their checksums")
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
    return DecodedPicture(facts, pixels, profile)


def claimed_bytes(path: Path, facts: FileFacts, name: str) -> int:
    """Bytes that the pixels of a file will take, by its header.

    Raises
    ------
    UnusableInput
        When the header cannot be read.
    """
    try:
        image = _opened(path, _LENIENT)
    except pyvips.Error as problem:
        raise UnusableInput(f"{name} is damaged and cannot be read as a picture.") from problem
    return facts.width * facts.height * int(image.bands) * _BYTES.get(image.format, 8)


def _opened(path: Path, fail_on: str) -> Any:
    return pyvips.Image.new_from_file(str(path), access="sequential", fail_on=fail_on)


def _strict_jpeg(path: Path) -> Pixels:
    """The pixels of a JPEG without a single warning of its decoder, to the end of its last scan.

    Broken data show at the latest there, in bytes that are left over. Zeros before the end marker,
    with which some cameras fill up their files, are none.

    Raises
    ------
    ValueError
        When there was a warning.
    """
    content = path.read_bytes()
    try:
        return _whole_jpeg(content)
    except ValueError:
        end = content.rfind(_END_OF_IMAGE)
        filled_up = content[:end].rstrip(b"\0")
        if end < 0 or len(filled_up) == end:
            raise
        return _whole_jpeg(filled_up + _END_OF_IMAGE)


def _whole_jpeg(content: bytes) -> Pixels:
    grey = simplejpeg.decode_jpeg_header(content)[2] == "Gray"
    pixels: Pixels = simplejpeg.decode_jpeg(content, "GRAY" if grey else "RGB", strict=True)
    return pixels


def _readable(path: Path, facts: FileFacts) -> str:
    """How many of the rows of a damaged file can be read, such as ``1,200 of 4,000``."""
    done, height = 0, facts.height
    try:
        image = _opened(path, "warning" if facts.format == "JPEG" else _STRICT)
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
