"""Pixels -> file: JPEG, PNG or TIFF, with the original's profile and metadata, whole or not at all."""

import os
import tempfile
from pathlib import Path
from typing import Literal

import numpy as np
import pyvips
from numpy.typing import NDArray

from sequor.core.errors import UnusableInput
from sequor.core.resample import Pixels
from sequor.pictures.decode import Picture
from sequor.pictures.metadata import add_exif_to_tiff, read_exif, read_xmp, true_exif, true_xmp

Format = Literal["jpeg", "png", "tiff"]
EXTENSIONS: dict[str, Format] = {".jpg": "jpeg", ".jpeg": "jpeg", ".png": "png", ".tif": "tiff", ".tiff": "tiff"}
MEDIA_TYPES: dict[Format, str] = {"jpeg": "image/jpeg", "png": "image/png", "tiff": "image/tiff"}
SUFFIXES: dict[Format, str] = {"jpeg": ".jpg", "png": ".png", "tiff": ".tif"}
DEFAULT_QUALITY = 95
_JPEG_MAX_SIDE = 65535
_FULL_CHROMA_FROM = 90
_BANDS = {"uint8": ("uchar", "b-w", "srgb"), "uint16": ("ushort", "grey16", "rgb16")}


def encode(pixels: Pixels, original: Picture, source: Path, target: Path, format: Format, quality: int = DEFAULT_QUALITY) -> None:
    """Write the corrected pixels of a picture.

    The file appears under its name only when it is complete. JPEG takes 8 bits
    and no alpha (laid on white); PNG and TIFF keep 16 bits and alpha. From quality
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
    quality : int
        JPEG quality, 1 to 100.

    Raises
    ------
    UnusableInput
        When the format cannot hold the picture, or the file cannot be written.
    """
    height, width, _ = pixels.shape
    if format == "jpeg":
        if max(width, height) > _JPEG_MAX_SIDE:
            raise UnusableInput(f"A JPEG cannot be wider or higher than {_JPEG_MAX_SIDE} pixels; use TIFF.")
        pixels = on_white(to_8_bits(pixels))
    image = as_image(pixels).copy(xres=original.pixels_per_mm, yres=original.pixels_per_mm)
    if original.profile:
        image.set_type(pyvips.GValue.blob_type, "icc-profile-data", original.profile)
    exif = true_exif(read_exif(source), width, height)
    xmp = read_xmp(source)
    if xmp:
        image.set_type(pyvips.GValue.blob_type, "xmp-data", true_xmp(xmp, width, height))
    if format != "tiff":
        image.set_type(pyvips.GValue.blob_type, "exif-data", b"Exif\0\0" + exif.tobytes().removeprefix(b"Exif\0\0"))

    handle, partial = tempfile.mkstemp(dir=target.parent, prefix=".partial-", suffix=SUFFIXES[format])
    os.close(handle)
    try:
        if format == "jpeg":
            image.jpegsave(partial, Q=quality, subsample_mode="off" if quality >= _FULL_CHROMA_FROM else "on")
        elif format == "png":
            image.pngsave(partial, compression=6)
        else:
            image.tiffsave(partial, compression="deflate", predictor="horizontal")
            add_exif_to_tiff(Path(partial), exif)
        os.chmod(partial, 0o644)
        os.replace(partial, target)
    except (pyvips.Error, OSError) as problem:
        reason = problem.strerror if isinstance(problem, OSError) else "the disk may be full"
        raise UnusableInput(f"{target.name} could not be written: {reason}. No file was left behind.") from problem
    finally:
        Path(partial).unlink(missing_ok=True)


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
