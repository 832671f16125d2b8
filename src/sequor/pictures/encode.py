"""Pixels -> file: JPEG, PNG, TIFF, WebP or AVIF, with the original's profile and metadata.

Whole or not at all.
"""

import os
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import numpy as np
import pyvips
from numpy.typing import NDArray
from PIL import Image

from sequor.core.errors import UnusableInput
from sequor.core.pixels import Pixels
from sequor.core.recipe import MAX_OUTPUT_SIDE
from sequor.core.render.size import MM_PER_INCH
from sequor.pictures.decode import DecodedPicture, as_pixels
from sequor.pictures.metadata import Facts, Filled, Metadata, carry_over

Format = Literal["jpeg", "png", "tiff", "webp", "avif"]
EXTENSIONS: dict[str, Format] = {
    ".jpg": "jpeg",
    ".jpeg": "jpeg",
    ".png": "png",
    ".tif": "tiff",
    ".tiff": "tiff",
    ".webp": "webp",
    ".avif": "avif",
}


@dataclass(frozen=True)
class AboutFormat:
    """A file format: its name, media type and ending, and what it can hold.

    ``lossy`` ones have a quality, ``deep`` ones take 16 bits, ``transparent`` ones alpha;
    ``max_side`` is the format's own limit in pixels.
    """

    label: str
    media_type: str
    suffix: str
    lossy: bool
    deep: bool
    transparent: bool
    max_side: int = MAX_OUTPUT_SIDE


FORMATS: dict[Format, AboutFormat] = {
    "jpeg": AboutFormat("JPEG, 8 bit", "image/jpeg", ".jpg", True, False, False, 65535),
    "png": AboutFormat("PNG, lossless", "image/png", ".png", False, True, True),
    "tiff": AboutFormat("TIFF, lossless", "image/tiff", ".tif", False, True, True),
    "webp": AboutFormat("WebP, 8 bit", "image/webp", ".webp", True, False, True, 16383),
    "avif": AboutFormat("AVIF, 8 bit", "image/avif", ".avif", True, False, True, 65536),
}
MEDIA_TYPES: dict[Format, str] = {name: about.media_type for name, about in FORMATS.items()}
SUFFIXES: dict[Format, str] = {name: about.suffix for name, about in FORMATS.items()}
DEFAULT_QUALITY = 95
_FULL_CHROMA_FROM = 90
_STRIP_ROWS = 128
"""From this quality on colour is kept at full resolution."""
_AVIF_SPEED = 8
"""Of 10: below it a 24-megapixel file takes minutes."""
_BANDS = {
    "uint8": ("uchar", "b-w", "srgb"),
    "uint16": ("ushort", "grey16", "rgb16"),
    "uint32": ("uint", "multiband", "multiband"),
}


@dataclass(frozen=True)
class FileChoice:
    """How a file is written.

    Attributes
    ----------
    quality : int
        Of the lossy formats, 1 to 100.
    bits : int or None
        Per channel, 8 or 16; None as in the original, as far as the format can.
    srgb : bool
        Convert to sRGB instead of keeping the profile.
    metadata : str
        ``all``, ``no_place`` (all but where it was taken) or ``none``.
    ppi : float or None
        Resolution to write, in pixels per inch; None keeps the original's.
    """

    format: Format
    quality: int = DEFAULT_QUALITY
    bits: Literal[8, 16] | None = None
    srgb: bool = False
    metadata: Metadata = "all"
    ppi: float | None = None


def encode(
    pixels: Pixels,
    original: DecodedPicture,
    source: Path,
    target: Path,
    choice: FileChoice,
    filled: Filled | None = None,
) -> None:
    """Write the corrected pixels of a picture.

    The file appears under its name only when it is complete. JPEG takes 8 bits and no alpha (laid
    on white); WebP and AVIF take 8 bits and keep alpha; PNG and TIFF keep 16 bits and alpha. From
    quality 90 on, a JPEG keeps its colour at full resolution.

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

    Raises
    ------
    UnusableInput
        When the format cannot hold the picture, or the file cannot be written.
    """
    format = choice.format
    height, width, _ = pixels.shape
    longest = FORMATS[format].max_side
    if max(width, height) > longest:
        raise UnusableInput(
            f"A {format.upper()} cannot be wider or higher than {longest} pixels; use TIFF."
        )
    pixels, profile = (
        in_srgb(pixels, original.profile) if choice.srgb else (pixels, original.profile)
    )
    if not FORMATS[format].deep or choice.bits == 8:
        pixels = to_8_bits(pixels)
    elif choice.bits == 16 and pixels.dtype == np.uint8:
        pixels = pixels.astype(np.uint16) * 257
    if format == "jpeg":
        pixels = on_white(pixels.astype(np.uint8, copy=False))
    ppi = choice.ppi or original.facts.ppi
    prefix, suffix = f".partial-{target.stem}-", SUFFIXES[format]
    handle, name = tempfile.mkstemp(dir=target.parent, prefix=prefix, suffix=suffix)
    os.close(handle)
    partial = Path(name)
    try:
        if format in ("webp", "avif"):
            _save_with_pillow(pixels, partial, choice, profile)
        else:
            _save_with_vips(pixels, partial, choice, profile, ppi)
        carry_over(source, partial, Facts(width, height, ppi), choice.metadata, filled)
        _settle(partial, target)
    except (pyvips.Error, OSError) as problem:
        reason = "the disk may be full"
        if isinstance(problem, OSError) and problem.strerror:
            reason = problem.strerror
        raise UnusableInput(
            f"{target.name} could not be written: {reason}. No file was left behind."
        ) from problem
    finally:
        partial.unlink(missing_ok=True)


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
    pixels: Pixels, path: Path, choice: FileChoice, profile: bytes | None, ppi: float | None
) -> None:
    image = as_image(pixels)
    if ppi:
        image = image.copy(xres=ppi / MM_PER_INCH, yres=ppi / MM_PER_INCH)
    if profile:
        image = image.copy()
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
    if choice.format == "jpeg":
        subsampled = "off" if choice.quality >= _FULL_CHROMA_FROM else "on"
        image.jpegsave(str(path), Q=choice.quality, subsample_mode=subsampled)
    elif choice.format == "png":
        image.pngsave(str(path), compression=6)
    else:
        image.tiffsave(str(path), compression="deflate", predictor="horizontal", resunit="inch")


def _save_with_pillow(
    pixels: Pixels, path: Path, choice: FileChoice, profile: bytes | None
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
            "The colour profile of this picture cannot be read, so it cannot be converted to "
            "sRGB; keep it."
        ) from problem
    return made, image.get("icc-profile-data")


def as_image(pixels: Pixels) -> pyvips.Image:
    """The pixels as a libvips image, without a copy."""
    height, width, channels = pixels.shape
    kind, grey, colour = _BANDS[pixels.dtype.name]
    image = pyvips.Image.new_from_memory(
        np.ascontiguousarray(pixels), width, height, channels, kind
    )
    return image.copy(interpretation=grey if channels < 3 else colour)


def to_8_bits(pixels: Pixels) -> NDArray[np.uint8]:
    """Pixels scaled to 8 bits, rounded to the nearest value."""
    if pixels.dtype == np.uint8:
        return pixels.astype(np.uint8, copy=False)
    made = np.empty(pixels.shape, np.uint8)
    for strip, out in _strips(pixels, made):
        out[:] = (strip.astype(np.uint32) * 255 + 32767) // 65535
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
