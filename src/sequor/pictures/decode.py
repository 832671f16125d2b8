"""File -> upright pixels, with everything that has to survive until the export."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, NamedTuple, cast

import numpy as np
import pyvips
import simplejpeg
from numpy.typing import NDArray
from PIL import Image

from sequor.core.errors import UnusableInput
from sequor.core.language import english, tr
from sequor.core.pixels import Pixels
from sequor.core.retelling import retold
from sequor.core.white import Chromaticity
from sequor.pictures.checksums import deflated_rows_are_sound
from sequor.pictures.floating import FloatPicture, exr_numbers, float_picture
from sequor.pictures.formats import RAW, Unsuited
from sequor.pictures.inspect import DEFAULT_MAX_MEGAPIXELS, FileFacts, inspect, profile_name
from sequor.pictures.jxl import jxl_pixels
from sequor.pictures.orientation import upright
from sequor.pictures.profiles import WIDE, WIDE_FILE
from sequor.pictures.raw import develop

# libvips keeps recent operations; an original decoded once is not wanted again.
pyvips.cache_set_max(0)

_STRICT, _LENIENT = "error", "none"
"""What libvips is told to fail on: warnings, such as of unknown tags, are harmless, but in JPEG,
which has a reader of its own here."""
_END_OF_IMAGE = b"\xff\xd9"
"""The marker EOI (ITU-T T.81, table B.1)."""
_MOST_CHANNELS = 4
_BYTES = {"uchar": 1, "char": 1, "ushort": 2, "short": 2, "uint": 4, "int": 4, "float": 4}
_MOST_BYTES = {"OpenEXR": 16, "JPEG XL": 16, "GIF": 4, "DNG": 6, "Raw": 6}
"""A pixel takes at most, where only decoding tells; 8 otherwise."""
_LOOK_ROWS = 16
_BY_VIPS = ("JPEG", "PNG", "TIFF", "WebP", "AVIF", "GIF")


class Damaged(UnusableInput):
    """A picture that can be read in part: not taken in unless it is wanted so; ``how`` says what is
    wrong with it.
    """

    def __init__(self, name: str, how: str) -> None:
        super().__init__(name, how)
        self.name, self.how = name, how

    def __str__(self) -> str:
        return tr(
            "{name} is truncated or damaged: {how}. Copy it from the camera or its card again; if "
            "there is no better copy, it can be taken in as it is.",
            name=self.name,
            how=retold(self.how),
        )

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
    floats : FloatPicture or None
        The file's own numbers, where it holds floating-point ones; ``pixels`` are their version of
        16 bits.
    """

    facts: FileFacts
    pixels: Pixels
    profile: bytes | None
    floats: FloatPicture | None = None

    @property
    def bits(self) -> int:
        """Bits per channel: 8 or 16, or 32 of floating-point numbers."""
        return 32 if self.floats else 8 * self.pixels.dtype.itemsize


def decode(
    path: Path,
    name: str | None = None,
    max_megapixels: float = DEFAULT_MAX_MEGAPIXELS,
    stored: bool = False,
    damaged: bool = False,
    white: Chromaticity | None = None,
) -> DecodedPicture:
    """Read a picture file whole, as strictly as its format lets it be checked.

    Parameters
    ----------
    path, name, max_megapixels, stored
        See `inspect`. A stored original was checked when it came in, and is known by its hash:
        what was taken in is read again, whatever it is.
    white : tuple of float, optional
        The light that a raw file is developed for, unless it is what its camera chose.
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
    try:
        raster = _raster(path, facts, stored or damaged, white)
    except Unsuited as problem:
        raise UnusableInput(f"{name} {problem}") from problem
    except MemoryError:
        raise
    except Exception as problem:  # a file can be damaged in any way, and decoders say it in theirs
        if damaged:
            raise UnusableInput(
                tr("{name} is so damaged that nothing of it can be read as a picture.", name=name)
            ) from problem
        raise Damaged(name, _how_damaged(path, facts)) from problem
    if not (stored or damaged) and not deflated_rows_are_sound(path):
        raise Damaged(
            name, english("some of its rows are not what was written, by their checksums")
        )
    return _upright_picture(raster, facts, name)


def first_look(
    path: Path,
    name: str,
    max_megapixels: float,
    edge: int,
    stored: bool = False,
    white: Chromaticity | None = None,
) -> DecodedPicture:
    """The same for the screen, whose longer side has ``edge`` pixels: a raw file is developed at
    half its size where that is enough. ``facts`` are those of the whole picture.
    """
    facts = inspect(path, name, max_megapixels, stored)
    if facts.format not in RAW or max(facts.width, facts.height) < 2 * edge:
        return decode(path, name, max_megapixels, stored, white=white)
    try:
        pixels = develop(path, half=True, white=white)
    except Unsuited as problem:
        raise UnusableInput(f"{name} {problem}") from problem
    except MemoryError:
        raise
    except Exception as problem:  # LibRaw says it in its own ways
        raise Damaged(name, _how_damaged(path, facts)) from problem
    facts = replace(facts, profile=profile_name(WIDE))
    return DecodedPicture(facts, upright(pixels, facts.orientation), WIDE)


class _Raster(NamedTuple):
    """Pixels as stored, with their profile; numbers beside them where they are of those."""

    pixels: Pixels
    profile: bytes | None
    floats: FloatPicture | None = None


def _raster(path: Path, facts: FileFacts, lenient: bool, white: Chromaticity | None) -> _Raster:
    """The picture of a file as stored.

    Raises
    ------
    Unsuited
        When it holds what is no picture here.
    Exception
        Of any kind, when it is damaged.
    """
    if facts.format in _BY_VIPS:
        return _by_vips(path, facts, lenient)
    if facts.format in RAW:
        return _Raster(develop(path, white=white), WIDE)
    return _READERS[facts.format](path)


def _by_vips(path: Path, facts: FileFacts, lenient: bool) -> _Raster:
    if "lab" in facts.remarks:
        return _of_lab(path)
    image = _opened(path, _LENIENT if lenient else _STRICT)
    profile = image.get("icc-profile-data") if image.get_typeof("icc-profile-data") else None
    if image.interpretation == "cmyk":
        # Broken data of a JPEG are only warned of, where its own strict reader reads no inks.
        strictly = facts.format == "JPEG" and not lenient
        return _of_inks(_opened(path, "warning") if strictly else image)
    if facts.format == "JPEG" and not lenient:
        return _Raster(_strict_jpeg(path), profile)
    if image.format in ("float", "double"):
        numbers = as_pixels(image).astype(np.float32, copy=False)
        return _of_numbers(numbers, profile)
    deep = image.get_typeof("heif-bitdepth") != 0
    depth = int(image.get("heif-bitdepth")) if deep else 8
    return _Raster(_stretched(as_pixels(image), depth), profile)


def _stretched(pixels: Pixels, depth: int) -> Pixels:
    """Pixels of ``depth`` bits that a decoder shifted to sixteen, so that white is white: the high
    bits stand once more where nothing was.
    """
    if pixels.dtype != np.uint16 or not 8 < depth < 16:
        return pixels
    return cast(Pixels, pixels | (pixels >> depth))


def _of_inks(image: pyvips.Image) -> _Raster:
    """Inks as colours of the wide profile in 16 bits."""
    made = image.icc_transform(
        str(WIDE_FILE), embedded=True, input_profile="cmyk", intent="relative", depth=16
    )
    return _Raster(as_pixels(made)[:, :, :3], WIDE)


def _of_lab(path: Path) -> _Raster:
    """CIE L*a*b* in 8 bits (TIFF 6.0, section 23) as colours of the wide profile in 16."""
    with Image.open(path) as picture:
        coded = np.asarray(picture)
    aside = coded[..., 1:].astype(np.int8)
    lab = np.concatenate([coded[..., :1] / np.float32(2.55), aside], axis=-1).astype(np.float32)
    height, width, bands = lab.shape
    image = pyvips.Image.new_from_memory(np.ascontiguousarray(lab), width, height, bands, "float")
    image = image.copy(interpretation="lab")
    made = image.icc_export(output_profile=str(WIDE_FILE), depth=16, intent="relative")
    return _Raster(as_pixels(made), WIDE)


def _of_numbers(numbers: NDArray[np.float32], profile: bytes | None) -> _Raster:
    floats = float_picture(numbers, profile)
    return _Raster(floats.shown(), profile if floats.white is None else None, floats)


def _heic(path: Path) -> _Raster:
    import pillow_heif

    picture = pillow_heif.open_heif(path, convert_hdr_to_8bit=False)
    pixels = np.asarray(picture)
    pixels = pixels.reshape(*pixels.shape[:2], -1)
    depth = int(picture.info.get("bit_depth", 8))
    return _Raster(_stretched(pixels, depth), picture.info.get("icc_profile"))


def _jxl(path: Path) -> _Raster:
    pixels, profile = jxl_pixels(path)
    if pixels.dtype.kind == "f":
        return _of_numbers(pixels.astype(np.float32), profile)
    return _Raster(cast(Pixels, pixels), profile)


def _jp2(path: Path) -> _Raster:
    import imagecodecs

    pixels = np.asarray(imagecodecs.jpeg2k_decode(path.read_bytes()))
    with Image.open(path) as picture:
        profile = picture.info.get("icc_profile")
    return _Raster(pixels.reshape(*pixels.shape[:2], -1), profile)


def _bmp(path: Path) -> _Raster:
    with Image.open(path) as picture:
        plain = picture.convert("RGB") if picture.mode in ("P", "1") else picture
        pixels = np.asarray(plain)
    return _Raster(pixels.reshape(*pixels.shape[:2], -1), None)


_READERS: dict[str, Callable[[Path], _Raster]] = {
    "HEIC": _heic,
    "JPEG XL": _jxl,
    "JP2": _jp2,
    "BMP": _bmp,
    "OpenEXR": lambda path: _of_numbers(exr_numbers(path), None),
}


def _upright_picture(raster: _Raster, facts: FileFacts, name: str) -> DecodedPicture:
    """What was read, set upright, if it is what the header said and can be worked with."""
    pixels = raster.pixels
    if pixels.dtype not in (np.uint8, np.uint16):
        raise UnusableInput(
            tr(
                "{name} holds {dtype} pixels; Sequor reads 8 and 16 bits per channel, and "
                "floating-point numbers of 32.",
                name=name,
                dtype=pixels.dtype,
            )
        )
    if pixels.shape[2] > _MOST_CHANNELS:
        raise UnusableInput(
            tr(
                "{name} holds {shape} channels; Sequor reads grey and RGB, with or without "
                "transparency. Flatten it first.",
                name=name,
                shape=pixels.shape[2],
            )
        )
    pixels = upright(pixels, facts.orientation)
    if pixels.shape[:2] != (facts.height, facts.width):
        raise UnusableInput(
            tr(
                "{name} is damaged: it claims {width} x {height} pixels and holds {shape} "
                "x {shape2}.",
                name=name,
                width=facts.width,
                height=facts.height,
                shape=pixels.shape[1],
                shape2=pixels.shape[0],
            )
        )
    floats = raster.floats
    if floats:
        numbers = upright(cast(Pixels, floats.numbers), facts.orientation)
        floats = replace(floats, numbers=cast(NDArray[np.float32], numbers))
    facts = replace(facts, profile=profile_name(raster.profile))
    return DecodedPicture(facts, pixels, raster.profile, floats)


def _how_damaged(path: Path, facts: FileFacts) -> str:
    if facts.format not in _BY_VIPS:
        return english("its decoder stopped")
    return english("{readable} rows can be read without a fault", readable=_readable(path, facts))


def claimed_bytes(path: Path, facts: FileFacts, name: str) -> int:
    """Bytes that the pixels of a file will take, by its header.

    Raises
    ------
    UnusableInput
        When the header cannot be read.
    """
    if facts.format not in _BY_VIPS:
        return facts.width * facts.height * _MOST_BYTES.get(facts.format, 8)
    try:
        image = _opened(path, _LENIENT)
    except pyvips.Error as problem:
        raise UnusableInput(
            tr("{name} is damaged and cannot be read as a picture.", name=name)
        ) from problem
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
    return english("{done:,} of {height:,}", done=done, height=height)


def as_pixels(image: pyvips.Image) -> Pixels:
    """The pixels of a libvips image, shape (height, width, channels) however small it is."""
    pixels: Pixels = image.numpy().reshape(image.height, image.width, image.bands)
    return pixels
