"""A margin round the frame, as for a print that is wrapped about its panel: the picture goes on
where it reaches, and what it does not cover is filled.
"""

import numpy as np
import pytest
from pydantic import ValidationError

from sequor.core.corner_ways import corner_ways
from sequor.core.edits import ChoosePrintSize, ChooseRatio, GiveMargin
from sequor.core.errors import UnusableInput
from sequor.core.fill.apply import render_filled
from sequor.core.photo import PhotoFacts
from sequor.core.print_size import PrintSize
from sequor.core.recipe import BendChoice, FillChoice, FrameChoice, Placed, Recipe, Trim
from sequor.core.render.rendering import coverage, render
from sequor.core.render.size import OutputSize, most_grown, output_of
from sequor.core.report.report import report_of
from sequor.core.solution import Solution
from sequor.core.solve import solve
from tests.edited import apply

PHOTO = PhotoFacts(width=600, height=400, focal35_mm=28)
PIXELS = np.random.default_rng(3).integers(0, 256, (400, 600, 3), dtype=np.uint8)
LEVEL = Recipe(trim=Trim(roll_deg=0))


def solved(recipe: Recipe, share: float) -> Solution:
    return solve(PHOTO, apply(GiveMargin(margin=share), recipe, PHOTO))


@pytest.mark.parametrize("ratio", ["original", "5:4", "free"])
@pytest.mark.parametrize("roll_deg", [0.0, 2.4])
def test_the_face_is_the_frame_without_it(ratio: str, roll_deg: float) -> None:
    recipe = apply(ChooseRatio(ratio=ratio), Recipe(trim=Trim(roll_deg=roll_deg)), PHOTO)
    plain, wide = solve(PHOTO, recipe), solved(recipe, 0.1)
    assert wide.face == plain.frame == plain.face
    by = round(0.1 * min(plain.frame.width, plain.frame.height))
    assert (wide.frame.x, wide.frame.y) == (plain.frame.x - by, plain.frame.y - by)
    assert (wide.frame.width, wide.frame.height) == (
        plain.frame.width + 2 * by,
        plain.frame.height + 2 * by,
    )
    assert wide.best
    assert wide.cost.keep_all_fraction == plain.cost.keep_all_fraction
    # The picture goes on in the margin where it reaches.
    assert wide.kept_fraction >= plain.kept_fraction


def test_its_pixels_are_the_pictures_own_where_it_reaches() -> None:
    """A level picture and a frame in its middle: the file is a slice of the picture itself."""
    placed = Placed(at=(300, 200), width=300, height=200)
    recipe = Recipe(frame=FrameChoice(placed=placed, margin=0.25), fill=FillChoice(method="mirror"))
    solution = solve(PHOTO, recipe)
    made = render_filled(PIXELS, solution, recipe)
    assert solution.cost.fill_fraction == 0
    np.testing.assert_array_equal(made.pixels, PIXELS[50:350, 100:500])


def test_beyond_the_picture_it_is_mirrored_as_for_a_wrap() -> None:
    """A mirrored wrap is common practice, no published source; `numpy.pad` makes the same."""
    recipe = Recipe(frame=FrameChoice(margin=0.1), fill=FillChoice(method="mirror"))
    solution = solve(PHOTO, recipe)
    smooth = np.repeat(np.repeat(PIXELS[:40, :60], 10, axis=0), 10, axis=1)
    made = render_filled(smooth, solution, recipe)
    wanted = np.pad(smooth, ((40, 40), (40, 40), (0, 0)), mode="symmetric")
    assert made.pixels.shape == wanted.shape
    assert made.empty_pixels == 0
    assert made.filled_share == pytest.approx(1 - 600 * 400 / (680 * 480))
    np.testing.assert_array_equal(made.pixels[40:-40, 40:-40], smooth)
    # Beside the corners, where two sides meet; at the seam it may be blended.
    away = np.abs(made.pixels.astype(int) - wanted).max(axis=2)
    assert np.mean(away[4:36, 50:-50] <= 2) > 0.95
    assert np.mean(away[50:-50, 4:36] <= 2) > 0.95


@pytest.mark.parametrize("method", ["patches", "mirror", "colour"])
def test_it_is_filled_all_round(method: str) -> None:
    recipe = Recipe(
        trim=Trim(roll_deg=1.5),
        frame=FrameChoice(margin=0.08),
        fill=FillChoice.model_validate({"method": method, "colour": "#102030"}),
    )
    solution = solve(PHOTO, recipe)
    assert 0 < solution.cost.fill_fraction < 0.35
    made = render_filled(PIXELS, solution, recipe)
    assert made.empty_pixels == 0
    empty = ~coverage(solution, (600, 400), (solution.frame.width, solution.frame.height))
    assert made.filled_share == pytest.approx(empty.mean(), abs=0.005)
    if method == "colour":
        assert (made.pixels[empty] == (0x10, 0x20, 0x30)).all()
    # The face is the same as without a margin.
    face = render(PIXELS, solve(PHOTO, Recipe(trim=Trim(roll_deg=1.5)))).pixels
    by = round(0.08 * min(solution.face.width, solution.face.height))
    np.testing.assert_array_equal(made.pixels[by:-by, by:-by], face)


def test_what_is_printed_round_the_face_is_as_fine_as_the_face() -> None:
    """60 x 40 cm and 4 cm all round at 300 pixels per inch are 68 x 48 cm: 8031 x 5669."""
    size = PrintSize(width=60, height=40, unit="cm", ppi=300)
    photo = PhotoFacts(width=6000, height=4000, focal35_mm=28)
    recipe = apply(ChoosePrintSize(size=size), LEVEL, photo)
    recipe = apply(GiveMargin(length=4), recipe, photo)
    assert recipe.frame.margin == pytest.approx(0.1)
    solution = solve(photo, recipe)
    output = output_of(solution, recipe.frame, OutputSize(kind="print", enlarge=True))
    assert (output.width, output.height) == (
        pytest.approx(68 / 2.54 * 300, abs=1),
        pytest.approx(48 / 2.54 * 300, abs=1),
    )
    assert output.ppi == 300
    assert solution.cost.print_scale == pytest.approx(60 / 2.54 * 300 / 6000, rel=1e-3)
    setting = report_of(photo, recipe, solution).shape.margin
    assert setting.words == "4 cm all round; 68 × 48 cm with it"
    # It is set as a length then, up to the half of 40 cm, and to a fifth of it by the slider.
    assert (setting.by, setting.unit, setting.value) == ("length", "cm", 4)
    assert (setting.usual, setting.most) == (8, 20)
    plain = recipe.changed(frame=recipe.frame.changed(print_size=None))
    setting = report_of(photo, plain, solve(photo, plain)).shape.margin
    assert (setting.by, setting.unit, setting.value) == ("share", "%", 10)
    assert setting.words == "10 % of the shorter side all round; 6800 × 4800 px with it"


@pytest.mark.parametrize("ratio", ["1:1", "3:2", "5:1"])
def test_a_frame_is_never_larger_than_its_memory_is_counted_for(ratio: str) -> None:
    recipe = apply(ChooseRatio(ratio=ratio), LEVEL, PHOTO)
    solution, choice = solved(recipe, 0.3), FrameChoice(margin=0.3)
    frame, face = solution.frame, solution.face
    times = frame.width * frame.height / (face.width * face.height)
    assert times <= most_grown(choice) * 1.01
    assert ratio != "1:1" or times == pytest.approx(most_grown(choice), rel=0.01)


@pytest.mark.parametrize(
    ("edit", "said"),
    [(GiveMargin(length=4), "needs a print size"), (GiveMargin(length=25), "20 cm is the most")],
    ids=["no print", "too long"],
)
def test_a_margin_that_cannot_be(edit: GiveMargin, said: str) -> None:
    recipe = LEVEL
    if "most" in said:
        size = PrintSize(width=60, height=40, unit="cm")
        recipe = apply(ChoosePrintSize(size=size), LEVEL, PHOTO)
    with pytest.raises(UnusableInput, match=said):
        apply(edit, recipe, PHOTO)
    # No margin needs no print, and one is given in one way.
    assert apply(GiveMargin(length=0), LEVEL, PHOTO).frame.margin == 0
    for given in ({}, {"margin": 0.1, "length": 1.0}):
        with pytest.raises(ValidationError):
            GiveMargin.model_validate(given)


def test_what_becomes_of_the_corners_is_compared_without_it() -> None:
    """Else cropping them would seem to lose nothing that the margin shows after all."""
    recipe = Recipe(trim=Trim(roll_deg=2), bend=BendChoice(edges=()))
    wrapped = apply(GiveMargin(margin=0.2), recipe, PHOTO)
    assert solve(PHOTO, wrapped).kept_fraction > 0.999
    assert corner_ways(PHOTO, wrapped) == corner_ways(PHOTO, recipe)
    assert corner_ways(PHOTO, wrapped)[0].kept_fraction < 0.95


@pytest.mark.parametrize("lean_deg", [-70.0, 45.0, 70.0])
def test_beyond_the_horizon_of_a_strong_lean_nothing_of_the_picture_appears(
    lean_deg: float,
) -> None:
    """There a homography takes places behind the camera into the picture; they are not seen."""
    recipe = Recipe(trim=Trim(lean_deg=lean_deg), frame=FrameChoice(margin=0.5))
    solution = solve(PHOTO, recipe)
    frame = solution.frame
    covered = coverage(solution, (600, 400), (frame.width, frame.height))
    y, x = np.mgrid[0 : frame.height, 0 : frame.width] + 0.5
    places = np.stack([x + frame.x, y + frame.y, np.ones_like(x)], axis=-1)
    back = np.linalg.inv(np.array(solution.homography))
    depth = places @ back[2]
    middle = np.array([solution.face.x + solution.face.width / 2, solution.face.y, 1.0])
    in_front = np.sign(depth) == np.sign(middle @ back[2])
    assert not covered[~in_front].any()
