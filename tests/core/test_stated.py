"""What a hand states, and what it adds: no turn adds up behind its back (common practice, no
published source).
"""

import pytest

from sequor.core import edits as e
from sequor.core.advance import advance
from sequor.core.errors import UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import LeaveIn, Reading, Recipe, Trim
from sequor.core.solve import solve
from tests.conftest import line, notes_of
from tests.edited import apply

PHOTO = PhotoFacts(width=3000, height=2000, focal35_mm=35)
FAR = line("level", 500, 1000, 2500, 1000 + 2000 * 0.07344)  # falls by 4.2 degrees to the right
TILTED = e.DrawReading(id="far", kind="level", points=FAR.points)


def roll_deg(recipe: Recipe) -> float:
    return solve(PHOTO, recipe).stance.roll.applied_deg


def done(*edits: e.Edit, recipe: Recipe | None = None) -> Recipe:
    return advance(PHOTO, recipe or Recipe(), edits).recipe


@pytest.mark.parametrize(
    "by_hand",
    [e.TypeAngle(text="4 cw"), e.TurnBy(axis="roll", deg=-4), e.TurnBy(axis="roll", deg=1.33)],
    ids=lambda edit: edit.do,
)
def test_a_reading_takes_the_place_of_what_a_hand_stated(by_hand: e.Edit) -> None:
    recipe = done(by_hand, TILTED)
    assert roll_deg(recipe) == pytest.approx(-4.2, abs=0.01)
    assert roll_deg(recipe) == pytest.approx(roll_deg(done(TILTED)), abs=1e-9)
    (note,) = notes_of(PHOTO, recipe, "gave way")
    (offer,) = note.offers
    assert offer.edit == e.AddStated(axis="roll")
    # One press puts the hand's turn on top of it, once.
    both = done(offer.edit, recipe=recipe)
    assert roll_deg(both) == pytest.approx(roll_deg(recipe) + roll_deg(done(by_hand)), abs=1e-6)
    assert not notes_of(PHOTO, both, "gave way")
    with pytest.raises(UnusableInput, match="Nothing"):
        done(offer.edit, recipe=both)


def test_a_nudge_after_a_reading_is_added_and_stays() -> None:
    recipe = done(TILTED, e.TurnBy(axis="roll", deg=0.3))
    assert roll_deg(recipe) == pytest.approx(-3.9, abs=0.01)
    second = e.DrawReading(id="second", kind="level", points=((400, 700), (2400, 846.88)))
    assert roll_deg(done(second, recipe=recipe)) == pytest.approx(-3.9, abs=0.01)


def test_what_is_typed_beside_readings_is_stated_too() -> None:
    recipe = done(TILTED, e.TypeAngle(text="3 cw"))
    assert roll_deg(recipe) == pytest.approx(-3, abs=1e-6)
    second = e.DrawReading(id="second", kind="level", points=((400, 700), (2400, 846.88)))
    assert roll_deg(done(second, recipe=recipe)) == pytest.approx(-4.2, abs=0.01)


def test_proposed_readings_take_its_place_as_drawn_ones_do() -> None:
    ink = e.InkReadings(readings=(FAR,), leave_in=LeaveIn())
    assert roll_deg(done(e.TurnBy(axis="roll", deg=-4.2), ink)) == pytest.approx(-4.2, abs=0.01)


def test_lean_and_swing_likewise_and_only_what_the_readings_tell() -> None:
    leaning = (
        e.DrawReading(id="a", kind="plumb", points=((600, 1700), (640, 300))),
        e.DrawReading(id="b", kind="plumb", points=((2400, 1700), (2360, 300))),
    )
    stated = done(e.TypeAngle(axis="lean", text="3 up"), e.TypeAngle(axis="swing", text="2 left"))
    recipe = done(*leaning, recipe=stated)
    read = solve(PHOTO, done(*leaning)).stance
    found = solve(PHOTO, recipe).stance
    assert found.lean.applied_deg == pytest.approx(read.lean.applied_deg, abs=1e-6)
    # No line says anything of the swing: what the hand said of it holds.
    assert found.swing.applied_deg == pytest.approx(-2, abs=1e-6)


def test_checks_and_readings_that_are_off_take_no_place() -> None:
    check = e.DrawReading(id="c", kind="check", points=FAR.points)
    recipe = done(e.TurnBy(axis="roll", deg=-4), check)
    assert roll_deg(recipe) == -4
    # One that begins to steer does.
    again = done(e.ReadAs(id="c", kind="level"), recipe=recipe)
    assert roll_deg(again) == pytest.approx(-4.2, abs=0.01)


def test_the_hand_after_all_that_states_anew() -> None:
    recipe = done(e.TypeAngle(text="4 cw"), TILTED, e.TypeAngle(text="1 cw"))
    assert roll_deg(recipe) == pytest.approx(-1, abs=1e-6)
    assert not notes_of(PHOTO, recipe, "gave way")
    back = done(e.ResetTrim(axis="roll"), recipe=recipe)
    assert roll_deg(back) == pytest.approx(-4.2, abs=0.01)
    assert back.trim == Trim()


def test_starting_over_is_one_act() -> None:
    recipe = done(e.TypeAngle(text="4 cw"), TILTED, e.ChooseRatio(ratio="5/4"))
    assert done(e.StartOver(), recipe=recipe) == Recipe()


def test_an_older_recipe_without_readings_was_stated_and_one_with_them_was_not() -> None:
    trim = {"roll_deg": -4.0, "lean_deg": 0, "swing_deg": 0}
    old = Recipe.model_validate({"version": 4, "trim": trim})
    assert old.trim.stated == ("roll",)
    assert roll_deg(done(TILTED, recipe=old)) == pytest.approx(-4.2, abs=0.01)
    readings = [FAR.model_dump(mode="json")]
    with_one = Recipe.model_validate({"version": 4, "trim": trim, "readings": readings})
    assert with_one.trim.stated == ()
    assert roll_deg(with_one) == pytest.approx(-8.2, abs=0.01)  # as it was stored


@pytest.mark.parametrize(
    ("end", "kind"),
    [
        ((2500, 1100), "level"),
        ((560, 200), "plumb"),
        ((1300, 1790), "level"),
        ((1290, 1810), "plumb"),
    ],
)
def test_a_straight_line_is_what_it_is_nearer_to(end: tuple[float, float], kind: str) -> None:
    drawn = e.DrawReading(id="a", kind="straight", points=((500, 1000), end))
    assert done(drawn).readings[0].kind == kind


def test_a_straight_line_is_judged_in_the_corrected_picture() -> None:
    turned = Recipe(trim=Trim(roll_deg=-20))
    # Thirty degrees off level as shot, fifty and more when the picture has been turned.
    steep = ((500, 500), (1500, 500 - 1000 * 0.6))
    drawn = e.DrawReading(id="a", kind="straight", points=steep)
    assert done(drawn).readings[0].kind == "level"
    assert done(drawn, recipe=turned).readings[0].kind == "plumb"
    # A level that is forced lies on its side, and that is said.
    upright = e.DrawReading(id="a", kind="level", points=((500, 200), (560, 1800)))
    (note,) = notes_of(PHOTO, done(upright), "onto its side")
    assert note.offers[0].edit == e.ReadAs(id="a", kind="plumb")


def test_a_whole_reading_is_moved_and_stays_inside() -> None:
    by = e.MoveReading(id="far", places=((600, 600), (650, 580)))
    moved = apply(by, Recipe(readings=(FAR.changed(id="far"),)), PHOTO).readings[0]
    assert moved.points[0] == pytest.approx((550, 980))
    assert moved.points[1][1] - moved.points[0][1] == pytest.approx(146.88)
    far = e.MoveReading(id="far", places=((600, 600), (3000, 600)))
    assert (
        apply(far, Recipe(readings=(FAR.changed(id="far"),)), PHOTO).readings[0].points[1][0]
        == 3000
    )


def test_the_sides_of_a_rectangle_move_together() -> None:
    square = ((500.0, 500.0), (900.0, 510.0), (890.0, 900.0), (500.0, 890.0))
    recipe = done(e.PlaceRectangle(group="w", vertices=square))
    by = e.MoveReading(id="w-1", places=((0, 0), (10, 20)))
    moved = done(by, recipe=recipe).readings
    before: tuple[Reading, ...] = recipe.readings
    for old, new in zip(before, moved, strict=True):
        for (x, y), (u, v) in zip(old.points, new.points, strict=True):
            assert (u - x, v - y) == pytest.approx((10, 20))
