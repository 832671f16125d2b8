"""By eye, where nothing can be measured: the calmest of five, a corner pulled, a thing whose shape
is known.
"""

import math
import statistics

import numpy as np
import pytest

from sequor.core import edits as e
from sequor.core.advance import advance
from sequor.core.camera import Stance, apply_homography, homography
from sequor.core.errors import UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Reading, Recipe, Trim
from sequor.core.solve import solve
from tests.conftest import line, said_of

PHOTO = PhotoFacts(width=3000, height=2000, focal35_mm=28)
CORNERS = np.array([[0, 0], [3000, 0], [3000, 2000], [0, 2000]], dtype=float)


def done(*edits: e.Edit, recipe: Recipe | None = None) -> Recipe:
    return advance(PHOTO, recipe or Recipe(), edits).recipe


def test_the_calmest_turn_holds_as_sure_as_the_choices_agree() -> None:
    choices = (2.0, 1.5, 1.25)
    recipe = done(e.JudgeByEye(turns=choices))
    roll = solve(PHOTO, recipe).stance.roll
    assert roll.applied_deg == pytest.approx(1.25)
    # statistics.stdev of the standard library as the judge.
    assert roll.sigma_deg == pytest.approx(statistics.stdev(choices))
    assert said_of(PHOTO, recipe).roll.sigma.startswith("sure to 0.38°")


def test_choices_that_agree_are_no_surer_than_the_step_between_them() -> None:
    recipe = done(e.JudgeByEye(turns=(1.0, 1.0, 1.0)))
    assert solve(PHOTO, recipe).stance.roll.sigma_deg == pytest.approx(0.125)
    once = done(e.JudgeByEye(turns=(1.0,)))
    assert solve(PHOTO, once).stance.roll.sigma_deg == pytest.approx(0.5)


def test_a_reading_takes_the_place_of_what_was_judged_by_eye() -> None:
    tilted = line("level", 500, 1000, 2500, 1000 + 2000 * math.tan(math.radians(3)))
    draw = e.DrawReading(id="far", kind="level", points=tilted.points)
    recipe = done(e.JudgeByEye(turns=(1.0,)), draw)
    assert solve(PHOTO, recipe).stance.roll.applied_deg == pytest.approx(-3, abs=0.01)
    assert recipe.trim == Trim()
    # And judged on top of a reading it is that turn which holds, not the sum of both.
    on_top = done(draw, e.JudgeByEye(turns=(-2.5,)))
    assert solve(PHOTO, on_top).stance.roll.applied_deg == pytest.approx(-2.5)
    nudged = done(e.TurnBy(axis="roll", deg=0.1), recipe=on_top)
    assert nudged.trim.by_eye_sigma_deg is None


@pytest.mark.parametrize(
    ("stance", "corner"),
    [
        (Stance(0.0, math.radians(4), math.radians(3)), 1),
        (Stance(math.radians(1), math.radians(-5), 0.0), 2),
    ],
)
def test_a_camera_that_leant_is_found_by_pulling_a_corner_back(stance: Stance, corner: int) -> None:
    """The corner of the corrected picture, where a camera of known stance has it (Hartley &
    Zisserman, section 8.4.2), pulled there from as shot: it lies under the hand.
    """
    there = apply_homography(homography(PHOTO, stance), CORNERS)
    x, y = there[corner] - CORNERS[corner]
    recipe = done(e.PullCorner(corner=corner, by=(x, y)))  # type: ignore[arg-type]
    assert set(recipe.trim.stated) <= {"roll", "lean", "swing"}
    assert _away_from_hand(recipe, corner, (x, y)) < 0.1 * math.hypot(x, y)


def _away_from_hand(recipe: Recipe, corner: int, by: tuple[float, float]) -> float:
    """How far the pulled corner is from the hand, the others taken where they were as well as a
    shift and a scale allow (numpy's least squares as the judge).
    """
    found = np.array(solve(PHOTO, recipe).warp.to_corrected(CORNERS))
    wanted = CORNERS.copy()
    wanted[corner] += by
    weights = np.where(np.arange(4) == corner, 3.0, 1.0)
    rows = [
        [weights[i] * found[i, axis], weights[i] * (axis == 0), weights[i] * (axis == 1)]
        for i in range(4)
        for axis in (0, 1)
    ]
    target = (weights[:, None] * wanted).ravel()
    scale, dx, dy = np.linalg.lstsq(np.array(rows), target, rcond=None)[0]
    return float(np.hypot(*(scale * found[corner] + [dx, dy] - wanted[corner])))


def test_pulling_there_and_back_is_as_shot() -> None:
    recipe = done(e.PullCorner(corner=1, by=(90.0, -60.0)))
    moved = solve(PHOTO, recipe).stance
    assert abs(moved.lean_deg) > 1
    assert abs(moved.swing_deg) > 1
    back = done(e.PullCorner(corner=1, by=(-90.0, 60.0)), recipe=recipe)
    found = solve(PHOTO, back).stance
    for deg in (found.roll_deg, found.lean_deg, found.swing_deg):
        assert abs(deg) < 0.1 * abs(moved.lean_deg)


def test_a_corner_that_turns_alone_do_not_reach_stretches_the_picture() -> None:
    """Both lower corners pulled down alike make it higher: no turn of a camera does that."""
    recipe = done(e.PullCorner(corner=2, by=(0.0, 200.0)), e.PullCorner(corner=3, by=(0.0, 200.0)))
    assert recipe.proportion > 1.02


@pytest.mark.parametrize("focal35_mm", [4.0, 28.0, 5000.0])
@pytest.mark.parametrize("by", [(1e6, -1e6), (-1e6, 1e6), (0.0, 0.0), (1e-9, 0.0), (-4000.0, 0.0)])
def test_no_pull_breaks_what_is_stored(focal35_mm: float, by: tuple[float, float]) -> None:
    photo = PHOTO.model_copy(update={"focal35_mm": focal35_mm})
    recipe = Recipe(trim=Trim(lean_deg=60, swing_deg=-40))
    for _ in range(3):
        pull = e.PullCorner(corner=1, by=by)
        recipe = advance(photo, recipe, (pull,)).recipe
        read_back = Recipe.model_validate_json(recipe.model_dump_json())
        assert read_back == recipe
        assert np.isfinite(solve(photo, read_back).homography).all()


def test_a_circle_is_given_its_shape_back() -> None:
    """A round window 300 px wide and 240 high: 1.25 times as wide as high."""
    marked = done(e.MarkTrueShape(opposite=((1000, 800), (1300, 1040))))
    shape = solve(PHOTO, marked).shape
    assert shape
    assert shape.times_as_wide == pytest.approx(1.25)
    assert said_of(PHOTO, marked).shape.stretch == (
        "The marked thing is 1.25 times as wide as high."
    )
    given = done(e.GiveTrueShape(), recipe=marked)
    assert given.proportion == pytest.approx(1.25)
    again = solve(PHOTO, given).shape
    assert again
    assert again.times_as_wide == pytest.approx(1)
    assert said_of(PHOTO, given).shape.stretch == "The marked thing has its true shape."


def test_a_circle_that_turns_with_the_picture_keeps_its_proportion() -> None:
    """By the extents of an ellipse from its conjugate diameters, not by a box that turns."""
    marked = done(
        e.MarkTrueShape(opposite=((1000, 800), (1300, 1040))), e.TurnBy(axis="roll", deg=30)
    )
    shape = solve(PHOTO, marked).shape
    # x = 150 cos t, y = 120 sin t turned by 30 degrees: half extents by hand.
    c, s = math.cos(math.radians(30)), math.sin(math.radians(30))
    wide, high = math.hypot(150 * c, 120 * s), math.hypot(150 * s, 120 * c)
    assert shape
    assert shape.times_as_wide == pytest.approx(wide / high)


def test_what_is_marked_is_refused_where_it_is_no_shape() -> None:
    with pytest.raises(UnusableInput, match="too small"):
        done(e.MarkTrueShape(opposite=((1000, 800), (1002, 1040))))
    with pytest.raises(UnusableInput, match="No round or square"):
        done(e.GiveTrueShape())
    wide = done(e.MarkTrueShape(opposite=((100, 800), (2900, 900))))
    with pytest.raises(UnusableInput, match=r"more than 0\.5 to 2"):
        done(e.GiveTrueShape(), recipe=wide)
    assert done(e.MarkTrueShape(opposite=None), recipe=wide).true_shape is None


def test_uprights_and_levels_ease_apart() -> None:
    """Edges of a front that a camera leaning 8 and swung 6 degrees saw (Hartley & Zisserman)."""
    shot = np.linalg.inv(homography(PHOTO, Stance(0.0, math.radians(8), math.radians(6))))

    def seen(kind: str, *ends: float) -> Reading:
        points = apply_homography(shot, np.array(ends).reshape(2, 2))
        return line(kind, *points.ravel(), id=f"{kind}{ends[0]}{ends[1]}")

    plumbs = [seen("plumb", x, 1500, x, 500) for x in (900.0, 2300.0)]
    levels = [seen("level", 900, y, 2300, y) for y in (500.0, 1500.0)]
    recipe = Recipe(readings=(*plumbs, *levels))
    whole = solve(PHOTO, recipe).stance
    assert (whole.lean_deg, whole.swing_deg) == pytest.approx((8, 6), abs=0.05)
    eased = done(e.SetEase(part="lean", share=0), recipe=recipe)
    assert (eased.ease.lean, eased.ease.swing) == (0, 1)
    left = solve(PHOTO, eased).readings
    assert min(abs(one.residual_deg) for one in left if one.kind == "plumb") > 1
    assert max(abs(one.residual_deg) for one in left if one.kind == "level") < 0.02
    both = done(e.SetEase(part="perspective", share=0.5), recipe=recipe).ease
    assert (both.lean, both.swing) == (0.5, 0.5)
