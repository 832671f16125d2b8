"""Exact where it can be, honest where it cannot: the stance in every picture.

Closed forms after Hartley & Zisserman, *Multiple View Geometry*, 2nd ed., section 8.6 (the
vanishing line of the ground plane), and elementary geometry.
"""

import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.optimize import least_squares

from sequor.core.camera import Matrix, focal_px_of
from sequor.core.edges.fitting import Expected, fit_edge
from sequor.core.edits import HoldAxis, KeepMeasured, LeaveAxisIn, ReadAs
from sequor.core.errors import UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Hold, Reading, Recipe
from sequor.core.report.words import focal_words
from sequor.core.solve import solve
from sequor.core.stance.expecting import expected_angle
from sequor.core.stance.eye_level import tilt_by_direction
from sequor.core.stance.orientation import measure_stance
from tests.conftest import line, notes_of, said_of
from tests.core.test_orientation import in_degrees, turned
from tests.edited import apply

LANDSCAPE = PhotoFacts(width=6000, height=4000, focal35_mm=35)


def k_of(photo: PhotoFacts) -> Matrix:
    focal = focal_px_of(photo.focal35_mm or 35, photo)
    return np.array([[focal, 0, photo.width / 2], [0, focal, photo.height / 2], [0, 0, 1]])


def seen(
    photo: PhotoFacts,
    stance: tuple[float, float, float],
    direction: tuple[float, float, float],
    middle: tuple[float, float],
    half_px: float,
    kind: str,
    **more: object,
) -> Reading | None:
    """The line of a direction of the world through a point of the picture; None beside it."""
    vanishing = k_of(photo) @ turned(*stance).T @ np.array(direction)
    along = vanishing[:2] - vanishing[2] * np.array(middle)
    far = abs(vanishing[2]) < 1e-12 or np.hypot(*(vanishing[:2] / vanishing[2] - middle)) > half_px
    if not far or not np.hypot(*along):
        return None
    along *= half_px / np.hypot(*along)
    ends = np.array([np.array(middle) - along, np.array(middle) + along])
    if ends.min() < 0 or (ends > [photo.width, photo.height]).any():
        return None
    return line(kind, *ends.ravel(), **more)


def horizon_of(photo: PhotoFacts, stance: tuple[float, float, float], **more: object) -> Reading:
    a, b, c = np.linalg.inv(k_of(photo)).T @ turned(*stance).T @ [0.0, 1.0, 0.0]
    x = np.array([0.1, 0.9]) * photo.width
    y = -(a * x + c) / b
    return line("horizon", x[0], y[0], x[1], y[1], **more)


def random_picture(random: np.random.Generator):
    """Any camera, any stance up to roll 45, lean 40, swing 45, and lines as it sees them."""
    width = int(10 ** random.uniform(2.6, 4))
    height = int(width * random.uniform(0.5, 1.5))
    focal = math.exp(random.uniform(math.log(14), math.log(400)))
    photo = PhotoFacts(width=width, height=height, focal35_mm=focal)
    stance = tuple(float(random.uniform(-most, most)) for most in (45, 40, 45))
    readings = []
    for kind in ["plumb"] * random.integers(0, 5) + ["level"] * random.integers(0, 5):
        direction = (0.0, 1.0, 0.0) if kind == "plumb" else (1.0, 0.0, 0.0)
        for _ in range(40):
            middle = (random.uniform(0.05, 0.95) * width, random.uniform(0.05, 0.95) * height)
            half = max(10.0, random.uniform(0.05, 0.3) * min(width, height))
            found = seen(photo, stance, direction, middle, half, kind, id=str(len(readings)))
            if found:
                readings.append(found)
                break
    return photo, stance, tuple(readings)


def test_consistent_readings_are_never_called_wrong_and_determined_stances_are_exact() -> None:
    random = np.random.default_rng(1)
    exact = 0
    for _ in range(700):
        photo, stance, readings = random_picture(random)
        if not readings:
            continue
        found = measure_stance(photo, readings, photo.focal35_mm, Hold())
        assert not found.outliers
        assert not found.suspects
        plumbs = sum(reading.kind == "plumb" for reading in readings)
        levels = len(readings) - plumbs
        whole = (plumbs >= 2 and levels >= 1) or (plumbs == 1 and levels >= 2)
        if whole and all(found.determined):
            exact += 1
            assert in_degrees(found.stance) == pytest.approx(stance, abs=1e-6)
    assert exact > 200


def test_what_was_not_measured_to_be_zero_is_not_said_to_be() -> None:
    # With the swing at zero these four lines seem to measure it; where they put it they do not.
    photo, stance = PhotoFacts(width=1026, height=785, focal35_mm=59.4), (-6.9, -18.18, -2.006)
    places = [((185.0, 595.1), 143.3, "plumb"), ((910.3, 95.0), 64.1, "plumb")]
    places += [((143.7, 86.9), 61.6, "level"), ((457.8, 243.5), 208.6, "level")]
    readings = [
        seen(photo, stance, (0, 1, 0) if kind == "plumb" else (1, 0, 0), at, half, kind, id=str(i))
        for i, (at, half, kind) in enumerate(places)
    ]
    found = measure_stance(photo, tuple(readings), photo.focal35_mm, Hold())
    measured = np.array(found.determined)
    assert measured[0]
    off = np.abs(np.subtract(in_degrees(found.stance), stance))
    assert (off[measured] < 1e-6).all()


@pytest.mark.parametrize(
    ("photo", "stance"),
    [
        (PhotoFacts(width=1200, height=800, focal35_mm=85), (0.7, 8.0, 10.0)),
        (PhotoFacts(width=1200, height=800, focal35_mm=85), (0.7, 8.0, 15.0)),
        (PhotoFacts(width=3000, height=2000, focal35_mm=135), (0.7, 8.0, 15.0)),
    ],
)
def test_no_prior_pulls_a_long_lens(photo: PhotoFacts, stance: tuple[float, float, float]) -> None:
    w, h = photo.width, photo.height
    places = [((0.2 * w, 0.5 * h), "plumb"), ((0.8 * w, 0.5 * h), "plumb")]
    places += [((0.5 * w, 0.2 * h), "level"), ((0.5 * w, 0.8 * h), "level")]
    readings = [
        seen(photo, stance, (0, 1, 0) if kind == "plumb" else (1, 0, 0), at, 160, kind, id=str(i))
        for i, (at, kind) in enumerate(places)
    ]
    solution = solve(photo, Recipe(readings=tuple(readings)))
    assert not any(reading.outlier for reading in solution.readings)
    for axis, degrees in zip(("roll", "lean", "swing"), stance, strict=True):
        assert solution.stance.axis(axis).as_shot_deg == pytest.approx(degrees, abs=1e-6)


@pytest.mark.parametrize("lean", [-8.0, 0.0, 3.0, 14.0])
@pytest.mark.parametrize("swing", [0.0, 25.0])
def test_a_horizon_gives_roll_and_lean_whatever_the_swing(lean: float, swing: float) -> None:
    reading = horizon_of(LANDSCAPE, (1.7, lean, swing), id="h")
    stance = solve(LANDSCAPE, Recipe(readings=(reading,))).stance
    assert stance.roll_deg == pytest.approx(1.7, abs=1e-6)
    # The signed distance of the horizon from the principal point over the focal length.
    (ax, ay), (bx, by) = reading.points
    across = np.array([by - ay, ax - bx]) / math.dist(*reading.points)
    distance = across @ [3000 - ax, 2000 - ay]
    expected = math.degrees(math.atan(distance / focal_px_of(35, LANDSCAPE)))
    assert abs(stance.lean.measured_deg) == pytest.approx(abs(expected), abs=1e-6)
    assert stance.lean.measured_deg == pytest.approx(lean, abs=1e-6)
    # A landscape keeps its lean.
    assert stance.lean.left_in
    assert stance.lean_deg == 0


def test_a_level_line_that_runs_away_is_tilted_by_the_product_of_tangents() -> None:
    # 15 degrees below eye level and 10 degrees from square: 2.7 degrees, whatever the roll.
    assert math.degrees(tilt_by_direction(math.radians(15), math.radians(10))) == pytest.approx(
        2.7, abs=0.01
    )
    away = math.radians(10)
    below = 2000 + math.tan(math.radians(15)) * focal_px_of(35, LANDSCAPE)
    direction = (math.cos(away), 0.0, math.sin(away))
    reading = seen(LANDSCAPE, (0, 0, 0), direction, (3000, below), 400, "level", id="a")
    assert reading is not None
    solution = solve(LANDSCAPE, Recipe(readings=(reading,)))
    assert abs(solution.stance.roll_deg) == pytest.approx(2.7, abs=0.01)
    # That is within what is stated, and a note says it.
    assert solution.stance.roll.sigma_deg * 1.96 > 2.7
    (note,) = notes_of(LANDSCAPE, Recipe(readings=(reading,)), "may run away")
    assert "2.7° off" in note.text
    assert "nearer to eye level" in note.text


def test_near_levels_of_random_direction_are_covered_by_what_is_stated() -> None:
    random = np.random.default_rng(3)
    inside = []
    while len(inside) < 800:
        stance = (random.uniform(-4, 4), random.normal(0, 5), 0.0)
        away = math.radians(random.normal(0, 10))
        direction = (math.cos(away), 0.0, math.sin(away))
        middle = (random.uniform(2000, 4000), random.uniform(2800, 3700))
        reading = seen(LANDSCAPE, stance, direction, middle, 500, "level", id="a", sigma_px=2.0)
        if reading is None:
            continue
        moved = np.array(reading.points) + random.normal(0, 2, (2, 2))
        noisy = reading.model_copy(update={"points": tuple(map(tuple, moved.tolist()))})
        found = measure_stance(LANDSCAPE, (noisy,), 35, Hold())
        error = in_degrees(found.stance)[0] - stance[0]
        inside.append(abs(error) < 1.96 * math.degrees(found.sigma_rad[0]))
    assert np.mean(inside) == pytest.approx(0.95, abs=0.02)


def test_one_press_changes_what_stays_in() -> None:
    readings = tuple(
        seen(
            LANDSCAPE, (1.0, 6.0, 12.0), (0, 1, 0) if k == "plumb" else (1, 0, 0), at, 600, k, id=n
        )
        for n, k, at in (
            ("a", "plumb", (800, 2000)),
            ("b", "plumb", (5200, 2000)),
            ("c", "level", (3000, 700)),
            ("d", "level", (3000, 3300)),
        )
    )
    front = Recipe(readings=readings)
    taken = solve(LANDSCAPE, front).stance
    assert (taken.roll_deg, taken.lean_deg, taken.swing_deg) == pytest.approx((1, 6, 12), abs=1e-6)
    left = apply(LeaveAxisIn(axis="swing"), front, LANDSCAPE)
    solution = solve(LANDSCAPE, left)
    assert solution.stance.swing.left_in
    assert solution.stance.swing.decided
    assert said_of(LANDSCAPE, left).swing.applied == "12.00° right left in"
    # What stays is seen as a camera sees it that stood level and upright, swung by the rest.
    rest = k_of(LANDSCAPE) @ turned(0, 0, 12).T @ turned(1, 6, 12) @ np.linalg.inv(k_of(LANDSCAPE))
    h = solution.warp.homography
    both = [
        m / m[2, 2] for m in (h, np.array([[1, 0, h[0, 2]], [0, 1, h[1, 2]], [0, 0, 1]]) @ rest)
    ]
    corners = np.array([[0, 0, 1], [6000, 0, 1], [6000, 4000, 1], [0, 4000, 1]]).T
    shown, wanted = (m @ corners for m in both)
    shown, wanted = shown[:2] / shown[2], wanted[:2] / wanted[2]
    assert shown - shown[:, :1] == pytest.approx(wanted - wanted[:, :1], abs=1e-4)
    chosen = apply(LeaveAxisIn(axis="swing", leave=None), left, LANDSCAPE)
    assert solve(LANDSCAPE, chosen).stance.swing_deg == pytest.approx(12, abs=1e-6)
    # Holding ends it, and leaving in lets go of what was held.
    held = apply(HoldAxis(axis="swing", deg=3), left, LANDSCAPE)
    assert solve(LANDSCAPE, held).stance.swing_deg == pytest.approx(3)
    again = apply(LeaveAxisIn(axis="swing"), held, LANDSCAPE)
    assert again.hold.swing_deg is None
    trace = Reading(id="t", kind="trace", points=((10, 10), (500, 20), (900, 10)))
    with pytest.raises(UnusableInput, match="stays a trace"):
        apply(ReadAs(id="t", kind="level"), Recipe(readings=(trace,)), LANDSCAPE)


def test_no_focal_length_is_made_up_where_nothing_tells_it() -> None:
    # Exact lines and no swing: one vanishing point is at infinity, so that any focal length fits.
    random = np.random.default_rng(5)
    for true_mm in (14.0, 18.0, 24.0, 35.0, 70.0):
        photo = PhotoFacts(width=6000, height=4000, focal35_mm=true_mm)
        for _ in range(8):
            stance = (random.uniform(-3, 3), random.uniform(-15, 15), 0.0)
            readings = []
            for kind, x, y in (
                *(("plumb", x, 2000) for x in (700, 2500, 5300)),
                *(("level", 3000, y) for y in (500, 1800, 3500)),
            ):
                way = (0, 1, 0) if kind == "plumb" else (1, 0, 0)
                found = seen(photo, stance, way, (x, y), 400, kind, id=f"{kind}{x}{y}")
                readings += [found] if found else []
            unknown = photo.model_copy(update={"focal35_mm": None})
            assert solve(unknown, Recipe(readings=tuple(readings))).focal.estimate35_mm is None


def test_a_deviation_is_never_none() -> None:
    assert focal_words(35.0, 0.004) == "35.000 ± 0.004 mm"
    assert focal_words(35.2, 3.0) == "35 ± 3 mm"


def test_an_assumed_focal_length_says_what_the_proportions_may_be_off() -> None:
    stance = (0.0, 12.0, 20.0)
    photo = LANDSCAPE.model_copy(update={"focal35_mm": 24.0})
    lines = [
        seen(photo, stance, (0, 1, 0) if k == "plumb" else (1, 0, 0), at, 500, k, id=n)
        for n, k, at in (
            ("a", "plumb", (800, 2000)),
            ("b", "plumb", (5200, 2000)),
            ("c", "level", (3000, 900)),
        )
    ]
    unknown = photo.model_copy(update={"focal35_mm": None})
    (note,) = notes_of(unknown, Recipe(readings=tuple(lines)), "is assumed")
    assert "height against width may be" in note.text
    assert not notes_of(photo, Recipe(readings=tuple(lines)), "is assumed")


def test_the_frame_keeps_what_was_measured_where_it_costs_little() -> None:
    # A line near the top: the largest frame of a picture turned by 4 degrees cuts it.
    tilt = math.tan(math.radians(4.0))
    edge = line("level", 2200, 120, 3200, 120 + 1000 * tilt, id="a")
    recipe = Recipe(readings=(edge,))
    kept = solve(LANDSCAPE, recipe)
    assert kept.kept_measured
    free = solve(LANDSCAPE, apply(KeepMeasured(keep=False), recipe, LANDSCAPE))
    assert not free.kept_measured

    def inside(solution) -> bool:
        frame, ends = solution.frame, solution.warp.to_corrected(np.array(edge.points))
        low, high = [frame.x, frame.y], [frame.x + frame.width, frame.y + frame.height]
        return bool((ends >= np.array(low) - 1).all() and (ends <= np.array(high) + 1).all())

    assert (inside(kept), inside(free)) == (True, False)
    cost = kept.frame.width * kept.frame.height / (free.frame.width * free.frame.height)
    assert 2 / 3 <= cost <= 1
    assert said_of(LANDSCAPE, recipe).placing.startswith("keeps what you measured")
    # What would cost more than a third is cut.
    dear = Recipe(readings=(line("level", 200, 20, 5800, 20 + 5600 * tilt, id="a"),))
    assert not solve(LANDSCAPE, dear).kept_measured


FOUR = (("plumb", 0.2, 0.5), ("plumb", 0.8, 0.5), ("level", 0.5, 0.2), ("level", 0.5, 0.8))


def four_lines(
    photo: PhotoFacts, stance: tuple[float, float, float], half_px: float
) -> tuple[Reading, ...]:
    """Two plumb and two level lines, far apart."""
    found = (
        seen(
            photo,
            stance,
            (0, 1, 0) if kind == "plumb" else (1, 0, 0),
            (x * photo.width, y * photo.height),
            half_px,
            kind,
            id=str(i),
        )
        for i, (kind, x, y) in enumerate(FOUR)
    )
    return tuple(reading for reading in found if reading)


@settings(max_examples=60, deadline=None)
@given(st.floats(-20, 20), st.floats(-20, 20), st.floats(-25, 25), st.floats(20, 200))
def test_any_stance_comes_back_from_four_lines(
    roll: float, lean: float, swing: float, focal35_mm: float
) -> None:
    photo = PhotoFacts(width=6000, height=4000, focal35_mm=focal35_mm)
    readings = four_lines(photo, (roll, lean, swing), 500)
    assume(len(readings) == 4)
    found = measure_stance(photo, readings, focal35_mm, Hold())
    assert not found.outliers
    assert in_degrees(found.stance) == pytest.approx((roll, lean, swing), abs=1e-6)


def test_with_noise_the_stance_is_scipys() -> None:
    # The same sum of squares, written anew and made least by SciPy's trust region.
    random = np.random.default_rng(11)
    k = k_of(LANDSCAPE)
    for _ in range(12):
        stance = tuple(float(random.uniform(-most, most)) for most in (3, 10, 15))
        exact = four_lines(LANDSCAPE, stance, 600)
        readings = []
        for reading in exact:
            moved = np.array(reading.points) + random.normal(0, 1.5, (2, 2))
            points = tuple(map(tuple, moved.tolist()))
            readings.append(reading.model_copy(update={"points": points, "sigma_px": 1.5}))
        found = measure_stance(LANDSCAPE, tuple(readings), 35, Hold())
        assert all(found.determined)

        def off(degrees: np.ndarray, drawn: tuple[Reading, ...] = tuple(readings)) -> list[float]:
            r = turned(*degrees)
            each = []
            for reading in drawn:
                a, b = np.array(reading.points)
                meets = k @ r.T @ ([0.0, 1.0, 0.0] if reading.kind == "plumb" else [1.0, 0.0, 0.0])
                towards, along = meets[:2] - meets[2] * (a + b) / 2, b - a
                sine = (towards[0] * along[1] - towards[1] * along[0]) / np.hypot(*towards)
                angle = math.asin(sine / np.hypot(*along))
                sigma = math.hypot(math.sqrt(2) * 1.5 / np.hypot(*along), math.radians(0.01))
                each.append(angle / sigma)
            return each

        theirs = least_squares(off, stance, xtol=1e-14, ftol=1e-14, gtol=1e-14).x
        # Ours knows besides how lean and swing together tilt all levels: a product of deviations.
        assert in_degrees(found.stance) == pytest.approx(theirs, abs=1e-4)


def test_a_long_lens_without_exif_is_said_to_be_one() -> None:
    # 35 mm is assumed where 200 are true: lines that agree with each other do not with that.
    photo = PhotoFacts(width=3000, height=2000, focal35_mm=200.0)
    readings = four_lines(photo, (0.7, 5.0, 20.0), 450)
    unknown = photo.model_copy(update={"focal35_mm": None})
    assert [reading.outlier for reading in solve(unknown, Recipe(readings=readings)).readings] == [
        False
    ] * 4
    (note,) = notes_of(unknown, Recipe(readings=readings), "is assumed")
    assert "do not agree with it" in note.text


def test_what_others_expect_decides_between_two_edges() -> None:
    others = four_lines(LANDSCAPE, (1.0, 8.0, 12.0), 500)[:3]
    line_there = four_lines(LANDSCAPE, (1.0, 8.0, 12.0), 500)[3]
    rough = line_there.model_copy(
        update={
            "points": tuple((x, y + 9 * (i - 0.5)) for i, (x, y) in enumerate(line_there.points))
        }
    )
    expected = expected_angle(LANDSCAPE, Recipe(readings=(*others, rough)), rough)
    assert expected is not None
    (ax, ay), (bx, by) = line_there.points
    true_rad = math.atan2(by - ay, bx - ax)
    assert math.remainder(expected.angle_rad - true_rad, math.pi) == pytest.approx(0, abs=2e-3)
    # Nothing is expected of a front where there is none, nor with a focal length that is assumed.
    assert expected_angle(LANDSCAPE, Recipe(readings=(others[2], rough)), rough) is None
    unknown = LANDSCAPE.model_copy(update={"focal35_mm": None})
    assert expected_angle(unknown, Recipe(readings=(*others, rough)), rough) is None
    # A horizon runs as the roll has it, whatever the swing.
    far = horizon_of(LANDSCAPE, (1.0, 8.0, 12.0), id="h")
    level = expected_angle(LANDSCAPE, Recipe(readings=(*others, far)), far)
    assert level is not None
    assert math.degrees(level.angle_rad) == pytest.approx(-1.0, abs=1e-6)
    # Two edges of one strength, one on either side of the drawn line; the one as expected is taken.
    y, x = np.mgrid[0:400, 0:600] + 0.5
    edges = ((1.0, 193.0), (-1.0, 207.0))
    above = [y - at - math.tan(math.radians(a)) * (x - 300) < 0 for a, at in edges]
    grey = (110 + 50 * above[0] + 50 * above[1]).astype(np.uint8)
    picture = np.repeat(grey[:, :, None], 3, axis=2)
    for degrees, _ in edges:
        wanted = Expected(math.radians(degrees), math.radians(0.7))
        fit = fit_edge(picture, ((150.0, 200.0), (450.0, 200.0)), expected=wanted)
        assert fit is not None
        (px, py), (qx, qy) = fit.points
        assert math.degrees(math.atan2(qy - py, qx - px)) == pytest.approx(degrees, abs=0.1)


def test_the_panel_says_why_lean_and_swing_stay() -> None:
    front = Recipe(readings=four_lines(LANDSCAPE, (1.0, 6.0, 12.0), 500))
    assert said_of(LANDSCAPE, front).staying == (
        "The readings are those of a front: lean and swing are taken out."
    )
    far = Recipe(readings=(horizon_of(LANDSCAPE, (1.7, 3.0, 0.0), id="h"),))
    assert said_of(LANDSCAPE, far).staying == (
        "The readings are those of a landscape: lean is left in."
    )
    decided = apply(LeaveAxisIn(axis="lean", leave=False), far, LANDSCAPE)
    assert said_of(LANDSCAPE, decided).staying == ""
