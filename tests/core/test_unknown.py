"""Where something is not known the stated deviations say so: the focal length, a hold that may be
wrong, lines that tell nothing of an axis.

The sets of readings are made here, by vanishing points (Hartley & Zisserman, *Multiple View
Geometry*, 2nd ed., section 8.6), with no code of the project's; nothing was chosen on them.
"""

import math
import warnings

import numpy as np
import pytest

from sequor.core.recipe import Hold, PhotoFacts, Reading, Recipe
from sequor.core.solution import Solution
from sequor.core.solve import solve
from tests.conftest import line, notes_of

W, H = 3000, 2000
AXES = ("roll", "lean", "swing")
NOISE_PX = 0.7
DOUBTS = {"odd_one_out", "several_do_not_fit", "contradiction"}


def turn(axis: int, deg: float) -> np.ndarray:
    """Rotation about x, y or z (0, 1, 2)."""
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    one, two = [(1, 2), (2, 0), (0, 1)][axis]
    matrix = np.eye(3)
    matrix[one, one] = matrix[two, two] = c
    matrix[one, two], matrix[two, one] = -s, s
    return matrix


def readings_of(
    chance: np.random.Generator, stance: tuple[float, float, float], focal35_mm: float, *kinds: str
) -> tuple[Reading, ...]:
    """Lines anywhere in the picture that point to their vanishing points, with noise at both ends;
    ``stance`` is the correction, roll, lean and swing in degrees.
    """
    roll, lean, swing = stance
    rotation = turn(1, swing) @ turn(0, lean) @ turn(2, roll)
    focal = focal35_mm / math.hypot(36, 24) * math.hypot(W, H)
    made: list[Reading] = []
    while len(made) < len(kinds):
        kind = kinds[len(made)]
        towards = rotation.T @ ([0, 1, 0] if kind == "plumb" else [1, 0, 0])
        middle = chance.uniform([-1250, -800], [1250, 800])
        along = focal * towards[:2] - towards[2] * middle
        along *= chance.uniform(300, 500) / np.hypot(*along)
        ends = np.array([middle - along, middle + along])
        if np.abs(ends / [W / 2, H / 2]).max() > 0.99:
            continue
        ends = ends + [W / 2, H / 2] + chance.normal(0, NOISE_PX, (2, 2))
        made.append(
            Reading(
                id=str(len(made)),
                kind=kind,
                points=ends.tolist(),
                sigma_px=NOISE_PX,  # type: ignore
            )
        )
    return tuple(made)


def covered(solution: Solution, stance: tuple[float, float, float]) -> dict[str, bool]:
    """Whether the truth lies within 1.96 deviations, of every axis that is told."""
    found = {}
    for axis, truth in zip(AXES, stance, strict=True):
        told = solution.stance.axis(axis)  # type: ignore[arg-type]
        if told.measured_deg is not None and told.sigma_deg is not None:
            found[axis] = abs(told.measured_deg - truth) <= 1.96 * told.sigma_deg
    return found


def usual_stance(chance: np.random.Generator) -> tuple[float, float, float]:
    roll, lean, swing = chance.normal(0, [2, 6, 8])
    return roll, lean, swing


@pytest.mark.parametrize(
    ("known", "least"),
    [(True, {"roll": 0.92, "lean": 0.92, "swing": 0.91}), (False, dict.fromkeys(AXES, 0.85))],
    ids=["known", "unknown"],
)
def test_deviations_hold_with_and_without_a_focal_length(
    known: bool, least: dict[str, float]
) -> None:
    """2 and 2 readings, lenses of 18 to 85 mm. Without a focal length 86, 51 and 44 % were covered
    once; the least that passes here is three deviations of 250 draws below what is meant, and for
    an unknown one what is measured in docs/accuracy.md.
    """
    chance = np.random.default_rng(2026)
    counts: dict[str, list[bool]] = {axis: [] for axis in AXES}
    for _ in range(250):
        focal = float(chance.uniform(18, 85))
        stance = usual_stance(chance)
        readings = readings_of(chance, stance, focal, "plumb", "plumb", "level", "level")
        photo = PhotoFacts(width=W, height=H, focal35_mm=focal if known else None)
        for axis, is_covered in covered(solve(photo, Recipe(readings=readings)), stance).items():
            counts[axis].append(is_covered)
    for axis in AXES:
        assert np.mean(counts[axis]) >= least[axis], (axis, np.mean(counts[axis]))


def test_what_hangs_on_an_assumed_focal_length_is_said() -> None:
    """Truth: 85 mm and a swing of 15; at the assumed 35 mm it is 6.28, and was stated to 0.26."""
    lines = (
        line("plumb", 396.5, 600, 403.5, 1400, id="a"),
        line("plumb", 2596.5, 600, 2603.5, 1400, id="b"),
        line("level", 1000.1, 342.1, 1999.9, 357.9, id="c"),
        line("level", 1000.3, 1666.6, 1999.7, 1633.4, id="d"),
    )
    photo, recipe = PhotoFacts(width=W, height=H), Recipe(readings=lines)
    swing = solve(photo, recipe).stance.swing
    assert swing.measured_deg == pytest.approx(6.28, abs=0.01)
    assert swing.sigma_deg is not None
    short, long = (
        solve(photo.model_copy(update={"focal35_mm": mm}), recipe).stance.swing.measured_deg
        for mm in (24.0, 70.0)
    )
    # Most pictures are taken between those two: one deviation reaches at least half the way. The
    # truth, a longer lens than that, lies at 2.1 deviations.
    assert swing.sigma_deg >= (long - short) / 2
    (note,) = notes_of(photo, recipe, "35 mm is assumed")
    assert "The swing is 4.3" in note.text
    assert "for a lens of 24 mm and 12.4" in note.text
    # Told the lens, it is as sure as the lines are.
    told = solve(photo, recipe.model_copy(update={"focal35_mm": 85.0})).stance.swing
    assert told.measured_deg == pytest.approx(15, abs=0.1)
    assert told.sigma_deg is not None
    assert told.sigma_deg < 1


def test_a_wrong_hold_is_said_and_no_reading_blamed() -> None:
    """Exact readings of a swing, held at zero: 188 of 200 such sets were blamed once."""
    chance, blamed = np.random.default_rng(77), 0
    for _ in range(100):
        swing = float(chance.uniform(5, 25) * chance.choice([-1, 1]))
        roll, lean, _ = usual_stance(chance)
        focal = float(chance.choice([24, 28, 35, 50]))
        stance = (roll, lean * 2 / 3, swing)
        readings = readings_of(chance, stance, focal, "plumb", "plumb", "level", "level")
        recipe = Recipe(readings=readings, hold=Hold(swing_deg=0))
        codes = [note.code for note in solve(_with(focal), recipe).notes]
        blamed += bool(DOUBTS & {*codes})
    assert blamed <= 5


def _with(focal35_mm: float) -> PhotoFacts:
    return PhotoFacts(width=W, height=H, focal35_mm=focal35_mm)


def test_the_hold_comes_first_of_what_is_said() -> None:
    lines = (
        line("plumb", 401.1, 600, 398.9, 1400, id="a"),
        line("plumb", 2591.9, 600.1, 2608.1, 1399.9, id="b"),
        line("level", 1001.2, 385.1, 1998.8, 314.9, id="c"),
        line("level", 1000.5, 1628.5, 1999.5, 1671.5, id="d"),
    )
    recipe = Recipe(readings=lines, hold=Hold(swing_deg=0))
    solution = solve(_with(28), recipe)
    assert [note.code for note in solution.notes] == ["held_against_readings"]
    assert not any(reading.outlier for reading in solution.readings)


def test_lines_that_tell_nothing_of_an_axis_are_no_error() -> None:
    """Three levels almost in one line left no number for their lean: a singular matrix."""
    ends = (
        (2236.148543842191, 595.1762076061538, 2706.655217704556, 641.8842340107952),
        (500.3910030519367, 594.4622002924208, 1187.7849682851281, 601.9104132456231),
        (462.61127019301216, 515.4181605129196, 1335.2197645908604, 591.8157220093212),
    )
    lines = tuple(
        line("level", *one, id=str(n), sigma_px=1.550122192146308) for n, one in enumerate(ends)
    )
    stance = solve(_with(35), Recipe(readings=lines)).stance
    assert stance.roll.sigma_deg is not None
    assert math.isfinite(stance.roll_deg)


def test_no_number_is_made_of_nothing() -> None:
    """A vertical that points at the camera has no level direction of its own; no warning either."""
    chance = np.random.default_rng(3)
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        for _ in range(60):
            kinds = chance.choice(["plumb", "level"], 3)
            ends = chance.uniform([50, 50], [W - 50, H - 50], (3, 2, 2))
            lines = tuple(
                Reading(id=str(n), kind=kind, points=pair.tolist())
                for n, (kind, pair) in enumerate(zip(kinds, ends, strict=True))
            )
            stance = solve(_with(28), Recipe(readings=lines)).stance
            assert all(math.isfinite(stance.axis(axis).applied_deg) for axis in AXES)  # type: ignore


def test_a_single_plumb_line_says_roll_or_lean() -> None:
    """28 mm, pointed up by 15 degrees and level: it looked like a roll of 8.8, sure to 3.1."""
    recipe = Recipe(readings=(line("plumb", 218.9, 555.3, 81.1, 1444.7, id="a"),))
    solution = solve(_with(28), recipe)
    roll = solution.stance.roll
    assert roll.measured_deg is not None
    assert roll.sigma_deg is not None
    assert abs(roll.measured_deg) < 1.96 * roll.sigma_deg
    (note,) = solution.notes
    assert note.code == "plumb_may_lean"
    (words,) = notes_of(_with(28), recipe)
    assert "if the camera pointed up or down by 10°, the roll is 6.3° off" in words.text


def test_one_plumb_line_of_a_camera_that_points_up_is_covered() -> None:
    """Leans of 12 to 28 degrees: 3 of 100 were covered once."""
    chance, inside = np.random.default_rng(31), []
    for _ in range(100):
        lean = float(chance.uniform(12, 28) * chance.choice([-1, 1]))
        roll, swing = (float(value) for value in chance.normal(0, [1.5, 6]))
        focal = float(chance.choice([24, 28, 35, 50]))
        stance = (roll, lean, swing)
        readings = readings_of(chance, stance, focal, "plumb")
        found = covered(solve(_with(focal), Recipe(readings=readings)), stance)
        inside.append(found["roll"])
    assert np.mean(inside) >= 0.88


ABSURD = (
    ("plumb", 436.4, 730.4, 418.2, 1430.2),
    ("plumb", 446.7, 984.9, 391.8, 1682.7),  # three degrees wrong
    ("level", 303.4, 779.3, 1102.9, 807.3),
    ("level", 1064.3, 1355.8, 1864.3, 1359.3),
)
"""Truth: roll -0.5, lean 3.8, swing 13.4. All four agree, on a camera that lies on its side."""


def test_a_stance_that_no_camera_has_is_evidence_against_a_reading() -> None:
    lines = tuple(line(kind, *ends, id=str(n)) for n, (kind, *ends) in enumerate(ABSURD))
    solution = solve(_with(50), Recipe(readings=lines))
    assert solution.notes[0].code == "odd_one_out"
    assert solution.notes[0].readings == ("1",)
    assert covered(solution, (-0.5, 3.8, 13.4)) == {"roll": True, "swing": True}
    assert abs(solution.stance.lean_deg) < 5


def test_right_readings_of_a_tall_building_are_not_doubted() -> None:
    """A camera that points up by 25 degrees and to the side by 30 is no rarity."""
    chance = np.random.default_rng(8)
    for _ in range(40):
        stance = (float(chance.normal(0, 2)), float(chance.uniform(15, 25)), 30.0)
        readings = readings_of(chance, stance, 24, "plumb", "plumb", "level", "level")
        solution = solve(_with(24), Recipe(readings=readings))
        assert not DOUBTS & {note.code for note in solution.notes}
