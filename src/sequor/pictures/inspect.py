"""What a file is, decided from its content before any pixel is decoded."""

import io
import re
import warnings
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path
from typing import Any, Literal

from PIL import ExifTags, Image, ImageCms, UnidentifiedImageError

from sequor.core.errors import UnusableInput
from sequor.core.language import english, mark, tr
from sequor.core.photo import CameraPose, FileBow, PhotoFacts
from sequor.pictures.floating import exr_header
from sequor.pictures.focal_length import FoundFocal, focal_of_file
from sequor.pictures.formats import PILLOW, READ, SPOKEN, Unsuited, kind_of
from sequor.pictures.jxl import jxl_header
from sequor.pictures.lenses import crop_factor
from sequor.pictures.raw import raw_header
from sequor.pictures.tags import exif_of, pillow_exif
from sequor.pictures.tiff import INKS, LAB, tiff_header

DEFAULT_MAX_MEGAPIXELS = 300.0
MAX_SIDE = 100_000
"""Pixels; the widest panoramas come near."""
_MOST_PIXELS_PER_BYTE = {"PNG": 8 * 1032, "JPEG": 8 * 64, "GIF": 8 * 1032, "BMP": 64}
"""Deflate packs 1,032 bytes into one at most (zlib, "Maximum compression factor"), each up to
eight pixels of PNG; in a JPEG every block of 64 pixels takes a bit at least (ITU-T T.81)."""
_SWAPPED_ORIENTATIONS = (5, 6, 7, 8)
_GREY_OR_RGB = {"1", "L", "LA", "P", "PA", "RGB", "RGBA", "RGBX", "I;16", "I;16B", "I;16L", "I"}
_INKS_OR_LAB = {"CMYK", "LAB"}
FileRemark = Literal["gain_map", "first_of_several", "inks", "lab", "developed", "floats"]
"""What a person should know of how a file was read (`report.files`)."""
_GAIN_MAP = re.compile(rb"urn:iso:std:iso:ts:21496:-1|hdrgm:Version|HDRGainMap")
"""How a JPEG says that it brings a gain map: ISO 21496-1, annex C, and the two ways before it."""
_HEAD_BYTES = 1 << 18

# We check the size ourselves, against a limit that can be configured.
Image.MAX_IMAGE_PIXELS = None


@dataclass(frozen=True)
class _Header:
    """What a format's own header says; sides are those of the stored picture.

    ``upright`` where the decoder turns it; ``pages`` how many pictures there are in the file.
    """

    kind: str
    width: int
    height: int
    exif: Image.Exif
    upright: bool = False
    orientation: int | None = None
    info: dict[str, Any] = field(default_factory=dict)
    profile: bytes | None = None
    bow: FileBow | None = None
    pages: int = 1
    remarks: tuple[FileRemark, ...] = ()


class SeveralPages(UnusableInput):
    """A file of several pages, of which one has to be chosen."""

    def __init__(self, name: str, pages: int) -> None:
        super().__init__(name, pages)
        self.name, self.pages = name, pages

    def __str__(self) -> str:
        said = mark("{name} holds {pages} pictures: say which page is to be taken.")
        return tr(said, name=self.name, pages=self.pages)

    def __reduce__(self) -> tuple[type["SeveralPages"], tuple[str, int]]:
        return SeveralPages, (self.name, self.pages)


@dataclass(frozen=True)
class FileFacts:
    """A picture file as its header describes it.

    ``width`` and ``height`` are those of the upright picture; ``orientation`` is the tag's value,
    1 to 8 (Exif, CIPA DC-008); ``ppi`` is the stated resolution in pixels per inch; ``taken_at``
    the camera's clock when it was taken; ``bow`` the lens's distortion as the file states it for
    the upright picture, ``pose`` how it says that the camera was held (see `pose`).
    """

    format: str
    width: int
    height: int
    orientation: int
    focal: FoundFocal | None
    profile: str | None
    ppi: float | None = None
    taken_at: datetime | None = None
    bow: FileBow | None = None
    pose: CameraPose | None = None
    remarks: tuple[FileRemark, ...] = ()

    @property
    def photo(self) -> PhotoFacts:
        """What the core needs to know."""
        focal = self.focal
        found = {"focal35_mm": focal.focal35_mm, "focal_source": focal.source} if focal else {}
        raw = "developed" in self.remarks
        return PhotoFacts(
            width=self.width, height=self.height, bow=self.bow, pose=self.pose, raw=raw, **found
        )


def inspect(
    path: Path,
    name: str | None = None,
    max_megapixels: float = DEFAULT_MAX_MEGAPIXELS,
    stored: bool = False,
) -> FileFacts:
    """Recognise a picture file.

    Parameters
    ----------
    path : Path
        The file.
    name : str, optional
        The name it came under, if not its own; its extension must fit its content.
    max_megapixels : float
        Larger pictures are refused, before decoding.
    stored : bool
        A stored original, which has no ending: its name was checked when it came in.

    Raises
    ------
    UnusableInput
        When the file is missing, empty, no picture, of another type than its name
        says, of a kind we do not read, or too large.
    """
    name = name or path.name
    try:
        size = path.stat().st_size
    except OSError as problem:
        raise UnusableInput(
            tr("{name} cannot be read: {strerror}.", name=name, strerror=problem.strerror)
        ) from problem
    if size == 0:
        raise UnusableInput(tr("{name} is empty; nothing was stored.", name=name))
    try:
        header = _header(path)
        return _facts(header, name, max_megapixels, stored, size)
    except UnusableInput:
        raise
    except Unsuited as problem:
        raise UnusableInput(f"{name} {problem}") from problem
    except UnidentifiedImageError as problem:
        raise UnusableInput(
            tr(
                "{name} is not a picture that Sequor reads ({spoken}).",
                name=name,
                spoken=tr(SPOKEN),
            )
        ) from problem
    except Exception as problem:  # a header can be broken in any way
        raise UnusableInput(
            tr("{name} is damaged and cannot be read as a picture.", name=name)
        ) from problem


def _header(path: Path) -> _Header:
    kind = kind_of(path)
    own = _HEADERS.get(kind or "")
    return own(path) if own else _pillow(path)


def _pillow(path: Path) -> _Header:
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        picture = Image.open(path)
    with picture:
        kind = PILLOW.get(picture.format or "")
        if kind is None:
            raise Unsuited(
                tr(
                    "is a {format} file; Sequor reads {spoken}.",
                    format=picture.format,
                    spoken=tr(SPOKEN),
                )
            )
        if picture.mode not in _GREY_OR_RGB | _INKS_OR_LAB:
            raise Unsuited(
                tr("holds {mode} colours; convert it to RGB or grey first.", mode=picture.mode)
            )
        remarks: list[FileRemark] = []
        if picture.mode in _INKS_OR_LAB:
            remarks.append("inks" if picture.mode == "CMYK" else "lab")
        if _has_gain_map(picture, kind, path):
            remarks.append("gain_map")
        if picture.format != "MPO" and getattr(picture, "n_frames", 1) > 1:
            remarks.append("first_of_several")
        exif = pillow_exif(picture)
        width, height = picture.size
        # Pillow tells the turn of an AVIF by this tag, and what decodes it applies it.
        if kind == "AVIF" and exif.get(ExifTags.Base.Orientation) in _SWAPPED_ORIENTATIONS:
            width, height = height, width
        info: dict[str, Any] = {str(key): value for key, value in picture.info.items()}
        return _Header(
            kind,
            width,
            height,
            exif=exif,
            upright=kind in ("HEIC", "AVIF"),
            info=info,
            profile=info.get("icc_profile"),
            remarks=tuple(remarks),
        )


def _has_gain_map(picture: Image.Image, kind: str, path: Path) -> bool:
    """Whether a file brings a second picture that says how much brighter places can be shown."""
    if kind == "HEIC":
        return any("gainmap" in str(name).lower() for name in picture.info.get("aux", {}))
    if kind != "JPEG":
        return False
    with path.open("rb") as file:
        return bool(_GAIN_MAP.search(file.read(_HEAD_BYTES)))


def _tiff(path: Path) -> _Header:
    found = tiff_header(path)
    remarks: list[FileRemark] = []
    if found.photometric in (INKS, LAB):
        remarks.append("inks" if found.photometric == INKS else "lab")
    if found.floats:
        remarks.append("floats")
    return _Header(
        "TIFF",
        found.width,
        found.height,
        found.exif,
        profile=found.profile,
        pages=found.pages,
        remarks=tuple(remarks),
    )


def _raw(path: Path) -> _Header:
    found = raw_header(path)
    return _Header(
        kind_of(path) or "Raw",
        found.width,
        found.height,
        found.exif,
        orientation=found.orientation,
        bow=found.bow,
        remarks=("developed",),
    )


def _jxl(path: Path) -> _Header:
    found = jxl_header(path)
    return _Header("JPEG XL", found.width, found.height, found.exif, upright=True)


def _exr(path: Path) -> _Header:
    found = exr_header(path)
    remarks: tuple[FileRemark, ...] = ("floats", "first_of_several")
    return _Header(
        "OpenEXR",
        found.width,
        found.height,
        Image.Exif(),
        remarks=remarks if found.parts > 1 else remarks[:1],
    )


_HEADERS: dict[str, Callable[[Path], _Header]] = {
    "TIFF": _tiff,
    "DNG": _raw,
    "Raw": _raw,
    "JPEG XL": _jxl,
    "OpenEXR": _exr,
}


def _facts(
    header: _Header, name: str, max_megapixels: float, stored: bool, byte_size: int
) -> FileFacts:
    endings = READ[header.kind].endings
    ending = Path(name).suffix.lower()
    if not stored and ending not in endings:
        wanted = (
            tr("named *{endings}", endings=endings[0])
            if ending
            else tr("given the extension {endings}", endings=endings[0])
        )
        raise UnusableInput(
            tr(
                "{name} really is a {kind} file; it must be {wanted} to be taken.",
                name=name,
                kind=header.kind,
                wanted=wanted,
            )
        )
    megapixels = header.width * header.height / 1e6
    if megapixels > max_megapixels:
        raise UnusableInput(
            tr(
                "{name} claims {megapixels:,.0f} megapixels; the limit is {max_megapixels:,.0f}.",
                name=name,
                megapixels=megapixels,
                max_megapixels=max_megapixels,
            )
        )
    _check_claim(header, name, byte_size)
    if header.pages > 1:
        raise SeveralPages(name, header.pages)
    width, height = header.width, header.height
    orientation, focal, taken_at = _said(header)
    if orientation in _SWAPPED_ORIENTATIONS:
        width, height = height, width
    return FileFacts(
        format=header.kind,
        width=width,
        height=height,
        orientation=orientation,
        focal=focal,
        profile=profile_name(header.profile),
        ppi=_ppi(header),
        taken_at=taken_at,
        bow=header.bow.upright(orientation) if header.bow else None,
        remarks=header.remarks,
    )


def _said(header: _Header) -> tuple[int, FoundFocal | None, datetime | None]:
    """The orientation, focal length and time by the tags; nothing of a block that is broken."""
    exif = header.exif
    try:
        orientation = header.orientation or exif.get(ExifTags.Base.Orientation, 1)
        focal = focal_of_file(exif, (header.width, header.height), crop_factor)
        taken_at = _taken_at(exif)
    except Exception:  # no reason to refuse a good picture
        return header.orientation or 1, None, None
    if header.upright or orientation not in range(1, 9):
        orientation = 1
    return int(orientation), focal, taken_at


def taken_at_of(path: Path) -> datetime | None:
    """When a picture was taken, by its file; None where that does not say it."""
    try:
        return _taken_at(exif_of(path))
    except OSError:
        return None


def _taken_at(exif: Image.Exif) -> datetime | None:
    """When a picture was taken, or at least written, by its tags (Exif 2.32, 4.6.5, tag 36867)."""
    tags = exif.get_ifd(ExifTags.IFD.Exif)
    for text in (tags.get(ExifTags.Base.DateTimeOriginal), exif.get(ExifTags.Base.DateTime)):
        try:
            return datetime.strptime(str(text).strip("\0 "), "%Y:%m:%d %H:%M:%S")
        except ValueError:  # not given, or nonsense
            continue
    return None


def _check_claim(header: _Header, name: str, byte_size: int) -> None:
    """Refuse sides that no picture has, and more pixels than so many bytes can hold."""
    width, height = header.width, header.height
    if max(width, height) > MAX_SIDE:
        raise UnusableInput(
            tr(
                "{name} claims {width:,} x {height:,} pixels; a side may have {max_side:,}.",
                name=name,
                width=width,
                height=height,
                max_side=MAX_SIDE,
            )
        )
    most = _MOST_PIXELS_PER_BYTE.get(header.kind)
    if most and width * height > most * byte_size:
        raise UnusableInput(
            tr(
                "{name} claims {width:,} x {height:,} pixels, more than its {byte_size:,} "
                "bytes can hold; it is damaged.",
                name=name,
                width=width,
                height=height,
                byte_size=byte_size,
            )
        )


def _ppi(header: _Header) -> float | None:
    """The resolution that a file states, in pixels per inch; None where it states none.

    A resolution whose unit is left out (JFIF's unit 0, Exif's 0 or 1) is taken to be per inch, as
    it is meant; a bare 1 x 1 says only that pixels are square.
    """
    info, exif = header.info, header.exif
    density = info.get("dpi") or info.get("jfif_density") or info.get("resolution")
    try:
        if not density:
            per_cm = exif.get(ExifTags.Base.ResolutionUnit) == 3
            density = (float(exif[ExifTags.Base.XResolution]) * (2.54 if per_cm else 1.0),)
        found = float(density[0])
    except (KeyError, TypeError, ValueError, ZeroDivisionError, OSError):
        return None
    return found if 1 < found < 1e6 else None


def profile_name(profile: bytes | None) -> str | None:
    """What a profile calls itself."""
    if not profile:
        return None
    try:
        return ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(profile))).strip()
    except (ImageCms.PyCMSError, OSError):
        return english("unnamed profile")
