"""The demo pictures measured as a photographer measures them: true edges, drawn roughly, fitted."""

import json
from functools import cache

import numpy as np
import pytest

from sequor.core.fit import fit_edge, fitted
from sequor.core.recipe import PhotoFacts, Reading, Recipe
from sequor.core.resample import Pixels
from sequor.core.solve import solve
from sequor.pictures.decode import decode
from tests.conftest import ROOT

DEMO = ROOT / "demo"
TRUTH = json.loads((DEMO / "truth.json").read_text())
# Pictures that are rolled and nothing else: what one roll can set right.
ROLLED = [
    name
    for name, picture in TRUTH.items()
    if not (picture["camera"]["lean_deg"] or picture["camera"]["swing_deg"] or picture["camera"]["k1"])
]


@cache
def pixels_of(name: str) -> Pixels:
    return decode(DEMO / "pictures" / name).pixels


def level_and_plumb(name: str) -> list[dict]:
    """The true edges, without one that perspective tilts (it runs away from the camera)."""
    return [edge for edge in TRUTH[name]["edges"] if edge["kind"] == "plumb" or edge["world_m"][0][2] == edge["world_m"][1][2]]


@pytest.mark.parametrize("name", ROLLED)
def test_true_edges_give_the_roll(name: str) -> None:
    photo = PhotoFacts(width=TRUTH[name]["width"], height=TRUTH[name]["height"])
    readings = tuple(
        Reading(id=str(i), kind=edge["kind"], points=edge["points"], sigma_px=0.5) for i, edge in enumerate(level_and_plumb(name))
    )
    stance = solve(photo, Recipe(readings=readings)).stance
    assert stance.roll_deg == pytest.approx(TRUTH[name]["camera"]["roll_deg"], abs=0.05)


@pytest.mark.parametrize("name", ROLLED)
def test_rough_lines_fitted_to_the_edges_give_the_roll(name: str) -> None:
    random = np.random.default_rng(11)
    photo = PhotoFacts(width=TRUTH[name]["width"], height=TRUTH[name]["height"])
    readings = []
    for i, edge in enumerate(level_and_plumb(name)):
        a, b = np.array(edge["points"])
        if np.hypot(*(b - a)) < 200:
            continue
        across = np.array([-(b - a)[1], (b - a)[0]]) / np.hypot(*(b - a))
        ends = [tuple(map(float, point + across * random.uniform(-3, 3))) for point in (a, b)]
        reading = fitted(Reading(id=str(i), kind=edge["kind"], points=tuple(ends)), pixels_of(name))
        if reading:
            readings.append(reading)
    assert len(readings) >= 2
    stance = solve(photo, Recipe(readings=tuple(readings))).stance
    assert stance.roll_deg == pytest.approx(TRUTH[name]["camera"]["roll_deg"], abs=0.05)


def test_a_line_in_the_open_sky_is_not_fitted() -> None:
    name = "mill-at-sixmile.jpg"
    width = TRUTH[name]["width"]
    assert fit_edge(pixels_of(name), ((width * 0.72, 160.0), (width * 0.95, 240.0))) is None
