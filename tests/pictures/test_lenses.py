"""Lenses of the open database against the database's own code and the published formula of its
models.
"""

from pathlib import Path

import lensfunpy
import numpy as np
import pytest
from PIL import Image

from sequor.core.errors import UnusableInput
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.pictures.lenses import Shot, matching, polynomial_of, search, shot_of

NOTHING = Shot("", "", "", None, None)
LENSES = (
    "Nikkor 28mm f/2.8D 62",
    "Sigma 20mm f/1.4 DG HSM | Art 015",
    "DSC-RX100 III",
    "Canon PowerShot A80 & compatibles, with",
)


def lens_of(name: str) -> lensfunpy.Lens:
    return next(
        lens
        for lens in lensfunpy.Database().lenses
        if name.lower() in f"{lens.maker} {lens.model}".lower()
    )


@pytest.mark.parametrize("name", LENSES)
def test_point_by_point_over_the_field_as_the_database_evaluates_it(name: str) -> None:
    lens = lens_of(name)
    width, height = 3000, 2000
    modifier = lensfunpy.Modifier(lens, lens.crop_factor, width, height)
    modifier.initialize(
        lens.min_focal, 8.0, 1000.0, scale=1.0, flags=lensfunpy.ModifyFlags.DISTORTION
    )
    theirs = modifier.apply_geometry_distortion().astype(float) + 0.5
    (known,) = [found for found in search(name) if name.lower() in found.name.lower()][:1]
    distortion = Distortion.of(
        PhotoFacts(width=width, height=height),
        polynomial_of(known.name, Shot("", "", "", lens.min_focal, None), 35),
    )
    rows, columns = (
        axis.ravel()
        for axis in np.meshgrid(np.arange(0, height, 40), np.arange(0, width, 40), indexing="ij")
    )
    straight = np.column_stack([columns, rows]) + 0.5
    centre = np.array([width / 2, height / 2])
    # The database scales the centre; the project keeps it at one, so the same map is found at
    # scaled points.
    near = np.hypot(*(straight - centre).T) < 250
    magnified = ((theirs[rows, columns] - centre)[near] * (straight - centre)[near]).sum() / (
        (straight - centre)[near] ** 2
    ).sum()
    scales = np.linspace(magnified - 0.02, magnified + 0.02, 2001)
    ours = min(
        (distortion.distorted(centre + (straight - centre) * scale) for scale in scales),
        key=lambda points: float(((points - theirs[rows, columns]) ** 2).sum()),
    )
    off = np.hypot(*(ours - theirs[rows, columns]).T)
    # The database's code multiplies by quick reciprocals in whole pictures: good to about a quarter
    # of a thousandth.
    assert np.sqrt(np.mean(off**2)) < 0.2
    assert off.max() < 0.5


def test_the_published_formula_of_the_databases_cubic_model() -> None:
    # r_d = r (a r^3 + b r^2 + c r + 1 - a - b - c) with r in units of half the shorter side (the
    # lensfun manual, distortion models).
    lens = lens_of("Nikkor 28mm f/2.8D 62")
    a, b, c = lens.interpolate_distortion(28.0).terms
    short = 1 / np.hypot(
        1.5, 1.0
    )  # half the shorter side of a 3:2 format, in units of half the diagonal
    polynomial = polynomial_of(
        search("Nikkor 28mm f/2.8D 62")[0].name, Shot("", "", "", 28.0, None), 28
    )
    at_centre = 1 - a - b - c
    expected = [c / short / at_centre**2, b / short**2 / at_centre**3, a / short**3 / at_centre**4]
    assert polynomial[:3] == pytest.approx(expected, abs=3e-3)
    radii = np.linspace(0, 1, 50)
    ours = radii * (1 + sum(term * radii ** (n + 1) for n, term in enumerate(polynomial)))
    theirs = radii * (1 + sum(term * radii ** (n + 1) for n, term in enumerate(expected)))
    assert np.abs(ours - theirs).max() < 2e-5


def test_lenses_are_found_by_words_and_by_what_a_file_says(tmp_path: Path) -> None:
    assert all(
        "28" in lens.name and "nikkor" in lens.name.lower() for lens in search("NIKKOR 28mm")
    )
    assert search("no such lens anywhere") == []
    assert search("  ") == []
    assert matching(NOTHING) == []
    said = Shot("NIKON CORPORATION", "NIKON D3S", "28mm f/2.8D", 28.0, None)
    found = matching(said)
    assert found
    assert all(lens.focal_from_mm <= 28 <= lens.focal_to_mm for lens in found)
    exif = Image.Exif()
    exif[0x010F], exif[0x0110] = "NIKON CORPORATION", "NIKON D3S"
    exif.get_ifd(0x8769).update({0xA434: "28mm f/2.8D", 0x920A: 28.0, 0x9206: 4.5})
    Image.new("RGB", (30, 20)).save(tmp_path / "a.jpg", exif=exif)
    assert shot_of(tmp_path / "a.jpg") == Shot(
        "NIKON CORPORATION", "NIKON D3S", "28mm f/2.8D", 28.0, 4.5
    )
    Image.new("RGB", (30, 20)).save(tmp_path / "b.png")
    assert shot_of(tmp_path / "b.png") == NOTHING


def test_what_cannot_be_taken_is_refused() -> None:
    with pytest.raises(UnusableInput, match="no lens named"):
        polynomial_of("made up", NOTHING, 35)
    bent = next(
        lens for lens in lensfunpy.Database().lenses if lens.type == lensfunpy.LensType.FISHEYE
    )
    fisheye = next(known.name for known in search(bent.model) if bent.model in known.name)
    with pytest.raises(UnusableInput, match="projection"):
        polynomial_of(fisheye, NOTHING, 35)
