"""Pixels -> file, in one of the formats of `FORMATS`, with the original's profile and metadata.

Whole or not at all.
"""

import os
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal, NamedTuple

import numpy as np
import pyvips
from numpy.typing import NDArray
from PIL import Image

from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr
from sequor.core.pixels import Pixels
from sequor.core.print_size import MAX_OUTPUT_SIDE
from sequor.core.render.light import Light
from sequor.core.render.size import MM_PER_INCH
from sequor.pictures.decode import DecodedPicture, as_pixels
from sequor.pictures.floating import Numbers, write_exr
from sequor.pictures.formats import RAW
from sequor.pictures.metadata import Facts, Filled, Metadata, carry_over
from sequor.pictures.profiles import light_of

Bits = Literal[8, 16, 32]
Format = Literal["jpeg", "png", "tiff", "webp", "avif", "jxl", "exr"]
EXTENSIONS: dict[str, Format] = {
    ".jpg": "jpeg",
    ".jpeg": "jpeg",
    ".png": "png",
    ".tif": "tiff",
    ".tiff": "tiff",
    ".webp": "webp",
    ".avif": "avif",
    ".jxl": "jxl",
    ".exr": "exr",
}


@dataclass(frozen=True)
class AboutFormat:
    """A file format: its name, media type and ending, and what it can hold.

    ``lossy`` ones have a quality, ``depths`` are the bits per channel that there can be (32 are
    floating-point numbers), ``transparent`` ones take alpha; ``max_side`` is the format's own limit
    in pixels.
    """

    label: str
    media_type: str
    suffix: str
    lossy: bool
    depths: tuple[Bits, ...]
    transparent: bool
    max_side: int = MAX_OUTPUT_SIDE

    def depth_of(self, bits: int) -> Bits:
        """The bits per channel that pixels of so many get: as many, as far as it can."""
        return max((one for one in self.depths if one <= bits), default=self.depths[0])

    def choices_of(self, bits: int) -> tuple[Bits, ...]:
        """The depths that there are to choose from for an original of so many bits: numbers are
        not made of whole ones.
        """
        return tuple(one for one in self.depths if one <= max(bits, _WHOLE_BITS))


FORMATS: dict[Format, AboutFormat] = {
    "jpeg": AboutFormat("JPEG", "image/jpeg", ".jpg", True, (8,), False, 65535),
    "png": AboutFormat(mark("PNG, lossless"), "image/png", ".png", False, (8, 16), True),
    "tiff": AboutFormat(mark("TIFF, lossless"), "image/tiff", ".tif", False, (8, 16, 32), True),
    "webp": AboutFormat("WebP", "image/webp", ".webp", True, (8,), True, 16383),
    "avif": AboutFormat("AVIF", "image/avif", ".avif", True, (8,), True, 65536),
    "jxl": AboutFormat("JPEG XL", "image/jxl", ".jxl", True, (8,), True),
    "exr": AboutFormat(mark("OpenEXR, lossless"), "image/x-exr", ".exr", False, (32,), True),
}
MEDIA_TYPES: dict[Format, str] = {name: about.media_type for name, about in FORMATS.items()}
SUFFIXES: dict[Format, str] = {name: about.suffix for name, about in FORMATS.items()}
Chroma = Literal["auto", "full", "half"]
Packing = Literal["deflate", "lzw", "none"]
CHROMA_NAMES: dict[Chroma, str] = {
    "auto": mark("By the quality"),
    "full": mark("At full resolution"),
    "half": mark("At half of it"),
}
PACKING_NAMES: dict[Packing, str] = {"deflate": "Deflate", "lzw": "LZW", "none": mark("Not packed")}
MAX_SHARPEN = 200
DEFAULT_QUALITY = 95
_WHOLE_BITS = 16
"""Whole numbers have at most so many."""
_LOSSLESS = 100
"""The quality from which on JPEG XL loses nothing."""
_FULL_CHROMA_FROM = 90
_STRIP_ROWS = 128
"""From this quality on colour is kept at full resolution."""
_DITHER_SEED, _UNDER_ONE = 1, np.float32(1 - 2**-16)
_AVIF_SPEED = 8
"""Of 10: below it a 24-megapixel file takes minutes."""
_BANDS = {
    "uint8": ("uchar", "b-w", "srgb"),
    "uint16": ("ushort", "grey16", "rgb16"),
    "uint32": ("uint", "multiband", "multiband"),
    "float32": ("float", "b-w", "scrgb"),
}


@dataclass(frozen=True)
class FileChoice:
    """How a file is written.

    Attributes
    ----------
    quality : int
        Of the lossy formats, 1 to 100.
    bits : int or None
        Per channel, 8, 16 or 32; None as in the original, as far as the format can. 32 are
        floating-point numbers, of an original that has them and in a format that takes them.
    srgb : bool
        Convert to sRGB instead of keeping the profile.
    metadata : str
        ``all``, ``no_place`` (all but where it was taken) or ``none``.
    ppi : float or None
        Resolution to write, in pixels per inch; None keeps the original's.
    chroma : str
        Of a JPEG: ``full`` keeps colour at full resolution, ``half`` at half of it, ``auto`` does
        the one from quality 90 on and the other below.
    progressive : bool
        Of a JPEG: coarse first, and a little smaller.
    packing : str
        Of a TIFF: ``deflate``, ``lzw`` or ``none``; all are lossless.
    linear : bool
        Mix pixels as light where the picture gets smaller (`core.render.light`).
    sharpen : int
        Per cent of `core.render.sharpen`; 0 leaves it out.
    inks : bool
        Of a TIFF of an original of inks (CMYK): it stays one.
    """

    format: Format
    quality: int = DEFAULT_QUALITY
    bits: Bits | None = None
    srgb: bool = False
    metadata: Metadata = "all"
    ppi: float | None = None
    chroma: Chroma = "auto"
    progressive: bool = False
    packing: Packing = "deflate"
    linear: bool = True
    sharpen: int = 0
    inks: bool = False


class Own(NamedTuple):
    """Corrected values of the original's own kind, floating-point numbers or inks, and the profile
    that says what they stand for.
    """

    values: NDArray[Any]
    profile: bytes | None


def encode(
    pixels: Pixels,
    original: DecodedPicture,
    source: Path,
    target: Path,
    choice: FileChoice,
    filled: Filled | None = None,
    own: Own | None = None,
) -> None:
    """Write the corrected pixels of a picture.

    The file appears under its name only when it is complete. JPEG takes 8 bits and no alpha (laid
    on white); WebP, AVIF and JPEG XL take 8 bits and keep alpha; PNG and TIFF keep 16 bits and
    alpha; OpenEXR takes floating-point numbers, and so does TIFF. Sixteen bits become eight with a
    little noise, so that soft skies do not band. JPEG XL is written in sRGB: the library that
    writes it takes no profile, and says of 16 bits that they are linear light.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels)
    original : DecodedPicture
        Where the profile and the resolution come from.
    source : Path
        The original's file, where the metadata come from.
    target : Path
        The file to write; an existing one is replaced.
    filled : Filled, optional
        What was filled in, which the metadata say whatever else they keep.
    own : Own, optional
        What is written instead of the pixels, for a file that takes it.

    Raises
    ------
    UnusableInput
        When the format cannot hold the picture, or the file cannot be written.
    """
    format = choice.format
    height, width, _ = pixels.shape
    _check_sides(format, max(width, height))
    written, profile = _as_written(pixels, original, choice, own)
    ppi = choice.ppi or original.facts.ppi
    prefix, suffix = f".partial-{target.stem}-", SUFFIXES[format]
    handle, name = tempfile.mkstemp(dir=target.parent, prefix=prefix, suffix=suffix)
    os.close(handle)
    partial = Path(name)
    try:
        if format in ("webp", "avif"):
            _save_with_pillow(written, partial, choice, profile)
        elif format == "jxl":
            _save_jxl(written, partial, choice)
        elif format == "exr":
            write_exr(partial, written, filled.words if filled else "")
        else:
            image = as_image(written, "cmyk" if own and written.dtype.kind == "u" else None)
            _save_with_vips(image, partial, choice, profile, ppi)
        carry_over(source, partial, Facts(width, height, ppi), choice.metadata, filled)
        _settle(partial, target)
    except (pyvips.Error, OSError, RuntimeError) as problem:  # the last of two encoders
        reason = tr("the disk may be full")
        if isinstance(problem, OSError) and problem.strerror:
            reason = problem.strerror
        raise UnusableInput(
            tr(
                "{name} could not be written: {reason}. No file was left behind.",
                name=target.name,
                reason=reason,
            )
        ) from problem
    finally:
        partial.unlink(missing_ok=True)


def _check_sides(format: Format, longer: int) -> None:
    longest = FORMATS[format].max_side
    if longer > longest:
        said = mark("A {kind} cannot be wider or higher than {longest} pixels; use TIFF.")
        raise UnusableInput(tr(said, kind=format.upper(), longest=longest))


def _settle(partial: Path, target: Path) -> None:
    """Give a finished file its name, once it is safely on the disk."""
    umask = os.umask(0o077)
    os.umask(umask)
    os.chmod(partial, 0o666 & ~umask)
    with partial.open("rb") as file:
        os.fsync(file.fileno())
    os.replace(partial, target)
    folder = os.open(target.parent, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)


def _save_with_vips(
    image: pyvips.Image, path: Path, choice: FileChoice, profile: bytes | None, ppi: float | None
) -> None:
    if ppi:
        image = image.copy(xres=ppi / MM_PER_INCH, yres=ppi / MM_PER_INCH)
    if profile:
        image = image.copy()
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
    if choice.format == "jpeg":
        full = choice.quality >= _FULL_CHROMA_FROM if choice.chroma == "auto" else False
        subsampled = "off" if full or choice.chroma == "full" else "on"
        image.jpegsave(
            str(path),
            Q=choice.quality,
            subsample_mode=subsampled,
            interlace=choice.progressive,
            optimize_coding=choice.progressive,
        )
    elif choice.format == "png":
        image.pngsave(str(path), compression=6)
    else:
        predictor = "float" if image.format == "float" else "horizontal"
        image.tiffsave(str(path), compression=choice.packing, predictor=predictor, resunit="inch")


def _save_with_pillow(
    pixels: NDArray[Any], path: Path, choice: FileChoice, profile: bytes | None
) -> None:
    """WebP and AVIF; grey becomes colour, which both formats hold everything in."""
    shown = np.ascontiguousarray(pixels.astype(np.uint8, copy=False))
    if shown.shape[2] < 3:
        shown = np.concatenate([np.repeat(shown[:, :, :1], 3, axis=2), shown[:, :, 1:]], axis=2)
        profile = None  # a grey profile does not describe colour
    options: dict[str, Any] = {"quality": choice.quality}
    options |= {"method": 4} if choice.format == "webp" else {"speed": _AVIF_SPEED}
    if choice.format == "avif" and choice.quality >= _FULL_CHROMA_FROM:
        options["subsampling"] = "4:4:4"
    options |= {"icc_profile": profile} if profile else {}
    Image.fromarray(shown).save(path, format=choice.format.upper(), **options)


def _save_jxl(pixels: NDArray[Any], path: Path, choice: FileChoice) -> None:
    """JPEG XL, in a container that takes metadata."""
    import imagecodecs

    plain = pixels if pixels.shape[2] != 1 else pixels[:, :, 0]
    lossless = choice.quality >= _LOSSLESS
    path.write_bytes(
        imagecodecs.jpegxl_encode(
            np.ascontiguousarray(plain),
            lossless=lossless,
            distance=None if lossless else (100 - choice.quality) / 10,
            usecontainer=True,
        )
    )


def takes_numbers(choice: FileChoice, original: DecodedPicture) -> bool:
    """Whether a file is written with the floating-point numbers of its original."""
    if original.floats is None:
        return False
    if choice.format == "exr":
        return True
    return choice.format == "tiff" and choice.bits in (None, 32)


def takes_inks(choice: FileChoice, original: DecodedPicture) -> bool:
    """Whether a file is written with inks, as its original is."""
    return choice.inks and choice.format == "tiff" and "inks" in original.facts.remarks


def _as_written(
    pixels: Pixels, original: DecodedPicture, choice: FileChoice, own: Own | None
) -> tuple[NDArray[Any], bytes | None]:
    """The values that a file gets, and their profile."""
    format, profile = choice.format, original.profile
    if own is not None:
        return _in_depth(own.values, choice), own.profile
    if format == "exr":
        return _linear(pixels, profile), None
    eight = max(FORMATS[format].depths) == 8 or choice.bits == 8
    # What was developed here has no colours of its own to keep, and 8 bits are few for wide ones.
    developed = original.facts.format in RAW and eight
    if choice.srgb or developed or format == "jxl":
        pixels, profile = in_srgb(pixels, profile)
    pixels = _in_depth(pixels, replace(choice, bits=8) if eight else choice)
    if format == "jpeg":
        pixels = on_white(pixels.astype(np.uint8, copy=False))
    return pixels, profile


def _in_depth(values: NDArray[Any], choice: FileChoice) -> NDArray[Any]:
    """Whole numbers in the bits that a file is to have; floating-point ones as they are."""
    if choice.bits == 8 and values.dtype == np.uint16:
        return dithered(values)
    if choice.bits == 16 and values.dtype == np.uint8:
        return values.astype(np.uint16) * 257
    return values


def _linear(pixels: Pixels, profile: bytes | None) -> Numbers:
    """Pixels as light, in the colours of sRGB, as OpenEXR has them unless it says otherwise."""
    made, _ = in_srgb(pixels, profile)
    return Light(light_of(None, made.shape[2])).of(made)


def in_srgb(pixels: Pixels, profile: bytes | None) -> tuple[Pixels, bytes | None]:
    """Pixels converted from their profile to sRGB (IEC 61966-2-1), at the same bit depth, and the
    profile of sRGB.

    Pixels without a profile are taken to be sRGB already.
    """
    if not profile:
        return pixels, None
    image = as_image(pixels).copy()
    image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
    try:
        image = image.icc_transform(
            "srgb", embedded=True, intent="relative", depth=8 * pixels.dtype.itemsize
        )
        made = as_pixels(image)
    except pyvips.Error as problem:
        raise UnusableInput(
            tr(
                "The colour profile of this picture cannot be read, so it cannot be "
                "converted to sRGB; keep it."
            )
        ) from problem
    return made, image.get("icc-profile-data")


def as_image(pixels: NDArray[Any], interpretation: str | None = None) -> pyvips.Image:
    """The pixels as a libvips image, without a copy; grey or RGB unless they are said to be
    something else.
    """
    height, width, channels = pixels.shape
    kind, grey, colour = _BANDS[pixels.dtype.name]
    image = pyvips.Image.new_from_memory(
        np.ascontiguousarray(pixels), width, height, channels, kind
    )
    return image.copy(interpretation=interpretation or (grey if channels < 3 else colour))


def to_8_bits(pixels: Pixels) -> NDArray[np.uint8]:
    """Pixels scaled to 8 bits, rounded to the nearest value."""
    if pixels.dtype == np.uint8:
        return pixels.astype(np.uint8, copy=False)
    made = np.empty(pixels.shape, np.uint8)
    for strip, out in _strips(pixels, made):
        out[:] = (strip.astype(np.uint32) * 255 + 32767) // 65535
    return made


def dithered(pixels: Pixels) -> NDArray[np.uint8]:
    """Pixels in 8 bits; of 16 each is rounded up as often as it lies near the value above, so that
    means are kept and soft gradients do not band. What 8 bits can say exactly stays as it is.
    """
    if pixels.dtype == np.uint8:
        return pixels.astype(np.uint8, copy=False)
    made = np.empty(pixels.shape, np.uint8)
    noise = np.random.default_rng(_DITHER_SEED)
    for strip, out in _strips(pixels, made):
        out[:] = strip / np.float32(257) + noise.random(strip.shape, np.float32) * _UNDER_ONE
    return made


def on_white(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Pixels without alpha: transparent ones are laid on white."""
    channels = pixels.shape[2]
    if channels in (1, 3):
        return pixels
    made = np.empty((*pixels.shape[:2], channels - 1), np.uint8)
    for strip, out in _strips(pixels, made):
        alpha = strip[:, :, -1:].astype(np.float32) / 255
        out[:] = strip[:, :, :-1] * alpha + 255 * (1 - alpha) + 0.5
    return made


def _strips(pixels: Pixels, made: NDArray[Any]) -> Iterator[tuple[Pixels, NDArray[Any]]]:
    """Some rows at a time, so that what is counted in between takes little memory."""
    for top in range(0, pixels.shape[0], _STRIP_ROWS):
        yield pixels[top : top + _STRIP_ROWS], made[top : top + _STRIP_ROWS]
