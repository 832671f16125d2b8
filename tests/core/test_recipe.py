"""Recipes of older versions still open, and give what they gave."""

import json
from pathlib import Path

import numpy as np
import pytest
from pydantic import ValidationError

from sequor.core.advance import advance
from sequor.core.edits import BendCorners, TurnBy
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import FillCandidate, Recipe
from sequor.core.recipe_versions import CURRENT
from sequor.core.report.report import report_of
from sequor.core.solve import solve

RECORDED = sorted((Path(__file__).parent / "recipes_v1").glob("*.json"))
"""Recipes of version 1 with the solutions that the program of that time gave."""


@pytest.mark.parametrize("file", RECORDED, ids=lambda file: file.stem)
def test_a_recipe_of_version_1_gives_the_solution_that_was_recorded(file: Path) -> None:
    kept = json.loads(file.read_text())
    photo, recipe = (
        PhotoFacts.model_validate(kept["photo"]),
        Recipe.model_validate(kept["recipe"]),
    )
    assert recipe.version == CURRENT
    found = solve(photo, recipe).model_dump()
    recorded = kept["solved"]
    assert recorded.keys() >= {"homography", "frame", "kept_fraction"}
    # Another descent ends some 1e-11 radians away where readings contradict each other a little.
    np.testing.assert_allclose(found["homography"], recorded["homography"], rtol=1e-9, atol=1e-9)
    assert found["frame"] == pytest.approx(recorded["frame"], abs=1e-9)
    assert found["kept_fraction"] == pytest.approx(recorded["kept_fraction"], abs=1e-12)
    # What is written now is of the new version, and says the same.
    assert Recipe.model_validate_json(recipe.model_dump_json()) == recipe


def test_seeds_of_version_1_are_the_candidates_that_they_stood_for() -> None:
    # Odd seeds were sharp, even ones calm: 1 to 4 are sharp 1, calm 1, sharp 2, calm 2.
    old = {"version": 1, "corners": {"seeds": [1, 2, 3, 4]}}
    assert Recipe.model_validate(old).fill.candidates == (
        FillCandidate(style="sharp", draw=1),
        FillCandidate(style="calm", draw=1),
        FillCandidate(style="sharp", draw=2),
        FillCandidate(style="calm", draw=2),
    )


@pytest.mark.parametrize(
    "bad",
    [
        {"version": CURRENT + 1},
        {"version": 1, "corners": {"seeds": ["one"] * 4}},
        {"version": 2, "corners": {"allowance": 1}},
        {"version": 2, "bow": {"k1": 0.1}},
        {"readings": [{"id": "a", "kind": "level", "points": [[0, 0], [9, 9]]}] * 2},
        [],
    ],
)
def test_what_is_no_recipe_is_refused(bad: object) -> None:
    with pytest.raises(ValidationError):
        Recipe.model_validate(bad)


SOLVED = json.loads((Path(__file__).parent / "recorded_solutions.json").read_text())
"""Drawn recipes with what the program of 29 November 2026 made of them, all of version 5; they are
only added to."""


def test_an_older_picture_as_shot_is_as_shot() -> None:
    """Of what older programs did not know nothing is said to have been decided."""
    assert Recipe.model_validate({"version": 5}) == Recipe()
    ends = [[100, 500], [1900, 520]]
    measured = Recipe.model_validate(
        {"version": 5, "readings": [{"id": "a", "kind": "level", "points": ends}]}
    )
    assert not measured.frame.foot_first
    assert measured.leave_in.turn_the_roll
    assert not measured.framed
    photo = PhotoFacts(width=2000, height=1000)
    assert not report_of(photo, measured, solve(photo, measured)).steps.frame.done


def test_what_was_bent_before_stays_as_it_was_until_it_is_bent_anew() -> None:
    photo = PhotoFacts(width=600, height=400, focal35_mm=28)
    old = Recipe.model_validate({"version": 7, "bend": {"corners": 1.0, "edges": []}})
    assert not old.bend.persistent
    assert Recipe.model_validate({"version": 7, "bend": {"edges": []}}).bend.persistent
    turned = advance(photo, old, (TurnBy(axis="roll", deg=1.0),)).recipe
    assert not turned.bend.persistent
    assert advance(photo, turned, (BendCorners(share=0.9),)).recipe.bend.persistent


_RARER = "level_runs_away"


@pytest.mark.parametrize("number", range(len(SOLVED)))
def test_a_recipe_gives_the_solution_that_was_recorded(number: int) -> None:
    kept = SOLVED[number]
    photo = PhotoFacts.model_validate(kept["photo"])
    solution = solve(photo, Recipe.model_validate({"version": 5} | kept["recipe"]))
    found, recorded = solution.model_dump(mode="json"), kept["solution"]
    said, notes = recorded.pop("readings"), recorded.pop("notes")
    # Of a line that may run away is said less since: only where it is far below eye level.
    assert [note.code for note in solution.notes if note.code != _RARER] == [
        code for code in notes if code != _RARER
    ]
    readings = {one["id"]: one for one in found["readings"]}
    for one in said:
        assert one == pytest.approx({name: readings[one["id"]][name] for name in one}, abs=1e-9)
    for name, value in recorded.items():
        # The same arithmetic on another processor ends some 1e-11 away.
        np.testing.assert_allclose(_numbers(found[name]), _numbers(value), rtol=1e-9, atol=1e-9)


def _numbers(value: object) -> list[float]:
    """All numbers in a value, in order; what is none is not there."""
    if isinstance(value, dict):
        return [number for name in sorted(value) for number in _numbers(value[name])]
    if isinstance(value, list):
        return [number for one in value for number in _numbers(one)]
    return [float(value)] if isinstance(value, int | float) else []
