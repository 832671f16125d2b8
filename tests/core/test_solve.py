"""What readings say together. Figures marked so are common practice, no published source."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from sequor.core.camera import Stance, apply_homography, focal_length_px, homography, rotation
from sequor.core.errors import UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Hold, Reading, Recipe, Trim
from sequor.core.report.words import turning
from sequor.core.solve import solve
from tests.conftest import line, notes_of

PHOTO = PhotoFacts(width=6000, height=4000)


def reading_at(
    tilt_deg: float,
    kind: str = "level",
    length: float = 4000,
    middle: tuple[float, float] = (3000, 2000),
    **more,
) -> Reading:
    """A reading through a point whose true direction is turned clockwise on screen by an angle."""
    along = math.radians(tilt_deg + (0 if kind == "level" else 90))
    dx, dy = length / 2 * math.cos(along), length / 2 * math.sin(along)
    return line(kind, middle[0] - dx, middle[1] - dy, middle[0] + dx, middle[1] + dy, **more)


@pytest.mark.parametrize("kind", ["level", "plumb"])
@pytest.mark.parametrize("tilt_deg", [4.03, 1.33, -1.33, 0.4, -6.0])
def test_a_reading_is_corrected_by_the_opposite_turn(kind: str, tilt_deg: float) -> None:
    # 4.03 and 1.33: the near rail and the far tree line of one picture; common practice, no
    # published source.
    solution = solve(PHOTO, Recipe(readings=(reading_at(tilt_deg, kind, length=3000),)))
    assert solution.readings[0].angle_deg == pytest.approx(tilt_deg, abs=1e-9)
    assert solution.stance.roll_deg == pytest.approx(-tilt_deg, abs=1e-9)
    assert solution.readings[0].residual_deg == pytest.approx(0, abs=1e-9)
    assert turning(solution.stance.roll_deg) != turning(solution.readings[0].angle_deg)


@given(st.floats(-44, 44), st.floats(200, 3500), st.booleans())
def test_the_direction_of_drawing_does_not_matter(
    tilt_deg: float, length: float, upright: bool
) -> None:
    reading = reading_at(tilt_deg, "plumb" if upright else "level", length)
    backwards = reading.model_copy(update={"points": reading.points[::-1]})
    one, other = (solve(PHOTO, Recipe(readings=(r,))) for r in (reading, backwards))
    assert one.stance.roll_deg == pytest.approx(other.stance.roll_deg, abs=1e-9)


def test_a_longer_reading_counts_by_the_square_of_its_length() -> None:
    # Imprecise enough to agree: readings that contradict each other are another matter.
    recipe = Recipe(
        readings=(
            reading_at(1.0, length=3000, sigma_px=30),
            reading_at(2.0, length=1000, id="b", sigma_px=30),
        ),
        hold=Hold(lean_deg=0, swing_deg=0),
    )
    solution = solve(PHOTO, recipe)
    assert solution.stance.roll_deg == pytest.approx(-(9 * 1.0 + 1 * 2.0) / 10, abs=1e-3)


def test_sigma_of_a_reading_is_root_two_sigma_over_length() -> None:
    solved = solve(PHOTO, Recipe(readings=(reading_at(0, length=2000, sigma_px=3.0),))).readings[0]
    assert solved.sigma_deg == pytest.approx(math.degrees(math.sqrt(2) * 3 / 2000))


def test_stated_deviation_of_the_roll_agrees_with_trials() -> None:
    noise = np.random.default_rng(7)
    exact = [
        reading_at(1.2, length=2500, id="a"),
        reading_at(1.2, "plumb", length=1800, id="b", sigma_px=2.0),
    ]
    rolls, stated = [], []
    for _ in range(800):
        noisy = []
        for reading in exact:
            moved = np.asarray(reading.points) + noise.normal(0, reading.sigma_px, (2, 2))
            noisy.append(reading.model_copy(update={"points": tuple(map(tuple, moved))}))
        stance = solve(PHOTO, Recipe(readings=tuple(noisy))).stance
        rolls.append(stance.roll_deg)
        stated.append(stance.roll.sigma_deg)
    assert np.std(rolls) == pytest.approx(np.median(stated), rel=0.1)
    assert np.mean(np.abs(np.add(rolls, 1.2)) < 1.96 * np.array(stated)) == pytest.approx(
        0.95, abs=0.02
    )


def test_a_short_reading_is_called_short() -> None:
    (note,) = notes_of(PHOTO, Recipe(readings=(reading_at(1, "plumb", length=60),)))
    assert note.text.startswith("Reading 1 is short")


def test_trim_comes_on_top_and_wraps() -> None:
    read = reading_at(1.0)
    assert solve(
        PHOTO, Recipe(readings=(read,), trim=Trim(roll_deg=0.25))
    ).stance.roll_deg == pytest.approx(-0.75)
    assert solve(PHOTO, Recipe(trim=Trim(roll_deg=350))).stance.roll_deg == pytest.approx(-10)


@pytest.mark.parametrize(
    ("ends", "says"),
    [
        ((10, 10, 10, 10), "Reading 1 is shorter"),
        ((-5, 10, 900, 10), "outside the picture"),
        ((10, 10, 6000.5, 10), "outside the picture"),
    ],
)
def test_readings_that_measure_nothing_are_refused(ends: tuple[float, ...], says: str) -> None:
    with pytest.raises(UnusableInput, match=says):
        solve(PHOTO, Recipe(readings=(line("level", *ends),)))


def test_recipes_refuse_nonsense_and_survive_json() -> None:
    recipe = Recipe(readings=(reading_at(1.0),), trim=Trim(roll_deg=0.1))
    assert Recipe.model_validate_json(recipe.model_dump_json()) == recipe
    with pytest.raises(ValidationError):
        line("level", 0, 0, float("nan"), 3)
    with pytest.raises(ValidationError, match="same id"):
        Recipe(readings=(reading_at(1.0), reading_at(2.0)))
    with pytest.raises(ValidationError):
        Recipe(readings=tuple(reading_at(1.0, id=str(i)) for i in range(201)))
    with pytest.raises(ValidationError, match="frozen"):
        recipe.trim = Trim()
    for ratio in ("3", "0:1", "a:b", "-3:2", "1:900", ""):
        with pytest.raises(ValidationError, match="ratio"):
            Recipe.model_validate({"frame": {"ratio": ratio}})


def test_the_convention_of_the_stance() -> None:
    # Hartley & Zisserman, 2nd ed., section 8.4.2: a rotating camera moves the picture by K R K^-1.
    middle = np.array([[3000.0, 2000.0]])
    right_of_middle = np.array([[4000.0, 2000.0]])
    rolled = apply_homography(homography(PHOTO, Stance(roll_rad=0.1)), right_of_middle)[0]
    assert rolled[1] > 2000  # clockwise on screen
    leaned = apply_homography(homography(PHOTO, Stance(lean_rad=0.1)), middle)[0]
    assert leaned[1] == pytest.approx(2000 - focal_length_px(PHOTO) * math.tan(0.1))
    swung = apply_homography(homography(PHOTO, Stance(swing_rad=0.1)), middle)[0]
    assert swung[0] == pytest.approx(3000 + focal_length_px(PHOTO) * math.tan(0.1))
    matrix = rotation(Stance(0.3, -0.2, 0.1))
    assert matrix @ matrix.T == pytest.approx(np.eye(3), abs=1e-12)


def test_focal_length_in_35_mm_terms() -> None:
    # ISO 1007 (36 x 24 mm) and CIPA DC-008, FocalLengthIn35mmFilm: a 3:2 picture 6000 wide at 36 mm
    # has f = 6000 px.
    photo = PhotoFacts(width=6000, height=4000, focal35_mm=36)
    assert focal_length_px(photo) == pytest.approx(6000)
