"""Metadata that go from the original to the export: Exif, XMP, IPTC and comments, by ExifTool.

What is kept, and above all what is left out when the place is not to be told, is decided by
ExifTool's own knowledge of tags (its groups), not by guesses of ours. One process serves all
exports. Tags that describe how the old pixels were stored are not carried over, or made true.
"""

import logging
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from PIL import Image

from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr
from sequor.core.recipe import FillMethod
from sequor.pictures.exiftool import PROCESS
from sequor.pictures.formats import kind_of

log = logging.getLogger(__name__)

Metadata = Literal["all", "no_place", "none"]
METADATA_NAMES: dict[Metadata, str] = {
    "all": mark("Keep all metadata"),
    "no_place": mark("All but the place"),
    "none": mark("No metadata"),
}
FILL_NAMESPACE = "urn:sequor:fill:1.0"
_WITHOUT_IPTC = (".webp", ".avif", ".jxl")
"""Formats that have no place for IPTC: its properties go to XMP, by the IPTC standard's own map."""
_WITHOUT_TAGS = ".exr"
"""A format whose files have attributes of their own; they are written with the pixels."""
_IPTC_IN_XMP = {
    "By-line": "XMP-dc:Creator",
    "By-lineTitle": "XMP:AuthorsPosition",
    "Caption-Abstract": "XMP-dc:Description",
    "CopyrightNotice": "XMP-dc:Rights",
    "Credit": "XMP:Credit",
    "Headline": "XMP:Headline",
    "Keywords": "XMP-dc:Subject",
    "ObjectName": "XMP-dc:Title",
    "Source": "XMP:Source",
    "SpecialInstructions": "XMP:Instructions",
    "Writer-Editor": "XMP:CaptionWriter",
}
_IPTC_PLACE_IN_XMP = {
    "City": "XMP:City",
    "Country-PrimaryLocationCode": "XMP-iptcCore:CountryCode",
    "Country-PrimaryLocationName": "XMP:Country",
    "Province-State": "XMP:State",
    "Sub-location": "XMP-iptcCore:Location",
}
_NOT_CARRIED = (
    # The profile is written with the pixels; small pictures and second views show the old frame.
    *("--ICC_Profile:All", "--IFD1:All", "--MPF:All", "--JFIF:All", "--PNG-pHYs:All"),
    *("--PreviewImage", "--ThumbnailImage", "--*Thumbnail", "--JpgFromRaw", "--OtherImage"),
    # A gain map is not carried over, and what describes a sensor describes no finished picture.
    *("--XMP-hdrgm:All", "--XMP-HDRGainMap:All", "--DNG*", "--*ColorMatrix*", "--AsShotNeutral"),
)


@dataclass(frozen=True)
class Filled:
    """What was filled in: the share of the picture's pixels, and how."""

    share: float
    method: FillMethod

    @property
    def words(self) -> str:
        """One sentence for the metadata: in English, whoever reads the file."""
        how = {
            "patches": "synthesised from their surroundings",
            "mirror": "filled by mirroring",
            "colour": "filled with a plain colour",
            "transparent": "left transparent",
        }
        return (
            f"Sequor: {self.share * 100:.2f} % of the pixels, at the borders, do not come from the "
            f"camera; they were {how[self.method]}."
        )


@dataclass(frozen=True)
class Facts:
    """What must be true of a new file: its size in pixels, and its resolution if it has one."""

    width: int
    height: int
    ppi: float | None


def carry_over(
    source: Path, target: Path, facts: Facts, keep: Metadata, filled: Filled | None
) -> None:
    """Give a finished file the metadata of the original, made true for its pixels.

    What was filled is said even when nothing else is kept: in XMP as ``FilledShare`` and
    ``FillMethod`` of the namespace `FILL_NAMESPACE`, and as a sentence in the tag Software of Exif,
    which names what made the file. A file without metadata, of which nothing was filled, is not
    touched. Metadata of the original that are broken are left out.

    Raises
    ------
    UnusableInput
        When the metadata cannot be written; the file must not be used then.
    """
    if target.suffix == _WITHOUT_TAGS:
        return
    carried = keep != "none" and has_metadata(source)
    if carried:
        _execute(target, "-TagsFromFile", str(source), *_copied(target, keep))
        _execute(target, "-wm", "w", *_made_true(facts))
    if filled:
        _execute(target, *_said(filled))
    if keep != "none" and facts.ppi and target.suffix in _WITHOUT_IPTC:
        # These have no other place for a resolution.
        _execute(target, *(f"-EXIF:{name}" for name in _resolution(facts.ppi)))


def has_metadata(path: Path) -> bool:
    """Whether a picture file has any metadata at all, told without starting ExifTool."""
    kind = kind_of(path)
    if kind is not None:
        return kind != "OpenEXR"
    with Image.open(path) as picture:
        kinds = ("exif", "xmp", "XML:com.adobe.xmp", "comment", "iptc")
        # IPTC stands in the application segment 13 of a JPEG.
        segments = {name for name, _ in getattr(picture, "applist", ())}
        told = any(picture.info.get(kind) for kind in kinds) or "APP13" in segments
        return told or bool(getattr(picture, "text", None))


def _copied(target: Path, keep: Metadata) -> list[str]:
    """Which tags are copied."""
    arguments: list[str] = []
    if target.suffix in _WITHOUT_IPTC:
        pairs = _IPTC_IN_XMP | (_IPTC_PLACE_IN_XMP if keep == "all" else {})
        arguments += [f"-{xmp}<IPTC:{iptc}" for iptc, xmp in pairs.items()]
    arguments += ["-All:All", "-IPTC:CodedCharacterSet", "-Comment<File:Comment"]
    if keep == "all" and target.suffix not in _WITHOUT_IPTC:
        # The whole packet, with what ExifTool does not know.
        arguments.append("-XMP")
    arguments += _NOT_CARRIED
    if keep == "no_place":
        # Every tag that ExifTool counts as telling a place; notes of the maker may hide one.
        arguments += ["--Location:All", "--MakerNotes"]
    return arguments


def _made_true(facts: Facts) -> list[str]:
    """Tags that describe the pixels; only those that are there are changed."""
    size = {
        "ExifIFD:ExifImageWidth": facts.width,
        "ExifIFD:ExifImageHeight": facts.height,
        "XMP-exif:ExifImageWidth": facts.width,
        "XMP-exif:ExifImageHeight": facts.height,
        "XMP-tiff:ImageWidth": facts.width,
        "XMP-tiff:ImageHeight": facts.height,
    }
    arguments = [f"-{tag}={value}" for tag, value in size.items()]
    arguments += ["-IFD0:Orientation#=1", "-XMP-tiff:Orientation#=1"]
    if facts.ppi:
        named = _resolution(facts.ppi)
        arguments += [f"-{group}:{tag}" for group in ("IFD0", "XMP-tiff") for tag in named]
    return arguments


def _resolution(ppi: float) -> tuple[str, str, str]:
    return f"XResolution={ppi:g}", f"YResolution={ppi:g}", "ResolutionUnit#=2"


def _said(filled: Filled) -> list[str]:
    return [
        f"-XMP-sequor:FilledShare={filled.share:.6f}",
        f"-XMP-sequor:FillMethod={filled.method}",
        f"-IFD0:Software={filled.words}",
    ]


def _execute(target: Path, *arguments: str) -> None:
    """Change a file in place; minor problems of the original's metadata do not matter."""
    always = ("-overwrite_original", "-m", "-q", "-charset", "filename=utf8")
    status, _, said = PROCESS.execute(*always, *arguments, str(target))
    if status:
        log.warning("metadata of %s: %s", target.name, said)
        if any(line.startswith("Error:") for line in said.splitlines()):
            raise UnusableInput(tr("The metadata could not be written: {said}", said=said[:200]))
