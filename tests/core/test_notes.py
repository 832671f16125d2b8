"""Which reading was the bad one, and what can be done about it. Facts of the trade are common practice, no published source."""

import json

import numpy as np
import pytest

from sequor.core.adjust import act, best_agreeing, joined, rectangle, set_angle
from sequor.core.bow import Bow
from sequor.core.errors import UnusableInput
from sequor.core.recipe import Hold, PhotoFacts, Reading, Recipe
from sequor.core.solution import Action, Note
from sequor.core.solve import solve
from tests.conftest import ROOT, line
from tests.core.test_stance import PHOTO, readings_of

TRUTH = json.loads((ROOT / "demo" / "truth.json").read_text())


def edge(picture: str, name: str, sigma_px: float = 1.0) -> Reading:
    found = next(e for e in TRUTH[picture]["edges"] + TRUTH[picture]["untrue"] if e["name"] == name)
    return Reading(id=name.replace(" ", "-")[:40], kind=found["kind"], points=found["points"], sigma_px=sigma_px, name=name)


def photo_of(picture: str) -> PhotoFacts:
    known = TRUTH[picture]
    return PhotoFacts(width=known["width"], height=known["height"], focal35_mm=known["camera"]["focal35_mm"])


def note_with(recipe: Recipe, photo: PhotoFacts, words: str) -> Note:
    found = [note for note in solve(photo, recipe).notes if words in note.text]
    assert len(found) == 1, [note.text for note in solve(photo, recipe).notes]
    return found[0]


RAIL, DIKE = "near rail, top", "far dike"


def test_the_near_rail() -> None:
    # A near rail that runs away reads some degrees, the far line what is true; the farther level is the better one.
    picture = "rail-by-the-cut.jpg"
    photo, rail, dike = photo_of(picture), edge(picture, RAIL), edge(picture, DIKE)
    alone = solve(photo, Recipe(readings=(rail,)))
    assert abs(alone.stance.roll_deg - 1.33) > 2  # levelled by the rail alone the picture is wrong
    far = solve(photo, Recipe(readings=(dike,)))
    assert far.stance.roll_deg == pytest.approx(1.33, abs=0.05)
    both = Recipe(readings=(rail, dike))
    note = note_with(both, photo, "runs away from the camera")
    assert note.text.startswith("Reading 1 (near rail, top) alone asks for a swing")
    assert "reading 2, the farther one, is the better level" in note.text
    prefer = note.actions[0]
    assert prefer.label == "Prefer reading 2"
    right = solve(photo, act(photo, both, prefer))
    assert right.stance.roll_deg == pytest.approx(1.33, abs=0.05)
    assert right.stance.swing_deg == 0
    assert not right.notes
    held = act(photo, both, note.actions[1])
    assert solve(photo, held).stance.swing_deg == 0
    contradiction = note_with(held, photo, "nothing says which is right")
    assert "reading 2 is farther and the better level than reading 1" in contradiction.text
    assert contradiction.actions[0].label == "Prefer reading 2"


def test_the_near_rail_is_the_odd_one_out_among_many() -> None:
    picture = "rail-by-the-cut.jpg"
    photo = photo_of(picture)
    names = (DIKE, "engine house, foot of the eaves board", "gauge post, left side", RAIL, "quay, back edge")
    recipe = Recipe(readings=tuple(edge(picture, name, 0.5) for name in names))
    solution = solve(photo, recipe)
    assert [reading.number for reading in solution.readings if reading.outlier] == [4]
    assert solution.stance.roll_deg == pytest.approx(1.33, abs=0.05)  # one bad line does not bend the picture
    note = note_with(recipe, photo, "does not fit")
    assert note.readings == (recipe.readings[3].id,)
    assert "perspective tilts it" in note.text
    assert {action.do for action in note.actions} == {"switch_off", "make_check"}
    checked = act(photo, recipe, note.actions[1])
    assert checked.readings[3].kind == "check"
    assert not [note for note in solve(photo, checked).notes if "does not fit" in note.text]


def test_the_crooked_building() -> None:
    # Old buildings really are crooked.
    picture = "the-old-house.tif"
    photo = photo_of(picture)
    names = ("row, right end", "door leaf", "ridge of the row, left", "lock coping, back", "far chimney, left side")
    true_ones = tuple(edge(picture, name, 0.5) for name in names)
    recipe = Recipe(readings=(*true_ones, edge(picture, "old house, first post", 0.5)))
    note = note_with(recipe, photo, "crooked")
    assert note.readings == (recipe.readings[-1].id,)
    both = Recipe(readings=(*recipe.readings, edge(picture, "old house, last post", 0.5)))
    kept = best_agreeing(photo, both)
    assert [reading.active for reading in kept.readings] == [True] * 5 + [False] * 2
    stance = solve(photo, kept).stance
    assert (stance.roll_deg, stance.lean_deg) == (pytest.approx(-1.5, abs=0.05), pytest.approx(5, abs=0.2))


def test_two_plumb_lines_that_contradict_each_other() -> None:
    lines = (line("plumb", 3000, 500, 3000, 3500, id="a"), line("plumb", 3300, 500, 3460, 3500, id="b"))
    recipe = Recipe(readings=lines, hold=Hold(lean_deg=0, swing_deg=0))
    note = note_with(recipe, PHOTO, "nothing says which is right")
    assert set(note.readings) == {"a", "b"}
    assert "3.05°" in note.text
    assert "crooked" in note.text
    assert len(best_agreeing(PHOTO, recipe).readings) == 2
    assert sum(reading.active for reading in best_agreeing(PHOTO, recipe).readings) == 1


def test_several_that_do_not_fit_are_named_and_one_click_keeps_the_rest() -> None:
    random = np.random.default_rng(0)
    readings = list(readings_of(random, (1.0, 6.0, 0.0), 4, 4, noise=1.0))
    for bad, degrees in ((2, 2.5), (6, -3.0)):
        (ax, ay), (bx, by) = readings[bad].points
        turn = np.radians(degrees)
        dx, dy = bx - ax, by - ay
        end = (ax + dx * np.cos(turn) - dy * np.sin(turn), ay + dx * np.sin(turn) + dy * np.cos(turn))
        readings[bad] = readings[bad].model_copy(update={"points": ((ax, ay), (float(end[0]), float(end[1])))})
    recipe = Recipe(readings=tuple(readings))
    solution = solve(PHOTO, recipe)
    assert [reading.number for reading in solution.readings if reading.outlier] == [3, 7]
    assert solution.stance.lean_deg == pytest.approx(6, abs=0.5)
    note = note_with(recipe, PHOTO, "do not fit the others")
    kept = act(PHOTO, recipe, note.actions[0])
    assert [i for i, reading in enumerate(kept.readings) if not reading.active] == [2, 6]


def test_readings_that_nearly_repeat_each_other() -> None:
    recipe = Recipe(readings=(line("plumb", 1000, 500, 1010, 3500, id="a"), line("plumb", 1020, 600, 1030, 3300, id="b")))
    note = note_with(recipe, PHOTO, "nearly the same line")
    assert note.actions[0].readings == ("b",)  # the shorter one
    apart = Recipe(readings=(line("plumb", 1000, 500, 1010, 3500, id="a"), line("plumb", 5000, 600, 4990, 3300, id="b")))
    assert not solve(PHOTO, apart).notes


def test_one_short_line_decides() -> None:
    long, short = line("plumb", 500, 500, 560, 3500, id="long"), line("plumb", 5500, 1000, 5498, 1080, id="short")
    note = note_with(Recipe(readings=(long, short)), PHOTO, "is short")
    assert "the lean rests on it alone" in note.text
    assert note.actions[0].readings == ("short",)
    only = note_with(Recipe(readings=(short,)), PHOTO, "is short")
    assert "the roll rests on it alone" in only.text


def test_actions_on_what_is_gone_are_refused() -> None:
    with pytest.raises(UnusableInput, match="not there any more"):
        act(PHOTO, Recipe(), Action(label="x", do="switch_off", readings=("gone",)))
    with pytest.raises(UnusableInput, match="which axis"):
        act(PHOTO, Recipe(), Action(label="x", do="hold"))
    assert act(PHOTO, Recipe(), Action(label="x", do="use_focal", value=24.0)).focal35_mm == 24
    with pytest.raises(ValueError, match="greater than"):
        act(PHOTO, Recipe(), Action(label="x", do="use_focal", value=-2.0))


@pytest.mark.parametrize(
    ("axis", "text", "applied", "says"),
    [
        ("lean", "12 up", 12, "The camera pointed 12.00° up."),
        ("lean", "12 down", -12, "The camera pointed 12.00° down."),
        ("lean", "12", 12, "Taken as up"),
        ("swing", "7.5 left", -7.5, "The camera pointed 7.50° left."),
        ("swing", "0", 0, "No swing."),
    ],
)
def test_lean_and_swing_can_be_typed(axis: str, text: str, applied: float, says: str) -> None:
    changed, said = set_angle(PHOTO, Recipe(), text, axis)
    assert solve(PHOTO, changed).stance.axis(axis).applied_deg == pytest.approx(applied)
    assert said.startswith(says) or says in said
    again, _ = set_angle(PHOTO, changed, str(abs(applied) + 1), axis)
    assert np.sign(solve(PHOTO, again).stance.axis(axis).applied_deg) == np.sign(applied or 1)  # the way it is known to go


@pytest.mark.parametrize(("axis", "text"), [("lean", "12 left"), ("swing", "up"), ("lean", "85"), ("swing", "nan")])
def test_nonsense_typed_for_lean_and_swing_is_refused(axis: str, text: str) -> None:
    with pytest.raises(UnusableInput):
        set_angle(PHOTO, Recipe(), text, axis)


def test_a_rectangle_is_two_levels_and_two_plumbs() -> None:
    corners = ((4000.0, 3000.0), (1000.0, 900.0), (4100.0, 1000.0), (1050.0, 3100.0))
    sides = rectangle(corners, "w")
    assert [side.kind for side in sides] == ["level", "plumb", "level", "plumb"]
    assert sides[0].points == ((1000, 900), (4100, 1000))
    assert {side.group for side in sides} == {"w"}
    assert all(a.points[1] == b.points[0] for a, b in zip(sides, (*sides[1:], sides[0]), strict=True))
    assert solve(PHOTO, Recipe(readings=sides)).stance.lean.measured_deg is not None
    moved = sides[0].model_copy(update={"points": ((1000, 890), (4100, 990))})
    again = joined((moved, *sides[1:]), Bow.of(PHOTO))
    assert all(a.points[1] == pytest.approx(b.points[0]) for a, b in zip(again, (*again[1:], again[0]), strict=True))
    # The lines are the same ones, only their ends have moved along them.
    for before, after in zip((moved, *sides[1:]), again, strict=True):
        (ax, ay), (bx, by) = before.points
        for x, y in after.points:
            assert (bx - ax) * (y - ay) - (by - ay) * (x - ax) == pytest.approx(0, abs=1e-4)
    for bad in (
        ((0, 0), (10, 10), (20, 20), (30, 30)),
        ((0, 0), (100, 0), (100, 100), (50, 10)),
        ((5, 5), (5, 5), (90, 5), (5, 90)),
    ):
        with pytest.raises(UnusableInput, match="four corners"):
            rectangle(bad, "w")
