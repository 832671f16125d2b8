"""Typed tilts and angles in words.

That the correction is the opposite turn is common practice, no published source.
"""

import math

import numpy as np
import pytest

from sequor.core.advance import advance
from sequor.core.edits import TypeAngle
from sequor.core.errors import UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.readings.angles import wrap_axial
from sequor.core.readings.typed_angle import parse_tilt
from sequor.core.recipe import Axis, Recipe, Trim
from sequor.core.report.remarks import remark_words
from sequor.core.report.words import in_words
from sequor.core.solve import solve
from tests.conftest import line

PHOTO = PhotoFacts(width=6000, height=4000)


def set_angle(recipe: Recipe, text: str, axis: Axis = "roll") -> tuple[Recipe, str]:
    """The recipe with a typed angle, and what was understood."""
    done = advance(PHOTO, recipe, (TypeAngle(axis=axis, text=text),))
    return done.recipe, remark_words(done.remark)


@pytest.mark.parametrize(
    ("text", "tilt_deg"),
    [
        ("1.33", 1.33),
        ("-1.33", -1.33),
        ("−1.33", -1.33),
        ("+0,5", 0.5),
        (".5", 0.5),
        ("1.33 cw", 1.33),
        ("1.33cw", 1.33),
        ("1.33 acw", -1.33),
        ("1.33° clockwise", 1.33),
        ("1.33 anti-clockwise", -1.33),
        ("2 left", -2.0),
        ("1°20'", 1 + 20 / 60),
        ("1° 20′ 30″ ccw", -(1 + 20 / 60 + 30 / 3600)),
        ("0", 0.0),
        ("180", 180.0),
    ],
)
def test_what_people_type(text: str, tilt_deg: float) -> None:
    assert parse_tilt(text).tilt_deg == pytest.approx(tilt_deg, abs=1e-12)


@pytest.mark.parametrize(
    "text",
    ["", "  ", "level", "1.33 up", "1..3", "nan", "inf", "1°75'", "181", "1e3", "--1", "1 2"],
)
def test_what_is_no_angle_is_refused_in_words(text: str) -> None:
    with pytest.raises(UnusableInput) as refused:
        parse_tilt(text)
    assert str(refused.value).endswith(".")


@pytest.mark.parametrize("known", [1.3, -1.3])
def test_a_bare_number_never_doubles_a_known_tilt(known: float) -> None:
    assert parse_tilt("1.33", known).tilt_deg == math.copysign(1.33, known)


@pytest.mark.parametrize("known", [1.3, -1.3, 0.0])
@pytest.mark.parametrize(("typed", "meant"), [("-2", -2.0), ("+2", 2.0)])
def test_a_sign_that_is_typed_is_meant(typed: str, meant: float, known: float) -> None:
    found = parse_tilt(typed, known)
    assert (found.tilt_deg, found.taken_from) == (meant, "sign")


def test_words_win_over_the_known_tilt() -> None:
    assert parse_tilt("1.33 acw", known_tilt_deg=1.3).tilt_deg == -1.33


@pytest.mark.parametrize(
    ("angle", "words"),
    [
        (1.333, "1.33° clockwise"),
        (-0.2, "0.20° anticlockwise"),
        (0.004, "0.00°"),
        (-0.0, "0.00°"),
        (-0.005001, "0.01° anticlockwise"),
    ],
)
def test_words_never_show_a_sign(angle: float, words: str) -> None:
    assert in_words(angle) == words


def test_undirected_angles_wrap_into_half_a_turn() -> None:
    assert wrap_axial(math.pi / 2) == wrap_axial(-math.pi / 2) == math.pi / 2
    assert wrap_axial(math.pi - 0.1) == pytest.approx(-0.1)


@pytest.mark.parametrize("typed", ["1.33", "1.33 cw", "+1.33"])
def test_typing_the_tilt_that_was_read_levels_the_picture(typed: str) -> None:
    fall = 5000 * math.tan(math.radians(1.33))
    read = Recipe(readings=(line("level", 500, 2000, 5500, 2000 + fall),), trim=Trim(roll_deg=0.4))
    changed, said = set_angle(read, typed)
    assert solve(PHOTO, changed).stance.roll_deg == pytest.approx(-1.33, abs=1e-9)
    assert said.startswith("Tilted 1.33° clockwise as shot, so turned 1.33° anticlockwise.")


def test_typing_with_no_reading_turns_the_opposite_way() -> None:
    changed, _ = set_angle(Recipe(), "4.03 acw")
    assert solve(PHOTO, changed).stance.roll_deg == pytest.approx(4.03)
    levelled, said = set_angle(changed, "0")
    assert solve(PHOTO, levelled).stance.roll_deg == 0
    assert said == "Not turned."


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
    changed, said = set_angle(Recipe(), text, axis)
    assert solve(PHOTO, changed).stance.axis(axis).applied_deg == pytest.approx(applied)
    assert said.startswith(says) or says in said
    again, _ = set_angle(changed, str(abs(applied) + 1), axis)
    assert np.sign(solve(PHOTO, again).stance.axis(axis).applied_deg) == np.sign(
        applied or 1
    )  # the way it is known to go


@pytest.mark.parametrize(
    ("axis", "text"), [("lean", "12 left"), ("swing", "up"), ("lean", "85"), ("swing", "nan")]
)
def test_nonsense_typed_for_lean_and_swing_is_refused(axis: str, text: str) -> None:
    with pytest.raises(UnusableInput):
        set_angle(Recipe(), text, axis)
