"""The compiled kernels against the formula of the kernel, written out in NumPy.

Every pixel that is looked at is worked out by itself, in double precision and without tables:
Lanczos-windowed sinc, four lobes a side (Duchon, "Lanczos filtering in one and two dimensions",
1979), the border pixel standing for what lies beyond it.
"""

import math

import cv2
import numpy as np
import pytest

from sequor.core.lens_choice import LensChoice
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import FillChoice, Recipe, Trim
from sequor.core.render.light import Light
from sequor.core.render.rendering import coverage, render
from sequor.core.solution import Solution
from sequor.core.solve import solve

WIDTH, HEIGHT = 150, 100
PHOTO = PhotoFacts(width=WIDTH, height=HEIGHT)
TURN = Recipe(trim=Trim(roll_deg=3))
WAYS = {
    "turn": TURN,
    "lean": Recipe(trim=Trim(roll_deg=-2, lean_deg=7, swing_deg=-4)),
    "lens": Recipe(trim=Trim(roll_deg=1), lens=LensChoice(source="hand", k1=-0.06)),
}
LOBES = 4
KINDS: dict[type[np.generic], float] = {
    np.uint8: 1.0,
    np.uint16: 40.0,
    np.uint32: 40.0 * 65536,
    np.float32: 1e-3,
}
"""How far a value may be off: a place is rounded by a 4096th of a pixel, and values to whole
numbers."""


def soft(channels: int, kind: type[np.generic]) -> np.ndarray:
    """A picture without edges, beside which nothing has a halo that would be bounded."""
    random = np.random.default_rng(channels).random((HEIGHT, WIDTH, channels))
    wide = cv2.GaussianBlur(random, (0, 0), 2.5).reshape(random.shape)
    shares = (wide - wide.min()) / np.ptp(wide) * 0.8 + 0.1
    top = 1.0 if kind == np.float32 else np.iinfo(kind).max
    pixels = (shares * top).astype(kind)
    if channels in (2, 4):
        pixels[:, :, -1] = top
    return pixels


def lanczos(away: np.ndarray, widened: float) -> np.ndarray:
    inside = np.abs(away / widened) < LOBES
    weights = np.sinc(away / widened) * np.sinc(away / widened / LOBES) * inside
    return weights / weights.sum()


def by_formula(values: np.ndarray, x: float, y: float, widened: float = 1.0) -> np.ndarray:
    """The value at a place of a picture, whose first pixel's centre is at 0.5."""
    taps = []
    for at, side in ((x, WIDTH), (y, HEIGHT)):
        reach = math.ceil(LOBES * widened)
        places = np.arange(math.floor(at - 0.5) - reach, math.floor(at - 0.5) + reach + 2)
        taps.append((np.clip(places, 0, side - 1), lanczos(places - (at - 0.5), widened)))
    (columns, across), (rows, down) = taps
    return np.einsum("j,i,jic->c", down, across, values[np.ix_(rows, columns)].astype(float))


def looked_at(solution: Solution, size: tuple[int, int]) -> list[tuple[int, int, float, float]]:
    """Column and row of pixels of the output, many of them along its border, and where they lie in
    the source.
    """
    random = np.random.default_rng(5)
    columns, rows = random.integers(0, size[0], 160), random.integers(0, size[1], 160)
    columns[:20], columns[20:40], rows[40:60], rows[60:80] = 0, size[0] - 1, 0, size[1] - 1
    frame, warp = solution.frame, solution.warp
    share = np.array([frame.width / size[0], frame.height / size[1]])
    plane = (np.column_stack([columns, rows]) + 0.5) * share + [frame.x, frame.y]
    places = warp.to_source(plane)
    return list(zip(columns, rows, *places.T, strict=True))


@pytest.mark.parametrize("channels", [1, 2, 3, 4])
@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("way", WAYS)
def test_full_size(way: str, kind: type[np.generic], channels: int) -> None:
    pixels, solution = soft(channels, kind), solve(PHOTO, WAYS[way])
    # At twice the size no output pixel covers more than one of the source: nothing is widened.
    size = 2 * solution.frame.width, 2 * solution.frame.height
    made = render(pixels, solution, size=size).pixels
    assert made.dtype == kind
    for column, row, x, y in looked_at(solution, size):
        wanted = by_formula(pixels, x, y)
        assert made[row, column] == pytest.approx(wanted, abs=KINDS[kind]), (column, row)


@pytest.mark.parametrize("channels", [1, 2, 3, 4])
@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize("steps", [3, 21, 37])
def test_smaller(steps: int, kind: type[np.generic], channels: int) -> None:
    pixels, solution = soft(channels, kind), solve(PHOTO, TURN)
    frame, widened = solution.frame, 2 ** (steps / 16)
    # A size of which both sides come to that step of an octave.
    size = round(frame.width / widened), round(frame.height / widened)
    made = render(pixels, solution, size=size).pixels
    for column, row, x, y in looked_at(solution, size):
        wanted = by_formula(pixels, x, y, widened)
        # The phases of a widened kernel are coarser.
        assert made[row, column] == pytest.approx(wanted, abs=4 * KINDS[kind]), (column, row)


@pytest.mark.parametrize("channels", [1, 3, 4])
@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_smaller_in_light(kind: type[np.generic], channels: int) -> None:
    pixels, solution = soft(channels, kind), solve(PHOTO, TURN)
    top, widened = np.iinfo(kind).max, 2 ** (21 / 16)
    frame = solution.frame
    size = round(frame.width / widened), round(frame.height / widened)
    made = render(pixels, solution, size=size, light=Light(np.linspace(0, 1, 4096) ** 2)).pixels
    for column, row, x, y in looked_at(solution, size):
        light = by_formula((pixels / top) ** 2.0, x, y, widened)
        wanted = np.sqrt(np.clip(light, 0, 1)) * top
        assert made[row, column] == pytest.approx(wanted, abs=4 * KINDS[kind]), (column, row)


@pytest.mark.parametrize("way", WAYS)
def test_covered_are_the_pixels_whose_places_lie_in_the_source(way: str) -> None:
    filled = FillChoice(allowance=1, method="transparent")
    recipe = Recipe(trim=WAYS[way].trim, lens=WAYS[way].lens, fill=filled)
    solution = solve(PHOTO, recipe)
    frame = solution.frame
    rows, columns = np.mgrid[0 : frame.height, 0 : frame.width]
    plane = np.column_stack([columns.ravel() + 0.5 + frame.x, rows.ravel() + 0.5 + frame.y])
    inside = np.abs(solution.warp.to_source(plane) / [WIDTH, HEIGHT] - 0.5) <= 0.5
    wanted = inside.all(axis=1).reshape(frame.height, frame.width)
    assert not wanted.all()
    np.testing.assert_array_equal(coverage(solution, (WIDTH, HEIGHT)), wanted)
