"""Headers of TIFF files, and of the raw files that are laid out as TIFF."""

import warnings
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PIL import ExifTags, Image
from PIL.TiffImagePlugin import ImageFileDirectory_v2

TiffDirectory = ImageFileDirectory_v2
TIFF_HEADS = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
"""Both orders of bytes, TIFF 6.0 and BigTIFF."""
_BIG_HEADS, _HEAD, _PLAIN_HEAD = TIFF_HEADS[2:], 16, 8
_CR2_MARK = (b"CR", slice(8, 10))
_MOST_DIRECTORIES = 64
WIDTH, LENGTH, PHOTOMETRIC, FORMAT = 256, 257, 262, 339
SUBFILE, SUB_DIRECTORIES, PROFILE, DNG_VERSION = 254, 330, 34675, 50706
"""Tags (TIFF 6.0; DNG 1.7 for the last)."""
FROM_SENSOR = (32803, 34892)
"""PhotometricInterpretation of what a sensor saw (TIFF/EP, ISO 12234-2; DNG 1.7)."""
_REDUCED = 1
"""Bit 0 of NewSubfileType: a smaller copy of another picture in the file."""
FLOATS = 3
"""SampleFormat of IEEE numbers."""
INKS, LAB = 5, 8
"""PhotometricInterpretation of inks (CMYK) and CIE L*a*b*."""


def directories(path: Path, below: bool = True) -> Iterator[TiffDirectory]:
    """The directories of a file and, unless not ``below``, those below them, each before its own.

    Raises
    ------
    OSError, SyntaxError
        When there is none that can be read.
    """
    with path.open("rb") as file, warnings.catch_warnings():
        warnings.simplefilter("ignore")  # of tags that are broken
        head = file.read(_HEAD)
        head = head if head.startswith(_BIG_HEADS) else head[:_PLAIN_HEAD]
        first = TiffDirectory(head)
        ahead, seen = [first.next], set[int]()
        while ahead and len(seen) < _MOST_DIRECTORIES:
            place = ahead.pop(0)
            if not place or place in seen:
                continue
            seen.add(place)
            found = TiffDirectory(head)
            file.seek(place)
            found.load(file)
            yield found
            inner = found.get(SUB_DIRECTORIES, ()) if below else ()
            inner = inner if isinstance(inner, tuple) else (inner,)
            ahead = [*(int(one) for one in inner), found.next, *ahead]


def kind_of_tiff(path: Path) -> str:
    """Whether a file that is laid out as TIFF is a ``DNG``, another ``Raw`` or a ``TIFF``."""
    mark, where = _CR2_MARK
    with path.open("rb") as file:
        if file.read(_HEAD)[where] == mark:
            return "Raw"
    try:
        for found in directories(path):
            if DNG_VERSION in found:
                return "DNG"
            if found.get(PHOTOMETRIC) in FROM_SENSOR:
                return "Raw"
    except Exception:  # a header can be broken in any way; what reads it whole says how
        return "TIFF"
    return "TIFF"


@dataclass(frozen=True)
class TiffHeader:
    """The first page of a TIFF as its tags describe it, and how many pages there are."""

    width: int
    height: int
    photometric: int
    floats: bool
    profile: bytes | None
    exif: Image.Exif
    pages: int


def tiff_header(path: Path) -> TiffHeader:
    """The header of a TIFF.

    Raises
    ------
    Exception
        Of any kind, when it is broken.
    """
    pages = [found for _, found in _pages(path)]
    first = pages[0]
    kinds = first.get(FORMAT, 1)
    return TiffHeader(
        width=int(first[WIDTH]),
        height=int(first[LENGTH]),
        photometric=int(first.get(PHOTOMETRIC, 1)),
        floats=FLOATS in (kinds if isinstance(kinds, tuple) else (kinds,)),
        profile=_bytes(first.get(PROFILE)),
        exif=tiff_exif(path),
        pages=len(pages),
    )


def page_places(path: Path) -> list[int]:
    """Which of the directories of a file are its pages, counted from 0.

    Raises
    ------
    Exception
        Of any kind, when it is broken.
    """
    return [place for place, _ in _pages(path)]


def _pages(path: Path) -> list[tuple[int, TiffDirectory]]:
    """The directories that are pictures of their own; smaller copies of others are none."""
    return [
        (place, found)
        for place, found in enumerate(directories(path, below=False))
        if WIDTH in found and not int(found.get(SUBFILE, 0)) & _REDUCED
    ]


def tiff_exif(path: Path) -> Image.Exif:
    """The tags of a file that is laid out as TIFF; none where they are broken."""
    exif = Image.Exif()
    try:
        with path.open("rb") as file, warnings.catch_warnings():
            warnings.simplefilter("ignore")
            exif.load_from_fp(file)
            exif.get_ifd(ExifTags.IFD.Exif)  # read now: later the file is closed
    except Exception:  # a broken block says nothing
        return Image.Exif()
    return exif


def _bytes(value: Any) -> bytes | None:
    return bytes(value) if isinstance(value, bytes) and value else None
