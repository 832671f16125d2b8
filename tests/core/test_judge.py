"""The judge of fills, itself judged: on blunders that were planted, on the truth, and by how its
doubt ranks fills. Photographs are those that fills were made on; docs/fills.md has the others.
"""

import math
from dataclasses import replace

import cv2
import numpy as np
import pytest
import scipy
from scipy.stats import spearmanr

from sequor.core.fill.exemplar import Synthesis, synthesise
from sequor.core.fill.judge import judge, misfits, outside_of
from sequor.core.fill.plan import ToFill, _made_again, _Parts, plan_of
from sequor.core.fill.planning import plan_corners
from sequor.core.fill.risk import crossings_of
from sequor.core.fill.structure import along_known
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import FillCandidate, FillChoice, Reading, Recipe
from sequor.core.solve import solve
from tests.core.test_fill import (
    PICTURES,
    SHARP,
    TURN_DEG,
    inpainted,
    likeness,
    photograph_of,
    wedges,
)

HEIGHT, WIDTH = 240, 360
MAST = np.float32((245, 240, 230))


def sky_over_grass(seed: int = 1) -> np.ndarray:
    """Smooth above, rough below."""
    random = np.random.default_rng(seed)
    picture = np.empty((HEIGHT, WIDTH, 3), np.float32)
    picture[:140] = np.linspace(190, 220, 140)[:, None, None] + (-30, -10, 15)
    grass = scipy.ndimage.gaussian_filter(random.normal(0, 90, (HEIGHT, WIDTH)), (2.5, 1))[
        ..., None
    ]
    picture[140:] = (np.float32((70, 95, 40)) + grass)[140:]
    return np.clip(picture + random.normal(0, 1, picture.shape), 0, 255).astype(np.float32)


def top_and_bottom() -> np.ndarray:
    """A wedge of sky at the top, one of grass at the bottom."""
    row, column = np.mgrid[0:HEIGHT, 0:WIDTH]
    return (row < 40 * column / WIDTH) | (row >= HEIGHT - 40 * column / WIDTH)


def test_doubt_ranks_fills_as_their_distance_from_the_truth_does() -> None:
    """Wang et al. 2004 by scikit-image. The fills are OpenCV's, which nothing here was made for."""
    doubts, errors = [], []
    for name in PICTURES:
        truth = photograph_of(name)
        hole = wedges(*truth.shape[:2], TURN_DEG)
        for method in (cv2.INPAINT_TELEA, cv2.INPAINT_NS):
            made = inpainted(truth, hole, method)
            doubts.append(judge(made.astype(np.float32), hole).doubt)
            errors.append(1 - likeness(truth, made, hole)[0])
    assert spearmanr(doubts, errors).statistic > 0.8


def test_the_truth_is_seldom_marked() -> None:
    """Nothing is wrong with what was really there: each region of it that is marked is a false
    alarm. On photographs that nothing was chosen on it is more than this tenth (docs/fills.md).
    """
    counted = [
        marked_regions(truth, wedges(*truth.shape[:2], TURN_DEG))
        for truth in map(photograph_of, PICTURES)
    ]
    marked, regions = np.sum(counted, axis=0)
    assert marked <= 0.1 * regions


def marked_regions(picture: np.ndarray, hole: np.ndarray) -> tuple[int, int]:
    """How many regions of a hole the judge marks, and how many there are."""
    marks, count = scipy.ndimage.label(hole)
    nearest = scipy.ndimage.distance_transform_edt(
        marks == 0, return_distances=False, return_indices=True
    )
    flaws = judge(picture.astype(np.float32), hole).flaws
    at = [tuple(nearest[:, int(flaw.y), int(flaw.x)]) for flaw in flaws]
    return len({int(marks[place]) for place in at}), count


def test_a_foreign_piece_is_found_and_nothing_else() -> None:
    picture, hole = sky_over_grass(), top_and_bottom()
    assert judge(picture, hole).flaws == ()
    picture[4:26, 300:328] = picture[200:222, 60:88]
    (flaw,) = judge(picture, hole).flaws
    assert flaw.kind == "foreign"
    assert (flaw.x, flaw.y) == pytest.approx((314, 15), abs=6)


def test_a_step_at_the_seam_is_found() -> None:
    picture, hole = sky_over_grass(), top_and_bottom()
    picture[hole] += 30
    assert "seam" in {flaw.kind for flaw in judge(picture, hole).flaws}


def test_missing_texture_is_found_where_it_is_missing() -> None:
    picture, hole = sky_over_grass(), top_and_bottom()
    blurred = cv2.GaussianBlur(picture, (0, 0), 8)
    picture[hole] = blurred[hole]
    flaws = judge(picture, hole).flaws
    assert {flaw.kind for flaw in flaws} == {"weak"}
    assert all(flaw.y > 180 for flaw in flaws)


def test_a_piece_that_stands_there_twice_is_found() -> None:
    picture, hole = sky_over_grass(), top_and_bottom()
    shift = np.zeros((HEIGHT, WIDTH, 2), np.int32)
    shift[..., 0] = -40
    assert judge(picture, hole, shift).flaws == ()
    shift[200:, 260:, 1] = -100  # what is copied to 160 to 260 as well
    flaws = judge(picture, hole, shift).flaws
    assert {flaw.kind for flaw in flaws} == {"repeat"}


def with_mast(deg: float) -> tuple[np.ndarray, np.ndarray]:
    """A light mast, 6 pixels wide, before the sky, leaning by an angle; and how far aside of its
    middle each pixel lies.
    """
    picture = sky_over_grass()
    row, column = np.mgrid[0:HEIGHT, 0:WIDTH]
    off = (column - 250) - np.tan(np.radians(deg)) * (row - 120)
    share = np.clip(3.5 - np.abs(off), 0, 1)[..., None] * (row < 170)[..., None]
    return ((1 - share) * picture + share * MAST).astype(np.float32), off


@pytest.mark.parametrize("deg", [0.0, 3.0, -12.0])
@pytest.mark.parametrize("style", ["sharp", "calm"])
def test_a_mast_goes_on_to_the_border(deg: float, style: str) -> None:
    """Cut by a wedge it is led on along its own line, and the judge has nothing to say."""
    (truth, off), hole = with_mast(deg), top_and_bottom()
    known = np.where(hole[..., None], 0, truth).astype(np.float32)
    candidate = FillCandidate.model_validate({"style": style})
    plan = plan_of(known, ToFill(hole, np.zeros_like(hole)), (candidate,) * 4)
    # Everything is copied from the picture itself, also what is copied from beside the mast.
    row, column = np.nonzero(hole)
    assert not hole[row + plan.shift[hole][:, 0], column + plan.shift[hole][:, 1]].any()
    middle = hole & (np.abs(off) < 2) & (np.arange(HEIGHT)[:, None] < 120)
    beside = hole & (np.abs(off) > 5) & (np.abs(off) < 9) & (np.arange(HEIGHT)[:, None] < 120)
    assert middle.sum() > 60
    np.testing.assert_allclose(plan.colours[middle], truth[middle], atol=12)
    # No second mast beside it, which would be 60 levels off.
    assert (np.abs(plan.colours[beside] - truth[beside]) > 40).mean() < 0.02
    assert "edge" not in {flaw.kind for flaw in judge(plan.colours, hole).flaws}
    # Filled without it, it is missed.
    without = np.where(hole[..., None], sky_over_grass(), truth)
    assert "edge" in {flaw.kind for flaw in judge(without, hole).flaws}


def test_a_line_that_is_known_tells_an_edge_its_way() -> None:
    """A crossing takes its direction from some forty pixels of the picture; a reading that follows
    the same edge from far away tells it better, and one that is another line does not.
    """
    truth, off = with_mast(-12.0)
    hole = top_and_bottom()
    known = np.where(hole[..., None], 0, truth).astype(np.float32)
    slope = math.tan(math.radians(-12.0))
    mast = ((250 + slope * 40, 160.0), (250 - slope * 20, 100.0))
    (found,) = [edge for edge in crossings_of(known, hole) if edge.side == "top"]
    spoilt = replace(found, x=found.x + 2, outward=turned(found.outward, 4.0))
    (mended,) = along_known((spoilt,), (((0.0, 90.0), (300.0, 80.0)), mast))
    row, column = np.nonzero(hole & (np.abs(off) < 1))
    assert abs(np.dot(mended.outward, (-slope, -1)) / math.hypot(slope, 1) - 1) < 1e-3
    aside = (column - mended.x) * mended.outward[1] - (row - mended.y) * mended.outward[0]
    assert np.abs(aside[row < 120]).max() < 1.5
    assert along_known((spoilt,), (((0.0, 90.0), (300.0, 80.0)),)) == (spoilt,)
    far = ((mast[0][0] + 12, mast[0][1]), (mast[1][0] + 12, mast[1][1]))
    assert along_known((spoilt,), (far,)) == (spoilt,)


def turned(way: tuple[float, float], deg: float) -> tuple[float, float]:
    c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))
    return way[0] * c - way[1] * s, way[0] * s + way[1] * c


def test_a_reading_that_crosses_the_seam_is_led_on_along_its_line() -> None:
    """From the recipe on: an edge in noise, whose direction nothing but its reading knows well."""
    row, column = np.mgrid[0:400, 0:600]
    edge = 230 + 0.06 * (column - 300)  # a wall's edge, level in reality
    picture = np.where((row > edge)[..., None], (70.0, 80.0, 90.0), (170.0, 175.0, 180.0))
    picture += np.random.default_rng(3).normal(0, 6, picture.shape)
    pixels = np.clip(picture, 0, 255).astype(np.uint8)
    ends = ((40.0, 230 + 0.06 * -260), (560.0, 230 + 0.06 * 260))
    reading = Reading(id="wall", kind="level", points=ends)
    recipe = Recipe(readings=(reading,), fill=FillChoice(allowance=1))
    solution = solve(PhotoFacts(width=600, height=400, focal35_mm=28), recipe)
    plan = plan_corners(pixels, solution, recipe)
    a, b = solution.warp.to_corrected(np.array(ends)) - (solution.frame.x, solution.frame.y)
    assert abs(a[1] - b[1]) < 0.05
    crossed = [c for c in plan.crossings if abs(c.y - a[1]) < 4]
    assert crossed
    for crossing in crossed:
        assert abs(crossing.outward[1]) < 1e-3
        assert abs(crossing.y + 0.5 - a[1]) < 0.05


def test_a_joint_ends_at_the_kerb_that_it_meets() -> None:
    """Of two lines that meet beyond the seam the weaker ends there."""
    row, column = np.mgrid[0:HEIGHT, 0:WIDTH]
    kerb = row - (260 - 0.9 * column)
    truth = np.where((kerb < 0)[..., None], (200.0, 190.0, 170.0), (40.0, 50.0, 45.0))
    joint = (np.abs(column - 30) <= 1) & (kerb < 0)
    truth[joint] = (150.0, 145.0, 130.0)
    hole = row >= 205
    known = np.where(hole[..., None], 0, truth).astype(np.float32)
    plan = plan_of(known, ToFill(hole, np.zeros_like(hole)), (SHARP,) * 4)
    below = hole & (kerb > 4) & (np.abs(column - 30) < 12)
    assert below.sum() > 40
    assert np.abs(plan.colours[below] - (40, 50, 45)).max() < 25


def test_a_bow_is_not_led_on_as_a_line() -> None:
    row, column = np.mgrid[0:HEIGHT, 0:WIDTH]
    circle = np.hypot(row - 190, column - 180) < 60
    picture = np.where(circle[..., None], 230.0, 60.0).repeat(3, axis=2).astype(np.float32)
    hole = row >= 205
    assert crossings_of(np.where(hole[..., None], 0, picture).astype(np.float32), hole) == ()


def test_a_poor_place_is_made_again_and_the_rest_stays() -> None:
    picture, hole = sky_over_grass(), top_and_bottom()
    hole[120:] = False
    nothing = np.zeros_like(hole)
    parts = _Parts(np.where(hole[..., None], 0, picture), hole, nothing, nothing)
    made = synthesise(parts.colours, hole, nothing, SHARP)
    colours, source = made.colours.copy(), made.source.copy()
    colours[4:26, 300:328] = picture[200:222, 60:88]
    source[4:26, 300:328] = np.stack(np.mgrid[200:222, 60:88], axis=-1)
    blunder = Synthesis(colours, source)
    poor = misfits(colours, outside_of(colours, hole))
    assert [flaw.kind for flaw in poor] == ["foreign"]
    again = _made_again(parts, blunder, poor, SHARP, lambda: False)
    assert misfits(again.colours, outside_of(colours, hole)) == ()
    changed = (again.colours != colours).any(axis=2)
    row, column = np.nonzero(changed)
    assert np.hypot(row - poor[0].y, column - poor[0].x).max() < poor[0].radius + 8
    assert again.source[10:20, 305:320, 0].max() < 140


@pytest.mark.parametrize("shape", [(20, 20), (8, 40)])
def test_small_and_whole_holes_are_judged(shape: tuple[int, int]) -> None:
    picture = np.full((*shape, 3), 90, np.float32)
    nothing, everything = np.zeros(shape, np.bool_), np.ones(shape, np.bool_)
    assert judge(picture, nothing).doubt == judge(picture, everything).doubt == 0
    some = nothing.copy()
    some[:3] = True
    assert judge(picture, some).flaws == ()
