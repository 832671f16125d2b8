"""Edits: every change of a recipe, by what it does to the recipe and to the solution."""

import math
import re
from typing import Any

import numpy as np
import pytest

from sequor.core import edits as e
from sequor.core.advance import advance
from sequor.core.errors import UnusableInput
from sequor.core.lens_choice import LensChoice
from sequor.core.photo import PhotoFacts
from sequor.core.print_size import PrintSize
from sequor.core.recipe import FillCandidate, Recipe, Trim
from sequor.core.solve import solve
from tests.conftest import ROOT, horizon_picture
from tests.edited import OfPixels, apply

PHOTO = PhotoFacts(width=3000, height=2000, focal35_mm=28)
TILT_DEG = 1.33
RISE = math.tan(math.radians(TILT_DEG)) * 1400
LEVEL = e.DrawReading(
    id="a", kind="level", points=((100, 1000 - RISE), (2900, 1000 + RISE)), zoom=0.5
)


def done(*edits: e.Edit, recipe: Recipe | None = None) -> Recipe:
    return advance(PHOTO, recipe or Recipe(), edits).recipe


def roll(recipe: Recipe) -> float:
    return solve(PHOTO, recipe).stance.roll_deg


def test_every_edit_has_a_rule_and_a_name_in_the_ledger() -> None:
    kinds = e.KINDS
    assert len({kind.model_fields["do"].default for kind in kinds}) == len(kinds)
    for kind in kinds:
        edit = kind.model_construct(
            **{"axis": "roll", "part": "roll", "source": "none", "method": "mirror", "ratio": "3:2"}
            | {"size": None, "opposite": None, "handle": (0, 0), "kind": "level", "share": 0.5}
            | {"keep": True, "another": False, "leave": None, "air": 0.1, "side": "left"}
            | {"turns": (1.0,), "corner": 0, "by": (1.0, 1.0)}
            | {"active": True, "shown": True, "serves_as": None, "focal35_mm": None}
            | {"candidate": FillCandidate(), "readings": (), "becomes": "straight", "number": 1}
        )
        assert edit.words().strip()


SAID_AGAIN: dict[str, tuple[dict[str, Any], dict[str, Any]]] = {
    "turn_by": ({"axis": "roll", "deg": 1.5}, {"axis": "roll", "deg": -0.3}),
    "nudge_point": (
        {"id": "a", "point": 0, "by": (3, -2)},
        {"id": "a", "point": 0, "by": (0.5, 20)},
    ),
    "set_ease": ({"part": "roll", "share": 0.3}, {"part": "roll", "share": 0.6}),
    "set_proportion": ({"proportion": 1.1}, {"proportion": 0.9}),
    "set_radial": ({"k1": -0.1}, {"k2": 0.02}),
    "move_keep_corner": (
        {"corner": "top_left", "to": (480, 880)},
        {"corner": "top_left", "to": (200, 300)},
    ),
    "give_air": ({"air": 0.1}, {"air": 0.3}),
    "give_margin": ({"margin": 0.1}, {"margin": 0.2}),
    "move_aim": ({"to": (400, 500)}, {"to": (1000, 900)}),
    "allow_fill": ({"allowance": 0.2}, {"allowance": 0.7}),
    "choose_colour": ({"colour": "#ffffff"}, {"colour": "#102030"}),
    "share_corners": ({"bend": 0.2, "fill": 0.5}, {"bend": 0.4, "fill": 0}),
    "let_reading_become": (
        {"id": "a", "becomes": "straight"},
        {"id": "a", "becomes": "angle", "wanted_deg": 2},
    ),
    "bend_lines": ({"share": 0.4}, {"share": 0.1}),
    "bend_corners": ({"share": 0.4}, {"share": 0.1}),
    "limit_bending": ({"max_stretch": 1.2}, {"max_stretch": 2}),
}


@pytest.mark.parametrize("kind", [kind for kind in e.KINDS if kind.joins], ids=lambda k: k.__name__)
def test_an_edit_that_joins_the_one_before_it_leads_where_both_would(kind: type[e.Edit]) -> None:
    # What the browser does with `joins`: two edits as one.
    joins = kind.joins
    assert joins
    first, second = SAID_AGAIN[kind.model_fields["do"].default]
    assert all(first[name] == second[name] for name in joins.same)
    together = {**first, **second}
    if joins.adds:
        a, b = first[joins.adds], second[joins.adds]
        together[joins.adds] = np.add(a, b).tolist()
    start = done(
        LEVEL, e.KeepBox(opposite=((100, 400), (500, 900))), e.AimAt(point=(700, 600)),
    )  # fmt: skip
    one_by_one = done(kind(**first), kind(**second), recipe=start)
    assert done(kind(**together), recipe=start) == one_by_one
    assert one_by_one != start


def test_the_documents_name_every_edit_and_no_other() -> None:
    text = (ROOT / "docs" / "recipe.md").read_text()
    table = text[text.index("| edit |") : text.index("Points are source pixels. With")]
    named = re.findall(r"`([a-z]+_[a-z_]+)`", "".join(re.findall(r"^\|[^|]*\|", table, re.M)))
    assert sorted(named) == sorted(kind.model_fields["do"].default for kind in e.KINDS)


def test_a_line_that_is_drawn_levels_the_picture() -> None:
    recipe = done(LEVEL)
    assert roll(recipe) == pytest.approx(-TILT_DEG)
    # Each end is placed to about one screen pixel: two source pixels at half size.
    assert recipe.readings[0].sigma_px == 2
    assert done(LEVEL.model_copy(update={"zoom": None})).readings[0].sigma_px == 1
    # A hand that slipped off the picture drew up to its border.
    slipped = LEVEL.model_copy(update={"points": ((-50, 900), (3100, 2200)), "seen": "as_shot"})
    assert done(slipped).readings[0].points == ((0, 900), (3000, 2000))


def test_points_on_the_undistorted_picture_go_back_through_the_lens() -> None:
    lens = LensChoice(source="hand", k1=-0.1, k2=0.02)
    recipe = Recipe(lens=lens)
    distortion = solve(PHOTO, recipe).warp.distortion
    drawn = ((400.0, 300.0), (2600.0, 350.0))
    seen = LEVEL.model_copy(update={"points": drawn, "seen": "undistorted"})
    kept = apply(seen, recipe, PHOTO).readings[0].points
    # Brown (1966): r_d = r (1 + k1 r^2 + k2 r^4), radii in half diagonals about the middle.
    middle, unit = np.array([1500, 1000]), math.hypot(1500, 1000)
    for straight, bent in zip(drawn, kept, strict=True):
        r = math.dist(straight, middle) / unit
        expected = middle + (np.array(straight) - middle) * (1 - 0.1 * r**2 + 0.02 * r**4)
        assert bent == pytest.approx(expected, abs=1e-9)
    assert distortion.undistorted(np.array(kept)) == pytest.approx(np.array(drawn), abs=1e-6)
    # And from the corrected picture through all of its solution.
    turned = Recipe(lens=lens, trim=Trim(roll_deg=3, lean_deg=8))
    there = solve(PHOTO, turned).warp.to_corrected(np.array(kept))
    seen = LEVEL.model_copy(update={"points": tuple(map(tuple, there)), "seen": "corrected"})
    back = apply(seen, turned, PHOTO)
    assert np.array(back.readings[0].points) == pytest.approx(np.array(kept), abs=1e-6)
    other = apply(seen, recipe, PHOTO).readings[0].points  # another solution, other points
    assert np.abs(np.subtract(other, kept)).max() > 50
    beyond = LEVEL.model_copy(update={"points": ((1e300, 0), (0, 0)), "seen": "undistorted"})
    with pytest.raises(UnusableInput, match="beyond the picture"):
        apply(beyond, recipe, PHOTO)


def test_turning_there_and_back_is_nothing_and_stops_at_the_limit() -> None:
    turned = done(*[e.TurnBy(axis="roll", deg=0.1)] * 10)
    assert turned.trim.roll_deg == 1.0
    assert done(*[e.TurnBy(axis="roll", deg=-0.1)] * 10, recipe=turned) == Recipe()
    assert done(*[e.TurnBy(axis="lean", deg=50)] * 3).trim.lean_deg == 80
    assert done(e.TurnBy(axis="roll", deg=1), e.ResetTrim(axis="roll")) == Recipe()


def test_an_axis_is_held_where_it_is_and_its_trim_goes_into_the_value() -> None:
    turned = done(LEVEL, e.TurnBy(axis="roll", deg=0.5))
    held = done(e.HoldAxis(axis="roll"), recipe=turned)
    assert (held.trim.roll_deg, held.hold.roll_deg) == (0, pytest.approx(0.5 - TILT_DEG))
    assert roll(held) == pytest.approx(roll(turned))
    assert roll(done(e.RemoveReading(id="a"), recipe=held)) == pytest.approx(roll(turned))
    assert roll(done(e.FreeAxis(axis="roll"), recipe=held)) == pytest.approx(-TILT_DEG)


def test_an_axis_held_at_a_value_has_that_value_whatever_the_trim() -> None:
    # "Hold the lean at 0" from a note once kept a trim of 60 degrees: the lean stayed at 55.3.
    trimmed = Recipe(trim=Trim(lean_deg=60))
    held = done(e.HoldAxis(axis="lean", deg=0), recipe=trimmed)
    assert (held.trim.lean_deg, solve(PHOTO, held).stance.lean_deg) == (0, 0)
    with pytest.raises(UnusableInput, match="less than or equal to 80"):
        done(e.HoldAxis(axis="lean", deg=95))


@pytest.mark.parametrize(
    ("text", "roll_deg"), [("2 cw", -2), ("1.5 acw", 1.5), ("0", 0), ("1°20'", -4 / 3)]
)
def test_a_typed_angle_is_what_the_picture_was_tilted_by(text: str, roll_deg: float) -> None:
    # Common practice, no published source: the tilt is read off the picture, the turn is opposite.
    # A bare number goes the way the picture is tilted.
    assert roll(done(LEVEL, e.TypeAngle(text=text))) == pytest.approx(roll_deg)


def test_points_move_with_the_corner_that_they_are() -> None:
    corners = ((900.0, 600.0), (2100.0, 610.0), (2090.0, 1400.0), (905.0, 1390.0))
    recipe = done(e.PlaceRectangle(group="w", vertices=corners))
    assert [reading.kind for reading in recipe.readings] == ["level", "plumb"] * 2
    moved = done(e.MovePoint(id="w-0", point=0, to=(890, 590), zoom=2), recipe=recipe)
    assert sum((890, 590) in reading.points for reading in moved.readings) == 2
    assert not any((900, 600) in reading.points for reading in moved.readings)
    nudged = done(e.NudgePoint(id="w-0", point=0, by=(-10, -10)), recipe=recipe)
    assert [r.points for r in nudged.readings] == [r.points for r in moved.readings]
    # A step of a key is at least as good as the pointer was.
    assert all(r.sigma_px <= 1 for r in nudged.readings)
    border = done(e.NudgePoint(id="w-0", point=0, by=(-5000, 0)), recipe=recipe)
    assert border.readings[0].points[0] == (0, 600)


def test_readings_are_switched_preferred_named_weighed_and_hidden() -> None:
    near = LEVEL.model_copy(update={"id": "b", "points": ((100, 1500), (2900, 1500))})
    recipe = done(LEVEL, near)
    assert roll(done(e.PreferReading(id="a", over=("b",)), recipe=recipe)) == pytest.approx(
        -TILT_DEG
    )
    assert roll(done(e.SwitchReadings(ids=("a",), active=False), recipe=recipe)) == pytest.approx(0)
    checks = done(e.MakeChecks(ids=("a", "b")), recipe=recipe)
    assert (roll(checks), solve(PHOTO, checks).readings[0].angle_deg) == (
        0,
        pytest.approx(TILT_DEG),
    )
    square = done(e.HoldAxis(axis="swing", deg=0), recipe=recipe)
    heavy = done(e.WeighReading(id="a", weight=50), recipe=square)
    assert abs(roll(heavy) + TILT_DEG) < abs(roll(square) + TILT_DEG)
    named = done(e.NameReading(id="a", name="  far bank "), recipe=recipe).readings[0]
    hidden = done(e.ShowReading(id="a", shown=False), recipe=recipe).readings[0]
    assert (named.name, hidden.hidden) == ("far bank", True)


def test_a_trace_alone_serves_as_level_too() -> None:
    trace = e.DrawReading(id="t", kind="trace", points=((100, 900), (1500, 930), (2900, 960)))
    recipe = done(trace, e.LetTraceServe(id="t", serves_as="level"))
    assert roll(recipe) == pytest.approx(-math.degrees(math.atan2(60, 2800)), abs=0.05)
    with pytest.raises(UnusableInput, match="Only a trace"):
        done(LEVEL, e.LetTraceServe(id="a", serves_as="plumb"))


def test_lines_are_fitted_to_the_edge_and_taken_as_drawn() -> None:
    pixels = horizon_picture(TILT_DEG, 900, 600)
    photo = PhotoFacts(width=900, height=600)
    draw = e.DrawReading(id="a", kind="level", points=((60, 288), (840, 305)), fit=True)
    lookups = OfPixels(photo, pixels)
    drawn = apply(draw, Recipe(), photo)
    fitted = advance(photo, Recipe(), (draw,), lookups).recipe
    assert solve(photo, fitted).stance.roll_deg == pytest.approx(-TILT_DEG, abs=0.01)
    assert advance(photo, drawn, (e.FitEverything(),), lookups).recipe == fitted
    assert apply(e.UnfitReading(id="a"), fitted, photo).readings[0].points == draw.points
    # A point of a fitted line that is moved asks for a new fit, one of a drawn line does not.
    move = e.MovePoint(id="a", point=0, to=(80, 287), zoom=1, refit=True)
    assert advance(photo, fitted, (move,), lookups).recipe.readings[0].fitted
    assert not advance(photo, drawn, (move,), lookups).recipe.readings[0].fitted
    assert advance(photo, drawn, (e.FitReading(id="a"),), lookups).recipe == fitted


def test_the_shape_of_the_frame() -> None:
    printed = done(e.ChoosePrintSize(size=PrintSize(width=10, height=8)))
    assert solve(PHOTO, printed).frame.width / solve(PHOTO, printed).frame.height == 1.25
    turned = done(e.TurnShape(), recipe=printed).frame.print_size
    assert turned
    assert (turned.width, turned.height) == (8, 10)
    ratio = done(e.ChooseRatio(ratio="16:9"), recipe=printed)
    assert (ratio.frame.print_size, ratio.frame.ratio) == (None, "16:9")
    assert done(e.TurnShape(), recipe=ratio).frame.ratio == "9:16"
    for bad in ("wide", "0:1", "100:1"):
        with pytest.raises(UnusableInput, match="ratio"):
            done(e.ChooseRatio(ratio=bad))
    with pytest.raises(UnusableInput, match="no sides"):
        done(e.TurnShape())


def test_a_box_to_keep_and_a_point_to_aim_at() -> None:
    recipe = done(e.ChooseRatio(ratio="1:1"), e.KeepBox(opposite=((500, 900), (100, 400))))
    frame = solve(PHOTO, recipe).frame
    assert frame.x <= 100 + 1
    smaller = done(
        e.MoveKeepCorner(corner="top_left", to=(480, 880), seen="as_shot"), recipe=recipe
    )
    assert smaller.frame.keep
    assert smaller.frame.keep.left == 480
    crossed = done(e.MoveKeepCorner(corner="top_left", to=(900, 2000)), recipe=recipe).frame.keep
    assert crossed
    assert (crossed.left, crossed.top) == (496, 896)
    with pytest.raises(UnusableInput, match="too small"):
        done(e.KeepBox(opposite=((5, 5), (6, 400))))
    aimed = done(
        e.AimAt(point=(1300, 900), guide="golden"), e.ChangeAim(meets="line"),
        e.MoveAim(to=(1250, 900)), recipe=done(e.ChooseRatio(ratio="4:3")),
    )  # fmt: skip
    aim = aimed.frame.aim
    assert aim
    assert (aim.point, aim.guide, aim.meets) == ((1250, 900), "golden", "line")
    assert done(e.ClearAim(), recipe=aimed).frame.aim is None
    with pytest.raises(UnusableInput, match="no point to aim at"):
        done(e.MoveAim(to=(1, 1)))


@pytest.mark.parametrize("handle", [(-1, -1), (1, 0), (0, 1), (1, 1)])
def test_an_edge_or_corner_is_dragged_and_the_other_side_stays(handle: tuple[int, int]) -> None:
    # In a free frame smaller than the picture, a dragged edge goes where the hand is.
    start = done(
        LEVEL, e.ChooseRatio(ratio="free"), e.DragFrame(handle=(-1, -1), by=(400, 300)),
        e.DragFrame(handle=(1, 1), by=(-400, -300)),
    )  # fmt: skip
    before = solve(PHOTO, start).frame
    after = solve(
        PHOTO,
        done(e.DragFrame(handle=handle, by=(60 * handle[0], 40 * handle[1])), recipe=start),
    ).frame
    assert (after.width - before.width, after.height - before.height) == (
        60 * abs(handle[0]),
        40 * abs(handle[1]),
    )
    assert after.x == pytest.approx(before.x - (60 if handle[0] < 0 else 0), abs=1)
    assert after.y == pytest.approx(before.y - (40 if handle[1] < 0 else 0), abs=1)


def test_a_frame_that_is_pulled_past_the_outline_needs_an_allowance() -> None:
    pull = e.DragFrame(handle=(-1, -1), by=(-300, -200), past=True)
    within = solve(PHOTO, done(LEVEL, pull))
    assert within.cost.fill_fraction == 0
    past = solve(PHOTO, done(LEVEL, e.AllowFill(allowance=0.5), pull))
    assert 0 < past.cost.fill_fraction <= 0.5 * past.cost.keep_all_fraction + 0.002
    assert done(LEVEL, pull, e.BestFrame()) == done(LEVEL)


def test_what_is_filled_how_and_from_where() -> None:
    recipe = done(
        e.AllowFill(allowance=1), e.FillWith(method="colour"), e.ChooseColour(colour="#102030"),
        e.ChooseCandidate(corner=2, candidate=FillCandidate(style="calm")),
        e.AvoidBox(opposite=((10, 10), (400, 300))),
    )  # fmt: skip
    fill = recipe.fill
    assert (fill.allowance, fill.method, fill.colour) == (1, "colour", "#102030")
    assert [one.style for one in fill.candidates] == ["sharp", "sharp", "calm", "sharp"]
    everywhere = done(e.ChooseCandidate(candidate=FillCandidate(draw=2)), recipe=recipe)
    assert {one.draw for one in everywhere.fill.candidates} == {2}
    assert len(fill.avoid) == 1
    assert done(e.CopyEverything(), recipe=recipe).fill.avoid == ()


def test_the_bow_by_hand_goes_on_from_what_was_there() -> None:
    lens = LensChoice(source="database", polynomial=(0, -0.08, 0, 0.01), name="made up")
    by_hand = done(e.ChooseLensSource(source="hand"), recipe=Recipe(lens=lens)).lens
    assert (by_hand.k1, by_hand.k2) == (-0.08, 0.01)
    typed = done(e.SetRadial(k2=0.02), recipe=Recipe(lens=by_hand)).lens
    assert (typed.source, typed.k1, typed.k2) == ("hand", -0.08, 0.02)
    with pytest.raises(UnusableInput, match="not looked up"):
        done(e.UseLens(name="some lens"))


def test_an_edit_of_something_that_is_gone_says_so() -> None:
    for edit in (
        e.RemoveReading(id="x"),
        e.FitReading(id="x"),
        e.NudgePoint(id="x", point=0, by=(1, 1)),
    ):
        with pytest.raises(UnusableInput, match="not there any more"):
            done(LEVEL, edit)
    with pytest.raises(UnusableInput, match="no such point"):
        done(LEVEL, e.NudgePoint(id="a", point=5, by=(1, 1)))
    with pytest.raises(UnusableInput, match="no box to keep"):
        done(e.MoveKeepCorner(corner="top_left", to=(1, 1)))
    with pytest.raises(UnusableInput, match="same id"):
        done(LEVEL, LEVEL)
