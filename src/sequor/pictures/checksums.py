"""Checks that a format allows and its decoder leaves out."""

import zlib
from pathlib import Path

from PIL import Image, TiffImagePlugin

_DEFLATE = (8, 32946)
"""Values of the tag Compression (TIFF 6.0 Technical Note 2, and the older private one)."""
_COMPRESSION, _PLACES = 259, ((273, 279), (324, 325))
"""Tags (TIFF 6.0): where strips or tiles lie, and how many bytes each has."""
_CHUNK = 1 << 20


def deflated_rows_are_sound(path: Path) -> bool:
    """Whether all strips or tiles of a deflated TIFF have the checksum that they carry.

    A decoder stops as soon as it has pixels enough, before it comes to the checksum (Adler-32, RFC
    1950). Other files are sound as far as this goes.
    """
    with Image.open(path) as picture, path.open("rb") as file:
        if not isinstance(picture, TiffImagePlugin.TiffImageFile):
            return True
        tags = picture.tag_v2
        if tags.get(_COMPRESSION) not in _DEFLATE:
            return True
        for offsets, counts in _PLACES:
            for start, size in zip(tags.get(offsets, ()), tags.get(counts, ()), strict=True):
                file.seek(start)
                if not _is_sound(file.read(size)):
                    return False
    return True


def _is_sound(packed: bytes) -> bool:
    unpacking = zlib.decompressobj()
    try:
        rest = packed
        while rest and not unpacking.eof:
            unpacking.decompress(rest, _CHUNK)  # a little at a time, whatever it unpacks to
            rest = unpacking.unconsumed_tail
    except zlib.error:
        return False
    return unpacking.eof
