"""The formats that are read: what each is called, its endings, how its first bytes look."""

from dataclasses import dataclass
from pathlib import Path

import pillow_heif

from sequor.core.language import mark
from sequor.pictures.tiff import TIFF_HEADS, kind_of_tiff

_HEAD_BYTES = 64


class Unsuited(Exception):
    """A file that is sound and no picture to be read; the message goes on from its name."""


@dataclass(frozen=True)
class ReadFormat:
    """A format that is read.

    ``endings`` are those that its files may have, the usual one first. ``needs`` is the memory of
    reading a file and making its proxy, in what it has decoded (measured with peaks of the
    process).
    """

    endings: tuple[str, ...]
    needs: float


READ: dict[str, ReadFormat] = {
    # JPEG: 2.0 progressive and 1.3 otherwise; PNG and TIFF 1.4, with alpha 2.1; the others by
    # tests/bench/test_formats.py.
    "JPEG": ReadFormat((".jpg", ".jpeg", ".jpe", ".mpo"), 2.3),
    "PNG": ReadFormat((".png",), 2.3),
    "TIFF": ReadFormat((".tif", ".tiff"), 2.3),
    "WebP": ReadFormat((".webp",), 4.0),
    "HEIC": ReadFormat((".heic", ".heif", ".hif"), 3.0),
    "AVIF": ReadFormat((".avif",), 6.0),
    "JPEG XL": ReadFormat((".jxl",), 4.0),
    "JP2": ReadFormat((".jp2", ".j2k", ".jpf", ".jpx"), 4.0),
    "BMP": ReadFormat((".bmp", ".dib"), 2.3),
    "GIF": ReadFormat((".gif",), 3.0),
    "OpenEXR": ReadFormat((".exr",), 4.0),
    "DNG": ReadFormat((".dng",), 3.5),
    "Raw": ReadFormat(
        (
            *(".cr2", ".cr3", ".crw", ".nef", ".nrw", ".arw", ".sr2", ".srf", ".raf", ".rw2"),
            *(".orf", ".ori", ".pef", ".srw", ".x3f", ".3fr", ".fff", ".iiq", ".mrw", ".erf"),
            *(".mef", ".mos", ".dcr", ".kdc", ".raw", ".rwl", ".gpr"),
        ),
        3.5,
    ),
}
ENDINGS = frozenset(ending for about in READ.values() for ending in about.endings)
RAW = ("DNG", "Raw")
"""What comes from the sensor and is developed here (see `raw`)."""
PILLOW = {
    **{"JPEG": "JPEG", "MPO": "JPEG", "PNG": "PNG", "WEBP": "WebP", "HEIF": "HEIC"},
    **{"AVIF": "AVIF", "JPEG2000": "JP2", "BMP": "BMP", "DIB": "BMP", "GIF": "GIF"},
}
"""Pillow's names of the formats whose headers it reads. MPO is a JPEG followed by a second view, as
telephones write it."""
SPOKEN = mark(
    "JPEG, PNG, TIFF, WebP, HEIC, AVIF, JPEG XL, JPEG 2000, OpenEXR, BMP, GIF or a raw file"
)

# Pillow reads HEIC by a library of its own.
pillow_heif.register_heif_opener()

_JXL_HEADS = (b"\xff\x0a", b"\x00\x00\x00\x0cJXL \r\n\x87\n")
"""A bare codestream and the container (ISO/IEC 18181-2)."""
_EXR_HEAD = (20000630).to_bytes(4, "little")
"""OpenEXR file layout, "Magic number"."""
# First bytes of raw files that are no TIFF, as LibRaw knows them (identify.cpp, from memory).
_RAW_HEADS = (
    *(b"FUJIFILMCCD-RAW", b"IIU\0", b"IIRO", b"IIRS", b"MMOR", b"FOVb", b"\0MRM"),
    *(b"II\x1a\0\0\0HEAPCCDR", b"IIII", b"MMMM"),
)
_CR3_BRAND = b"ftypcrx "


def kind_of(path: Path) -> str | None:
    """What a file is by its first bytes, of `READ`; None where Pillow is to say it.

    Raises
    ------
    OSError
        When it cannot be read.
    """
    with path.open("rb") as file:
        head = file.read(_HEAD_BYTES)
    if head.startswith(_JXL_HEADS):
        return "JPEG XL"
    if head.startswith(_EXR_HEAD):
        return "OpenEXR"
    if head.startswith(_RAW_HEADS) or head[4:12] == _CR3_BRAND:
        return "Raw"
    if head.startswith(TIFF_HEADS):
        return kind_of_tiff(path)
    return None
