"""Sizes of files, against ISO 216, handbook values of prints, and Pillow's reducing filter on a
zone plate.
"""

import math

import numpy as np
import pytest
from PIL import Image

from sequor.core.errors import UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.print_size import PrintSize
from sequor.core.recipe import FrameChoice, Recipe, Trim
from sequor.core.render.rendering import render
from sequor.core.render.size import OutputSize, checked, output_of
from sequor.core.report.words import scale_words
from sequor.core.solve import solve
from tests.conftest import said_of

PHOTO = PhotoFacts(width=6000, height=4000)


@pytest.mark.parametrize(
    ("size", "expected"),
    [
        # ISO 216: A4 is 210 x 297 mm, A3 297 x 420 mm; at 300 ppi 2480 x 3508 and 3508 x 4961 px.
        (PrintSize(width=21, height=29.7, unit="cm", ppi=300), (2480, 3508)),
        (PrintSize(width=29.7, height=42, unit="cm", ppi=300), (3508, 4961)),
        # Common practice, no published source: the prints that labs name by inches.
        (PrintSize(width=6, height=4, ppi=300), (1800, 1200)),
        (PrintSize(width=10, height=8, ppi=300), (3000, 2400)),
        (PrintSize(width=7, height=5, ppi=240), (1680, 1200)),
    ],
)
def test_print_sizes_have_the_pixels_of_the_handbooks(
    size: PrintSize, expected: tuple[int, int]
) -> None:
    assert size.pixels == expected
    choice = FrameChoice(print_size=size)
    solution = solve(PHOTO, Recipe(trim=Trim(roll_deg=1.3), frame=choice))
    output = output_of(solution, choice, OutputSize(kind="print"))
    assert (output.width, output.height, output.ppi) == (*expected, size.ppi)
    assert solution.frame.width / solution.frame.height == pytest.approx(
        expected[0] / expected[1], abs=0.001
    )


def test_the_sheet_has_the_ratio_of_iso_216() -> None:
    # ISO 216: the sides of an A-series sheet are as 1 to the square root of 2, so that half a sheet
    # has the shape of the whole.
    frame = solve(PHOTO, Recipe(frame=FrameChoice(ratio="1.41421:1"))).frame
    assert frame.width / frame.height == pytest.approx(math.sqrt(2), abs=0.0005)
    assert frame.height / (frame.width / 2) == pytest.approx(frame.width / frame.height, abs=0.001)


def test_enlarging_is_said_and_refused_until_it_is_asked_for() -> None:
    size = PrintSize(width=60, height=40, unit="cm", ppi=300)
    choice = FrameChoice(print_size=size)
    solution = solve(PhotoFacts(width=3000, height=2000), Recipe(frame=choice))
    output = output_of(solution, choice, OutputSize(kind="print"))
    # 60 cm at 300 ppi are 7087 px, 2.36 times 3000.
    assert (output.width, output.enlarged) == (7087, True)
    assert scale_words(output.scale) == "the picture is enlarged to 236 %"
    photo = PhotoFacts(width=3000, height=2000)
    assert "enlarged to 236 %" in said_of(photo, Recipe(frame=choice)).cost.print
    with pytest.raises(UnusableInput, match="adds no detail"):
        checked(output, OutputSize(kind="print"))
    assert checked(output, OutputSize(kind="print", enlarge=True)) == output


def test_sizes_never_stretch_the_picture() -> None:
    solution = solve(PHOTO, Recipe())
    choice = FrameChoice()
    quarter = output_of(solution, choice, OutputSize(kind="pixels", width=1500, height=1000))
    assert scale_words(quarter.scale) == "the picture is reduced to 25 %"
    assert output_of(solution, choice, OutputSize(kind="long_edge", pixels=2048)).height == 1365
    with pytest.raises(UnusableInput, match="another shape"):
        output_of(solution, choice, OutputSize(kind="pixels", width=1000, height=1000))
    with pytest.raises(UnusableInput, match="no print size"):
        output_of(solution, choice, OutputSize(kind="print"))
    for incomplete in ({"kind": "long_edge"}, {"kind": "pixels", "width": 5}):
        with pytest.raises(ValueError, match="say"):
            OutputSize.model_validate(incomplete)


def test_print_sizes_that_cannot_be() -> None:
    for wrong in (
        {"width": 900, "height": 900, "ppi": 2400},
        {"width": 100, "height": 1},
        {"width": 0, "height": 4},
    ):
        with pytest.raises(ValueError, match=r"pixels|50 times|greater than 0"):
            PrintSize.model_validate(wrong)


def zone_plate(size: int) -> np.ndarray:
    """Rings that grow finer from the corner, to the finest the grid can hold at the far sides."""
    y, x = np.mgrid[0:size, 0:size] + 0.5
    return np.rint(127.5 + 127.5 * np.cos((x**2 + y**2) * math.pi / (2 * size))).astype(np.uint8)


@pytest.mark.parametrize("times", [1.6, 2.0, 3.7, 5.0])
def test_reducing_leaves_no_more_moire_than_pillow(times: float) -> None:
    size = 1600
    plate = zone_plate(size)
    small = round(size / times)
    ours = render(
        plate[:, :, None], solve(PhotoFacts(width=size, height=size), Recipe()), size=(small, small)
    ).pixels[:, :, 0]
    pillow = np.asarray(Image.fromarray(plate).resize((small, small), Image.Resampling.LANCZOS))
    y, x = (np.mgrid[0:small, 0:small] + 0.5) * times
    # The rings' frequency at a distance r is r / (2 size) cycles a pixel: beyond what the small
    # grid holds, all that is left is moire. Up to 0.62 both filters still pass something of the
    # last detail: that is their transition band.
    frequency = np.hypot(x, y) / (2 * size) * times
    beyond = (frequency > 0.62) & (np.hypot(x, y) < size)
    assert ours[beyond].astype(float).std() <= pillow[beyond].astype(float).std()
    passed = frequency < 0.3
    assert ours[passed].astype(float).std() == pytest.approx(
        pillow[passed].astype(float).std(), rel=0.03
    )


def test_reducing_while_turning_and_leaning_is_anti_aliased_too() -> None:
    plate = np.repeat(zone_plate(1200)[:, :, None], 3, axis=2)
    solution = solve(
        PhotoFacts(width=1200, height=1200), Recipe(trim=Trim(roll_deg=10, lean_deg=8))
    )
    size = (300, round(300 * solution.frame.height / solution.frame.width))
    once = render(plate, solution, size=size).pixels[:, :, 0].astype(float)
    full = render(plate, solution).pixels[:, :, 0]
    twice = np.asarray(Image.fromarray(full).resize(size, Image.Resampling.LANCZOS), dtype=float)
    assert np.abs(once - twice).mean() < 3
    # Without widening, what is finer than the output aliases: far more than the difference between
    # the two.
    plain = full[:: full.shape[0] // size[1], :: full.shape[1] // size[0]][
        : size[1], : size[0]
    ].astype(float)
    assert np.abs(plain - twice[: plain.shape[0], : plain.shape[1]]).mean() > 20


def test_a_full_size_render_is_not_changed_by_the_size_argument() -> None:
    pixels = np.random.default_rng(1).integers(0, 255, (90, 120, 3), np.uint8)
    solution = solve(PhotoFacts(width=120, height=90), Recipe(trim=Trim(roll_deg=2)))
    size = (solution.frame.width, solution.frame.height)
    np.testing.assert_array_equal(
        render(pixels, solution).pixels, render(pixels, solution, size=size).pixels
    )
