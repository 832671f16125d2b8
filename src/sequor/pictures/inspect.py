"""What a file is, decided from its content before any pixel is decoded."""

import io
import warnings
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from PIL import ExifTags, Image, ImageCms, TiffImagePlugin, UnidentifiedImageError

from sequor.core.errors import UnusableInput
from sequor.core.recipe import PhotoFacts
from sequor.pictures.focal_length import FoundFocal, focal_of_file
from sequor.pictures.lenses import crop_factor

DEFAULT_MAX_MEGAPIXELS = 300.0
MAX_SIDE = 100_000
"""Pixels; the widest panoramas come near."""
_MOST_PIXELS_PER_BYTE = {"PNG": 8 * 1032, "JPEG": 8 * 64, "MPO": 8 * 64}
"""Deflate packs 1,032 bytes into one at most (zlib, "Maximum compression factor"), each up to
eight pixels of PNG; in a JPEG every block of 64 pixels takes a bit at least (ITU-T T.81)."""

# Pillow's names of the formats we read, with what we call them and the extensions they may carry.
FORMATS = {
    "JPEG": ("JPEG", (".jpg", ".jpeg", ".jpe")),
    "MPO": (
        "JPEG",
        (".jpg", ".jpeg", ".mpo"),
    ),  # a JPEG followed by a second view, as telephones write it
    "PNG": ("PNG", (".png",)),
    "TIFF": ("TIFF", (".tif", ".tiff")),
    "WEBP": ("WebP", (".webp",)),
}
_SWAPPED_ORIENTATIONS = (5, 6, 7, 8)
_COLOUR_MODES = {"1", "L", "LA", "P", "PA", "RGB", "RGBA", "RGBX", "I;16", "I;16B", "I;16L", "I"}

# We check the size ourselves, against a limit that can be configured.
Image.MAX_IMAGE_PIXELS = None


@dataclass(frozen=True)
class FileFacts:
    """A picture file as its header describes it.

    ``width`` and ``height`` are those of the upright picture; ``orientation`` is the tag's value,
    1 to 8 (Exif, CIPA DC-008); ``ppi`` is the stated resolution in pixels per inch; ``taken_at``
    the camera's clock when it was taken.
    """

    format: str
    width: int
    height: int
    orientation: int
    focal: FoundFocal | None
    profile: str | None
    ppi: float | None = None
    taken_at: datetime | None = None

    @property
    def photo(self) -> PhotoFacts:
        """What the core needs to know."""
        focal = self.focal
        found = {"focal35_mm": focal.focal35_mm, "focal_source": focal.source} if focal else {}
        return PhotoFacts(width=self.width, height=self.height, **found)


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
        raise UnusableInput(f"{name} cannot be read: {problem.strerror}.") from problem
    if size == 0:
        raise UnusableInput(f"{name} is empty; nothing was stored.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            picture = Image.open(path)
    except UnidentifiedImageError as problem:
        raise UnusableInput(
            f"{name} is not a picture that Sequor reads (JPEG, PNG, TIFF or WebP)."
        ) from problem
    except Exception as problem:
        raise UnusableInput(f"{name} is damaged and cannot be read as a picture.") from problem
    with picture:
        try:
            return _facts(picture, name, max_megapixels, stored, size)
        except UnusableInput:
            raise
        except Exception as problem:  # a header can be broken in any way
            raise UnusableInput(f"{name} is damaged and cannot be read as a picture.") from problem


def _facts(
    picture: Image.Image, name: str, max_megapixels: float, stored: bool, byte_size: int
) -> FileFacts:
    if picture.format not in FORMATS:
        raise UnusableInput(
            f"{name} is a {picture.format} file; Sequor reads JPEG, PNG, TIFF and WebP."
        )
    format_name, extensions = FORMATS[picture.format]
    extension = Path(name).suffix.lower()
    if not stored and extension not in extensions:
        wanted = f"named *{extensions[0]}" if extension else f"given the extension {extensions[0]}"
        raise UnusableInput(
            f"{name} really is a {format_name} file; it must be {wanted} to be taken."
        )
    megapixels = picture.width * picture.height / 1e6
    if megapixels > max_megapixels:
        raise UnusableInput(
            f"{name} claims {megapixels:,.0f} megapixels; the limit is {max_megapixels:,.0f}."
        )
    _check_claim(picture, name, byte_size)
    if picture.mode not in _COLOUR_MODES:
        raise UnusableInput(
            f"{name} holds {picture.mode} colours; convert it to RGB or grey first."
        )
    if picture.format != "MPO" and getattr(picture, "n_frames", 1) > 1:
        raise UnusableInput(
            f"{name} holds several pictures; save the one you want as a file of its own."
        )
    width, height = picture.size
    if isinstance(picture, TiffImagePlugin.TiffImageFile):
        # Pillow swaps the sides of a TIFF by its orientation; the stored ones are in the tags.
        sides = (ExifTags.Base.ImageWidth, ExifTags.Base.ImageLength)
        width, height = (int(picture.tag_v2[tag]) for tag in sides)
    try:
        exif = picture.getexif()
        orientation = exif.get(ExifTags.Base.Orientation, 1)
        focal = focal_of_file(exif, (width, height), crop_factor)
        taken_at = _taken_at(exif)
    except Exception:  # a broken tag block is no reason to refuse a good picture
        orientation, focal, taken_at = 1, None, None
    if orientation not in range(1, 9):
        orientation = 1
    if orientation in _SWAPPED_ORIENTATIONS:
        width, height = height, width
    return FileFacts(
        format=format_name,
        width=width,
        height=height,
        orientation=int(orientation),
        focal=focal,
        profile=_profile_name(picture.info.get("icc_profile")),
        ppi=_ppi(picture),
        taken_at=taken_at,
    )


def _taken_at(exif: Image.Exif) -> datetime | None:
    """When a picture was taken, or at least written, by its tags (Exif 2.32, 4.6.5, tag 36867)."""
    tags = exif.get_ifd(ExifTags.IFD.Exif)
    for text in (tags.get(ExifTags.Base.DateTimeOriginal), exif.get(ExifTags.Base.DateTime)):
        try:
            return datetime.strptime(str(text).strip("\0 "), "%Y:%m:%d %H:%M:%S")
        except ValueError:  # not given, or nonsense
            continue
    return None


def _check_claim(picture: Image.Image, name: str, byte_size: int) -> None:
    """Refuse sides that no picture has, and more pixels than so many bytes can hold."""
    width, height = picture.size
    if max(width, height) > MAX_SIDE:
        raise UnusableInput(
            f"{name} claims {width:,} x {height:,} pixels; a side may have {MAX_SIDE:,}."
        )
    most = _MOST_PIXELS_PER_BYTE.get(picture.format or "")
    if most and width * height > most * byte_size:
        raise UnusableInput(
            f"{name} claims {width:,} x {height:,} pixels, more than its {byte_size:,} bytes can "
            "hold; it is damaged."
        )


def _ppi(picture: Image.Image) -> float | None:
    """The resolution that a file states, in pixels per inch; None where it states none.

    A resolution whose unit is left out (JFIF's unit 0, Exif's 0 or 1) is taken to be per inch, as
    it is meant; a bare 1 x 1 says only that pixels are square.
    """
    info = picture.info
    density = info.get("dpi") or info.get("jfif_density") or info.get("resolution")
    try:
        if not density:
            exif = picture.getexif()
            per_cm = exif.get(ExifTags.Base.ResolutionUnit) == 3
            density = (float(exif[ExifTags.Base.XResolution]) * (2.54 if per_cm else 1.0),)
        found = float(density[0])
    except (KeyError, TypeError, ValueError, ZeroDivisionError, OSError):
        return None
    return found if 1 < found < 1e6 else None


def _profile_name(profile: bytes | None) -> str | None:
    if not profile:
        return None
    try:
        return ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(profile))).strip()
    except (ImageCms.PyCMSError, OSError):
        return "unnamed profile"
