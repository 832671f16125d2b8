"""The focal length of a file, against the standards' own definitions.

Exif 2.32 (CIPA DC-008-2019): tags 0x920A FocalLength, 0xA20E and 0xA20F FocalPlaneX/YResolution in
pixels per unit 0xA210 (2 inch, 3 centimetre), 0xA404 DigitalZoomRatio, 0xA405
FocalLengthIn35mmFilm. Sizes of sensors are the formats' nominal ones (36 x 24 mm: ISO 1007; Four
Thirds 17.3 x 13 mm: the format's own figures, from memory).
"""

import math
from pathlib import Path

import lensfunpy
import pytest
from PIL import ExifTags, Image, TiffImagePlugin

from sequor.pictures.focal_length import FoundFocal, focal_of_file
from sequor.pictures.inspect import inspect
from sequor.pictures.lenses import crop_factor

FULL_FRAME_MM = math.hypot(36, 24)


def exif_of(top: dict[int, object] | None = None, **tags: object) -> Image.Exif:
    exif = Image.Exif()
    for tag, value in (top or {}).items():
        exif[tag] = value
    details = exif.get_ifd(ExifTags.IFD.Exif)
    for name, value in tags.items():
        details[ExifTags.Base[name]] = value
    return exif


def found(exif: Image.Exif, size: tuple[int, int] = (6000, 4000)) -> FoundFocal | None:
    return focal_of_file(exif, size, lambda maker, model: 1.5 if model == "Made-up 7" else None)


@pytest.mark.parametrize(
    ("sensor_mm", "size", "focal_mm"),
    [((36, 24), (6000, 4000), 24), ((17.3, 13), (5184, 3888), 12), ((6.17, 4.55), (4000, 3000), 5)],
)
@pytest.mark.parametrize(("unit", "unit_mm"), [(2, 25.4), (3, 10.0)])
def test_by_the_pitch_of_the_sensors_pixels(sensor_mm, size, focal_mm, unit, unit_mm) -> None:
    exif = exif_of(
        FocalLength=focal_mm,
        FocalPlaneXResolution=size[0] / sensor_mm[0] * unit_mm,
        FocalPlaneYResolution=size[1] / sensor_mm[1] * unit_mm,
        FocalPlaneResolutionUnit=unit,
    )
    focal = found(exif, size)
    assert focal is not None
    assert focal.source == "sensor"
    # Equivalent: the same angle across the diagonal of a frame of 36 x 24 mm.
    angle = 2 * math.atan(math.hypot(*sensor_mm) / 2 / focal_mm)
    assert 2 * math.atan(FULL_FRAME_MM / 2 / focal.focal35_mm) == pytest.approx(angle, abs=1e-9)


def test_by_the_crop_factor_of_the_camera() -> None:
    camera = {ExifTags.Base.Make: "Nobody", ExifTags.Base.Model: "Made-up 7"}
    assert found(exif_of(camera, FocalLength=16)) == FoundFocal(24, "camera")
    zoomed = exif_of(camera, FocalLength=16, DigitalZoomRatio=2)
    assert found(zoomed) == FoundFocal(48, "camera")
    unused = exif_of(camera, FocalLength=16, DigitalZoomRatio=0)  # Exif: 0 means not used
    assert found(unused) == FoundFocal(24, "camera")
    assert found(exif_of({ExifTags.Base.Model: "Another"}, FocalLength=16)) is None
    assert found(exif_of(camera)) is None


def test_the_database_knows_cameras() -> None:
    # A camera of the full format has the crop factor 1, by its definition.
    full = [c for c in lensfunpy.Database().cameras if abs(c.crop_factor - 1) < 0.01][:3]
    assert len(full) == 3
    for camera in full:
        assert crop_factor(camera.maker, camera.model) == pytest.approx(1, abs=0.01)
    assert crop_factor("Nobody", "Nothing at all") is None


def test_the_plain_tag_comes_first_and_a_cut_narrows_the_view() -> None:
    both = exif_of(FocalLength=50, FocalLengthIn35mmFilm=75, FocalPlaneXResolution=4000)
    assert found(both) == FoundFocal(75, "file")
    # The middle third of the width: its diagonal is that of 2000 x 4000 pixels.
    cut = exif_of(FocalLengthIn35mmFilm=28, ExifImageWidth=6000, ExifImageHeight=4000)
    focal = found(cut, (2000, 4000))
    assert focal is not None
    # The focal length in pixels stays.
    before, after = math.hypot(6000, 4000), math.hypot(2000, 4000)
    assert focal.focal35_mm * after == pytest.approx(28 * before)
    # Made smaller, or turned upright by another program, it sees what it saw.
    assert found(cut, (3000, 2000)) == FoundFocal(28, "file")
    assert found(cut, (4000, 6000)) == FoundFocal(28, "file")


def test_the_pitch_is_that_of_the_picture_as_taken() -> None:
    tags = {"FocalPlaneXResolution": 6000 / 3.6, "FocalPlaneResolutionUnit": 3}
    exif = exif_of(FocalLength=24, ExifImageWidth=6000, ExifImageHeight=4000, **tags)
    small = found(exif, (1500, 1000))
    assert small is not None
    assert small.focal35_mm == pytest.approx(24)


@pytest.mark.parametrize(
    "tags",
    [
        {},
        {"FocalLength": 24},
        {"FocalLength": 0, "FocalPlaneXResolution": 1000},
        {"FocalLength": 24, "FocalPlaneXResolution": 0},
        {"FocalLength": 24, "FocalPlaneXResolution": 1e9},  # a sensor of a micrometre
        {"FocalLength": 24, "FocalPlaneXResolution": 180},  # that of a screen
        {"FocalLength": 24, "FocalPlaneXResolution": 4000, "FocalPlaneResolutionUnit": 9},
        {"FocalLength": "long", "FocalPlaneXResolution": "fine"},
        {"FocalLengthIn35mmFilm": 0},
        {"FocalLengthIn35mmFilm": 60000},
        {"FocalLength": TiffImagePlugin.IFDRational(1, 0), "FocalPlaneXResolution": 4000},
    ],
)
def test_what_cannot_be_says_nothing(tags: dict) -> None:
    assert found(exif_of(**tags)) is None


def test_a_file_without_the_plain_tag_keeps_its_true_proportions(tmp_path: Path) -> None:
    exif = exif_of(
        FocalLength=24.0,
        FocalPlaneXResolution=600 / 3.6,
        FocalPlaneYResolution=400 / 2.4,
        FocalPlaneResolutionUnit=3,
    )
    Image.new("RGB", (600, 400)).save(tmp_path / "a.jpg", exif=exif)
    photo = inspect(tmp_path / "a.jpg").photo
    assert (photo.focal35_mm, photo.focal_source) == (pytest.approx(24), "sensor")
