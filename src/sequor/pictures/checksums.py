"""Checks that a format allows and its decoder leaves out."""

import zlib
from pathlib import Path

from sequor.pictures.formats import kind_of
from sequor.pictures.tiff import TiffDirectory, directories

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
    if kind_of(path) != "TIFF":
        return True
    tags = next(directories(path, below=False))
    if tags.get(_COMPRESSION) not in _DEFLATE:
        return True
    with path.open("rb") as file:
        for offsets, counts in _PLACES:
            starts, sizes = _all(tags, offsets), _all(tags, counts)
            if len(starts) != len(sizes):
                return False
            for start, size in zip(starts, sizes, strict=True):
                file.seek(start)
                if not _is_sound(file.read(size)):
                    return False
    return True


def _all(tags: TiffDirectory, name: int) -> tuple[int, ...]:
    found = tags.get(name, ())
    return found if isinstance(found, tuple) else (found,)


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
