"""The few tags that are asked of a file before it is trusted."""

from pathlib import Path

from PIL import ExifTags, Image

from sequor.pictures.formats import RAW, kind_of
from sequor.pictures.jxl import jxl_header
from sequor.pictures.tiff import tiff_exif


def exif_of(path: Path) -> Image.Exif:
    """The Exif tags of a picture file, empty when it has none that can be read.

    Raises
    ------
    FileNotFoundError
        When the file is gone.
    """
    kind = kind_of(path)
    try:
        if kind in ("TIFF", *RAW):
            return tiff_exif(path)
        if kind == "JPEG XL":
            return jxl_header(path).exif
        if kind is not None:
            return Image.Exif()
        with Image.open(path) as picture:
            return pillow_exif(picture)
    except Exception:  # a broken block says nothing
        return Image.Exif()


def pillow_exif(picture: Image.Image) -> Image.Exif:
    """The tags of a picture that Pillow has opened; none where they are broken."""
    try:
        exif = picture.getexif()
        exif.get_ifd(ExifTags.IFD.Exif)  # read now: later the file is closed
    except Exception:  # a broken block says nothing
        return Image.Exif()
    return exif
