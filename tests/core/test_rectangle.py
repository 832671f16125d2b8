"""Rectangles of four linked readings."""

import pytest

from sequor.core.errors import UnusableInput
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.core.readings.rectangle import joined, rectangle
from sequor.core.recipe import Recipe
from sequor.core.solve import solve

PHOTO = PhotoFacts(width=6000, height=4000)


def test_a_rectangle_is_two_levels_and_two_plumbs() -> None:
    corners = ((4000.0, 3000.0), (1000.0, 900.0), (4100.0, 1000.0), (1050.0, 3100.0))
    sides = rectangle(corners, "w")
    assert [side.kind for side in sides] == ["level", "plumb", "level", "plumb"]
    assert sides[0].points == ((1000, 900), (4100, 1000))
    assert {side.group for side in sides} == {"w"}
    assert all(
        a.points[1] == b.points[0] for a, b in zip(sides, (*sides[1:], sides[0]), strict=True)
    )
    assert solve(PHOTO, Recipe(readings=sides)).stance.lean.measured_deg is not None
    moved = sides[0].model_copy(update={"points": ((1000, 890), (4100, 990))})
    again = joined((moved, *sides[1:]), Distortion.of(PHOTO))
    assert all(
        a.points[1] == pytest.approx(b.points[0])
        for a, b in zip(again, (*again[1:], again[0]), strict=True)
    )
    # The lines are the same ones, only their ends have moved along them.
    for before, after in zip((moved, *sides[1:]), again, strict=True):
        (ax, ay), (bx, by) = before.points
        for x, y in after.points:
            assert (bx - ax) * (y - ay) - (by - ay) * (x - ax) == pytest.approx(0, abs=1e-4)
    for bad in (
        ((0, 0), (10, 10), (20, 20), (30, 30)),
        ((0, 0), (100, 0), (100, 100), (50, 10)),
        ((5, 5), (5, 5), (90, 5), (5, 90)),
    ):
        with pytest.raises(UnusableInput, match="four corners"):
            rectangle(bad, "w")
