"""Bending: the map, its inverse, what lines and corners come out as, and its limits."""

import json
import math
from collections.abc import Iterator

import cv2
import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from pydantic import ValidationError
from scipy.interpolate import BSpline, RegularGridInterpolator
from scipy.optimize import least_squares
from shapely import Polygon, contains_xy

from sequor.core.advance import advance
from sequor.core.bend import system
from sequor.core.bend.bend import Asked, bend, rectangle_of, sides_of
from sequor.core.bend.limits import Bent
from sequor.core.bend.lines import BentLine
from sequor.core.bend.system import Mesh, Rows, solved
from sequor.core.camera import Matrix, Stance, apply_homography, homography
from sequor.core.corner_ways import corner_ways
from sequor.core.edits import (
    BendCorners,
    BendEverything,
    BrushStill,
    DrawReading,
    KeepStill,
    LetReadingBecome,
    MakeChecks,
    OpenRecipe,
    PointReading,
    ReadAs,
    ShareCorners,
)
from sequor.core.errors import UnusableInput
from sequor.core.fill.apply import render_filled
from sequor.core.frame.rectangle import Rectangle
from sequor.core.lens.distortion import Distortion
from sequor.core.lens_choice import LensChoice
from sequor.core.photo import PhotoFacts
from sequor.core.propose.straight import straight_edges
from sequor.core.recipe import (
    MAX_BOXES,
    BendChoice,
    Box,
    Edges,
    FillChoice,
    FrameChoice,
    Hold,
    Reading,
    Recipe,
    Stroke,
    Trim,
)
from sequor.core.render.places import displacements
from sequor.core.render.rendering import Way, render, render_box, render_small
from sequor.core.render.unbending import unbending
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.core.warp.bending import Bending, stretch_of
from sequor.core.warp.map import Warp, densely, laid_out
from tests.conftest import line
from tests.edited import OfPixels, apply
from tests.judged_on import open_photograph

PHOTO = PhotoFacts(width=6000, height=4000, focal35_mm=28)
SIZE = np.array([6000.0, 4000.0])


def any_bending(seed: int, strength_px: float = 30.0) -> Bending:
    shift = np.random.default_rng(seed).normal(0, strength_px, (19, 27, 2))
    return Bending(-20.0, 10.0, 250.0, shift)


def outline_of(deg: float, lean_deg: float = 0.0, size: Matrix = SIZE) -> Matrix:
    """The border of a picture that is turned, from its corner on."""
    photo = PhotoFacts(width=int(size[0]), height=int(size[1]), focal35_mm=28)
    corners = np.array([[0, 0], [size[0], 0], size, [0, size[1]]])
    h = homography(photo, Stance(math.radians(deg), math.radians(lean_deg)))
    return laid_out(h, 1.0, photo, densely(corners))[1]


def asked(deg: float = 0.0, corners: float = 0.0, lines: tuple[BentLine, ...] = (), **more: object):
    return Asked(sides_of(outline_of(deg)), corners, 1.5, lines, **more)  # type: ignore[arg-type]


def places(count: int = 400) -> Matrix:
    return np.random.default_rng(5).uniform(0.02, 0.98, (count, 2)) * SIZE


def tilt_deg(points: Matrix) -> float:
    """The direction of a line from level, clockwise on the screen."""
    x, y = points[-1] - points[0]
    return math.degrees(math.remainder(math.atan2(y, x), math.pi))


def sag(points: Matrix) -> float:
    chord = points[-1] - points[0]
    across = np.array([-chord[1], chord[0]]) / math.hypot(*chord)
    return float(np.abs((points - points[0]) @ across).max())


def along(start: tuple[float, float], end: tuple[float, float], count: int = 60) -> Matrix:
    a, b = np.array(start), np.array(end)
    return a + np.linspace(0, 1, count)[:, None] * (b - a)


# The map.


def test_the_map_is_the_spline_that_scipy_evaluates() -> None:
    found, points = any_bending(1), places()
    rows, columns = found.shift.shape[:2]
    knots = [np.arange(count + 4) - 3.0 for count in (columns, rows)]
    across = BSpline.design_matrix((points[:, 0] + 20) / 250, knots[0], 3).toarray()
    down = BSpline.design_matrix((points[:, 1] - 10) / 250, knots[1], 3).toarray()
    reference = points + np.einsum("ki,kj,jin->kn", across, down, found.shift)
    np.testing.assert_allclose(found.bent(points), reference, atol=1e-9)


def test_its_derivative_agrees_with_finite_differences() -> None:
    # Inside the mesh and beyond it.
    found, points, step = any_bending(2), np.concatenate([places(), places() * 3 - SIZE]), 1e-3
    for axis in range(2):
        away = np.eye(2)[axis] * step
        slope = (found.bent(points + away) - found.bent(points - away)) / (2 * step)
        np.testing.assert_allclose(found.jacobian(points)[:, :, axis], slope, atol=1e-6)


def test_it_goes_there_and_back() -> None:
    found, points = any_bending(3), np.concatenate([places(), places() * 1.4 - 0.2 * SIZE])
    np.testing.assert_allclose(found.unbent(found.bent(points)), points, atol=1e-8)


def test_stretch_and_turn_are_those_of_the_singular_value_decomposition() -> None:
    jacobian = np.random.default_rng(4).normal(0, 0.2, (300, 2, 2)) + np.eye(2)
    stretch, turn, area = stretch_of(jacobian)
    u, values, v = np.linalg.svd(jacobian)
    np.testing.assert_allclose(area, np.linalg.det(jacobian), atol=1e-12)
    np.testing.assert_allclose(stretch, np.maximum(values[:, 0], 1 / values[:, 1]), rtol=1e-9)
    nearest = u @ v
    np.testing.assert_allclose(turn, np.arctan2(nearest[:, 1, 0], nearest[:, 0, 0]), atol=1e-9)
    folded = stretch_of(np.array([[[1.0, 0.0], [0.0, -1.0]]]))[0]
    assert np.isinf(folded).all()


def test_what_the_kernel_is_given_is_the_inverse() -> None:
    """The spline through the inverse is within 0.03 px of Newton's, nearly all of it 0.002."""
    found = solve(PHOTO, Recipe(trim=Trim(roll_deg=6), bend=BendChoice(corners=1))).warp.bending
    assert found is not None
    for scale in (1.0, 0.25):
        box = Rectangle(100 * scale, 50 * scale, 5500 * scale, 3700 * scale)
        unbend = unbending(found, box, scale, scale)
        at = np.random.default_rng(6).uniform(0, 1, (2000, 2)) * [box.width, box.height]
        at += [box.x, box.y]
        exact = found.unbent(at / scale) * scale
        off = np.abs(at + displacements(unbend, at) - exact).max(axis=1) / scale
        assert off.max() < 0.03
        assert np.percentile(off, 99) < 0.002


# Closed cases.


def test_nothing_wanted_is_the_identity() -> None:
    for what in (asked(), asked(5.0), asked(lines=(held(),))):
        found = bend(what)
        np.testing.assert_allclose(found.bending.bent(places()), places(), atol=1e-6)
        assert (found.share, found.max_turn_rad) == (1.0, pytest.approx(0, abs=1e-8))


def held() -> BentLine:
    return BentLine(along((700, 900), (5000, 1400), 2), None, 0.0)


def test_what_a_homography_sets_right_needs_no_bending() -> None:
    """Plumb and level lines that one camera explains: the turn leaves nothing to bend."""
    wall = homography(PHOTO, Stance(math.radians(2), math.radians(8), math.radians(5)))
    true = [("plumb", (x, 1400), (x, 2900)) for x in (1900, 3000, 4200)]
    true += [("level", (1900, y), (4200, y)) for y in (1500, 2100, 2800)]
    back = np.linalg.inv(wall)
    readings = tuple(
        Reading(
            id=str(n),
            kind=kind,  # type: ignore[arg-type]
            points=tuple(map(tuple, apply_homography(back, np.array([a, b], float)).tolist())),
        )
        for n, (kind, a, b) in enumerate(true)
    )
    turned = solve(PHOTO, Recipe(readings=readings))
    bent = solve(PHOTO, Recipe(readings=readings, bend=BendChoice(lines=1)))
    assert bent.bend is not None
    assert bent.bend.max_stretch == pytest.approx(1, abs=2e-3)
    assert bent.kept_fraction == pytest.approx(turned.kept_fraction, abs=2e-3)


def test_a_symmetric_task_has_a_symmetric_answer() -> None:
    roof = along((1000, 1500), (3000, 900)), along((5000, 1500), (3000, 900))
    lines = tuple(
        BentLine(points, math.radians(deg), 1.0)
        for points, deg in zip(roof, (-12, -168), strict=True)
    )
    found, points = bend(asked(lines=lines)).bending, places()
    mirrored = found.bent(points * [-1, 1] + [6000, 0]) * [-1, 1] + [6000, 0]
    # Nothing says where the whole lies: that is its own matter.
    off = mirrored - found.bent(points)
    np.testing.assert_allclose(off - off.mean(axis=0), 0, atol=1e-4)
    assert np.abs(off).max() < 0.01


def test_the_least_energy_is_that_of_an_independent_solver() -> None:
    """A small mesh whose energy is written down by residuals and left to SciPy."""
    mesh = Mesh(0.0, 0.0, 100.0, 4, 4)
    rows = Rows()
    at, normals = np.array([[1.2, 0.7], [2.6, 3.1], [3.3, 1.9]]), np.eye(2)[[0, 1, 1]]
    aims, weights = np.array([0.3, -0.2, 0.15]), np.array([40.0, 15.0, 60.0])
    rows.add(at, normals, np.zeros(2), aims, weights)
    slope = np.array([[0.6, 0.8]])
    rows.add(
        np.array([[1.9, 2.2]]), np.array([[0.8, -0.6]]), slope, np.array([0.1]), 25 * np.ones(1)
    )
    found = solved(mesh, np.ones((4, 4)), np.zeros((4, 4)), rows)

    def residuals(flat: Matrix) -> Matrix:
        return np.concatenate(list(energy_terms(flat.reshape(7, 7, 2), rows)))

    best = least_squares(residuals, np.zeros(98), method="trf", xtol=1e-14, gtol=1e-14)
    ours = residuals((found.shift / 100).ravel())
    assert 0.5 * (ours**2).sum() == pytest.approx(best.cost, rel=1e-6)
    np.testing.assert_allclose(found.shift / 100, best.x.reshape(7, 7, 2), atol=1e-4)


def energy_terms(shift: Matrix, rows: Rows) -> Iterator[Matrix]:
    """Square roots of the energy's parts, by Gauss quadrature with six places a side and splines
    of SciPy's own; see the weights in `bend.system`.
    """
    knots = np.arange(11) - 3.0
    nodes, weight = np.polynomial.legendre.leggauss(6)
    at = (np.arange(4)[:, None] + (nodes + 1) / 2).ravel()
    each = np.tile(weight / 2, 4)
    root = np.sqrt(np.outer(each, each))
    one = [BSpline(knots, np.eye(7), 3).derivative(n)(at) if n else BSpline(knots, np.eye(7), 3)(at)
           for n in range(3)]  # fmt: skip

    def field(nx: int, ny: int) -> Matrix:
        found: Matrix = np.einsum("qi,pj,jin->pqn", one[nx], one[ny], shift)
        return found

    (ux, vx), (uy, vy) = (np.moveaxis(field(*n), 2, 0) for n in ((1, 0), (0, 1)))
    yield ((ux - vy) * root).ravel()
    yield ((uy + vx) * root).ravel()
    yield (math.sqrt(system._SIZE) * (ux + vy) * root).ravel()
    # Not to turn counts more the farther from the border: cells half a cell from it by a square,
    # the inner four in full.
    middle = np.full((4, 4), (0.5 / (system._MIDDLE * 4)) ** 2)
    middle[1:3, 1:3] = 1.0
    turning = system._TURN + system._TURN_MIDDLE * np.kron(middle, np.ones((6, 6)))
    yield (np.sqrt(turning) * (uy - vx) * root).ravel()
    for n, times in (((2, 0), 1), ((0, 2), 1), ((1, 1), 2)):
        for part in np.moveaxis(field(*n), 2, 0):
            yield (math.sqrt(system._SMOOTH * times) * part * root).ravel()
    basis = BSpline(knots, np.eye(7), 3)
    slope = basis.derivative(1)
    for place, normal, direction, aim, much in zip(*rows.arrays(), strict=True):
        if direction.any():
            weights = direction[0] * np.outer(basis(place[1]), slope(place[0]))
            weights = weights + direction[1] * np.outer(slope(place[1]), basis(place[0]))
        else:
            weights = np.outer(basis(place[1]), basis(place[0]))
        moved = np.einsum("ji,jin->n", weights, shift)
        yield np.array([math.sqrt(much) * (moved @ normal - aim)])


# Lines.


def test_three_lines_at_three_angles_come_true_together() -> None:
    wanted = [
        (along((600, 700), (2600, 760), 2), 0.0),
        (along((3600, 500), (3680, 2600), 2), 90.0),
        (along((900, 3300), (4300, 3000), 2), -2.0),
    ]
    lines = tuple(BentLine(points, math.radians(deg), 1.0) for points, deg in wanted)
    found = bend(asked(lines=lines))
    assert found.share == 1
    for points, deg in wanted:
        bent = found.bending.bent(along(tuple(points[0]), tuple(points[1])))
        assert math.remainder(tilt_deg(bent) - deg, 180) == pytest.approx(0, abs=0.02)
        assert sag(bent) < 0.3
    # In whatever order they are drawn.
    other = bend(asked(lines=lines[::-1]))
    np.testing.assert_allclose(other.bending.shift, found.bending.shift, atol=1e-3)


def test_a_line_more_does_not_spoil_the_others() -> None:
    first = along((700, 1000), (5200, 1060), 2)
    more = along((1500, 2600), (4000, 2500), 2)
    lines = (BentLine(first, 0.0, 1.0), BentLine(more, math.radians(1.0), 1.0))
    found = bend(asked(lines=lines))
    assert tilt_deg(found.bending.bent(first)) == pytest.approx(0, abs=0.02)


def test_a_bent_kerb_becomes_straight_as_it_runs() -> None:
    x = np.linspace(800, 5100, 24)
    kerb = np.column_stack([x, 2800 + 0.05 * x - 55 * np.sin(np.pi * (x - 800) / 4300)])
    before = sag(kerb)
    for share, left in ((1.0, 0.0), (0.4, 0.6)):
        found = bend(asked(lines=(BentLine(kerb, None, share),)))
        assert sag(found.bending.bent(kerb)) == pytest.approx(left * before, abs=0.3)
    assert tilt_deg(found.bending.bent(kerb)) == pytest.approx(tilt_deg(kerb), abs=0.1)


@given(st.floats(0, 1), st.floats(-4, 4))
def test_part_of_an_angle_is_bent_away(share: float, deg: float) -> None:
    line = along((1500, 1800), (4500, 1900), 2)
    now = tilt_deg(line)
    found = bend(asked(lines=(BentLine(line, math.radians(deg), share),)))
    expected = now + found.share * share * (deg - now)
    # Giving way to the limit blends the whole map, which turns a chord almost in proportion.
    assert tilt_deg(found.bending.bent(line)) == pytest.approx(expected, abs=0.05)


def test_lines_that_contradict_each_other_are_named_with_what_is_met() -> None:
    """Two on one place that want half a degree apart; a third that has nothing to do with them."""
    readings = (
        Reading(id="a", kind="set_out", points=((1000, 1500), (5000, 1500))),
        Reading(id="b", kind="set_out", points=((1000, 1501), (5000, 1501))),
        Reading(id="c", kind="set_out", points=((700, 2000), (760, 3500))),
    )
    recipe = Recipe(readings=readings)
    for name, deg in (("a", 0.3), ("b", 0.8), ("c", 90.0)):
        edit = LetReadingBecome(id=name, becomes="angle", wanted_deg=deg)
        recipe = apply(edit, recipe, PHOTO)
    assert recipe.bend.lines == 1
    found = solve(PHOTO, recipe)
    (note,) = (one for one in found.notes if one.code.startswith("bending"))
    assert note.code == "bending_contradicts"
    assert note.readings == ("a", "b")
    a, b = note.met
    assert a.left_deg - b.left_deg == pytest.approx(0.5, abs=0.01)
    # Neither has more right than the other: each is off by half of it.
    assert a.left_deg == pytest.approx(0.25, abs=0.05)
    assert a.share == pytest.approx(1 - a.left_deg / 0.3, abs=0.01)
    assert b.share == pytest.approx(1 + b.left_deg / 0.8, abs=0.01)
    assert found.readings[2].left_deg == pytest.approx(0, abs=0.02)
    # What is offered helps.
    eased = apply(note.offers[0], recipe, PHOTO)
    assert isinstance(note.offers[0], LetReadingBecome)
    assert eased.readings[0].becomes == "stays"


def test_two_hundred_lines_on_one_place_do_no_harm() -> None:
    reading = Reading(id="0", kind="level", points=((800, 1900), (5100, 2010)))
    many = tuple(reading.model_copy(update={"id": str(n)}) for n in range(200))
    held = Hold(roll_deg=0, lean_deg=0, swing_deg=0)
    one, all_ = (
        solve(PHOTO, Recipe(readings=some, hold=held, bend=BendChoice(lines=1)))
        for some in ((reading,), many)
    )
    assert max(abs(found.left_deg or 0) for found in all_.readings) < 0.02
    # The system stays as sound as with one: what counts more is followed more closely, no more.
    assert one.bend is not None
    assert all_.bend is not None
    assert all_.bend.share == 1
    assert all_.bend.max_stretch == pytest.approx(one.bend.max_stretch, abs=0.01)


def test_what_was_wanted_of_another_kind_is_wanted_no_more() -> None:
    """An angle is from what a line stands for: of a plumb one two degrees are nearly upright."""
    plumb = Reading(
        id="a", kind="plumb", points=((900, 700), (930, 3300)), becomes="angle", wanted_deg=2
    )
    recipe = Recipe(readings=(plumb,), bend=BendChoice(lines=1))
    for edit in (ReadAs(id="a", kind="set_out"), MakeChecks(ids=("a",))):
        (read,) = apply(edit, recipe, PHOTO).readings
        assert (read.becomes, read.wanted_deg) == ("true", None)


# Corners.


@pytest.mark.parametrize("deg", [-6, -2, 1.33, 4])
@pytest.mark.parametrize("lens", [LensChoice(), LensChoice(source="hand", k1=-0.04)])
def test_the_whole_picture_is_kept_with_nothing_empty(deg: float, lens: LensChoice) -> None:
    small = PhotoFacts(width=900, height=600, focal35_mm=28)
    recipe = Recipe(trim=Trim(roll_deg=deg), lens=lens, bend=BendChoice(corners=1))
    found = solve(small, recipe)
    assert found.bend is not None
    assert found.bend.share == 1
    assert found.kept_fraction > 0.985
    assert found.frame.width / found.frame.height == pytest.approx(1.5, abs=0.003)
    assert found.bend.min_jacobian > 1 / 1.6 - 1e-6
    assert found.bend.max_stretch <= 1.6
    texture = np.random.default_rng(1).integers(0, 255, (600, 900, 3), np.uint8)
    assert render(texture, found).empty_pixels == 0


def test_half_of_the_wedges_is_half_of_the_way() -> None:
    border = outline_of(5.0)
    box = rectangle_of(sides_of(border), 1.5)
    half = bend(Asked(sides_of(border), 0.5, 1.5)).bending
    top = sides_of(border)[0][5:-5]
    wanted = (top[:, 1] + box.low[1]) / 2
    np.testing.assert_allclose(half.bent(top)[:, 1], wanted, atol=0.5)


@pytest.mark.parametrize("deg", [0, 90, 180, -90, 93, 176])
def test_sides_are_told_whichever_way_up(deg: float) -> None:
    top, right, bottom, left = sides_of(outline_of(deg))
    middle = outline_of(deg).mean(axis=0)
    assert top[:, 1].mean() < middle[1] < bottom[:, 1].mean()
    assert left[:, 0].mean() < middle[0] < right[:, 0].mean()
    np.testing.assert_allclose(top[-1], right[0])


def test_a_picture_without_edges_stays_level_in_its_middle() -> None:
    found = bend(asked(6.0, corners=1.0))
    middle = np.array([[x, y] for x in (2200.0, 3200, 4200) for y in (1700.0, 2300, 2900)])
    turned = stretch_of(found.bending.jacobian(middle))[1]
    assert np.degrees(np.abs(turned)).max() < 1.0


def test_edges_stay_straight_and_keep_their_direction() -> None:
    rng = np.random.default_rng(8)
    edges = []
    for _ in range(60):
        start, deg = rng.uniform(0.25, 0.7, 2) * SIZE, rng.choice([0, 90, 90, 35])
        way = np.array([math.cos(math.radians(deg)), math.sin(math.radians(deg))])
        edges.append(
            BentLine(start + np.outer([0, rng.uniform(250, 900)], way), None, 1.0, edge=True)
        )
    found = bend(asked(4.0, corners=1.0, lines=tuple(edges)))
    assert found.share == 1
    for edge in edges:
        bent = found.bending.bent(along(tuple(edge.points[0]), tuple(edge.points[1])))
        length = math.hypot(*(bent[-1] - bent[0]))
        assert sag(bent) / length < 0.001
        turned = math.remainder(tilt_deg(bent) - tilt_deg(edge.points), 180)
        assert abs(turned) < (1.0 if abs(tilt_deg(edge.points) - 35) < 1 else 0.3)


def test_a_circle_in_a_box_that_does_not_bend_stays_round() -> None:
    centre, radius = np.array([1400.0, 1000.0]), 450.0
    still = Box(left=900, top=500, right=1900, bottom=1500)
    recipe = Recipe(trim=Trim(roll_deg=5), bend=BendChoice(corners=1, still=(still,)))
    turn = np.linspace(0, 2 * math.pi, 72, endpoint=False)
    circle = centre + radius * np.column_stack([np.cos(turn), np.sin(turn)])
    for held, round_ in (
        (recipe, True),
        (recipe.model_copy(update={"bend": BendChoice(corners=1)}), False),
    ):
        found = solve(PHOTO, held).warp.to_corrected(circle)
        (_, _), axes, _ = cv2.fitEllipse(found.astype(np.float32))
        assert (max(axes) / min(axes) < 1.01) is round_
    # So is what was gone over with a brush, here in a spiral.
    spiral = turn * 0.5
    over = centre + (radius * turn / turn[-1])[:, None] * np.column_stack(
        [np.cos(6 * spiral), np.sin(6 * spiral)]
    )
    stroke = BrushStill(points=tuple(map(tuple, over.tolist())), reach=120)
    brushed = apply(
        stroke, apply(BendCorners(share=1), Recipe(trim=Trim(roll_deg=5)), PHOTO), PHOTO
    )
    assert brushed.bend.brushed[0].reach == pytest.approx(120)
    (_, _), axes, _ = cv2.fitEllipse(
        solve(PHOTO, brushed).warp.to_corrected(circle).astype(np.float32)
    )
    assert max(axes) / min(axes) < 1.01
    assert len(solve(PHOTO, brushed).marks.brushed) == 1
    assert apply(BendEverything(), brushed, PHOTO).bend.brushed == ()
    # The box to keep is held too.
    keep = Recipe(trim=Trim(roll_deg=5), bend=BendChoice(corners=1), frame=FrameChoice(keep=still))
    (_, _), axes, _ = cv2.fitEllipse(
        solve(PHOTO, keep).warp.to_corrected(circle).astype(np.float32)
    )
    assert max(axes) / min(axes) < 1.01


def test_a_brush_over_everything_leaves_nothing_to_bend() -> None:
    closed = apply(BendCorners(share=1), Recipe(trim=Trim(roll_deg=5)), PHOTO)
    everything = apply(BrushStill(points=((100, 2000), (5900, 2000)), reach=2500), closed, PHOTO)
    bent, held = solve(PHOTO, closed).bend, solve(PHOTO, everything).bend
    assert bent is not None
    assert held is not None
    # Corners stay open, and that is said: it once turned the whole picture back to close them.
    assert held.max_stretch < 1.05 < 1.2 < bent.max_stretch
    assert held.max_turn_deg < 1.1
    assert held.share < 0.5
    assert solve(PHOTO, everything).kept_fraction < 0.9
    assert "bending_limited" in [note.code for note in solve(PHOTO, everything).notes]
    # Beside the picture a brush holds nothing.
    beside = apply(BrushStill(points=((9000, 9000),), reach=10), closed, PHOTO)
    assert solve(PHOTO, beside).bend == bent


@pytest.mark.parametrize(
    ("box", "most_deg"),
    [
        (Box(left=2700, top=1500, right=3300, bottom=2200), 0.02),
        (Box(left=3600, top=1000, right=4200, bottom=3600), 0.02),
        (Box(left=5200, top=1800, right=5900, bottom=3000), 1.02),
        (Box(left=100, top=3000, right=900, bottom=3900), 1.02),
    ],
    ids=["a face", "a person", "at the side", "in the corner"],
)
def test_what_must_not_bend_is_level_too(box: Box, most_deg: float) -> None:
    """Where it touches the border less of the corners is closed; it once turned back by the 5
    degrees that the picture was turned by.
    """
    recipe = Recipe(
        trim=Trim(roll_deg=5),
        hold=Hold(lean_deg=0, swing_deg=0),
        bend=BendChoice(corners=1, still=(box,)),
    )
    warp = solve(PHOTO, recipe).warp
    turned = Warp(warp.homography, warp.distortion)
    for u, v in np.random.default_rng(2).uniform(0.1, 0.9, (20, 2)):
        x, y = box.left + u * (box.right - box.left), box.top + v * (box.bottom - box.top)
        arms = np.array([[x - 9, y], [x + 9, y]]), np.array([[x, y - 9], [x, y + 9]])
        # Of a small cross the mean of both arms is what it turns by, however it is sheared.
        by = [
            math.remainder(tilt_deg(warp.to_corrected(a)) - tilt_deg(turned.to_corrected(a)), 180)
            for a in arms
        ]
        assert abs(np.mean(by)) < most_deg


def test_no_more_strokes_than_a_recipe_holds() -> None:
    recipe = apply(BendCorners(share=1), Recipe(trim=Trim(roll_deg=5)), PHOTO)
    stroke = Stroke(points=((3000, 2000),), reach=50)
    full = recipe.changed(bend=recipe.bend.changed(brushed=(stroke,) * MAX_BOXES))
    with pytest.raises(UnusableInput, match=f"There are {MAX_BOXES} strokes"):
        apply(BrushStill(points=((3000, 2000),), reach=50), full, PHOTO)


# Limits.


@given(st.floats(-30, 30), st.floats(-12, 12), st.floats(0, 1), st.integers(0, 6))
# It once folded in the outermost row of the mesh, between the places that were looked at; on its
# rim, between the corners of cells; and within a cell, between its quarters.
@example(-12.526740230863595, 9.0, 0.5, 5)
@example(0.5, 5.0, 1.0, 1)
@example(-9.863367196087225, -9.5, 0.125, 5)
@example(4.30078125, 0.0, 0.0, 5)
@example(-6.631694507600983, -4.685588518681444, 0.03575133589109658, 6)
def test_it_never_folds_and_stays_within_its_limit(
    deg: float, lean: float, corners: float, count: int
) -> None:
    rng = np.random.default_rng(abs(int(deg * 1000)) + count)
    lines = tuple(
        BentLine(rng.uniform(0.1, 0.9, (2, 2)) * SIZE, rng.uniform(-1.5, 1.5), 1.0)
        for _ in range(count)
    )
    found = bend(Asked(sides_of(outline_of(deg, lean)), corners, 1.5, lines))
    assert 0 <= found.share <= 1
    border = outline_of(deg, lean)
    (left, top), (right, bottom) = border.min(axis=0), border.max(axis=0)
    x, y = np.meshgrid(np.linspace(left, right, 90), np.linspace(top, bottom, 70))
    grid = np.column_stack([x.ravel(), y.ravel()])
    stretch, _, area = stretch_of(found.bending.jacobian(grid))
    assert (area > 0).all()
    assert found.max_stretch <= 1.6 + 1e-9
    inside = contains_xy(Polygon(border), grid[:, 0], grid[:, 1])
    # Between the places that are checked it may be a little more.
    assert stretch[inside].max() <= 1.6 * 1.01


def test_a_mesh_that_would_fold_does_less_and_says_so() -> None:
    readings = (
        Reading(id="a", kind="set_out", points=((2000, 1900), (4000, 1900))),
        Reading(id="b", kind="set_out", points=((2000, 2000), (4000, 2000))),
    )
    recipe = Recipe(readings=readings, hold=Hold(roll_deg=0, lean_deg=0, swing_deg=0))
    for name, deg in (("a", 30.0), ("b", -30.0)):
        recipe = apply(LetReadingBecome(id=name, becomes="angle", wanted_deg=deg), recipe, PHOTO)
    found = solve(PHOTO, recipe)
    assert found.bend is not None
    assert found.bend.share < 0.9
    assert found.bend.min_jacobian > 0
    (note,) = [n for n in found.notes if n.code == "bending_limited"]
    assert note.share == found.bend.share


def test_a_hundred_lines() -> None:
    rng = np.random.default_rng(9)
    lines = []
    for n in range(100):
        start = np.array([500 + 500 * (n % 10), 350 + 330 * (n // 10)])
        deg = rng.uniform(-1, 1)
        end = start + 350 * np.array([math.cos(math.radians(deg)), math.sin(math.radians(deg))])
        lines.append(BentLine(np.array([start, end]), 0.0, 1.0))
    found: Bent = bend(asked(lines=tuple(lines)))
    left = [abs(tilt_deg(found.bending.bent(line.points))) for line in lines]
    assert found.share == 1
    assert max(left) < 0.1


def test_an_angle_is_pointed_at_and_taken_as_it_is_now() -> None:
    reading = Reading(id="a", kind="set_out", points=((1000, 1000), (3000, 1100)))
    recipe = Recipe(readings=(reading,))
    now = apply(LetReadingBecome(id="a", becomes="angle"), recipe, PHOTO)
    assert now.readings[0].wanted_deg == pytest.approx(tilt_deg(np.array(reading.points)), abs=1e-3)
    pointed = apply(PointReading(id="a", end=1, to=(3000, 1300)), recipe, PHOTO)
    assert pointed.readings[0].wanted_deg == pytest.approx(
        math.degrees(math.atan2(300, 2000)), abs=0.01
    )
    solved_ = solve(PHOTO, pointed)
    assert solved_.readings[0].left_deg == pytest.approx(0, abs=0.02)


def test_at_amount_zero_every_pixel_is_what_it_was() -> None:
    small = PhotoFacts(width=300, height=200, focal35_mm=28)
    texture = np.random.default_rng(2).integers(0, 2**16, (200, 300, 3), np.uint16)
    plain = Recipe(trim=Trim(roll_deg=3, lean_deg=2))
    none = plain.model_copy(
        update={"bend": BendChoice(still=(Box(left=9, top=9, right=99, bottom=99),))}
    )
    a, b = render(texture, solve(small, plain)), render(texture, solve(small, none))
    assert a.pixels.tobytes() == b.pixels.tobytes()
    assert solve(small, none).bend is None


def test_a_bent_picture_is_resampled_once() -> None:
    """Against OpenCV's remap of the exact map, which also samples the source once."""
    size = (600, 900)
    y, x = np.mgrid[0 : size[0], 0 : size[1]]
    smooth = 127 + 60 * np.sin(x / 14) + 50 * np.cos(y / 11 + x / 60)
    pixels = np.repeat(smooth[:, :, None], 3, axis=2).astype(np.uint8)
    small = PhotoFacts(width=900, height=600, focal35_mm=28)
    lens = LensChoice(source="hand", k1=-0.03)
    found = solve(small, Recipe(trim=Trim(roll_deg=4), lens=lens, bend=BendChoice(corners=1)))
    made = render(pixels, found).pixels
    frame = found.frame
    columns, rows = np.meshgrid(np.arange(frame.width), np.arange(frame.height))
    at = np.column_stack([columns.ravel() + 0.5 + frame.x, rows.ravel() + 0.5 + frame.y])
    source = (found.warp.to_source(at) - 0.5).astype(np.float32).reshape(*made.shape[:2], 2)
    reference = cv2.remap(
        pixels, source, np.zeros(0), cv2.INTER_LANCZOS4, borderMode=cv2.BORDER_REPLICATE
    )
    inner = (slice(8, -8), slice(8, -8))
    off = made[inner].astype(float) - reference[inner]
    assert np.abs(off).mean() < 0.6
    assert np.abs(off).max() <= 4


def test_the_warp_knows_all_its_parts() -> None:
    recipe = Recipe(
        trim=Trim(roll_deg=3, lean_deg=5),
        lens=LensChoice(source="hand", k1=-0.05),
        bend=BendChoice(corners=0.7),
    )
    warp: Warp = solve(PHOTO, recipe).warp
    assert not warp.straight
    points = places()
    np.testing.assert_allclose(warp.to_source(warp.to_corrected(points)), points, atol=1e-6)


# With everything else.


@pytest.mark.parametrize("ratio", ["16:9", "5:4", "free", "2:3"])
@pytest.mark.parametrize(("roll", "lean", "swing"), [(3, 0, 0), (1, 12, 0), (-2, 6, 9)])
def test_any_shape_and_any_turn(ratio: str, roll: float, lean: float, swing: float) -> None:
    """Nothing is empty, and more of the picture is kept than by cropping alone."""
    small = PhotoFacts(width=900, height=600, focal35_mm=28)
    trim = Trim(roll_deg=roll, lean_deg=lean, swing_deg=swing)
    recipe = Recipe(
        trim=trim, frame=FrameChoice(ratio=ratio), lens=LensChoice(source="hand", k1=-0.03)
    )
    cropped, bent = solve(small, recipe), solve(
        small, recipe.model_copy(update={"bend": BendChoice(corners=1)})
    )  # fmt: skip
    texture = np.random.default_rng(1).integers(0, 255, (600, 900, 3), np.uint8)
    assert render(texture, bent).empty_pixels == 0
    assert bent.kept_fraction > cropped.kept_fraction
    assert bent.bend is not None
    assert bent.bend.max_stretch <= 1.6
    assert bent.bend.min_jacobian > 0


def test_a_mixture_of_cropping_bending_and_filling() -> None:
    small = PhotoFacts(width=900, height=600, focal35_mm=28)
    texture = np.random.default_rng(1).integers(0, 255, (600, 900, 3), np.uint8)
    mixed = apply(ShareCorners(bend=0.5, fill=0.4), Recipe(trim=Trim(roll_deg=5)), small)
    mixed = mixed.model_copy(update={"fill": mixed.fill.model_copy(update={"method": "mirror"})})
    found, cropped = solve(small, mixed), solve(small, Recipe(trim=Trim(roll_deg=5)))
    assert found.bend is not None
    assert 0 < found.bend.closes_fraction < cropped.cost.keep_all_fraction
    assert found.cost.fill_fraction == pytest.approx(0.4 * found.cost.keep_all_fraction, rel=0.02)
    made = render_filled(texture, found, mixed)
    assert made.empty_pixels == 0
    assert made.filled_share == pytest.approx(found.cost.fill_fraction, abs=0.002)


def test_each_way_says_what_it_costs_and_gives_that() -> None:
    recipe = Recipe(trim=Trim(roll_deg=4), fill=FillChoice(allowance=0.3))
    ways = {cost.way: cost for cost in corner_ways(PHOTO, recipe)}
    assert list(ways) == ["crop", "bend", "fill"]
    assert ways["crop"].kept_fraction < ways["bend"].kept_fraction <= ways["fill"].kept_fraction
    assert (ways["crop"].fill_fraction, ways["bend"].fill_fraction) == (0, 0)
    for cost in ways.values():
        done = solve(PHOTO, apply(cost.edit, recipe, PHOTO))
        assert done.kept_fraction == cost.kept_fraction
        assert done.cost.fill_fraction == cost.fill_fraction
        assert (done.bend.max_stretch if done.bend else 1.0) == cost.max_stretch


def test_small_pictures_bend_like_large_ones() -> None:
    """A thumbnail from a reduced original, and the frame reduced when it is made."""
    y, x = np.mgrid[0:800, 0:1200]
    smooth = (127 + 70 * np.sin(x / 90) + 50 * np.cos(y / 70 + x / 200)).astype(np.uint8)
    pixels = np.repeat(smooth[:, :, None], 3, axis=2)
    photo = PhotoFacts(width=1200, height=800, focal35_mm=28)
    found = solve(photo, Recipe(trim=Trim(roll_deg=5), bend=BendChoice(corners=1)))
    half = cv2.resize(pixels, (600, 400), interpolation=cv2.INTER_AREA)
    small = render_small(half, found, 0.5).pixels
    size = small.shape[1], small.shape[0]
    reduced = render(pixels, found, size=size).pixels
    off = np.abs(small.astype(int) - reduced)[4:-4, 4:-4]
    assert off.mean() < 1
    assert off.max() <= 8


def test_checks_tell_what_bending_did_to_them() -> None:
    check = Reading(id="c", kind="check", points=((300, 3700), (5700, 3700)))
    recipe = Recipe(readings=(check,), trim=Trim(roll_deg=6), bend=BendChoice(corners=1))
    (found,) = solve(PHOTO, recipe).readings
    bent = solve(PHOTO, recipe).warp.to_corrected(along((300, 3700), (5700, 3700)))
    assert found.sag_px == pytest.approx(sag(bent), rel=0.02)
    assert found.sag_px > 5
    assert found.residual_deg == pytest.approx(tilt_deg(bent), abs=1e-6)


def test_the_direction_and_the_order_of_drawing_do_not_matter() -> None:
    a = Reading(id="a", kind="level", points=((800, 900), (4900, 1000)))
    b = Reading(id="b", kind="plumb", points=((5200, 700), (5260, 3300)))
    held = Hold(roll_deg=0, lean_deg=0, swing_deg=0)
    one = solve(PHOTO, Recipe(readings=(a, b), hold=held, bend=BendChoice(lines=1)))
    turned = tuple(r.model_copy(update={"points": r.points[::-1]}) for r in (b, a))
    other = solve(PHOTO, Recipe(readings=turned, hold=held, bend=BendChoice(lines=1)))
    np.testing.assert_allclose(
        one.warp.to_corrected(places()), other.warp.to_corrected(places()), atol=0.01
    )


ANGLED = {
    "id": "a",
    "kind": "set_out",
    "points": [[0, 0], [9, 0]],
    "becomes": "angle",
    "wanted_deg": 3,
}


@pytest.mark.parametrize(
    "bad",
    [
        {"bend": {"lines": 1.2}},
        {"bend": {"corners": -0.1}},
        {"bend": {"max_stretch": 9}},
        {"bend": {"edges": [[[0, 0], [1, 1]]] * 121}},
        {"readings": [ANGLED | {"wanted_deg": None}]},
        {"readings": [ANGLED | {"becomes": "true"}]},
        {"readings": [ANGLED | {"wanted_deg": 91}]},
    ],
)
def test_what_makes_no_sense_is_refused(bad: dict) -> None:
    with pytest.raises(ValidationError):
        Recipe.model_validate(bad)


def test_a_line_too_short_and_a_check_that_is_to_become_something_are_refused() -> None:
    short = Reading(id="a", kind="set_out", points=((100, 100), (101, 100)))
    with pytest.raises(UnusableInput, match="shorter than 2 pixels"):
        solve(PHOTO, Recipe(readings=(short,), bend=BendChoice(lines=1)))
    two = short.model_copy(update={"points": ((100.0, 100.0), (102.0, 100.5))})
    found = solve(PHOTO, Recipe(readings=(two,), bend=BendChoice(lines=1)))
    assert found.bend is not None
    check = Recipe(readings=(Reading(id="c", kind="check", points=((9, 9), (99, 9))),))
    with pytest.raises(UnusableInput, match="read it as something else"):
        apply(LetReadingBecome(id="c", becomes="straight"), check, PHOTO)


def test_edges_are_looked_for_anew_in_another_picture() -> None:
    mine = Recipe(bend=BendChoice(corners=1, edges=(((0, 0), (50, 0)),)))
    opened = apply(OpenRecipe(recipe=mine), Recipe(), PHOTO)
    # Edges are looked for where something bends, and once.
    assert opened.bend.edges is None
    lookups = OfPixels(PHOTO, np.zeros((1, 1, 3), np.uint8), edges=(((9, 9), (99, 9)),))
    found = advance(PHOTO, opened, (), lookups).recipe
    assert found.bend.edges == (((9, 9), (99, 9)),)
    assert advance(PHOTO, Recipe(), (), lookups).recipe == Recipe()
    none = OfPixels(PHOTO, np.zeros((1, 1, 3), np.uint8), edges=())
    assert advance(PHOTO, found, (), none).recipe == found


@pytest.mark.parametrize("lens", [LensChoice(), LensChoice(source="hand", k1=-0.13)])
def test_what_lies_nowhere_does_no_harm(lens: LensChoice) -> None:
    """Edges without length or far outside, and boxes beside the picture, as a recipe may have
    that somebody wrote.
    """
    strange = BendChoice(
        corners=1,
        lines=1,
        edges=(((5, 5), (5, 5)), ((-9e5, 3), (9e5, 8e5)), ((100, 100), (900, 100))),
        still=(
            Box(left=9000, top=0, right=9900, bottom=99),
            Box(left=-50, top=-50, right=-2, bottom=-2),
        ),
    )
    doubled = Reading(
        id="a", kind="set_out", points=((500, 500), (500, 500), (900, 520), (1500, 505))
    )
    recipe = Recipe(trim=Trim(roll_deg=3), lens=lens, bend=strange, readings=(doubled,))
    found = solve(PHOTO, recipe)
    assert found.bend is not None
    assert 0 < found.bend.share <= 1
    assert np.isfinite(found.bend.mesh.shift).all()
    like = strange.model_copy(update={"edges": (((100, 100), (900, 100)),), "still": ()})
    same = solve(PHOTO, recipe.model_copy(update={"bend": like}))
    assert found.bend.max_stretch == pytest.approx(same.bend.max_stretch if same.bend else 0)
    with pytest.raises(UnusableInput, match="outside the picture"):
        apply(KeepStill(opposite=((9000, 0), (9900, 99))), recipe, PHOTO)


@pytest.mark.parametrize("turn", [90, -90, 180, 92])
def test_a_picture_turned_on_its_side_is_not_squeezed_into_its_old_shape(turn: float) -> None:
    found = solve(PHOTO, Recipe(trim=Trim(roll_deg=turn), bend=BendChoice(corners=1)))
    assert found.bend is not None
    assert found.bend.max_stretch < 1.2


@pytest.mark.parametrize("type_", [np.uint8, np.uint16])
@pytest.mark.parametrize("shrunk", [0.93, 0.8, 0.62])
def test_what_shrinks_is_not_aliased(type_: type, shrunk: float) -> None:
    """A bending that shrinks everything: a pattern finer than its pixels goes, a coarse one stays
    (Nyquist's limit, half a cycle to a pixel).
    """
    mesh = Mesh(0.0, 0.0, 100.0, 8, 8)
    at = (np.arange(11) - 1.0) * 100
    x, y = np.meshgrid(at, at)
    shrinking = mesh.bending(np.stack([x, y], axis=2) * (shrunk - 1) / 100)
    points = places() / SIZE * 800
    np.testing.assert_allclose(shrinking.bent(points), points * shrunk, atol=1e-9)
    box = Rectangle(40, 40, 440, 440)
    way = Way(
        np.eye(3), Distortion.of(PhotoFacts(width=800, height=800)), unbending(shrinking, box)
    )
    top = float(np.iinfo(type_).max)
    passed = {}
    for name, cycles in (("fine", 0.5 * (shrunk + 1) / 2 + 0.03), ("coarse", 0.1 * shrunk)):
        wave = 0.5 + 0.4 * np.sin(2 * np.pi * cycles * (np.arange(800) + 0.5))
        pixels = np.repeat((wave[None, :, None] * top).astype(type_), 800, axis=0)
        made = render_box(pixels, way, box).pixels.astype(float) / top
        passed[name] = made.std() / (0.4 / math.sqrt(2))
    assert passed["coarse"] > 0.97
    assert passed["fine"] < 0.45


# What the screen draws by.


def test_lines_and_marks_are_drawn_where_their_pixels_are() -> None:
    reading = line("level", 300, 500, 2700, 620)
    keep = Box(left=900, top=500, right=1900, bottom=1500)
    recipe = Recipe(
        readings=(reading,),
        lens=LensChoice(source="hand", k1=-0.1),
        trim=Trim(roll_deg=4),
        bend=BendChoice(corners=1, edges=()),
        frame=FrameChoice(keep=keep),
    )
    found = solve(PHOTO, recipe)
    drawn = np.array(found.readings[0].corrected_points)
    # Where a line is drawn lie the pixels that lie on the straight line of the undistorted picture.
    back = found.warp.distortion.undistorted(found.warp.to_source(drawn))
    (ax, ay), (bx, by) = found.warp.distortion.undistorted(np.array(reading.points))
    off = (back[:, 0] - ax) * (by - ay) - (back[:, 1] - ay) * (bx - ax)
    assert np.abs(off / math.hypot(bx - ax, by - ay)).max() < 1e-6
    assert len(drawn) > 10
    ends = found.warp.to_corrected(np.array(reading.points))
    assert np.array(found.readings[0].corrected_hand_points) == pytest.approx(ends, abs=1e-9)
    assert np.array(found.marks.keep_vertices) == pytest.approx(
        found.warp.to_corrected(
            np.array([[900, 500], [1900, 500], [1900, 1500], [900, 1500]], dtype=float)
        )
    )


def test_the_grid_that_the_screen_draws_by_follows_the_bending() -> None:
    photo = PhotoFacts(width=6000, height=4000, focal35_mm=24)
    found = solve(photo, Recipe(trim=Trim(roll_deg=5), bend=BendChoice(corners=1, edges=())))
    assert found.bend
    grid, bending = found.bend.grid, found.warp.bending
    assert bending
    knots = np.array(grid.places).reshape(grid.rows, grid.columns, 2)
    rows = grid.top + grid.step * np.arange(grid.rows)
    columns = grid.left + grid.step * np.arange(grid.columns)
    between = RegularGridInterpolator((rows, columns), knots)
    low, high = [columns[0], rows[0]], [columns[-1], rows[-1]]
    places = np.random.default_rng(1).uniform(low, high, (20_000, 2))
    off = np.hypot(*(between(places[:, ::-1]) - bending.bent(places)).T)
    assert off.max() < 4
    assert np.median(off) < 0.2
    assert len(grid.growth) == bending.rows * bending.columns
    assert "mesh" not in json.loads(found.model_dump_json())["bend"]


def test_several_edits_lead_where_one_after_the_other_would() -> None:
    # The second is placed on what the first makes of the picture: with its edges, not without.
    edge = ((200.0, 1700.0), (2800.0, 1650.0))
    lookups = OfPixels(PHOTO, np.zeros((1, 1, 3), np.uint8), edges=(edge,))
    turned = Recipe(trim=Trim(roll_deg=5), readings=(line("level", 300, 500, 2700, 620),))
    first = ShareCorners(bend=1, fill=0)
    second = DrawReading(
        id="b", kind="level", points=((600, 1500), (2400, 1480)), zoom=1, seen="corrected"
    )
    together = advance(PHOTO, turned, (first, second), lookups).recipe
    after_first = advance(PHOTO, turned, (first,), lookups).recipe
    assert advance(PHOTO, after_first, (second,), lookups).recipe == together


def test_a_way_is_not_left_out_because_the_picture_cannot_be_read() -> None:
    class Gone(OfPixels):
        def edges(self) -> Edges:
            raise UnusableInput("The original is gone.")

    lookups = Gone(PHOTO, np.zeros((1, 1, 3), np.uint8))
    with pytest.raises(UnusableInput, match="gone"):
        corner_ways(PHOTO, Recipe(trim=Trim(roll_deg=5)), lookups)


@pytest.mark.parametrize(("name", "deg"), [("left.jpg", 8.0), ("right.jpg", 4.0)])
def test_more_of_a_picture_is_kept_than_by_the_first_attempts(name: str, deg: float) -> None:
    """Photographs of Debian's opencv-doc, with what LSD finds in them; how many of all there are
    kept whole is measured by tests/bench/test_bending.py.
    """
    pixels = open_photograph(name)
    height, width = pixels.shape[:2]
    photo, edges = PhotoFacts(width=width, height=height, focal35_mm=28), straight_edges(pixels)

    def bent(persistent: bool) -> Solution:
        choice = BendChoice(corners=1, edges=edges, persistent=persistent)
        return solve(photo, Recipe(trim=Trim(roll_deg=deg), bend=choice))

    def straight(solution: Solution) -> float:
        """The share of edges that sag by less than a thousandth of their length."""
        sags = []
        for a, b in edges:
            line = np.array(a) + np.linspace(0, 1, 41)[:, None] * (np.array(b) - np.array(a))
            there = solution.warp.to_corrected(line)
            (x, y), length = there[-1] - there[0], math.hypot(*(there[-1] - there[0]))
            sags.append(float(np.abs((there - there[0]) @ (-y, x)).max()) / length**2)
        return float((np.array(sags) < 0.001).mean())

    before, now = bent(persistent=False), bent(persistent=True)
    assert before.kept_fraction < 0.96
    assert now.kept_fraction > 0.985
    assert now.bend is not None
    assert now.bend.max_stretch <= now.bend.limit + 1e-6
    assert straight(now) >= straight(before) - 0.03
