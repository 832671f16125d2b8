"""The focal length of a picture file in 35-mm terms, wherever the file tells it.

In this order: the tag FocalLengthIn35mmFilm; FocalLength with the sensor's pixel pitch
(FocalPlaneXResolution, FocalPlaneYResolution and their unit); FocalLength with the crop factor that
the lens database knows of the camera. Digital zoom narrows the view of a sensor, and so does
cutting the picture afterwards, which shows where the file says how large the picture was. Tags
after Exif 2.32 (CIPA DC-008-2019), sections 4.6.5 and 4.6.8; the numbers of units beyond inch and
centimetre, which several makers write, are from memory.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

from PIL import ExifTags, Image

from sequor.core.camera import FULL_FRAME_DIAGONAL_MM
from sequor.core.photo import FileFocal
from sequor.core.recipe import MAX_FOCAL35_MM, MIN_FOCAL35_MM

_UNITS_MM = {2: 25.4, 3: 10.0, 4: 1.0, 5: 0.001}
"""Millimetres in units of FocalPlaneResolutionUnit: inch, centimetre; millimetre, micrometre."""
_LEAST_DIAGONAL_MM, _MOST_DIAGONAL_MM = 3.0, 90.0
"""Sensors have diagonals between these, from telephones' to those of large backs; a resolution that
makes another one is wrong, as happens where it was written for a small picture beside it."""
_SAME_SHAPE = 0.01
"""Sides whose ratio differs by less are of a picture that was made smaller, not cut."""

CropFactor = Callable[[str, str], float | None]
"""The crop factor of a camera by its maker and model."""


@dataclass(frozen=True)
class FoundFocal:
    """A focal length in 35-mm terms, and where it comes from."""

    focal35_mm: float
    source: FileFocal


def focal_of_file(
    exif: Image.Exif, size: tuple[int, int], crop_factor: CropFactor
) -> FoundFocal | None:
    """What the tags of a file say of its focal length.

    Parameters
    ----------
    exif : PIL.Image.Exif
        All tags of the file.
    size : (int, int)
        Width and height of the stored picture in pixels, before its orientation is applied.
    crop_factor : callable
        Of a camera by its maker and model; None where it is not known.

    Returns
    -------
    FoundFocal or None
        None where nothing, or nothing that can be, is said.
    """
    tags = exif.get_ifd(ExifTags.IFD.Exif)
    taken = _taken(tags, size)
    cut = _cut(taken, size)
    for source, found in (
        ("file", _positive(tags.get(ExifTags.Base.FocalLengthIn35mmFilm))),
        ("sensor", _by_sensor(tags, taken)),
        ("camera", _by_camera(exif, tags, crop_factor)),
    ):
        if found is not None and MIN_FOCAL35_MM <= found * cut <= MAX_FOCAL35_MM:
            return FoundFocal(found * cut, source)  # type: ignore[arg-type]
    return None


def _by_sensor(tags: dict[int, object], taken: tuple[int, int]) -> float | None:
    """From the pixels' pitch: ``f35 = f / sensor's diagonal x 43.27 mm``."""
    focal = _positive(tags.get(ExifTags.Base.FocalLength))
    across = _positive(tags.get(ExifTags.Base.FocalPlaneXResolution))
    down = _positive(tags.get(ExifTags.Base.FocalPlaneYResolution)) or across
    unit = _UNITS_MM.get(_whole(tags.get(ExifTags.Base.FocalPlaneResolutionUnit)) or 2)
    if focal is None or across is None or down is None or unit is None:
        return None
    diagonal = math.hypot(taken[0] / across, taken[1] / down) * unit
    if not _LEAST_DIAGONAL_MM <= diagonal <= _MOST_DIAGONAL_MM:
        return None
    return focal / diagonal * FULL_FRAME_DIAGONAL_MM * _zoom(tags)


def _by_camera(exif: Image.Exif, tags: dict[int, object], crop_factor: CropFactor) -> float | None:
    """From the camera's crop factor: ``f35 = f x crop``."""
    focal = _positive(tags.get(ExifTags.Base.FocalLength))
    maker, model = (
        str(exif.get(tag) or "").strip("\0 ") for tag in (ExifTags.Base.Make, ExifTags.Base.Model)
    )
    crop = crop_factor(maker, model) if focal is not None and model else None
    return None if focal is None or not crop else focal * crop * _zoom(tags)


def _zoom(tags: dict[int, object]) -> float:
    """How many times a digital zoom has narrowed the view; 0 in the tag means that it was not
    used.
    """
    return max(1.0, _positive(tags.get(ExifTags.Base.DigitalZoomRatio)) or 1.0)


def _taken(tags: dict[int, object], size: tuple[int, int]) -> tuple[int, int]:
    """Width and height as the picture was taken, where the file tells it."""
    sides = tuple(
        _whole(tags.get(tag))
        for tag in (ExifTags.Base.ExifImageWidth, ExifTags.Base.ExifImageHeight)
    )
    width, height = (side or own for side, own in zip(sides, size, strict=True))
    # Some programs turn the pixels and leave these as they were.
    lying = (width > height) == (size[0] > size[1])
    return (width, height) if lying else (height, width)


def _cut(taken: tuple[int, int], size: tuple[int, int]) -> float:
    """How many times less of the picture's diagonal is left; 1 where it was only made smaller."""
    same = math.isclose(taken[0] * size[1], taken[1] * size[0], rel_tol=_SAME_SHAPE)
    fits = size[0] <= taken[0] and size[1] <= taken[1]
    return 1.0 if same or not fits else math.hypot(*taken) / math.hypot(*size)


def _positive(value: object) -> float | None:
    try:
        number = float(value)  # type: ignore[arg-type]
    except (TypeError, ValueError, ZeroDivisionError, OverflowError):
        return None
    return number if 0 < number < math.inf else None


def _whole(value: object) -> int | None:
    number = _positive(value)
    return None if number is None else int(number)
