"""Metadata that goes from the original to the export: Exif and XMP, made true for the new pixels."""

import re
import struct
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO, Literal

from PIL import ExifTags, Image, TiffImagePlugin

# Tags of a TIFF's first directory that describe how its pixels are stored, and blocks of their own (XMP, IPTC, resources, profile).
_STORED = {*range(254, 260), 262, 266, *range(273, 285), 296, 317, *range(320, 326), 330, 338, 339, 347, *range(512, 533)}
_BLOCKS = {700, 33723, 34377, 34675}
_POINTERS = (ExifTags.IFD.Exif, ExifTags.IFD.GPSInfo)


Metadata = Literal["all", "no_place", "none"]
FILL_NAMESPACE = "urn:sequor:fill:1.0"
_PLACE_PROPERTIES = re.compile(
    rb"(exif:GPS\w+|\w+:(?:City|State|Country)|Iptc4xmpCore:(?:Location|CountryCode)|Iptc4xmpExt:Location\w+)"
)
_EMPTY_PACKET = (
    b'<?xpacket begin="\xef\xbb\xbf" id="W5M0MpCehiHzreSzNTczkc9d"?><x:xmpmeta xmlns:x="adobe:ns:meta/">'
    b'<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"></rdf:RDF></x:xmpmeta><?xpacket end="w"?>'
)


@dataclass(frozen=True)
class Filled:
    """What was filled in: the share of the picture's pixels, and how."""

    share: float
    method: str

    @property
    def words(self) -> str:
        """One sentence for the metadata."""
        how = {
            "patches": "synthesised from their surroundings",
            "mirror": "filled by mirroring",
            "colour": "filled with a plain colour",
            "transparent": "left transparent",
        }
        return f"Sequor: {self.share * 100:.2f} % of the pixels, at the borders, do not come from the camera; they were {how[self.method]}."


def kept_metadata(
    source: Path, width: int, height: int, keep: Metadata, filled: Filled | None, ppi: float | None = None
) -> tuple[Image.Exif, bytes | None]:
    """The Exif block and the XMP packet for a new file: what of the original's is to be kept, made true, and what was filled.

    What was filled is said even when nothing else is kept: in XMP as ``FilledShare`` and ``FillMethod`` of the namespace
    `FILL_NAMESPACE`, and as a sentence in the tag Software of Exif, which names what made the file.
    """
    exif = Image.Exif() if keep == "none" else true_exif(read_exif(source), width, height, with_place=keep == "all")
    packet = None if keep == "none" else read_xmp(source)
    xmp = true_xmp(packet, width, height, with_place=keep == "all") if packet else None
    if ppi and (len(exif) or keep != "none"):
        exif[ExifTags.Base.XResolution] = exif[ExifTags.Base.YResolution] = ppi
        exif[ExifTags.Base.ResolutionUnit] = 2
    if filled:
        exif[ExifTags.Base.Software] = filled.words
        xmp = _with_fill(xmp or _EMPTY_PACKET, filled)
    return exif, xmp


def _with_fill(packet: bytes, filled: Filled) -> bytes:
    """An XMP packet that says what was filled."""
    said = (
        f'<rdf:Description rdf:about="" xmlns:sequor="{FILL_NAMESPACE}" sequor:FilledShare="{filled.share:.6f}" '
        f'sequor:FillMethod="{filled.method}"/>'
    ).encode()
    place = packet.rfind(b"</rdf:RDF>")
    if place < 0:
        packet, place = _EMPTY_PACKET, _EMPTY_PACKET.rfind(b"</rdf:RDF>")
    return packet[:place] + said + packet[place:]


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


def true_exif(original: Image.Exif, width: int, height: int, with_place: bool = True) -> Image.Exif:
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
    if place and with_place:
        exif.get_ifd(ExifTags.IFD.GPSInfo).update(place)
    return exif


def true_xmp(packet: bytes, width: int, height: int, with_place: bool = True) -> bytes:
    """A copy of an XMP packet whose orientation and size properties are true for the new picture, without the place if wanted."""
    if not with_place:
        packet = re.sub(rb"\s" + _PLACE_PROPERTIES.pattern + rb"=([\"'])[^\"']*\2", b"", packet)
        packet = re.sub(rb"<" + _PLACE_PROPERTIES.pattern + rb"[\s>].*?</\1>", b"", packet, flags=re.S)
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
