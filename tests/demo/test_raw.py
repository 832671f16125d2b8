"""The demo's raw picture: developed, freed of the bow that its file states, it is its twin."""

import json

import numpy as np
import pytest

from sequor.core.advance import advance
from sequor.core.camera import Stance, apply_homography, homography
from sequor.core.edits import DrawReading, ReadCamera
from sequor.core.lens.chosen import distortion_of
from sequor.core.recipe import Recipe
from sequor.core.solve import solve
from sequor.pictures.decode import decode
from sequor.pictures.pose import pose_of
from tests.conftest import ROOT
from tests.edited import OfPixels

RAW = ROOT / "demo" / "pictures" / "ridge-hut-undeveloped.dng"
TRUTH = json.loads((ROOT / "demo" / "truth.json").read_text())["ridge-hut.jpg"]
NARROWER = 0.952
"""By which its lens is longer than that of its twin (demo/scenes/raw.py)."""


@pytest.fixture(scope="module")
def picture():
    return decode(RAW)


def places_in_raw(photo, points: list[list[float]]) -> np.ndarray:
    """Where places of the twin lie in the raw picture, by the lens that its file states."""
    small = np.array(points) * photo.width / TRUTH["width"]
    middle = np.array([photo.width, photo.height]) / 2
    straight = middle + (small - middle) / NARROWER
    return distortion_of(photo, Recipe())[0].distorted(straight)


def test_its_edges_are_read_as_those_of_its_twin(picture) -> None:
    """Lines along true edges, on a picture whose bow only its file tells, give the pose that the
    scene was seen from.
    """
    photo = picture.facts.photo
    edges = [e for e in TRUTH["edges"] if e["kind"] == "plumb" and "hut" in e["name"]]
    edges += [e for e in TRUTH["edges"] if e["name"] in ("eaves board", "ridge of the roof")]
    lookups = OfPixels(photo, picture.pixels)
    recipe = Recipe()
    for edge in edges:
        ends = places_in_raw(photo, edge["points"])
        drawn = DrawReading(
            id=edge["name"][:40],
            kind=edge["kind"],
            points=tuple(map(tuple, ends.tolist())),
            zoom=1.0,
            fit=True,
        )
        recipe = advance(photo, recipe, (drawn,), lookups).recipe
    assert sum(reading.fitted is not None for reading in recipe.readings) >= 3
    roll = solve(photo, recipe).stance.roll
    assert roll.as_shot_deg == pytest.approx(TRUTH["camera"]["roll_deg"], abs=0.1)
    assert solve(photo, recipe).lens.source == "file"


def test_its_camera_levels_it_where_nothing_else_does(picture) -> None:
    photo = picture.facts.photo.changed(pose=pose_of(RAW))
    solution = solve(photo, advance(photo, Recipe(), (ReadCamera(),)).recipe)
    off = solution.stance.roll.as_shot_deg - TRUTH["camera"]["roll_deg"]
    assert abs(off) < solution.stance.roll.sigma_deg
    # By its own words it is level then: the horizon that it states is.
    stance = Stance(np.radians(solution.stance.roll.applied_deg))
    (reading,) = advance(photo, Recipe(), (ReadCamera(),)).recipe.readings
    ends = apply_homography(homography(photo, stance), np.array(reading.points))
    assert ends[0, 1] == pytest.approx(ends[1, 1], abs=0.5)
