"""The line that is offered next: that it would tell most, by solving with it."""

import itertools
import math

import numpy as np
import pytest

from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Reading, Recipe
from sequor.core.report.report import report_of
from sequor.core.solve import solve
from tests.conftest import line
from tests.core.test_unknown import AXES, H, W, far_off, readings_of, wrong

PHOTO = PhotoFacts(width=W, height=H, focal35_mm=28)
STANCE = (1.0, 4.0, 9.0)


def drawn(next_line, **more: object) -> Reading:
    (ax, ay), (bx, by) = next_line.points
    return line(next_line.kind, ax, ay, bx, by, id="next", **more)


def sigmas(*readings: Reading) -> np.ndarray:
    stance = solve(PHOTO, Recipe(readings=readings)).stance
    return np.array([stance.axis(axis).sigma_deg or math.inf for axis in AXES])  # type: ignore


@pytest.mark.parametrize("kind", ["plumb", "level"])
def test_after_the_line_the_axis_is_as_sure_as_was_said(kind: str) -> None:
    (only,) = readings_of(np.random.default_rng(4), STANCE, 28, kind)
    offered = solve(PHOTO, Recipe(readings=(only,))).next_line
    assert offered is not None
    place = AXES.index(offered.axis)
    before, after = sigmas(only)[place], sigmas(only, drawn(offered))[place]
    assert offered.from_deg == pytest.approx(before)
    assert after == pytest.approx(offered.to_deg, rel=0.5)
    assert after < before / 3


def test_no_other_place_tells_much_more() -> None:
    """Every line of a grid that runs as the stance has it, solved with, one by one."""
    (only,) = readings_of(np.random.default_rng(5), STANCE, 28, "plumb")
    solution = solve(PHOTO, Recipe(readings=(only,)))
    offered = sigmas(only, drawn(solution.next_line))[0]
    others = []
    for x, y in itertools.product((300, 1000, 1500, 2000, 2700), (500, 1000, 1500)):
        others.append(sigmas(only, line("plumb", x, y - 350, x, y + 350, id="o"))[0])
        others.append(sigmas(only, line("level", x - 280, y, x + 280, y, id="o"))[0])
    assert offered < 1.3 * min(others)


def test_where_all_is_sure_none_is_offered() -> None:
    readings = readings_of(np.random.default_rng(6), STANCE, 28, *("plumb", "level") * 3)
    solution = solve(PHOTO, Recipe(readings=readings))
    assert solution.next_line is None
    assert report_of(PHOTO, Recipe(readings=readings), solution).next_line == ""
    assert solve(PHOTO, Recipe()).next_line is None


def test_where_one_may_be_wrong_the_line_tells_which() -> None:
    chance, named, tried, before, after = np.random.default_rng(11), 0, 0, 0, 0
    for _ in range(60):
        readings = list(readings_of(chance, STANCE, 28, "plumb", "plumb", "level", "level"))
        readings[1] = wrong(readings[1], -3.0)
        solution = solve(PHOTO, Recipe(readings=tuple(readings)))
        said = {note.code for note in solution.notes}
        if solution.next_line is None or not said & {"one_may_be_wrong", "contradiction"}:
            continue
        assert solution.next_line.axis is None
        words = report_of(PHOTO, Recipe(readings=tuple(readings)), solution).next_line
        assert words.endswith("would tell which of them is wrong.")
        # The true line near there, at its own tilt.
        (ax, ay), (bx, by) = solution.next_line.points
        true = through((ax + bx) / 2, (ay + by) / 2, solution.next_line.kind)
        found = solve(PHOTO, Recipe(readings=(*readings, true)))
        alone = [note.readings for note in found.notes if note.code == "odd_one_out"]
        tried, named = tried + 1, named + (alone == [("1",)])
        before, after = before + far_off(solution, STANCE), after + far_off(found, STANCE)
    assert tried >= 30
    assert named >= 0.6 * tried
    assert before >= 3 * after


def through(x: float, y: float, kind: str) -> Reading:
    """The line through a place that is level or plumb in reality."""
    chance = np.random.default_rng(0)
    while True:
        (one,) = readings_of(chance, STANCE, 28, kind)
        middle = np.array(one.points).mean(axis=0)
        if np.hypot(*(middle - [x, y])) < 120:
            return one.changed(id="true")
