"""Where something is not known the stated deviations say so: the focal length, a hold that may be
wrong, lines that tell nothing of an axis.

The sets of readings are made here, by vanishing points (Hartley & Zisserman, *Multiple View
Geometry*, 2nd ed., section 8.6), with no code of the project's; nothing was chosen on them.
"""

import math
import warnings

import numpy as np
import pytest

from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Hold, LeaveIn, Reading, Recipe, Trim
from sequor.core.solution import Solution
from sequor.core.solve import solve
from tests.conftest import line, notes_of
from tests.edited import apply

W, H = 3000, 2000
AXES = ("roll", "lean", "swing")
NOISE_PX = 0.7
DOUBTS = {"odd_one_out", "several_do_not_fit", "contradiction"}
"""Notes that say that a reading is wrong, or may be the one."""


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


def test_a_focal_length_that_no_lens_has_is_not_offered() -> None:
    """One of these is 5 degrees wrong; they fit a lens of 3 mm, and could not be solved once."""
    lines = (
        line("plumb", 1580.7, 1039.9, 1493.7, 1849.8, id="a"),
        line("plumb", 1381.4, 997.0, 1378.2, 1618.7, id="b"),
        line("level", 1405.6, 491.0, 2089.9, 481.2, id="c"),
        line("level", 988.7, 1268.6, 1731.2, 1361.4, id="d"),
    )
    placed = tuple(one.model_copy(update={"sigma_px": NOISE_PX}) for one in lines)
    assert solve(_with(24), Recipe(readings=placed)).focal.estimate35_mm is None


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


def test_one_plumb_and_one_level_of_a_camera_that_points_up_are_covered() -> None:
    """Swing and lean, multiplied, tilt the level line: 24 of 100 were covered once."""
    chance, inside = np.random.default_rng(32), []
    for _ in range(150):
        lean = float(chance.uniform(12, 28) * chance.choice([-1, 1]))
        roll, swing = (float(value) for value in chance.normal(0, [1.5, 6]))
        focal = float(chance.uniform(18, 85))
        readings = readings_of(chance, (roll, lean, swing), focal, "plumb", "level")
        found = covered(solve(_with(focal), Recipe(readings=readings)), (roll, lean, swing))
        inside.append(found["roll"])
    assert np.mean(inside) >= 0.85


def wrong(reading: Reading, deg: float) -> Reading:
    """The same reading turned about its middle, within the picture."""
    ends = np.array(reading.points)
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    about = ends.mean(axis=0)
    moved = np.clip(about + (ends - about) @ np.array([[c, s], [-s, c]]), 1, [W - 1, H - 1])
    return reading.model_copy(update={"points": tuple(map(tuple, moved.tolist()))})


def test_a_wrong_one_of_four_is_not_silent() -> None:
    """35 of 100 were silent and 7 absurd once; with four readings a wrong one often agrees."""
    chance, silent, absurd = np.random.default_rng(2029), 0, 0
    for _ in range(200):
        focal, stance = float(chance.choice([24, 28, 35, 50])), usual_stance(chance)
        readings = list(readings_of(chance, stance, focal, "plumb", "plumb", "level", "level"))
        place = int(chance.integers(4))
        off = float(chance.uniform(1.5, 6) * chance.choice([-1, 1]))
        readings[place] = wrong(readings[place], off)
        solution = solve(_with(focal), Recipe(readings=tuple(readings)))
        said = {note.code for note in solution.notes}
        silent += far_off(solution, stance) and not said & {*DOUBTS, "one_may_be_wrong"}
        absurd += is_absurd(solution)
    assert silent <= 10
    assert not absurd


def far_off(solution: Solution, stance: tuple[float, float, float]) -> bool:
    """Whether an axis that is told is more than a degree and four deviations off."""
    told = [solution.stance.axis(axis) for axis in AXES]  # type: ignore[arg-type]
    return any(
        one.measured_deg is not None
        and one.sigma_deg is not None
        and abs(one.measured_deg - truth) > max(1.0, 4 * one.sigma_deg)
        for one, truth in zip(told, stance, strict=True)
    )


def is_absurd(solution: Solution) -> bool:
    """Whether a turn is taken out that no photographer would want."""
    roll, lean, swing = (solution.stance.axis(axis).applied_deg for axis in AXES)  # type: ignore
    return abs(roll) > 25 or abs(lean) > 40 or abs(swing) > 40


def test_what_the_stance_is_without_a_reading_that_may_be_wrong_is_said() -> None:
    """The second plumb line is 3.6 degrees wrong; four readings agree on a lean of 66."""
    chance = np.random.default_rng(11)
    said = []
    for _ in range(60):
        readings = list(readings_of(chance, (0, 2, 9), 35, "plumb", "plumb", "level", "level"))
        readings[1] = wrong(readings[1], -2.0)
        recipe = Recipe(readings=tuple(readings))
        said += [
            (note, recipe)
            for note in solve(_with(35), recipe).notes
            if note.code == "one_may_be_wrong"
        ]
    assert said
    note, recipe = said[0]
    without = note.outcomes[0]
    left = tuple(one for one in recipe.readings if one.id != without.without)
    alone = solve(_with(35), Recipe(readings=left)).stance
    assert without.roll_deg == pytest.approx(alone.roll.measured_deg, abs=0.2)
    (text,) = notes_of(_with(35), recipe, "could agree by chance")
    assert "Without" in text.text
    assert [offer.edit.do for offer in text.offers] == ["switch_readings"] * len(note.readings)


def test_a_roll_that_no_line_has_is_said() -> None:
    """Uprights of 0.97 and 3.70, a ridge of 1.50, all clockwise, and a tilt of 0.29: two uprights
    of an old house that stand on one side say less than they seem to.
    """
    photo = PhotoFacts(width=2700, height=1800, focal35_mm=28)
    lines = (
        line("plumb", 1566.8, 1176.9, 1573.5, 782.3, id="a"),
        line("plumb", 1845.8, 1115.9, 1867.7, 777.2, id="b"),
        line("level", 593.1, 415.1, 1105.8, 428.5, id="c"),
    )
    recipe = Recipe(readings=lines)
    (note,) = notes_of(photo, recipe, "none of its lines is")
    assert note.outcomes
    # Truth: 1.50 clockwise. What it would be if one of them really slopes is said and offered: the
    # post of the old house does, by 2 degrees and more.
    crooked = note.offers[0]
    assert crooked.edit.ids == ("b",)
    assert crooked.label == "Reading 2 really slopes"
    believed = apply(crooked.edit, recipe, photo)
    roll = solve(photo, believed).stance.roll
    assert abs(roll.applied_deg + 1.5) < 1.96 * roll.sigma_deg
    told = f"If reading 2 really slopes, the picture is tilted {-roll.applied_deg:.2f}° clockwise"
    assert told in note.text
    assert not notes_of(photo, believed, "none of its lines is")
    # It stays, is measured and listed: it really slopes.
    sloping = solve(photo, believed).readings[1]
    assert (sloping.kind, round(sloping.residual_deg, 1)) != ("plumb", 0.0)
    # Uprights on both sides of the middle say it themselves.
    beside = (plumb_at(600, 1000, -1.0, id="a"), plumb_at(2400, 1000, 3.70, id="b"))
    assert not notes_of(_with(35), Recipe(readings=beside), "none of its lines is")


def plumb_at(x: float, y: float, tilt_deg: float, **more: str) -> Reading:
    """An upright of 800 pixels tilted clockwise."""
    s, c = 400 * math.sin(math.radians(tilt_deg)), 400 * math.cos(math.radians(tilt_deg))
    return line("plumb", x + s, y - c, x - s, y + c, **more)


def level_at(x: float, y: float, tilt_deg: float, **more: str) -> Reading:
    """A level line of 1000 pixels tilted clockwise."""
    c, s = 500 * math.cos(math.radians(tilt_deg)), 500 * math.sin(math.radians(tilt_deg))
    return line("level", x - c, y - s, x + c, y + s, **more)


def test_a_picture_on_its_side_may_as_well_lie_on_the_other() -> None:
    lines = (plumb_at(1500, 1000, 85, id="a"), level_at(1500, 600, 85, id="b"))
    recipe = Recipe(readings=lines)
    (note,) = notes_of(_with(35), recipe, "A line has no head")
    (offer,) = note.offers
    assert offer.label == "Turn it the other way up"
    first = solve(_with(35), recipe).stance.roll_deg
    other = solve(_with(35), apply(offer.edit, recipe, _with(35))).stance.roll_deg
    assert abs(first - other) == pytest.approx(180)


def test_a_picture_turned_on_purpose_is_not_said_to_lie_on_its_side() -> None:
    turned = Recipe(readings=(level_at(1500, 600, 1, id="a"),), trim=Trim(roll_deg=90))
    assert not notes_of(_with(35), turned, "A line has no head")
    held = Recipe(readings=(level_at(1500, 600, 1, id="a"),), hold=Hold(roll_deg=90))
    assert not notes_of(_with(35), held, "A line has no head")


def test_traces_as_rough_as_they_are_said_to_be_are_straight() -> None:
    """12 of 12 sets with points true to a pixel, and said to be, stayed bent once."""
    chance = np.random.default_rng(12)
    x = np.linspace(200, 2800, 14)
    for _ in range(12):
        traces = tuple(
            Reading(
                id=str(n),
                kind="trace",
                points=np.column_stack([x, y + chance.normal(0, 1, 14)]).tolist(),
                sigma_px=1.0,
            )
            for n, y in enumerate((150.0, 600.0, 1800.0))
        )
        codes = [note.code for note in solve(_with(35), Recipe(readings=traces)).notes]
        assert "trace_stays_bent" not in codes
    # What really bends says so: one of three runs along a low arch.
    arch = traces[1].model_copy(
        update={"points": tuple((a, 600 + 12 * math.sin(a / 400)) for a in x.tolist())}
    )
    found = solve(_with(35), Recipe(readings=(traces[0], arch, traces[2])))
    assert ("1",) in [note.readings for note in found.notes if note.code == "trace_stays_bent"]


def test_the_lean_of_a_sea_horizon_is_known_to_its_dip() -> None:
    """1.76 minutes times the root of the eye's height in metres (nautical almanacs, from memory):
    0.05 degrees at 3 m. It was stated ten times too wide.
    """
    recipe = Recipe(readings=(line("horizon", 100, 800, 2900, 800, id="a"),))
    sigma = solve(_with(35), recipe).stance.lean.sigma_deg
    assert sigma == pytest.approx(1.76 / 60 * math.sqrt(3), abs=0.02)


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


@pytest.mark.parametrize(
    "kinds",
    [("plumb", "plumb"), ("plumb", "plumb", "level")],
    ids=["uprights", "uprights-and-a-level"],
)
def test_what_stays_does_not_turn_the_picture_where_it_is_not_believed(
    kinds: tuple[str, ...],
) -> None:
    """Lean and swing left in, one line wrong by 1.5 to 4 degrees: the roll was off by 5 to 6
    degrees at the median where it lay outside all lines. Seeds of no other test.
    """
    chance = np.random.default_rng(417)
    before, now, stated = [], [], []
    for _ in range(120):
        focal, stance = float(chance.uniform(18, 85)), usual_stance(chance)
        first, *others = readings_of(chance, stance, focal, *kinds)
        readings = (_turned(first, chance), *others)
        photo = PhotoFacts(width=W, height=H, focal35_mm=focal)
        left = LeaveIn(lean=True, swing=True)
        found = solve(photo, Recipe(readings=readings, leave_in=left))
        by_all = Recipe(readings=readings, leave_in=left.changed(turn_the_roll=True))
        old, new = (one.stance.roll for one in (solve(photo, by_all), found))
        if old.measured_deg == new.measured_deg:
            continue
        assert any(note.code == "roll_outside_readings" for note in found.notes)
        before.append(abs((old.measured_deg or 0) - stance[0]))
        now.append(abs((new.measured_deg or 0) - stance[0]))
        stated.append(now[-1] <= 1.96 * (new.sigma_deg or 0))
    assert len(now) >= 30
    assert np.median(before) > 4
    assert np.median(now) < 2
    # As sure as both rolls allow.
    assert np.mean(stated) > 0.9


def _turned(reading: Reading, chance: np.random.Generator) -> Reading:
    """A line that is 1.5 to 4 degrees off, either way."""
    (x0, y0), (x1, y1) = reading.points
    off = math.radians(chance.choice([-1, 1]) * chance.uniform(1.5, 4.0))
    c, s = math.cos(off), math.sin(off)
    dx, dy = x1 - x0, y1 - y0
    end = (x0 + dx * c - dy * s, y0 + dx * s + dy * c)
    return reading.model_copy(update={"points": ((x0, y0), end)})
