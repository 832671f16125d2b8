"""The largest frame, against the closed form, a brute-force search and shapely."""

import itertools
import math

import numpy as np
import pytest
from shapely.affinity import translate
from shapely.geometry import Polygon, box

from sequor.core.errors import UnusableInput
from sequor.core.frame.convex import largest_free_rectangle, largest_rectangle
from sequor.core.frame.polygon import polygon_area
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import FrameChoice, Recipe, Trim
from sequor.core.solve import solve
from tests.conftest import said_of


def turned_outline(width: float, height: float, deg: float) -> np.ndarray:
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    corners = np.array([[0, 0], [width, 0], [width, height], [0, height]]) - [width / 2, height / 2]
    return corners @ np.array([[c, -s], [s, c]]).T


@pytest.mark.parametrize(
    "size", [(6000, 4000), (4000, 3000), (3000, 3000), (5472, 3648), (1024, 100)]
)
@pytest.mark.parametrize("deg", [0.01, 0.4, 1.33, -4.03, 6, 15, -30, 44.9])
def test_the_closed_form_of_the_turned_rectangle(size: tuple[int, int], deg: float) -> None:
    # A w x h picture with w >= h turned by t keeps the linear scale 1 / (cos t + (w/h) sin t);
    # elementary geometry.
    width, height = size
    t = math.radians(abs(deg))
    expected = 1 / (math.cos(t) + width / height * math.sin(t))
    found = largest_rectangle(turned_outline(width, height, deg), width / height, (0, 0))
    assert found.width / width == pytest.approx(expected, rel=1e-9)
    assert (found.x + found.width / 2, found.y + found.height / 2) == pytest.approx(
        (0, 0), abs=1e-6
    )


@pytest.mark.parametrize("portrait", [(4000, 6000), (100, 1024)])
def test_the_closed_form_holds_for_upright_pictures(portrait: tuple[int, int]) -> None:
    width, height = portrait
    t = math.radians(3)
    found = largest_rectangle(turned_outline(width, height, 3), width / height, (0, 0))
    assert found.height / height == pytest.approx(
        1 / (math.cos(t) + height / width * math.sin(t)), rel=1e-9
    )


def test_what_a_turn_of_1_33_degrees_costs() -> None:
    # Common practice, no published source: 0.967 of each side, 93.4 % of the area.
    photo, recipe = PhotoFacts(width=6000, height=4000), Recipe(trim=Trim(roll_deg=-1.33))
    solution = solve(photo, recipe)
    assert solution.frame.width / 6000 == pytest.approx(0.967, abs=0.0005)
    assert solution.kept_fraction == pytest.approx(0.934, abs=0.0005)
    assert said_of(photo, recipe).cost.kept == "keeps 93.4 % of the picture"


def brute_force_height(outline: Polygon, ratio: float) -> float:
    """The largest height of a rectangle of a ratio inside an outline that ever finer grids of
    centres find, each bisected.
    """
    minx, miny, maxx, maxy = outline.bounds
    centre, span = (
        np.array([(minx + maxx) / 2, (miny + maxy) / 2]),
        np.array([maxx - minx, maxy - miny]) / 2,
    )
    best = 0.0
    for _ in range(7):
        trials = [
            centre + span * (i / 4, j / 4) for i, j in itertools.product(range(-4, 5), repeat=2)
        ]
        sizes = []
        for cx, cy in trials:
            low, high = 0.0, maxy - miny
            for _ in range(26):
                half = (low + high) / 4
                fits = outline.contains(
                    box(cx - half * ratio, cy - half, cx + half * ratio, cy + half)
                )
                low, high = ((low + high) / 2, high) if fits else (low, (low + high) / 2)
            sizes.append(low)
        best = max(best, max(sizes))
        centre, span = trials[int(np.argmax(sizes))], span / 2.5
    return best


def eroded_height(outline: Polygon, ratio: float) -> float:
    """The same by shapely alone: a rectangle fits somewhere while the outline.

    Shifted by its four corners, still overlaps itself.
    """
    low, high = 0.0, outline.bounds[3] - outline.bounds[1]
    for _ in range(50):
        height = (low + high) / 2
        left = outline
        for sx, sy in itertools.product((-0.5, 0.5), repeat=2):
            left = left.intersection(translate(outline, sx * height * ratio, sy * height))
        low, high = (height, high) if left.area > 0 else (low, height)
    return low


def random_outlines(count: int) -> list[np.ndarray]:
    random = np.random.default_rng(3)
    found = []
    while len(found) < count:
        corners = turned_outline(
            1000, random.uniform(400, 1400), random.uniform(-25, 25)
        ) + random.normal(0, 60, (4, 2))
        hull = Polygon(corners).convex_hull
        if len(hull.exterior.coords) == 5:
            found.append(np.array(hull.exterior.coords)[:4])
    return found


@pytest.mark.parametrize("outline", random_outlines(12))
@pytest.mark.parametrize("ratio", [1.5, 0.8])
def test_no_search_finds_a_larger_frame(outline: np.ndarray, ratio: float) -> None:
    found = largest_rectangle(outline, ratio, tuple(outline.mean(axis=0)))
    polygon = Polygon(outline)
    assert polygon.buffer(1e-5).contains(
        box(found.x, found.y, found.x + found.width, found.y + found.height)
    )
    assert found.height >= brute_force_height(polygon, ratio) * (1 - 1e-6)
    assert found.height == pytest.approx(eroded_height(polygon, ratio), rel=1e-6)


@pytest.mark.parametrize("outline", random_outlines(20))
def test_the_free_frame_has_the_largest_area_of_all_ratios(outline: np.ndarray) -> None:
    middle = tuple(outline.mean(axis=0))
    free = largest_free_rectangle(outline, middle)
    areas = [
        (r := largest_rectangle(outline, ratio, middle)).width * r.height
        for ratio in np.geomspace(0.2, 5, 161)
    ]
    assert free.width * free.height >= max(areas) * (1 - 1e-7)
    assert (
        Polygon(outline)
        .buffer(1e-5)
        .contains(box(free.x, free.y, free.x + free.width, free.y + free.height))
    )


@pytest.mark.parametrize("ratio", ["original", "free", "3:2", "1:1", "16:9", "5:4", "2:3"])
@pytest.mark.parametrize("deg", [0.0, 0.4, -1.33, 6.0, 90.0, -179.0])
def test_frames_are_whole_pixels_inside_the_picture(ratio: str, deg: float) -> None:
    photo = PhotoFacts(width=3001, height=1999)
    solution = solve(photo, Recipe(trim=Trim(roll_deg=deg), frame=FrameChoice(ratio=ratio)))
    frame = solution.frame
    outline = Polygon(solution.outline)
    assert outline.buffer(1e-5).contains(
        box(frame.x, frame.y, frame.x + frame.width, frame.y + frame.height)
    )
    assert solution.kept_fraction == pytest.approx(
        frame.width * frame.height / (photo.width * photo.height), rel=1e-9
    )
    if ":" in ratio:
        wide, high = map(float, ratio.split(":"))
        assert abs(frame.width - frame.height * wide / high) <= max(1, wide / high)


def test_a_picture_that_is_not_turned_is_kept_whole() -> None:
    photo = PhotoFacts(width=641, height=479)
    solution = solve(photo, Recipe())
    assert solution.frame.model_dump() == {"x": 0.0, "y": 0.0, "width": 641, "height": 479}
    assert solution.kept_fraction == 1
    assert said_of(photo, Recipe()).cost.kept == "keeps all of the picture"


def test_a_frame_that_can_slide_stays_in_the_middle() -> None:
    square = solve(PhotoFacts(width=900, height=600), Recipe(frame=FrameChoice(ratio="1:1"))).frame
    assert (square.x, square.y, square.width) == (150, 0, 600)


def test_frames_smaller_than_a_pixel_are_refused() -> None:
    with pytest.raises(UnusableInput, match="No frame"):
        solve(PhotoFacts(width=1000, height=1), Recipe(trim=Trim(roll_deg=20)))


def test_area_agrees_with_shapely() -> None:
    for outline in random_outlines(5):
        assert polygon_area(outline) == pytest.approx(Polygon(outline).area)
