"""The mixture that does the least harm beside the plain ways, and how long it takes to find."""

import time

import pytest

from sequor.core.least_harm import HarmWeights, Mixture, halvings_enough, least_harm
from sequor.core.propose.straight import straight_edges
from sequor.core.recipe import BendChoice, Recipe, Trim
from sequor.pictures.decode import decode
from sequor.pictures.proxy import halved
from tests.bench.targets import Measured, hold_to
from tests.conftest import ROOT


@pytest.mark.parametrize(
    ("name", "deg"),
    [
        ("aqueduct-at-low-water.jpg", 3.0),
        ("mill-at-sixmile.jpg", -5.0),
        ("ridge-hut.jpg", 2.0),
        ("lock-keepers-row.jpg", 6.0),
    ],
)
def test_beside_the_plain_ways(name: str, deg: float) -> None:
    picture = decode(ROOT / "demo" / "pictures" / name)
    photo, pixels = picture.facts.photo, picture.pixels
    edges = straight_edges(pixels)
    recipe = Recipe(trim=Trim(roll_deg=deg), bend=BendChoice(edges=edges))
    halvings = halvings_enough(photo)
    for _ in range(halvings):
        pixels = halved(pixels)
    start = time.perf_counter()
    found = least_harm(pixels, halvings, photo, recipe, HarmWeights())
    took = time.perf_counter() - start

    def said(mixture: Mixture) -> str:
        return (
            f"{mixture.harm.total:.1f} (kept {mixture.kept_fraction:.3f}, made up "
            f"{mixture.fill_fraction:.3f}, bent {mixture.bent_share:.2f}, "
            f"doubt {mixture.doubt:.2f})"
        )

    print(f"\n{name}, {deg:g} degrees: {said(found.best)} in {took:.1f} s")
    for way, mixture in found.plain:
        print(f"  {way} {said(mixture)}")
    plain = min(mixture.harm.total for _, mixture in found.plain)
    hold_to(Measured("least harm in that of the best plain way", found.best.harm.total / plain, 1))
