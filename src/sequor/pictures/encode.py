"""Pixels -> file: JPEG, PNG, TIFF, WebP or AVIF, with the original's profile and metadata, whole or not at all."""

import os
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import numpy as np
import pyvips
from numpy.typing import NDArray
from PIL import Image

from sequor.core.errors import UnusableInput
from sequor.core.output import MM_PER_INCH
from sequor.core.recipe import MAX_OUTPUT_SIDE
from sequor.core.resample import Pixels
from sequor.pictures.decode import Picture
from sequor.pictures.metadata import Filled, Metadata, add_exif_to_tiff, kept_metadata

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
MEDIA_TYPES: dict[Format, str] = {
    "jpeg": "image/jpeg",
    "png": "image/png",
    "tiff": "image/tiff",
    "webp": "image/webp",
    "avif": "image/avif",
}
SUFFIXES: dict[Format, str] = {"jpeg": ".jpg", "png": ".png", "tiff": ".tif", "webp": ".webp", "avif": ".avif"}
LOSSY: tuple[Format, ...] = ("jpeg", "webp", "avif")
DEFAULT_QUALITY = 95
# The JPEG, WebP and AV1 formats' own limits.
_MAX_SIDE: dict[Format, int] = {"jpeg": 65535, "webp": 16383, "avif": 65536}
_FULL_CHROMA_FROM = 90
_AVIF_SPEED = 8
_BANDS = {"uint8": ("uchar", "b-w", "srgb"), "uint16": ("ushort", "grey16", "rgb16")}


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
    pixels: Pixels, original: Picture, source: Path, target: Path, choice: FileChoice, filled: Filled | None = None
) -> None:
    """Write the corrected pixels of a picture.

    The file appears under its name only when it is complete. JPEG takes 8 bits
    and no alpha (laid on white); WebP and AVIF take 8 bits and keep alpha; PNG and TIFF keep 16 bits and alpha. From quality
    90 on, a JPEG keeps its colour at full resolution.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels)
    original : Picture
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
    if max(width, height) > _MAX_SIDE.get(format, MAX_OUTPUT_SIDE):
        raise UnusableInput(f"A {format.upper()} cannot be wider or higher than {_MAX_SIDE[format]} pixels; use TIFF.")
    pixels, profile = in_srgb(pixels, original.profile) if choice.srgb else (pixels, original.profile)
    if format in LOSSY or choice.bits == 8:
        pixels = to_8_bits(pixels)
    elif choice.bits == 16 and pixels.dtype == np.uint8:
        pixels = pixels.astype(np.uint16) * 257
    if format == "jpeg":
        pixels = on_white(pixels.astype(np.uint8, copy=False))
    exif, xmp = kept_metadata(source, width, height, choice.metadata, filled, choice.ppi)
    pixels_per_mm = choice.ppi / MM_PER_INCH if choice.ppi else original.pixels_per_mm

    handle, partial = tempfile.mkstemp(dir=target.parent, prefix=".partial-", suffix=SUFFIXES[format])
    os.close(handle)
    try:
        if format in ("webp", "avif"):
            _save_with_pillow(pixels, Path(partial), choice, profile, exif, xmp)
        else:
            _save_with_vips(pixels, Path(partial), choice, profile, exif, xmp, pixels_per_mm)
        os.chmod(partial, 0o644)
        os.replace(partial, target)
    except (pyvips.Error, OSError) as problem:
        reason = problem.strerror if isinstance(problem, OSError) and problem.strerror else "the disk may be full"
        raise UnusableInput(f"{target.name} could not be written: {reason}. No file was left behind.") from problem
    finally:
        Path(partial).unlink(missing_ok=True)


def _save_with_vips(
    pixels: Pixels,
    path: Path,
    choice: FileChoice,
    profile: bytes | None,
    exif: Image.Exif,
    xmp: bytes | None,
    pixels_per_mm: float,
) -> None:
    image = as_image(pixels).copy(xres=pixels_per_mm, yres=pixels_per_mm)
    if profile:
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
    if xmp:
        image.set_type(pyvips.GValue.blob_type, "xmp-data", xmp)
    if choice.format != "tiff" and len(exif):
        image.set_type(pyvips.GValue.blob_type, "exif-data", b"Exif\0\0" + exif.tobytes().removeprefix(b"Exif\0\0"))
    if choice.format == "jpeg":
        image.jpegsave(str(path), Q=choice.quality, subsample_mode="off" if choice.quality >= _FULL_CHROMA_FROM else "on")
    elif choice.format == "png":
        image.pngsave(str(path), compression=6)
    else:
        image.tiffsave(str(path), compression="deflate", predictor="horizontal", resunit="inch")
        if len(exif):
            add_exif_to_tiff(path, exif)


def _save_with_pillow(
    pixels: Pixels, path: Path, choice: FileChoice, profile: bytes | None, exif: Image.Exif, xmp: bytes | None
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
    options |= {"exif": exif.tobytes()} if len(exif) else {}
    options |= {"xmp": xmp} if xmp else {}
    Image.fromarray(shown).save(path, format=choice.format.upper(), **options)


def in_srgb(pixels: Pixels, profile: bytes | None) -> tuple[Pixels, bytes | None]:
    """Pixels converted from their profile to sRGB (IEC 61966-2-1), at the same bit depth, and the profile of sRGB.

    Pixels without a profile are taken to be sRGB already.
    """
    if not profile:
        return pixels, None
    image = as_image(pixels).copy()
    image.set_type(pyvips.GValue.blob_type, "icc-profile-data", profile)
    try:
        image = image.icc_transform("srgb", embedded=True, intent="relative", depth=8 * pixels.dtype.itemsize)
        made: Pixels = image.numpy()
    except pyvips.Error as problem:
        raise UnusableInput(
            "The colour profile of this picture cannot be read, so it cannot be converted to sRGB; keep it."
        ) from problem
    return made if made.ndim == 3 else made[:, :, None], image.get("icc-profile-data")


def as_image(pixels: Pixels) -> pyvips.Image:
    """The pixels as a libvips image, without a copy."""
    height, width, channels = pixels.shape
    kind, grey, colour = _BANDS[pixels.dtype.name]
    image = pyvips.Image.new_from_memory(np.ascontiguousarray(pixels), width, height, channels, kind)
    return image.copy(interpretation=grey if channels < 3 else colour)


def to_8_bits(pixels: Pixels) -> NDArray[np.uint8]:
    """Pixels scaled to 8 bits, rounded to the nearest value."""
    if pixels.dtype == np.uint8:
        return pixels.astype(np.uint8, copy=False)
    return ((pixels.astype(np.uint32) * 255 + 32767) // 65535).astype(np.uint8)


def on_white(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Pixels without alpha: transparent ones are laid on white."""
    channels = pixels.shape[2]
    if channels in (1, 3):
        return pixels
    alpha = pixels[:, :, -1:].astype(np.float32) / 255
    return (pixels[:, :, :-1] * alpha + 255 * (1 - alpha) + 0.5).astype(np.uint8)
