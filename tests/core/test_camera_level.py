"""The camera's own level: read from its file, weighed with lines, never above them."""

import math
import struct
import subprocess
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sequor.core.account.camera_offset import FEWEST, offset_of
from sequor.core.advance import advance
from sequor.core.camera import Stance, apply_homography, focal_length_px, homography, inverse
from sequor.core.edits import CarryOver, MovePoint, ReadAs, ReadCamera
from sequor.core.errors import UnusableInput
from sequor.core.photo import CameraPose, PhotoFacts
from sequor.core.readings.by_camera import points_of
from sequor.core.recipe import Reading, Recipe
from sequor.core.report.report import report_of
from sequor.core.solve import solve
from sequor.pictures.pose import pose_of

POSE = CameraPose(roll_deg=2.3, lean_deg=-4.0, source="maker")
PHOTO = PhotoFacts(width=6000, height=4000, focal35_mm=28, pose=POSE)


AS_SHOT = Recipe()


def told(
    photo: PhotoFacts = PHOTO, recipe: Recipe = AS_SHOT, sigma_deg: float | None = None
) -> Recipe:
    return advance(photo, recipe, (ReadCamera(sigma_deg=sigma_deg),)).recipe


def test_the_line_of_eye_level_by_its_closed_form() -> None:
    # A camera that only leans sees eye level f tan(lean) from the middle of the picture, below it
    # when it points up; one that only rolls sees it through the middle, at that angle.
    focal = focal_length_px(PHOTO)
    up = points_of(CameraPose(lean_deg=10, source="exif"), PHOTO)
    assert [y for _, y in up] == pytest.approx([2000 + focal * math.tan(math.radians(10))] * 2)
    (x0, y0), (x1, y1) = points_of(CameraPose(roll_deg=3, source="exif"), PHOTO)
    assert ((x0 + x1) / 2, (y0 + y1) / 2) == pytest.approx((3000, 2000))
    # Rolled clockwise, the picture shows the world turned the other way.
    assert math.degrees(math.atan2(y1 - y0, x1 - x0)) == pytest.approx(-3)


def test_a_picture_without_any_line_is_levelled() -> None:
    solution = solve(PHOTO, told())
    stance = solution.stance
    assert stance.roll.applied_deg == pytest.approx(2.3, abs=1e-3)
    assert stance.lean.as_shot_deg == pytest.approx(-4.0, abs=0.05)
    assert stance.roll.sigma_deg == pytest.approx(1.0, abs=0.1)
    # Level and not plumb is what a landscape is to be.
    assert stance.lean.applied_deg == 0


def seen(stance: Stance, y_up_deg: float, x0_deg: float, x1_deg: float, id: str) -> Reading:
    """A level edge of a front, so many degrees above eye level, as a camera sees it."""
    directions = np.tan(np.radians([[x0_deg, -y_up_deg], [x1_deg, -y_up_deg]]))
    focal = focal_length_px(PHOTO)
    straight = directions * focal + [3000, 2000]
    shot = apply_homography(inverse(homography(PHOTO, stance)), straight)
    points = tuple((float(x), float(y)) for x, y in shot)
    return Reading(id=id, kind="level", points=points, sigma_px=0.5)


@pytest.mark.parametrize("off_deg", [0.0, 1.0, -2.0])
def test_it_never_stands_above_lines(off_deg: float) -> None:
    """A camera whose level is off by two degrees turns a picture with lines by no more than what
    they leave open.
    """
    stance = Stance(math.radians(1.1), math.radians(-2.0), 0.0)
    lines = tuple(seen(stance, up, -20, 20, f"l{up}") for up in (-6, 0, 7))
    alone = solve(PHOTO, Recipe(readings=lines)).stance.roll
    pose = POSE.changed(roll_deg=1.1 + off_deg, lean_deg=-2.0 + off_deg)
    both = solve(PHOTO.changed(pose=pose), told(PHOTO.changed(pose=pose), Recipe(readings=lines)))
    assert both.stance.roll.as_shot_deg == pytest.approx(alone.as_shot_deg, abs=0.03)
    assert both.stance.roll.as_shot_deg == pytest.approx(1.1, abs=0.05)


def test_what_is_not_told_does_not_count() -> None:
    only_roll = PHOTO.changed(pose=POSE.changed(lean_deg=None))
    stance = solve(only_roll, told(only_roll)).stance
    assert stance.roll.applied_deg == pytest.approx(2.3, abs=1e-3)
    assert stance.lean.measured_deg is None
    only_lean = PHOTO.changed(pose=POSE.changed(roll_deg=None))
    with pytest.raises(UnusableInput, match="levels nothing"):
        told(only_lean)
    assert "camera_tells" not in {note.code for note in solve(only_lean, Recipe()).notes}


def test_it_follows_the_focal_length() -> None:
    recipe = told().changed(focal35_mm=85)
    assert solve(PHOTO, recipe).stance.lean.as_shot_deg == pytest.approx(-4, abs=0.05)


def test_a_hand_that_moves_it_makes_it_a_line_of_its_own() -> None:
    recipe = told()
    moved = advance(PHOTO, recipe, (MovePoint(id="camera", point=0, to=(100, 1800)),)).recipe
    assert moved.readings[0].camera is None
    assert advance(PHOTO, recipe, (ReadAs(id="camera", kind="check"),)).recipe.readings[0].kind == (
        "check"
    )
    with pytest.raises(UnusableInput, match="does not say how its camera was held"):
        told(PHOTO.changed(pose=None))
    # Once more takes its place.
    assert len(told(PHOTO, recipe, 0.4).readings) == 1
    # It says nothing of another picture.
    other = PHOTO.changed(pose=None)
    carried = CarryOver(parts=("stance",), photo=PHOTO, recipe=recipe)
    assert advance(other, Recipe(), (carried,)).recipe.readings == ()


def test_it_is_offered_where_nothing_else_tells() -> None:
    solution = solve(PHOTO, Recipe())
    (note,) = [note for note in solution.notes if note.code == "camera_tells"]
    assert note.offers == (ReadCamera(),)
    said = report_of(PHOTO, Recipe(), solution).notes
    assert any("2.30° " in one.text and "camera's own level" in one.text for one in said)
    lines = (Reading(id="a", kind="level", points=((100, 100), (5000, 160))),)
    # It is no short line that is to be drawn again.
    assert "short_reading" not in {note.code for note in solve(PHOTO, told()).notes}
    for recipe in (told(), Recipe(readings=lines)):
        assert "camera_tells" not in {note.code for note in solve(PHOTO, recipe).notes}


def test_a_level_that_is_off_by_a_constant_is_told_from_chance() -> None:
    draw = np.random.default_rng(6)
    # A hundred cameras whose level is right but for noise, and a hundred that are off by 0.6.
    said = [
        [offset_of((off + draw.normal(0, 0.25, 12)).tolist()) for _ in range(100)]
        for off in (0.0, 0.6)
    ]
    right, wrong = said
    assert sum(one.constant for one in right) <= 5
    assert sum(one.constant for one in wrong) >= 95
    assert np.mean([one.offset_deg for one in wrong]) == pytest.approx(0.6, abs=0.03)
    assert np.mean([one.sigma_deg for one in wrong]) == pytest.approx(0.25, abs=0.05)
    # A line that misleads in two of twelve pictures moves it by little; four pictures say nothing.
    misled = offset_of([*draw.normal(0.6, 0.1, 10), 8.0, -15.0])
    assert misled.offset_deg == pytest.approx(0.6, abs=0.1)
    assert offset_of([0.5] * (FEWEST - 1)) is None


def test_it_is_taken_off() -> None:
    recipe = advance(PHOTO, AS_SHOT, (ReadCamera(sigma_deg=0.2, offset_deg=-0.5),)).recipe
    roll = solve(PHOTO, recipe).stance.roll
    assert (roll.applied_deg, roll.sigma_deg) == pytest.approx((1.8, 0.2), abs=0.02)


def jpeg(path: Path, **how: object) -> Path:
    Image.fromarray(np.zeros((40, 60, 3), np.uint8)).save(path, **how)
    return path


@pytest.mark.parametrize(
    ("tags", "roll", "lean", "source"),
    [
        # Exif 2.31 (CIPA DC-008), tag 0x9405: "-180 to 180", upwards positive.
        (["-ExifIFD:CameraElevationAngle=-7.5"], None, -7.5, "exif"),
        (["-XMP-GPano:PoseRollDegrees=2", "-XMP-GPano:PosePitchDegrees=-3"], 2, -3, "xmp"),
        (
            ["-XMP-drone-dji:GimbalRollDegree=0.4", "-XMP-drone-dji:GimbalPitchDegree=-12"],
            *(0.4, -12, "gimbal"),
        ),
        # A drone that looks straight down sees nothing that is level.
        (["-XMP-drone-dji:GimbalPitchDegree=-90"], None, None, None),
        (["-XMP-GPano:PoseRollDegrees=91.5"], 1.5, None, "xmp"),
        (["-Artist=nobody"], None, None, None),
    ],
)
def test_what_files_say(
    tmp_path: Path, tags: list[str], roll: float | None, lean: float | None, source: str | None
) -> None:
    path = jpeg(tmp_path / "a.jpg")
    subprocess.run(["exiftool", "-q", *tags, str(path)], check=True)
    found = pose_of(path)
    if source is None:
        assert found is None
        return
    assert found is not None
    assert (found.roll_deg, found.lean_deg, found.source) == (
        pytest.approx(roll),
        pytest.approx(lean),
        source,
    )


def test_what_a_maker_writes(tmp_path: Path) -> None:
    # Maker's notes as ExifTool knows them: tags 0x90 (tenths of a degree, clockwise) and 0x91
    # (tenths, downwards) of a list that begins after twelve bytes.
    entries = ((0x90, 3, struct.pack("<hh", 18, 0)), (0x91, 3, struct.pack("<hh", -25, 0)))
    note = b"Panasonic\0\0\0" + struct.pack("<H", len(entries))
    for tag, kind, value in entries:
        note += struct.pack("<HHI", tag, kind, 1) + value
    exif = Image.Exif()
    exif[0x010F] = "Panasonic"
    exif.get_ifd(0x8769)[0x927C] = note + bytes(4)
    path = jpeg(tmp_path / "a.jpg", exif=exif)
    assert pose_of(path) == CameraPose(roll_deg=1.8, lean_deg=2.5, source="maker")
