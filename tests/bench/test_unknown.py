"""What stated deviations hold where something is not known, and what one wrong reading does.

The sets are those of tests/core/test_unknown.py, with other seeds and more of them; no constant was
chosen on them.
"""

import math
from collections.abc import Callable

import numpy as np

from sequor.core.recipe import PhotoFacts, Reading, Recipe
from sequor.core.solve import solve
from tests.bench.targets import Measured, tell
from tests.core.test_unknown import AXES, DOUBTS, H, W, covered, readings_of, usual_stance

SETS = 600
Stance = tuple[float, float, float]
TWO_AND_TWO = ("plumb", "plumb", "level", "level")


def doubled(chance: np.random.Generator) -> Stance:
    roll, lean, swing = chance.normal(0, [2, 12, 16])
    return roll, lean, swing


def pointed_up(chance: np.random.Generator) -> Stance:
    lean = float(chance.uniform(12, 28) * chance.choice([-1, 1]))
    roll, swing = chance.normal(0, [1.5, 6])
    return roll, lean, swing


def coverage(
    what: str,
    kinds: tuple[str, ...],
    stances: Callable[[np.random.Generator], Stance],
    known: bool = True,
) -> None:
    """Print how often the truth lies within 1.96 deviations, for every axis that is told."""
    chance = np.random.default_rng(41)
    counts: dict[str, list[bool]] = {axis: [] for axis in AXES}
    for _ in range(SETS):
        focal, stance = float(chance.uniform(18, 85)), stances(chance)
        readings = readings_of(chance, stance, focal, *kinds)
        photo = PhotoFacts(width=W, height=H, focal35_mm=focal if known else None)
        for axis, inside in covered(solve(photo, Recipe(readings=readings)), stance).items():
            counts[axis].append(inside)
    for axis, inside in counts.items():
        if len(inside) > SETS / 10:
            share = 100 * float(np.mean(inside))
            tell(Measured(f"{what}, {axis} ({len(inside)} told)", share, 93, "%", at_least=True))


def test_coverage() -> None:
    coverage("2 + 2, focal length known", TWO_AND_TWO, usual_stance)
    coverage("2 + 2, unknown", TWO_AND_TWO, usual_stance, known=False)
    coverage("2 + 2, known, stances doubled", TWO_AND_TWO, doubled)
    coverage("one plumb, pointed up", ("plumb",), pointed_up)
    coverage("one plumb, any", ("plumb",), usual_stance)
    coverage("one plumb and one level, pointed up", ("plumb", "level"), pointed_up)
    coverage("one level", ("level",), usual_stance)
    coverage("two levels", ("level", "level"), usual_stance)


def turned(reading: Reading, deg: float) -> Reading:
    """The same reading turned about its middle."""
    ends = np.array(reading.points)
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    about = ends.mean(axis=0)
    moved = about + (ends - about) @ np.array([[c, s], [-s, c]])
    points = np.clip(moved, 1, [W - 1, H - 1]).tolist()
    return reading.model_copy(update={"points": tuple(map(tuple, points))})


def one_wrong(kinds: tuple[str, ...]) -> dict[str, float]:
    """Shares, in percent, of what comes of one reading that is wrong by 1.5 to 6 degrees."""
    chance = np.random.default_rng(43)
    found = dict.fromkeys(("named", "accused", "silent", "absurd"), 0)
    for _ in range(SETS):
        focal, stance = float(chance.choice([24, 28, 35, 50])), usual_stance(chance)
        readings = list(readings_of(chance, stance, focal, *kinds))
        wrong = int(chance.integers(len(readings)))
        off = float(chance.uniform(1.5, 6) * chance.choice([-1, 1]))
        readings[wrong] = turned(readings[wrong], off)
        photo = PhotoFacts(width=W, height=H, focal35_mm=focal)
        solution = solve(photo, Recipe(readings=tuple(readings)))
        doubts = [note for note in solution.notes if note.code in DOUBTS]
        alone = [note.readings[0] for note in doubts if note.code == "odd_one_out"]
        found["named"] += alone == [str(wrong)]
        found["accused"] += bool(alone) and alone != [str(wrong)]
        told = [solution.stance.axis(axis) for axis in AXES]  # type: ignore[arg-type]
        far = any(
            one.measured_deg is not None
            and one.sigma_deg is not None
            and abs(one.measured_deg - truth) > max(1.0, 4 * one.sigma_deg)
            for one, truth in zip(told, stance, strict=True)
        )
        found["silent"] += far and not doubts
        applied = [abs(one.applied_deg) for one in told]
        found["absurd"] += applied[0] > 25 or max(applied[1:]) > 40
    return {name: 100 * count / SETS for name, count in found.items()}


def test_one_wrong_reading() -> None:
    six = one_wrong(("plumb", "level") * 3)
    tell(Measured("one wrong of 3 + 3: named", six["named"], 85, "%", at_least=True))
    tell(Measured("one wrong of 3 + 3: a right one accused alone", six["accused"], 2, "%"))
    four = one_wrong(TWO_AND_TWO)
    tell(Measured("one wrong of 2 + 2: silent and far off", four["silent"], 3, "%"))
    tell(Measured("one wrong of 2 + 2: absurd", four["absurd"], 0, "%"))
