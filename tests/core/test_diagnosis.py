"""Which reading was the bad one, and what can be done about it.

Facts of the trade are common practice, no published source.
"""

import json

import numpy as np
import pytest

from sequor.core.edits import KeepAgreeing, LeaveAxisIn, ReadAs
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Hold, Reading, Recipe
from sequor.core.report.report import NoteWords
from sequor.core.solve import solve
from tests.conftest import ROOT, line, notes_of
from tests.core.test_orientation import PHOTO, readings_of
from tests.edited import apply

TRUTH = json.loads((ROOT / "demo" / "truth.json").read_text())


def edge(picture: str, name: str, sigma_px: float = 1.0) -> Reading:
    found = next(e for e in TRUTH[picture]["edges"] + TRUTH[picture]["untrue"] if e["name"] == name)
    return Reading(
        id=name.replace(" ", "-")[:40],
        kind=found["kind"],
        points=found["points"],
        sigma_px=sigma_px,
        name=name,
    )


def photo_of(picture: str) -> PhotoFacts:
    known = TRUTH[picture]
    return PhotoFacts(
        width=known["width"], height=known["height"], focal35_mm=known["camera"]["focal35_mm"]
    )


def note_with(recipe: Recipe, photo: PhotoFacts, words: str) -> NoteWords:
    found = notes_of(photo, recipe, words)
    assert len(found) == 1, notes_of(photo, recipe)
    return found[0]


RAIL, DIKE = "near rail, top", "far dike"


def test_the_near_rail() -> None:
    # A near rail that runs away reads some degrees, the far line what is true; the farther level is
    # the better one.
    picture = "rail-by-the-cut.jpg"
    photo, rail, dike = photo_of(picture), edge(picture, RAIL), edge(picture, DIKE)
    alone = solve(photo, Recipe(readings=(rail,)))
    assert [note.code for note in alone.notes] == ["level_runs_away"]
    assert abs(alone.stance.roll_deg - 1.33) > 2  # levelled by the rail alone the picture is wrong
    far = solve(photo, Recipe(readings=(dike,)))
    assert far.stance.roll_deg == pytest.approx(1.33, abs=0.05)
    # With both on the rail explains itself by a swing that stays in the picture.
    both = Recipe(readings=(rail, dike))
    found = solve(photo, both)
    assert found.stance.roll_deg == pytest.approx(1.33, abs=0.1)
    assert (found.stance.lean_deg, found.stance.swing_deg) == (0, 0)
    assert not any(reading.outlier or reading.disagrees for reading in found.readings)
    # The far one lies at eye level: its direction does little to it, and nothing is said of it.
    assert found.notes == ()
    horizon = ReadAs(id=dike.id, kind="horizon")
    told = solve(photo, apply(horizon, both, photo))
    assert told.stance.roll_deg == pytest.approx(1.33, abs=0.05)
    assert told.stance.roll.sigma_deg < 0.3
    assert told.stance.lean.left_in
    # Only who takes the swing out is asked whether it is one.
    out = apply(LeaveAxisIn(axis="swing", leave=False), both, photo)
    note = note_with(out, photo, "alone asks for a swing")
    assert note.text.startswith("Reading 1 (near rail, top) alone asks for a swing")
    assert "reading 2, the farther one, is the better level" in note.text
    prefer, leave = note.offers
    assert prefer.label == "Prefer reading 2"
    right = solve(photo, apply(prefer.edit, out, photo))
    assert right.stance.roll_deg == pytest.approx(1.33, abs=0.05)
    assert right.stance.swing_deg == 0
    assert leave.label == "Leave the swing in"
    assert solve(photo, apply(leave.edit, out, photo)).stance.swing_deg == 0
    held = both.model_copy(update={"hold": Hold(swing_deg=0.0)})
    contradiction = note_with(held, photo, "nothing says which is right")
    assert "reading 2 is farther and the better level than reading 1" in contradiction.text
    assert contradiction.offers[0].label == "Prefer reading 2"


def test_the_near_rail_is_the_odd_one_out_among_many() -> None:
    picture = "rail-by-the-cut.jpg"
    photo = photo_of(picture)
    names = (
        DIKE,
        "engine house, foot of the eaves board",
        "gauge post, left side",
        RAIL,
        "quay, back edge",
    )
    recipe = Recipe(readings=tuple(edge(picture, name, 0.5) for name in names))
    solution = solve(photo, recipe)
    assert [reading.number for reading in solution.readings if reading.outlier] == [4]
    assert solution.stance.roll_deg == pytest.approx(
        1.33, abs=0.05
    )  # one bad line does not bend the picture
    note = note_with(recipe, photo, "does not fit")
    assert note.readings == (recipe.readings[3].id,)
    assert "perspective tilts it" in note.text
    assert [offer.edit.do for offer in note.offers] == ["switch_readings", "make_checks"]
    checked = apply(note.offers[1].edit, recipe, photo)
    assert checked.readings[3].kind == "check"
    assert not notes_of(photo, checked, "does not fit")
    off = solve(photo, apply(note.offers[0].edit, recipe, photo))
    assert not off.notes
    assert off.stance.roll_deg == pytest.approx(1.33, abs=0.05)


def test_the_crooked_building() -> None:
    # Old buildings really are crooked.
    picture = "the-old-house.tif"
    photo = photo_of(picture)
    names = (
        "row, right end",
        "door leaf",
        "ridge of the row, left",
        "lock coping, back",
        "far chimney, left side",
    )
    true_ones = tuple(edge(picture, name, 0.5) for name in names)
    recipe = Recipe(readings=(*true_ones, edge(picture, "old house, first post", 0.5)))
    note = note_with(recipe, photo, "crooked")
    assert note.readings == (recipe.readings[-1].id,)
    both = Recipe(readings=(*recipe.readings, edge(picture, "old house, last post", 0.5)))
    kept = apply(KeepAgreeing(), both, photo)
    assert [reading.active for reading in kept.readings] == [True] * 5 + [False] * 2
    stance = solve(photo, kept).stance
    assert (stance.roll_deg, stance.lean_deg) == (
        pytest.approx(-1.5, abs=0.05),
        pytest.approx(5, abs=0.2),
    )


def test_two_plumb_lines_that_contradict_each_other() -> None:
    lines = (
        line("plumb", 3000, 500, 3000, 3500, id="a"),
        line("plumb", 3300, 500, 3460, 3500, id="b"),
    )
    recipe = Recipe(readings=lines, hold=Hold(lean_deg=0, swing_deg=0))
    note = note_with(recipe, PHOTO, "nothing says which is right")
    assert set(note.readings) == {"a", "b"}
    assert "3.05°" in note.text
    assert "crooked" in note.text
    assert len(apply(KeepAgreeing(), recipe, PHOTO).readings) == 2
    assert sum(reading.active for reading in apply(KeepAgreeing(), recipe, PHOTO).readings) == 1


def test_several_that_do_not_fit_are_named_and_one_click_keeps_the_rest() -> None:
    random = np.random.default_rng(0)
    readings = list(readings_of(random, (1.0, 6.0, 0.0), 4, 4, noise=1.0))
    for bad, degrees in ((2, 2.5), (6, -3.0)):
        (ax, ay), (bx, by) = readings[bad].points
        turn = np.radians(degrees)
        dx, dy = bx - ax, by - ay
        end = (
            ax + dx * np.cos(turn) - dy * np.sin(turn),
            ay + dx * np.sin(turn) + dy * np.cos(turn),
        )
        readings[bad] = readings[bad].model_copy(
            update={"points": ((ax, ay), (float(end[0]), float(end[1])))}
        )
    recipe = Recipe(readings=tuple(readings))
    solution = solve(PHOTO, recipe)
    assert [reading.number for reading in solution.readings if reading.outlier] == [3, 7]
    assert solution.stance.lean_deg == pytest.approx(6, abs=0.5)
    note = note_with(recipe, PHOTO, "do not fit the others")
    kept = apply(note.offers[0].edit, recipe, PHOTO)
    assert [i for i, reading in enumerate(kept.readings) if not reading.active] == [2, 6]


def test_readings_that_nearly_repeat_each_other() -> None:
    recipe = Recipe(
        readings=(
            line("plumb", 1000, 500, 1010, 3500, id="a"),
            line("plumb", 1020, 600, 1030, 3300, id="b"),
        )
    )
    note = note_with(recipe, PHOTO, "nearly the same line")
    assert note.offers[0].edit.ids == ("b",)  # the shorter one
    left = solve(PHOTO, apply(note.offers[0].edit, recipe, PHOTO)).notes
    assert [note.code for note in left] == ["plumb_may_lean"]  # it is the only one then
    apart = Recipe(
        readings=(
            line("plumb", 1000, 500, 1010, 3500, id="a"),
            line("plumb", 5000, 600, 4990, 3300, id="b"),
        )
    )
    assert not solve(PHOTO, apart).notes


def test_one_short_line_decides() -> None:
    long, short = (
        line("plumb", 500, 500, 560, 3500, id="long"),
        line("plumb", 5500, 1000, 5498, 1080, id="short"),
    )
    note = note_with(Recipe(readings=(long, short)), PHOTO, "is short")
    assert "the lean rests on it alone" in note.text
    assert note.offers[0].edit.ids == ("short",)
    only = note_with(Recipe(readings=(short,)), PHOTO, "is short")
    assert "the roll rests on it alone" in only.text
