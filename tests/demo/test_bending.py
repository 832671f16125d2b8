"""Lines of the demo pictures that no turn of the camera sets right come true by bending: a bowed
interior without any lens model, and a house that really is crooked beside a true row.
"""

import json
import math

import numpy as np
import pytest

from sequor.core.advance import advance
from sequor.core.edits import BendLines
from sequor.core.lens_choice import LensChoice
from sequor.core.photo import PhotoFacts
from sequor.core.propose.straight import straight_edges
from sequor.core.recipe import Hold, Reading, Recipe
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.pictures.decode import decode
from tests.conftest import ROOT
from tests.edited import OfPixels, apply

DEMO = ROOT / "demo"
TRUTH = json.loads((DEMO / "truth.json").read_text())


def photo_of(name: str) -> PhotoFacts:
    truth = TRUTH[name]
    focal35 = truth["camera"]["focal35_mm"]
    return PhotoFacts(width=truth["width"], height=truth["height"], focal35_mm=focal35)


def left_deg_of(solution: Solution) -> list[float]:
    return [abs(one.left_deg) for one in solution.readings if one.left_deg is not None]


def test_every_beam_and_column_of_the_glasshouse_comes_true_with_its_bow_left_in() -> None:
    name = "glasshouse.jpg"
    photo = photo_of(name)
    readings = tuple(
        Reading(
            id=str(n),
            kind="trace",
            serves_as=edge["kind"],
            points=[(min(max(x, 0), photo.width), min(max(y, 0), photo.height))
                    for x, y in edge["trace"]],
            sigma_px=0.3,
        )
        for n, edge in enumerate(TRUTH[name]["edges"])
    )  # fmt: skip
    bowed = Recipe(readings=readings, lens=LensChoice(source="none"))
    turned = solve(photo, bowed)
    # No turn does it: what is left is seen at a glance.
    assert max(one.sag_px or 0 for one in turned.readings) > 20
    assert max(left_deg_of(turned)) > 0.15
    pixels = decode(DEMO / "pictures" / name).pixels
    lookups = OfPixels(photo, pixels, straight_edges(pixels))
    bending = advance(photo, bowed, (BendLines(share=1),), lookups).recipe
    found = solve(photo, bending)
    assert found.bend is not None
    assert found.bend.share == 1
    assert max(left_deg_of(found)) < 0.02
    assert max(one.sag_px or 0 for one in found.readings) < 0.3
    assert found.bend.min_jacobian > 1 / 1.6
    # Between the points that were placed as well: the scene's own edges, through its own camera.
    for edge in TRUTH[name]["edges"]:
        trace = np.clip(np.array(edge["trace"]), 0, [photo.width, photo.height])
        dense = np.column_stack(
            [np.interp(np.linspace(0, 24, 200), np.arange(25), axis) for axis in trace.T]
        )
        bent = found.warp.to_corrected(dense)
        axis = 1 if edge["kind"] == "level" else 0
        assert np.ptp(bent[:, axis]) < 1.5


def test_a_crooked_house_stands_upright_beside_a_true_one() -> None:
    name = "the-old-house.tif"
    photo, truth = photo_of(name), TRUTH[name]
    lines = [(edge["kind"], edge["points"]) for edge in (*truth["edges"], *truth["untrue"])]
    readings = tuple(
        Reading(id=str(n), kind=kind, points=points, sigma_px=0.3)
        for n, (kind, points) in enumerate(lines)
    )
    stance = truth["camera"]
    held = Hold(
        roll_deg=stance["roll_deg"], lean_deg=stance["lean_deg"], swing_deg=stance["swing_deg"]
    )
    recipe = Recipe(readings=readings, hold=held)
    crooked = [str(n) for n in range(len(truth["edges"]), len(readings))]
    turned = {one.id: one.residual_deg for one in solve(photo, recipe).readings}
    assert all(abs(turned[one]) > 2.5 for one in crooked)
    found = solve(photo, apply(BendLines(share=1), recipe, photo))
    left = {one.id: one.left_deg for one in found.readings}
    assert found.bend is not None
    assert found.bend.share == 1
    assert all(abs(deg or 0) < 0.02 for deg in left.values())
    # Half of it is half of the way, for every line.
    half = solve(photo, apply(BendLines(share=0.5), recipe, photo))
    for one in half.readings:
        assert one.residual_deg == pytest.approx(turned[one.id] / 2, abs=0.05)
    # What is told to stay stays, and the row beside it does not lean after the house.
    stays = recipe.model_copy(
        update={
            "readings": tuple(
                one.model_copy(update={"becomes": "stays"}) if one.id in crooked else one
                for one in readings
            )
        }
    )
    kept = solve(photo, apply(BendLines(share=1), stays, photo))
    for one in kept.readings:
        wanted = turned[one.id] if one.id in crooked else 0.0
        assert one.residual_deg == pytest.approx(wanted, abs=0.02)
    assert math.isfinite(kept.kept_fraction)
