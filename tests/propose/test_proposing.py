"""What pictures propose themselves, against scenes and demo pictures whose stance is known.

That a wrong answer given with confidence is the worst one is common practice, no published source.
"""

import json
import math
import subprocess
import sys
from functools import cache

import numpy as np
import pytest

from sequor.core.advance import advance
from sequor.core.edits import DrawReading, InkReadings, RubOut, SetRadial
from sequor.core.photo import CameraPose, PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.propose.proposal import Proposal
from sequor.core.propose.proposing import propose
from sequor.core.recipe import AXES, Recipe
from sequor.core.report.proposals import brief_words, proposal_words, reason_words
from sequor.core.solve import solve
from sequor.pictures.decode import decode
from tests.conftest import ROOT
from tests.edited import apply
from tests.propose.scenes import Scene, scene, sea

TRUTH = json.loads((ROOT / "demo" / "truth.json").read_text())
RIDGE, SCAN = "ridge-hut.jpg", "old-print-on-the-scanner.jpg"


def photo_of(pixels: Pixels, focal35_mm: float | None = None) -> PhotoFacts:
    return PhotoFacts(width=pixels.shape[1], height=pixels.shape[0], focal35_mm=focal35_mm)


@cache
def found_in(seed: int) -> tuple[Scene, Proposal]:
    made = scene(seed)
    return made, propose(made.pixels, photo_of(made.pixels, made.focal35_mm), Recipe(), "square")


def off(made: Scene, found: Proposal) -> np.ndarray:
    """Errors of the three axes; a wall may be either one of a corner."""
    errors = [
        (found.axis(axis).deg if found.axis(axis).deg is not None else math.nan) - true
        for axis, true in zip(AXES, made.stance, strict=True)
    ]
    errors[2] = (errors[2] + 45) % 90 - 45
    return np.array(errors)


@pytest.mark.parametrize("seed", [0, 2, 3, 7, 13, 20, 29, 36])
def test_fronts_and_streets(seed: int) -> None:
    made, found = found_in(seed)
    errors = off(made, found)
    assert found.roll.sure
    assert found.lean.sure
    assert abs(errors[0]) < 0.1
    assert abs(errors[1]) < 0.4
    assert not found.swing.sure or abs(errors[2]) < 0.6
    sigma = np.array([found.axis(axis).sigma_deg for axis in AXES[:2]])
    assert (np.abs(errors[:2]) < 4 * sigma).all()


@pytest.mark.parametrize("seed", [0, 5, 9, 14, 17, 26, 30])
def test_a_sea_is_levelled_by_its_horizon(seed: int) -> None:
    made = sea(seed)
    found = propose(made.pixels, photo_of(made.pixels, made.focal35_mm), Recipe())
    assert found.sure
    assert found.told == "level"
    assert found.readings[0].reading.kind == "horizon"
    assert off(made, found)[0] == pytest.approx(0, abs=0.1)
    assert off(made, found)[1] == pytest.approx(0, abs=0.3)
    assert "horizon" in proposal_words(found).summary


@cache
def of_demo(name: str) -> tuple[PhotoFacts, Pixels, Recipe, Proposal]:
    picture = decode(ROOT / "demo" / "pictures" / name)
    photo, camera = picture.facts.photo, TRUTH[name]["camera"]
    lens = (SetRadial(k1=camera["k1"], k2=camera["k2"]),) if camera["k1"] else ()
    recipe = advance(photo, Recipe(), lens).recipe
    return photo, picture.pixels, recipe, propose(picture.pixels, photo, recipe, "level")


def test_demo_pictures_are_level_where_sequor_is_sure() -> None:
    sure = 0
    for name, truth in TRUTH.items():
        found = of_demo(name)[3]
        if found.sure:
            sure += 1
            assert found.roll.deg == pytest.approx(truth["camera"]["roll_deg"], abs=0.1), name
    assert sure >= 11


def test_the_ridge_and_the_scan_are_not_taken_for_level() -> None:
    # The slope behind the hut and the picture in the print are tilted another way.
    for name in (RIDGE, SCAN):
        found = of_demo(name)[3]
        assert not found.sure or found.roll.deg == pytest.approx(
            TRUTH[name]["camera"]["roll_deg"], abs=0.1
        )


@pytest.mark.parametrize("name", ["glasshouse.jpg", "aqueduct-at-low-water.jpg"])
def test_a_bowed_picture_whose_lens_is_not_known_proposes_traces(name: str) -> None:
    picture, camera = decode(ROOT / "demo" / "pictures" / name), TRUTH[name]["camera"]
    photo = picture.facts.photo
    found = propose(picture.pixels, photo, Recipe(), "level")
    assert found.sure
    assert found.roll.deg == pytest.approx(camera["roll_deg"], abs=0.1)
    traces = [one.reading for one in found.readings if one.reading.kind == "trace"]
    assert len(traces) >= 4
    readings = tuple(one.reading for one in found.readings)
    recipe = apply(InkReadings(readings=readings, leave_in=found.leave_in), Recipe(), photo)
    lens = solve(photo, recipe).lens
    assert lens.polynomial[1] == pytest.approx(camera["k1"], abs=0.01)
    assert "bent by the lens" in reason_words(found.readings[-1])
    refused = apply(RubOut(points=traces[0].ends), Recipe(), photo)
    again = propose(picture.pixels, photo, refused, "level")
    assert traces[0].id not in [one.reading.id for one in again.readings]
    assert again.roll.deg == pytest.approx(camera["roll_deg"], abs=0.1)


def test_an_assumed_focal_length_is_in_the_deviation_of_lean_and_swing() -> None:
    made, found = found_in(2)
    guessed = propose(made.pixels, photo_of(made.pixels), Recipe(), "square")
    for axis in ("lean", "swing"):
        assert guessed.axis(axis).sigma_deg > 10 * found.axis(axis).sigma_deg
        true = made.stance[AXES.index(axis)]
        assert abs(guessed.axis(axis).deg - true) < 3 * guessed.axis(axis).sigma_deg


@pytest.mark.parametrize("seed", [4, 19, 33, 35, 51, 95])
def test_things_that_are_bent_in_reality_are_no_sign_of_a_lens(seed: int) -> None:
    """Cables, kerbs and arches: any lens would make a few of them straight."""
    _, found = found_in(seed)
    assert "trace" not in [one.reading.kind for one in found.readings]


def test_only_pictures_that_a_lens_bends_propose_traces() -> None:
    for name, truth in TRUTH.items():
        if not truth["camera"]["k1"]:
            kinds = [one.reading.kind for one in of_demo(name)[3].readings]
            assert "trace" not in kinds, name


def empty(kind: str) -> Pixels:
    random = np.random.default_rng(1)
    made: dict[str, Pixels] = {
        "blank": np.full((400, 600, 3), 128, np.uint8),
        "noise": random.integers(0, 256, (800, 1200, 3), dtype=np.uint8),
        "40 x 40": random.integers(0, 256, (40, 40, 3), dtype=np.uint8),
        "one pixel": np.zeros((1, 1, 3), np.uint8),
        "a strip": np.zeros((2, 3000, 1), np.uint8),
        "grey, 16 bit": random.integers(0, 65536, (300, 400, 1), dtype=np.uint16),
    }
    return made[kind]


@pytest.mark.parametrize(
    "kind", ["blank", "noise", "40 x 40", "one pixel", "a strip", "grey, 16 bit"]
)
@pytest.mark.parametrize("want", ["any", "square"])
def test_nothing_is_told_where_there_is_nothing(kind: str, want: str) -> None:
    pixels = empty(kind)
    found = propose(pixels, photo_of(pixels), Recipe(), want)
    assert not found.sure
    assert not found.roll.sure
    assert brief_words(found) == "cannot tell"


def test_inked_readings_are_ordinary_and_give_what_was_proposed() -> None:
    made, found = found_in(2)
    photo = photo_of(made.pixels, made.focal35_mm)
    readings = tuple(one.reading for one in found.readings)
    recipe = apply(InkReadings(readings=readings, leave_in=found.leave_in), Recipe(), photo)
    solution = solve(photo, recipe)
    for axis, true in zip(AXES, made.stance, strict=True):
        solved = solution.stance.axis(axis)
        assert solved.measured_deg == pytest.approx(found.axis(axis).deg, abs=0.02)
        assert solved.applied_deg == pytest.approx(true, abs=0.3)
    assert all(reading.fitted for reading in recipe.readings)
    assert not any(reading.outlier for reading in solution.readings)


def test_only_level_leaves_the_perspective_in() -> None:
    made, _ = found_in(2)
    photo = photo_of(made.pixels, made.focal35_mm)
    found = propose(made.pixels, photo, Recipe(), "level")
    readings = tuple(one.reading for one in found.readings)
    recipe = apply(InkReadings(readings=readings, leave_in=found.leave_in), Recipe(), photo)
    stance = solve(photo, recipe).stance
    assert stance.roll.applied_deg == pytest.approx(made.stance[0], abs=0.1)
    assert (stance.lean.applied_deg, stance.swing.applied_deg) == (0.0, 0.0)


def beside(line: tuple, other: tuple) -> float:
    """How far the ends of a line lie beside another, at most."""
    (ax, ay), (bx, by) = other
    along = np.array([bx - ax, by - ay]) / math.dist(*other)
    return float(max(abs((np.array(end) - other[0]) @ [-along[1], along[0]]) for end in line))


def test_a_line_that_was_rubbed_out_does_not_come_back() -> None:
    made, found = found_in(7)
    photo = photo_of(made.pixels, made.focal35_mm)
    refused = found.readings[0].reading
    recipe = apply(RubOut(points=refused.points), Recipe(), photo)
    again = propose(made.pixels, photo, recipe, "square")
    same = [
        one
        for one in again.readings
        if one.reading.kind == refused.kind and beside(one.reading.points, refused.points) < 2
    ]
    assert not same
    assert again.sure
    assert off(made, again)[0] == pytest.approx(0, abs=0.1)


def test_what_is_read_already_is_not_proposed_again() -> None:
    made, found = found_in(7)
    photo = photo_of(made.pixels, made.focal35_mm)
    first = found.readings[0].reading
    drawn = DrawReading(id="own", kind=first.kind, points=first.points)
    again = propose(made.pixels, photo, apply(drawn, Recipe(), photo), "square")
    assert all(beside(one.reading.points, first.points) > 2 for one in again.readings)


def test_mirrored_the_answer_changes_sign() -> None:
    made, found = found_in(20)
    flipped = np.ascontiguousarray(made.pixels[:, ::-1])
    other = propose(flipped, photo_of(flipped, made.focal35_mm), Recipe(), "square")
    for axis, sign in zip(AXES, (-1, 1, -1), strict=True):
        one, mirrored = found.axis(axis), other.axis(axis)
        apart = math.hypot(one.sigma_deg, mirrored.sigma_deg)
        assert mirrored.deg == pytest.approx(sign * one.deg, abs=3 * apart)


ALONE = """
import os, sys
if sys.argv[1] == "1":
    os.sched_setaffinity(0, [min(os.sched_getaffinity(0))])
from tests.propose.scenes import scene
from sequor.core.propose.proposing import propose
from sequor.core.recipe import (Recipe)
from sequor.core.photo import (PhotoFacts)
made = scene(3)
height, width = made.pixels.shape[:2]
photo = PhotoFacts(width=width, height=height, focal35_mm=made.focal35_mm)
print(propose(made.pixels, photo, Recipe(), "square").model_dump_json())
"""


def test_the_same_on_one_core_and_on_all() -> None:
    told = [
        subprocess.run(
            [sys.executable, "-c", ALONE, cores], cwd=ROOT, capture_output=True, check=True
        ).stdout
        for cores in ("1", "all")
    ]
    assert told[0] == told[1]
    assert json.loads(told[0])["sure"] is True


def test_shares_add_up_and_reasons_are_said() -> None:
    _, found = found_in(0)
    assert sum(one.share for one in found.readings) == pytest.approx(1)
    for one in found.readings:
        assert "agree" in reason_words(one)
    words = proposal_words(found)
    assert [one.id for one in words.readings] == [one.reading.id for one in found.readings]
    assert "plumb" in words.summary
    assert words.brief.endswith("sure to 0.1°")


def test_where_there_is_no_line_the_camera_is_asked() -> None:
    grey = np.full((300, 400, 3), 128, np.uint8)
    pose = CameraPose(roll_deg=-1.4, lean_deg=2.0, source="maker")
    photo = PhotoFacts(width=400, height=300, pose=pose)
    found = propose(grey, photo, Recipe())
    # It is never sure: what takes only what is sure does not take it.
    assert (found.sure, found.doubt, found.roll.sure) == (False, "camera", False)
    assert proposal_words(found).summary == (
        "The camera's own level: perhaps tilted 1.40° clockwise ± 1.00°. "
        "No line in this picture tells it."
    )
    assert brief_words(found.roll) == "cannot tell"
    taken = InkReadings(
        readings=tuple(one.reading for one in found.readings), leave_in=found.leave_in
    )
    recipe = advance(photo, Recipe(), (taken,)).recipe
    assert solve(photo, recipe).stance.roll.applied_deg == pytest.approx(-1.4, abs=1e-3)
    # What it has said it does not say again, and nothing of what it cannot tell.
    assert propose(grey, photo, recipe).doubt == "nothing"
    assert propose(grey, photo, Recipe(), "square").doubt == "nothing"
    assert propose(grey, photo.changed(pose=None), Recipe()).doubt == "nothing"
