"""Proposals on scenes that nothing was made on, two of each kind; 300 of them in tests/bench.

That a wrong answer given with confidence is the worst one is common practice, no published source.
"""

import math

import pytest

from sequor.core.propose.proposal import TAKEN_OUT, Proposal
from sequor.core.propose.proposing import propose
from sequor.core.recipe import Axis, PhotoFacts, Recipe
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
