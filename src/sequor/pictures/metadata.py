"""Metadata that goes from the original to the export: Exif and XMP, made true for the new pixels."""

import re
import struct
from pathlib import Path
from typing import BinaryIO

from PIL import ExifTags, Image, TiffImagePlugin

# Tags of a TIFF's first directory that describe how its pixels are stored, and blocks of their own (XMP, IPTC, resources, profile).
_STORED = {*range(254, 260), 262, 266, *range(273, 285), 296, 317, *range(320, 326), 330, 338, 339, 347, *range(512, 533)}
_BLOCKS = {700, 33723, 34377, 34675}
_POINTERS = (ExifTags.IFD.Exif, ExifTags.IFD.GPSInfo)


def read_exif(path: Path) -> Image.Exif:
    """The Exif block of a picture file, empty when it has none that can be read."""
    with Image.open(path) as picture:
        try:
            exif = picture.getexif()
            exif.get_ifd(ExifTags.IFD.Exif)
            exif.get_ifd(ExifTags.IFD.GPSInfo)
        except Exception:  # a broken block cannot be carried over
            return Image.Exif()
        return exif


def read_xmp(path: Path) -> bytes | None:
    """The XMP packet of a picture file, if it has one."""
    with Image.open(path) as picture:
        packet = picture.info.get("xmp") or picture.info.get("XML:com.adobe.xmp")
        if packet is None and picture.format == "TIFF":
            packet = picture.tag_v2.get(700)  # type: ignore[attr-defined]
    if isinstance(packet, str):
        packet = packet.encode()
    return bytes(packet) if packet else None


def true_exif(original: Image.Exif, width: int, height: int) -> Image.Exif:
    """A copy of an Exif block for an upright picture of a new size: orientation 1, true size tags, no stale thumbnail."""
    exif = Image.Exif()
    for tag, value in original.items():
        if tag not in _STORED | _BLOCKS and tag not in _POINTERS:
            exif[tag] = value
    exif[ExifTags.Base.Orientation] = 1
    details = exif.get_ifd(ExifTags.IFD.Exif)
    details.update(original.get_ifd(ExifTags.IFD.Exif))
    details[ExifTags.Base.ExifImageWidth] = width
    details[ExifTags.Base.ExifImageHeight] = height
    place = original.get_ifd(ExifTags.IFD.GPSInfo)
    if place:
        exif.get_ifd(ExifTags.IFD.GPSInfo).update(place)
    return exif


def true_xmp(packet: bytes, width: int, height: int) -> bytes:
    """A copy of an XMP packet whose orientation and size properties are true for the new picture."""
    for name, value in (
        (b"tiff:Orientation", 1),
        (b"tiff:ImageWidth", width),
        (b"tiff:ImageLength", height),
        (b"exif:PixelXDimension", width),
        (b"exif:PixelYDimension", height),
    ):
        number = str(value).encode()
        packet = re.sub(name + rb'=(["\'])\d+\1', name + b'="' + number + b'"', packet)
        packet = re.sub(b"<" + name + rb">\s*\d+\s*</" + name + b">", b"<" + name + b">" + number + b"</" + name + b">", packet)
    return packet


def add_exif_to_tiff(path: Path, exif: Image.Exif) -> None:
    """Give a finished TIFF file the tags of an Exif block.

    A TIFF has no block of bytes for Exif: its tags belong in the first directory
    (TIFF 6.0, section 2). The new tags and a directory that lists the old entries
    and the new ones are appended, and the header is pointed at that directory;
    everything that stands in the file stays where it is.
    """
    with path.open("rb") as file:
        tags = TiffImagePlugin.ImageFileDirectory_v2(prefix=file.read(2))
    for tag, value in exif.items():
        if tag not in _POINTERS:
            tags[tag] = value
    for pointer in _POINTERS:
        block = exif.get_ifd(pointer)
        if block:
            tags[pointer] = dict(block)
    order = "<" if tags.prefix == b"II" else ">"
    with path.open("r+b") as file:
        file.seek(4)
        file.seek(*struct.unpack(f"{order}L", file.read(4)))
        (count,) = struct.unpack(f"{order}H", file.read(2))
        old = file.read(12 * count)
        at = _end(file)
        added = tags.tobytes(at)
        file.write(added)
        (count,) = struct.unpack(f"{order}H", added[:2])
        new = added[2 : 2 + 12 * count]
        entries = {struct.unpack(f"{order}H", entry[:2])[0]: entry for entry in (*_entries(new), *_entries(old))}
        at = _end(file)
        file.write(struct.pack(f"{order}H", len(entries)) + b"".join(entries[tag] for tag in sorted(entries)) + bytes(4))
        file.seek(4)
        file.write(struct.pack(f"{order}L", at))


def _entries(run: bytes) -> list[bytes]:
    """The directory entries, twelve bytes each, of a run of them."""
    return [run[start : start + 12] for start in range(0, len(run), 12)]


def _end(file: BinaryIO) -> int:
    """Go to the end of a file, made even, since directories begin on a word boundary."""
    file.write(bytes(file.seek(0, 2) % 2))
    return file.tell()
