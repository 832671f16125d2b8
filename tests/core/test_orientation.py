"""Roll, lean and swing together.

Against cameras whose stance is known and against the relations of a textbook.

Hartley & Zisserman is *Multiple View Geometry in Computer Vision*, 2nd edition.
"""

import math

import numpy as np
import pytest

from sequor.core.camera import (
    Matrix,
    Stance,
    apply_homography,
    focal35_of,
    focal_px_of,
    rotation,
    stance_of,
)
from sequor.core.errors import UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Ease, Hold, Reading, Recipe, Trim
from sequor.core.solve import solve
from sequor.core.stance.orientation import measure_stance
from sequor.core.warp.limits import SAFE_STRETCH
from tests.conftest import line, notes_of, said_of
from tests.edited import apply

PHOTO = PhotoFacts(width=6000, height=4000, focal35_mm=26)
FREE = Hold()


def turned(roll: float, lean: float, swing: float) -> Matrix:
    """R_y R_x R_z from the definition, in degrees; written apart from the solver's code."""

    def about(axis: int, angle: float) -> Matrix:
        c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        i, j = [(1, 2), (2, 0), (0, 1)][axis]
        m = np.eye(3)
        m[i, i] = m[j, j] = c
        m[i, j], m[j, i] = -s, s
        return m

    return about(1, swing) @ about(0, lean) @ about(2, roll)


def camera_matrix(photo: PhotoFacts) -> Matrix:
    focal = focal_px_of(photo.focal35_mm, photo)
    return np.array([[focal, 0, photo.width / 2], [0, focal, photo.height / 2], [0, 0, 1]])


def readings_of(
    random: np.random.Generator,
    stance: tuple[float, float, float],
    plumb: int,
    level: int,
    noise: float = 0.0,
):
    """Lines of a scene's upright and level directions as a camera sees them.

    Half of each kind on either side of the picture.
    """
    k, r = camera_matrix(PHOTO), turned(*stance)
    wide, high = PHOTO.width, PHOTO.height
    found = []
    while len(found) < plumb + level:
        upright = len(found) < plumb
        vanishing = k @ r.T @ np.array([0.0, 1.0, 0.0] if upright else [1.0, 0.0, 0.0])
        side = (len(found) - (0 if upright else plumb)) % 2
        spread = random.uniform(0.05, 0.25) if side else random.uniform(0.75, 0.95)
        along = random.uniform(0.25, 0.75)
        middle = np.array(
            [spread * wide, along * high] if upright else [along * wide, spread * high]
        )
        direction = vanishing[:2] - vanishing[2] * middle
        direction *= random.uniform(300, 900) / np.hypot(*direction)
        ends = np.array([middle - direction, middle + direction]) + random.normal(0, noise, (2, 2))
        if ends.min() < 0 or ends[:, 0].max() > wide or ends[:, 1].max() > high:
            continue
        found.append(
            line(
                "plumb" if upright else "level",
                *ends.ravel(),
                id=str(len(found)),
                sigma_px=noise or 0.1,
            )
        )
    return tuple(found)


def a_stance(random: np.random.Generator) -> tuple[float, float, float]:
    return random.uniform(-10, 10), random.uniform(-20, 20), random.uniform(-30, 30)


def in_degrees(stance: Stance) -> list[float]:
    return [math.degrees(v) for v in (stance.roll_rad, stance.lean_rad, stance.swing_rad)]


def test_readings_without_noise_return_the_stance() -> None:
    random = np.random.default_rng(1)
    worst = 0.0
    for _ in range(1500):
        stance = a_stance(random)
        readings = readings_of(random, stance, random.integers(2, 5), random.integers(2, 5))
        found = measure_stance(PHOTO, readings, 26, FREE)
        worst = max(worst, *np.abs(np.subtract(in_degrees(found.stance), stance)))
        assert found.determined == (True, True, True)
        assert not found.outliers
    assert worst < 1e-6


def test_stated_deviations_agree_with_the_errors() -> None:
    random = np.random.default_rng(2)
    errors, stated = [], []
    for _ in range(1500):
        stance = a_stance(random)
        found = measure_stance(PHOTO, readings_of(random, stance, 3, 3, noise=1.5), 26, FREE)
        errors.append(np.subtract(in_degrees(found.stance), stance))
        stated.append(np.degrees(found.sigma_rad))
    covered = np.mean(np.abs(errors) < 1.96 * np.array(stated), axis=0)
    assert covered == pytest.approx([0.95] * 3, abs=0.02)
    # The whole distribution, not its tails alone.
    assert np.std(np.divide(errors, stated), axis=0) == pytest.approx([1.0] * 3, abs=0.06)


def test_what_is_not_measured_stays_at_zero() -> None:
    random = np.random.default_rng(3)
    alone = Recipe(readings=readings_of(random, (2.0, 0.0, 0.0), 1, 0))
    one = solve(PHOTO, alone)
    assert (one.stance.lean.applied_deg, one.stance.swing.applied_deg) == (0, 0)
    assert one.stance.lean.measured_deg is None
    assert said_of(PHOTO, alone).lean.sigma == "not measured, taken as none"
    leaning = solve(PHOTO, Recipe(readings=readings_of(random, (2.0, 9.0, 0.0), 2, 0))).stance
    assert (leaning.roll_deg, leaning.lean_deg, leaning.swing_deg) == pytest.approx(
        (2, 9, 0), abs=1e-6
    )
    swung = solve(PHOTO, Recipe(readings=readings_of(random, (-1.0, 0.0, 15.0), 0, 2))).stance
    assert (swung.roll_deg, swung.lean_deg, swung.swing_deg) == pytest.approx((-1, 0, 15), abs=1e-6)
    close = (
        line("plumb", 3000, 500, 3010, 3500, id="a"),
        line("plumb", 3030, 500, 3044, 3500, id="b"),
    )
    assert (
        solve(PHOTO, Recipe(readings=close)).stance.lean_deg == 0
    )  # two edges of one post say nothing of the lean


def test_vanishing_points_and_the_horizon() -> None:
    # H & Z, section 8.6: vanishing points of orthogonal directions satisfy v1^T w v2 = 0 with w =
    # (K K^T)^-1; result 8.16: the horizon is the vanishing line of the ground, l = w v of the
    # vertical; both become ideal under H = K R K^-1.
    random = np.random.default_rng(4)
    for _ in range(50):
        stance = a_stance(random)
        readings = readings_of(random, stance, 2, 2)
        h = solve(PHOTO, Recipe(readings=readings)).warp.homography
        meets = [
            np.cross(
                *(
                    np.cross([*r.points[0], 1.0], [*r.points[1], 1.0])
                    for r in readings
                    if r.kind == kind
                )
            )
            for kind in ("plumb", "level")
        ]
        k = camera_matrix(PHOTO)
        conic = np.linalg.inv(k @ k.T)
        up, across = (v / np.linalg.norm(v) for v in meets)
        scale = math.sqrt((up @ conic @ up) * (across @ conic @ across))
        assert abs(up @ conic @ across) / scale < 1e-9
        upright, level = h @ up, h @ across
        assert abs(upright[[0, 2]] @ [1, 6000]) < 1e-6 * abs(upright[1])  # straight up, at infinity
        assert abs(level[[1, 2]] @ [1, 6000]) < 1e-6 * abs(level[0])
        horizon = np.linalg.inv(h).T @ (conic @ up)
        assert abs(horizon[0]) < 1e-9 * abs(horizon[1])  # a line y = constant
        # (v1 - c) . (v2 - c) + f^2 = 0 for square pixels with the principal point c (H & Z, example
        # 8.27).
        if abs(up[2]) > 1e-6 and abs(across[2]) > 1e-6:
            product = (up[:2] / up[2] - [3000, 2000]) @ (across[:2] / across[2] - [3000, 2000])
            assert product == pytest.approx(-(focal_px_of(26, PHOTO) ** 2), rel=1e-6)


def test_the_stance_of_a_rotation() -> None:
    for stance in (Stance(0.3, -0.2, 0.5), Stance(3.0, 1.2, -1.4), Stance()):
        again = stance_of(rotation(stance))
        assert in_degrees(again) == pytest.approx(in_degrees(stance), abs=1e-9)


def test_axes_can_be_held() -> None:
    random = np.random.default_rng(5)
    readings = readings_of(random, (1.0, 12.0, 0.0), 2, 0)
    held = solve(PHOTO, Recipe(readings=readings, hold=Hold(lean_deg=0.0)))
    assert held.stance.lean_deg == 0
    assert held.stance.lean.held
    recipe = Recipe(readings=readings, hold=Hold(lean_deg=0.0))
    (note,) = notes_of(PHOTO, recipe, "is held")
    assert "pointed 12.00° up" in note.text
    freed = apply(note.offers[0].edit, recipe, PHOTO)
    assert solve(PHOTO, freed).stance.lean_deg == pytest.approx(12, abs=1e-6)
    fixed = solve(
        PHOTO, Recipe(readings=readings, hold=Hold(roll_deg=1.0, lean_deg=12.0, swing_deg=3.0))
    ).stance
    assert (fixed.roll_deg, fixed.lean_deg, fixed.swing_deg) == pytest.approx((1, 12, 3))
    part = solve(PHOTO, Recipe(readings=readings, hold=Hold(roll_deg=1.0))).stance
    assert part.lean_deg == pytest.approx(12, abs=1e-6)


def test_trim_comes_on_top_of_each_axis() -> None:
    random = np.random.default_rng(6)
    readings = readings_of(random, (1.0, 8.0, -6.0), 2, 2)
    trim = Trim(roll_deg=0.2, lean_deg=-1.0, swing_deg=0.5)
    recipe = Recipe(readings=readings, trim=trim)
    stance, report = solve(PHOTO, recipe).stance, said_of(PHOTO, recipe)
    assert (stance.roll_deg, stance.lean_deg, stance.swing_deg) == pytest.approx(
        (1.2, 7.0, -5.5), abs=1e-6
    )
    assert report.lean.as_shot == "7.00° up"
    assert report.swing.as_shot == "5.50° left"


@pytest.mark.parametrize("share", [0.0, 0.5, 0.94, 1.0])
def test_ease_leaves_a_camera_with_the_rest_of_the_stance(share: float) -> None:
    stance = (1.5, 14.0, 20.0)
    readings = readings_of(np.random.default_rng(7), stance, 2, 2)
    solution = solve(PHOTO, Recipe(readings=readings, ease=Ease(lean=share, swing=share)))
    # What an eased picture shows is what a camera shows that stands level and leans and swings by
    # the rest.
    k = camera_matrix(PHOTO)
    rest = turned(0.0, (1 - share) * 14.0, (1 - share) * 20.0)
    expected = k @ rest.T @ turned(*stance) @ np.linalg.inv(k)
    points = np.array([[100.0, 200.0], [5800.0, 300.0], [3000.0, 2000.0], [900.0, 3900.0]])
    shown, wanted = (
        apply_homography(solution.warp.homography, points),
        apply_homography(expected, points),
    )
    assert shown - shown[0] == pytest.approx(wanted - wanted[0], abs=1e-4)
    rolled = solve(
        PHOTO, Recipe(readings=readings, ease=Ease(lean=0, swing=0, roll=0))
    ).warp.homography
    assert rolled / rolled[2, 2] == pytest.approx(np.eye(3), abs=1e-6)


def test_proportion_stretches_height_against_width() -> None:
    tall = solve(PHOTO, Recipe(proportion=1.21))
    assert tall.plane.height / tall.plane.width == pytest.approx(1.21 * 4000 / 6000)
    assert tall.plane.height * tall.plane.width == pytest.approx(6000 * 4000)


def test_more_than_a_safe_warp_is_limited_and_said() -> None:
    recipe = Recipe(trim=Trim(lean_deg=60))
    steep = solve(PHOTO, recipe)
    assert steep.stance.limited
    assert 0 < steep.stance.lean_deg < 60
    h = steep.warp.homography
    third = [abs(h[2] @ [x, y, 1]) for x in (0, 6000) for y in (0, 4000)]
    assert min(third) == pytest.approx(abs(h[2] @ [3000, 2000, 1]) / SAFE_STRETCH, rel=1e-6)
    (note,) = notes_of(PHOTO, recipe, "would stretch")
    assert "Taking out 60.00° up would" in note.text
    assert "swing" not in note.text  # of an axis that is at zero nothing is said
    held = apply(note.offers[0].edit, recipe, PHOTO)
    assert solve(PHOTO, held).stance.lean_deg == 0  # what was added by hand goes too
    both = Recipe(trim=Trim(lean_deg=60, swing_deg=40))
    (note,) = notes_of(PHOTO, both, "would stretch")
    assert "60.00° up and 40.00° right" in note.text
    assert [offer.edit.axis for offer in note.offers] == ["lean", "swing"]
    mild = solve(PHOTO, Recipe(trim=Trim(lean_deg=16)))
    assert not mild.stance.limited


def test_the_focal_length_is_estimated_where_the_readings_determine_it() -> None:
    random = np.random.default_rng(8)
    readings = readings_of(random, (1.0, 15.0, 25.0), 4, 4, noise=0.2)
    unknown = PHOTO.model_copy(update={"focal35_mm": None})
    focal = solve(unknown, Recipe(readings=readings)).focal
    assert (focal.focal35_mm, focal.source) == (35, "assumed")
    assert focal.estimate35_mm == pytest.approx(26, abs=2 * focal.estimate_sigma_mm)
    assert focal.estimate_sigma_mm < 2
    (note,) = notes_of(unknown, Recipe(readings=readings), "assumed")
    taken = apply(note.offers[0].edit, Recipe(readings=readings), unknown)
    assert taken.focal35_mm == pytest.approx(focal.estimate35_mm, abs=0.06)
    stated = solve(unknown, Recipe(readings=readings, focal35_mm=26))
    assert stated.focal.source == "stated"
    assert stated.stance.swing_deg == pytest.approx(25, abs=0.3)
    # A front seen square on has one vanishing point at infinity and says nothing of the focal
    # length.
    assert (
        solve(
            unknown, Recipe(readings=readings_of(random, (1.0, 15.0, 0.0), 4, 4, noise=1.0))
        ).focal.estimate35_mm
        is None
    )


def test_estimates_of_the_focal_length_agree_with_their_deviation() -> None:
    random = np.random.default_rng(9)
    off = []
    for _ in range(200):
        found = measure_stance(
            PHOTO, readings_of(random, (1.0, 16.0, -26.0), 4, 4, noise=0.6), 35, FREE
        )
        if found.focal:
            off.append(
                (focal35_of(found.focal.focal_px, PHOTO) - 26)
                / focal35_of(found.focal.sigma_px, PHOTO)
            )
    assert len(off) > 150
    assert np.mean(np.abs(off) < 1.96) == pytest.approx(0.95, abs=0.04)


@pytest.mark.parametrize("count", [0, 1, 200])
def test_any_number_of_readings(count: int) -> None:
    random = np.random.default_rng(10)
    readings = readings_of(
        random, (1.0, 5.0 if count > 1 else 0.0, 0.0), count // 2 + count % 2, count // 2, noise=1.0
    )
    solution = solve(PHOTO, Recipe(readings=readings))
    assert len(solution.readings) == count
    assert solution.stance.roll_deg == pytest.approx(1.0 if count else 0.0, abs=0.5)
    if count == 200:
        assert solution.stance.lean_deg == pytest.approx(5.0, abs=0.1)


def test_a_check_steers_nothing_and_is_measured_from_the_nearer_direction() -> None:
    check = line("check", 500, 500, 3500, 600, id="k")
    upright = line("check", 500, 500, 520, 3000, id="u")
    off = line("level", 100, 100, 5000, 900, id="off").model_copy(update={"active": False})
    solution = solve(PHOTO, Recipe(readings=(check, upright, off)))
    assert solution.stance.roll_deg == 0
    assert [reading.reads_as for reading in solution.readings] == ["level", "plumb", "level"]
    assert solution.readings[0].residual_deg == pytest.approx(math.degrees(math.atan2(100, 3000)))
    assert solution.readings[1].residual_deg == pytest.approx(-math.degrees(math.atan2(20, 2500)))


@pytest.mark.parametrize(
    "bad",
    [
        {"focal35_mm": 0},
        {"focal35_mm": 1e9},
        {"focal35_mm": float("nan")},
        {"hold": {"lean_deg": 200}},
        {"hold": {"yaw_deg": 1}},
        {"ease": {"lean": 1.5}},
        {"proportion": 0.1},
        {"trim": {"swing_deg": float("inf")}},
    ],
)
def test_recipes_refuse_absurd_stances(bad: dict) -> None:
    with pytest.raises(ValueError, match="validation error"):
        Recipe.model_validate(bad)


def test_a_reading_outside_is_refused_whatever_the_stance() -> None:
    with pytest.raises(UnusableInput, match="outside the picture"):
        solve(PHOTO, Recipe(readings=(Reading(id="a", kind="check", points=((0, 0), (6001, 10))),)))
