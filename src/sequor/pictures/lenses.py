"""Lenses from an open database: the one that comes with the package lensfunpy.

The database's own code evaluates an entry for a picture's focal length, focus and format. All its
models of distortion are polynomials of the radius, so a handful of its values give the polynomial
of bow.py exactly, rescaled to unit magnification at the centre; that it reproduces every value is
checked.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import lensfunpy
import numpy as np
from PIL import ExifTags

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.pictures.tags import exif_of

_STRIP_PX = 4001
_FAR_M = 1000.0
# The database computes in single precision: on a picture of 3000 pixels this is a hundredth of one.
_SAME = 5e-6
MANY = 40


@dataclass(frozen=True)
class Shot:
    """What a file says of its camera and lens; empty or None where it does not."""

    camera_maker: str
    camera: str
    lens: str
    focal_mm: float | None
    distance_m: float | None


@dataclass(frozen=True)
class Known:
    """A lens of the database."""

    name: str
    crop: float
    focal_from_mm: float
    focal_to_mm: float


@lru_cache(maxsize=1)
def _database() -> lensfunpy.Database:
    return lensfunpy.Database()


def crop_factor(maker: str, model: str) -> float | None:
    """That of a camera, None when the database does not know it."""
    cameras = _database().find_cameras(maker or None, model, loose_search=False)
    return float(cameras[0].crop_factor) if cameras else None


def shot_of(path: Path) -> Shot:
    """What a picture file says of its camera and lens."""
    exif = exif_of(path)
    details = exif.get_ifd(ExifTags.IFD.Exif)

    def text(value: object) -> str:
        return str(value or "").strip("\0 ")

    return Shot(
        camera_maker=text(exif.get(ExifTags.Base.Make)),
        camera=text(exif.get(ExifTags.Base.Model)),
        lens=text(details.get(ExifTags.Base.LensModel)),
        focal_mm=_number(details.get(ExifTags.Base.FocalLength)),
        distance_m=_number(details.get(ExifTags.Base.SubjectDistance)),
    )


def matching(shot: Shot) -> list[Known]:
    """Lenses of the database that may have taken a picture, the likeliest first.

    None when the file names neither.
    """
    cameras = (
        _database().find_cameras(shot.camera_maker or None, shot.camera, loose_search=False)
        if shot.camera
        else []
    )
    if not shot.lens and not cameras:
        return []
    camera = cameras[0] if cameras else None
    if camera is not None:
        found = _database().find_lenses(
            camera, None, shot.lens or None, loose_search=bool(shot.lens)
        )
    else:
        found = [lens for lens in _database().lenses if _has(lens, shot.lens)]
    if shot.focal_mm:
        found = [
            lens for lens in found if lens.min_focal - 0.5 <= shot.focal_mm <= lens.max_focal + 0.5
        ]
    return _known(found)


def search(text: str) -> list[Known]:
    """Lenses whose maker and model hold all words of a text."""
    return _known([lens for lens in _database().lenses if _has(lens, text)])


def polynomial_of(name: str, shot: Shot, focal35_mm: float) -> tuple[float, float, float, float]:
    """c1 to c4 of a lens (see core/bow.py) at the focal length and focus of a shot.

    Parameters
    ----------
    name : str
        As `Known.name` has it.
    shot : Shot
        Its focal length and distance are taken; without a focal length ``focal35_mm`` over the crop
        factor is.

    Raises
    ------
    UnusableInput
        When there is no such lens, or it is one that draws no straight lines (a fisheye).
    """
    lens = next((lens for lens in _database().lenses if _name(lens) == name), None)
    if lens is None:
        raise UnusableInput(
            tr(
                "There is no lens named “{name}” in the database; search for a part of its name.",
                name=name,
            )
        )
    if lens.type != lensfunpy.LensType.RECTILINEAR:
        raise UnusableInput(
            tr(
                "{name} is not a lens that keeps straight lines straight; its projection "
                "is not supported.",
                name=name,
            )
        )
    camera = (
        next(iter(_database().find_cameras(shot.camera_maker or None, shot.camera)), None)
        if shot.camera
        else None
    )
    crop = camera.crop_factor if camera else lens.crop_factor
    focal = min(max(shot.focal_mm or focal35_mm / crop, lens.min_focal), lens.max_focal)
    # A strip one pixel wide holds every radius; its two ends are averaged, which cancels any shift
    # of the centre. Lengths in the database are for the format of the camera, so in units of half
    # the diagonal the shape of the picture does not matter.
    modifier = lensfunpy.Modifier(lens, crop, 1, _STRIP_PX)
    modifier.initialize(
        focal,
        lens.min_aperture or 8.0,
        shot.distance_m or _FAR_M,
        scale=1.0,
        flags=lensfunpy.ModifyFlags.DISTORTION,
    )
    moved = modifier.apply_geometry_distortion()
    if moved is None:
        raise UnusableInput(tr("The database knows {name}, but not its distortion.", name=name))
    unit = math.hypot(1, _STRIP_PX) / 2
    radius = (np.arange(_STRIP_PX) - (_STRIP_PX - 1) / 2)[_STRIP_PX // 2 :] / unit
    along = moved[:, 0, 1].astype(float)
    reached = (along - along[::-1])[_STRIP_PX // 2 :] / 2 / unit
    design = radius[:, None] ** np.arange(1, 6)
    terms = np.linalg.lstsq(design, reached, rcond=None)[0]
    if np.abs(design @ terms - reached).max() > _SAME:
        raise UnusableInput(
            tr("The database describes {name} in a way that is not supported.", name=name)
        )
    at_centre = terms[0]
    c1, c2, c3, c4 = (
        float(term / at_centre ** (power + 2)) for power, term in enumerate(terms[1:])
    )
    return c1, c2, c3, c4


def _known(lenses: list[lensfunpy.Lens]) -> list[Known]:
    seen = {
        _name(lens): Known(_name(lens), lens.crop_factor, lens.min_focal, lens.max_focal)
        for lens in reversed(lenses)
    }
    return list(seen.values())[::-1][:MANY]


def _name(lens: lensfunpy.Lens) -> str:
    name = (
        lens.model
        if lens.model.lower().startswith(lens.maker.lower())
        else f"{lens.maker} {lens.model}"
    )
    return f"{name} (crop {lens.crop_factor:.2f})"


def _has(lens: lensfunpy.Lens, text: str) -> bool:
    name = _name(lens).lower()
    return bool(text.strip()) and all(word in name for word in text.lower().split())


def _number(value: object) -> float | None:
    try:
        number = float(value)  # type: ignore[arg-type]
    except (TypeError, ValueError, ZeroDivisionError):
        return None
    return number if math.isfinite(number) and number > 0 else None
