"""Proposals on scenes that nothing was made on, two of each kind; 300 of them in tests/bench.

That a wrong answer given with confidence is the worst one is common practice, no published source.
"""

import math

import cv2
import numpy as np
import pytest

from sequor.core.photo import PhotoFacts
from sequor.core.propose.proposal import TAKEN_OUT, Proposal
from sequor.core.propose.proposing import propose
from sequor.core.recipe import Axis, Recipe
from tests.propose.judged_scenes import HIGH, KINDS, WIDE, Judged, judged_scene

SCENES = range(12)


def off_by(told: float | None, true: float | None, axis: Axis) -> float:
    """How far an axis is off; what nothing in the picture tells cannot be right."""
    if told is None or true is None:
        return math.inf
    # A wall may be either one of a corner.
    return (told - true + 45) % 90 - 45 if axis == "swing" else told - true


def read(seed: int, known: bool) -> tuple[Judged, Proposal]:
    made = judged_scene(seed)
    focal = made.focal35_mm if known else None
    photo = PhotoFacts(width=WIDE, height=HIGH, focal35_mm=focal)
    return made, propose(made.pixels, photo, Recipe())


@pytest.mark.parametrize("seed", SCENES)
def test_what_is_sure_is_right(seed: int) -> None:
    made, found = read(seed, known=seed % 4 != 3)
    assert made.kind == KINDS[seed % 6]
    if found.sure:
        for axis in TAKEN_OUT[found.told]:
            assert abs(off_by(found.axis(axis).deg, getattr(made, axis), axis)) < 1
    if made.kind == "nothing":
        assert not found.sure
    if made.kind in ("front", "street", "sea"):
        assert found.roll.sure


def test_lean_of_a_front_hangs_on_a_focal_length_that_is_not_known() -> None:
    """Leans were up to 6 degrees off within what was stated, and sure."""
    made, found = read(6, known=False)
    assert made.lean == pytest.approx(13.08, abs=0.01)
    assert found.lean.deg is not None
    assert found.lean.sigma_deg is not None
    assert not found.lean.sure
    assert abs(found.lean.deg - made.lean) < 2 * found.lean.sigma_deg


@pytest.mark.parametrize("what", ["slope", "bricks"])
@pytest.mark.parametrize("tilt_deg", [-7.0, 2.5, 9.9])
def test_a_straight_slope_and_the_top_of_a_wall_are_no_horizon(what: str, tilt_deg: float) -> None:
    """A hillside was levelled by 7.00 degrees, sure to 0.02; ramps by 4.94 and 9.91."""
    chance = np.random.default_rng(4)
    y, x = np.mgrid[0:HIGH, 0:WIDE] + 0.5
    down = y - HIGH / 2 - math.tan(math.radians(tilt_deg)) * (x - WIDE / 2)
    grain = cv2.GaussianBlur(chance.standard_normal((HIGH, WIDE)), (0, 0), 2.5) * 5
    if what == "bricks":
        grain = grain + np.where(np.abs(down / 14 % 1 - 0.5) > 0.42, -1.2, 0.3)
    light = np.where(down > 0, 110 + 12 * grain, 205) + chance.normal(0, 2, (HIGH, WIDE))
    pixels = np.repeat(np.clip(light, 0, 255).astype(np.uint8)[..., None], 3, axis=2)
    found = propose(pixels, PhotoFacts(width=WIDE, height=HIGH, focal35_mm=35), Recipe())
    assert "horizon" not in [one.reading.kind for one in found.readings]
    # Courses of bricks are level lines, if the top of their wall is one.
    assert what == "bricks" or not found.sure


@pytest.mark.parametrize("rows", [4, 12, 40])
def test_a_strip_along_the_lower_border_is_no_horizon(rows: int) -> None:
    """Nothing can be said of what lies below it: there is nothing below it."""
    chance = np.random.default_rng(5)
    light = np.full((HIGH, WIDE), 190.0)
    light[-rows:] = 60
    light += chance.normal(0, 2, light.shape)
    pixels = np.repeat(np.clip(light, 0, 255).astype(np.uint8)[..., None], 3, axis=2)
    found = propose(pixels, PhotoFacts(width=WIDE, height=HIGH, focal35_mm=35), Recipe())
    assert "horizon" not in [one.reading.kind for one in found.readings]
