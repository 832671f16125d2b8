"""JPEG XL (ISO/IEC 18181): the header, told without decoding, and the pixels.

No library that is at hand tells the size of such a file before it decodes all of it, so the size
header is read here; everything else is libjxl's.
"""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

_SIGNATURE_BOX = b"\0\0\0\x0cJXL \r\n\x87\n"
_MOST_HEAD = 1 << 16
_RATIOS = ((1, 1), (12, 10), (4, 3), (3, 2), (16, 9), (5, 4), (2, 1))
"""Width to height by the three bits of the size header (18181-1, table D.2)."""
_SIDES = (9, 13, 18, 30)
_LARGE_BOX = 1


class _Bits:
    """Bits of a codestream, the lowest of each byte first (18181-1, annex B)."""

    def __init__(self, content: bytes) -> None:
        self._value, self._left = int.from_bytes(content, "little"), 8 * len(content)

    def take(self, count: int) -> int:
        if count > self._left:
            raise ValueError("the header ends too early")
        found = self._value & ((1 << count) - 1)
        self._value >>= count
        self._left -= count
        return found


@dataclass(frozen=True)
class JxlHeader:
    """Sides of the picture as it is decoded, which is upright, and its Exif tags."""

    width: int
    height: int
    exif: Image.Exif


def jxl_header(path: Path) -> JxlHeader:
    """The header of a JPEG XL file.

    Raises
    ------
    ValueError
        When it is broken.
    """
    exif = Image.Exif()
    with path.open("rb") as file:
        head = file.read(len(_SIGNATURE_BOX))
        if head != _SIGNATURE_BOX:
            file.seek(0)
            return JxlHeader(*_sides(file.read(64)), exif)
        codestream = b""
        while not (codestream and exif):
            size, kind = int.from_bytes(file.read(4), "big"), file.read(4)
            if len(kind) < 4:
                break
            before = 8
            if size == _LARGE_BOX:
                size, before = int.from_bytes(file.read(8), "big"), 16
            start = file.tell()
            if kind in (b"jxlc", b"jxlp") and not codestream:
                # A part of a codestream begins with its number.
                codestream = file.read(68)[4 if kind == b"jxlp" else 0 :]
            elif kind == b"Exif":
                exif = _exif(file.read(min(size - before, _MOST_HEAD)))
            if size == 0:  # to the end of the file
                break
            file.seek(start + size - before)
    return JxlHeader(*_sides(codestream), exif)


def jxl_pixels(path: Path) -> tuple[NDArray[np.generic], bytes | None]:
    """The upright picture, shape (height, width, channels), and its ICC profile.

    Raises
    ------
    Exception
        Of any kind, when it is damaged.
    """
    import imagecodecs
    from pillow_jxl import Decoder

    content = path.read_bytes()
    pixels = np.asarray(imagecodecs.jpegxl_decode(content))
    if pixels.ndim == 2:
        pixels = pixels[:, :, None]
    _, _, _, profile, _ = Decoder(num_threads=-1)(content)
    return pixels, bytes(profile) if profile else None


def _sides(codestream: bytes) -> tuple[int, int]:
    """Width and height of the upright picture (18181-1, D.2 and D.3)."""
    if codestream[:2] != b"\xff\x0a":
        raise ValueError("there is no codestream")
    bits = _Bits(codestream[2:])
    by_eight = bits.take(1)

    def side() -> int:
        return 8 * (1 + bits.take(5)) if by_eight else 1 + bits.take(_SIDES[bits.take(2)])

    height = side()
    ratio = bits.take(3)
    across, down = _RATIOS[ratio - 1] if ratio else (0, 1)
    width = height * across // down if ratio else side()
    plain = bits.take(1)
    turned = not plain and bits.take(1) and 1 + bits.take(3) >= 5
    return (height, width) if turned else (width, height)


def _exif(box: bytes) -> Image.Exif:
    exif = Image.Exif()
    try:
        exif.load(b"Exif\0\0" + box[4 + int.from_bytes(box[:4], "big") :])
    except Exception:  # a broken block says nothing
        return Image.Exif()
    return exif
