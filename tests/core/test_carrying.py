"""Carrying over: the same geometry to the last bit for one place of the tripod, and what does not
fit left out with the reason.

That bracketed exposures and series from a tripod are levelled alike is common practice, no
published source.
"""

from collections.abc import Mapping
from typing import NamedTuple

import pytest

from sequor.core.advance import advance
from sequor.core.edits import CarryOver
from sequor.core.edits.carrying import PARTS, Misfit, Part
from sequor.core.lens_choice import LensChoice
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Aim, Box, Ease, FillChoice, FrameChoice, Hold, Reading, Recipe, Trim
from sequor.core.solve import solve
from tests.conftest import line

PHOTO = PhotoFacts(width=3000, height=2000, focal35_mm=28)
TRACE = Reading(
    id="t",
    kind="trace",
    points=tuple((200.0 + 260 * n, 1900 + 0.6 * (n - 5) ** 2) for n in range(11)),
    serves_as="level",
)
SOURCE = Recipe(
    readings=(
        line("plumb", 400, 100, 430, 1900, id="p"),
        TRACE,
        line("plumb", 2600, 100, 2560, 1900, id="q"),
        line("level", 100, 700, 2900, 640, id="l"),
    ),
    trim=Trim(roll_deg=0.2),
    ease=Ease(lean=0.94, swing=0.94),
    lens=LensChoice(source="traces"),
    frame=FrameChoice(ratio="5:4", keep=Box(left=700, top=500, right=900, bottom=900)),
    fill=FillChoice(allowance=0.3),
)


Of = tuple[PhotoFacts, Recipe]


class Carried(NamedTuple):
    recipe: Recipe
    misfits: Mapping[Part, Misfit]


def carried(parts: tuple[Part, ...], source: Of, target: Of) -> Carried:
    """What becomes of a recipe, and which parts do not fit."""
    edit = CarryOver(parts=parts, photo=source[0], recipe=source[1])
    return Carried(advance(*target, (edit,)).recipe, edit.misfits(*target))


def test_one_place_of_the_tripod_has_one_geometry_to_the_last_bit() -> None:
    own = Recipe(
        readings=(line("level", 10, 20, 900, 60, id="l"), TRACE.model_copy(update={"id": "p"})),
        hold=Hold(lean_deg=1),
        frame=FrameChoice(ratio="1:1"),
    )
    done = carried(PARTS, (PHOTO, SOURCE), (PHOTO, own))
    assert dict(done.misfits) == {}
    ours, theirs = solve(PHOTO, done.recipe), solve(PHOTO, SOURCE)
    assert ours.homography == theirs.homography
    assert ours.lens == theirs.lens
    assert (ours.frame, ours.outline) == (theirs.frame, theirs.outline)


def test_without_the_lens_a_stance_keeps_the_own_one() -> None:
    own = Recipe(lens=LensChoice(source="hand", k1=-0.05))
    done = carried(("stance",), (PHOTO, SOURCE), (PHOTO, own))
    assert done.recipe.lens == own.lens
    assert [reading.kind for reading in done.recipe.readings] == ["plumb", "plumb", "level"]
    assert done.recipe.frame == own.frame


def test_the_lens_alone_brings_traces_that_say_nothing_of_the_stance() -> None:
    own = Recipe(readings=(line("level", 10, 20, 900, 60, id="t"),))
    done = carried(("lens",), (PHOTO, SOURCE), (PHOTO, own))
    (level, trace) = done.recipe.readings
    assert (level.id, trace.kind, trace.serves_as) == ("t", "trace", None)
    assert trace.id != "t"
    assert solve(PHOTO, done.recipe).lens.polynomial == solve(PHOTO, SOURCE).lens.polynomial


@pytest.mark.parametrize(
    ("photo", "misfits"),
    [
        (PhotoFacts(width=2000, height=3000, focal35_mm=28), {"lens": "size", "stance": "size"}),
        (PhotoFacts(width=3000, height=2000, focal35_mm=35), {"lens": "focal", "stance": "focal"}),
        (PhotoFacts(width=3000, height=2000), {"lens": "focal", "stance": "focal"}),
        (PhotoFacts(width=1500, height=1000, focal35_mm=28), {"lens": "size", "stance": "size"}),
    ],
)
def test_another_camera_takes_neither_lens_nor_stance(
    photo: PhotoFacts, misfits: dict[str, str]
) -> None:
    before = Recipe()
    done = carried(("lens", "stance"), (PHOTO, SOURCE), (photo, before))
    assert dict(done.misfits) == misfits
    assert done.recipe == before


def test_a_lens_by_coefficients_fits_a_smaller_file_of_the_same_picture() -> None:
    source = Recipe(lens=LensChoice(source="hand", k1=-0.1))
    small = PhotoFacts(width=1500, height=1000, focal35_mm=28)
    done = carried(("lens",), (PHOTO, source), (small, Recipe()))
    assert (dict(done.misfits), done.recipe.lens.k1) == ({}, -0.1)


def test_an_upright_picture_takes_the_shape_upright_and_no_place_outside() -> None:
    upright = PhotoFacts(width=600, height=900)
    done = carried(("shape", "place"), (PHOTO, SOURCE), (upright, Recipe()))
    assert done.recipe.frame.ratio == "4:5"
    assert dict(done.misfits) == {"place": "outside"}
    between = Recipe(frame=FrameChoice(aim=Aim(between=("p", "q"))))
    done = carried(("place",), (PHOTO, between), (PHOTO, Recipe()))
    assert dict(done.misfits) == {"place": "readings"}
