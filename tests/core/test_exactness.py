"""Exact where it can be, honest where it cannot: the stance in every picture.

Closed forms after Hartley & Zisserman, *Multiple View Geometry*, 2nd ed., section 8.6 (the
vanishing line of the ground plane), and elementary geometry.
"""

import math

import numpy as np
import pytest

from sequor.core.camera import Matrix, focal_px_of
from sequor.core.editing import apply
from sequor.core.edits import HoldAxis, KeepMeasured, LeaveAxisIn, ReadAs
from sequor.core.errors import UnusableInput
from sequor.core.measure.eye_level import tilt_by_direction
from sequor.core.measure.orientation import measure_stance
from sequor.core.recipe import Hold, PhotoFacts, Reading, Recipe
from sequor.core.report.words import focal_words
from sequor.core.solve import solve
from tests.conftest import line, notes_of, said_of
from tests.core.test_orientation import in_degrees, turned

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
