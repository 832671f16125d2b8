"""Edge fitting, on drawn edges of known angle and on the demo pictures' true edges."""

import math

import numpy as np
import pytest

from sequor.core.edges.fitting import fit_edge, fitted
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Reading, Recipe
from sequor.core.solve import solve


def edge_picture(
    angle_deg: float,
    noise: float,
    size: int = 620,
    seed: int = 0,
    blur: float = 0.8,
    ragged: float = 0.0,
) -> np.ndarray:
    """A dark half under a bright one through the middle, exact area coverage by a soft step.

    With noise (in grey levels); each column of a ragged edge is moved by chance (in pixels).
    """
    random = np.random.default_rng(seed)
    x, y = np.meshgrid(np.arange(size) + 0.5 - size / 2, np.arange(size) + 0.5 - size / 2)
    t = math.radians(angle_deg)
    distance = -math.sin(t) * x + math.cos(t) * y
    if ragged:
        distance = distance + random.normal(0, ragged, size)
    # A Gaussian-blurred step: the normal distribution function, by the error function.
    step = np.vectorize(math.erf)(distance / blur / math.sqrt(2)) / 2 + 0.5
    grey = 170 - 90 * step + random.normal(0, noise, step.shape)
    return np.repeat(grey[:, :, None], 3, axis=2).clip(0, 255).round().astype(np.uint8)


def ends(
    angle_deg: float, length: float = 500, size: int = 620, shift: tuple[float, float] = (0, 0)
) -> tuple:
    t = math.radians(angle_deg)
    middle = np.array([size / 2, size / 2])
    along, across = (
        np.array([math.cos(t), math.sin(t)]) * length / 2,
        np.array([-math.sin(t), math.cos(t)]),
    )
    return tuple(map(float, middle - along + across * shift[0])), tuple(
        map(float, middle + along + across * shift[1])
    )


def angle_of(points: tuple) -> float:
    (ax, ay), (bx, by) = points
    return math.degrees(math.atan2(by - ay, bx - ax))


@pytest.mark.parametrize("angle_deg", [0.0, 1.33, -4.03, 17.3, 44.9, 90.0, 133.0])
def test_a_500_pixel_edge_with_noise_to_a_hundredth_of_a_degree(angle_deg: float) -> None:
    picture = edge_picture(angle_deg, noise=4.0)
    fit = fit_edge(picture, ends(angle_deg, shift=(5.0, -4.0)))
    assert fit is not None
    assert angle_of(fit.points) == pytest.approx(angle_deg, abs=0.01)
    assert fit.stations > 200


def test_the_position_is_exact_too() -> None:
    fit = fit_edge(edge_picture(0.0, noise=0.0), ends(0.0, shift=(3.0, 3.0)))
    assert fit is not None
    assert [point[1] for point in fit.points] == pytest.approx([310.0, 310.0], abs=0.005)


def test_the_stated_deviation_agrees_with_trials() -> None:
    errors, stated = [], []
    for seed in range(40):
        fit = fit_edge(
            edge_picture(2.0, noise=6.0, size=300, seed=seed), ends(2.0, 200, 300, (2.0, -3.0))
        )
        assert fit is not None
        errors.append(math.radians(angle_of(fit.points) - 2.0))
        stated.append(fit.sigma_rad)
    # No end is said to be better than a tenth of a pixel, which this perfect edge is; so it is
    # stated with a margin.
    assert 0.2 < np.std(errors) / np.median(stated) < 1.0
    assert np.mean(np.abs(errors) < 1.96 * np.array(stated)) >= 0.95


def test_the_deviation_of_a_ragged_edge_is_neither_too_small_nor_too_large() -> None:
    # Each column of the edge lies a pixel off by chance, so that no floor hides what is
    # stated: an edge five times too sure, or five times too modest, fails.
    errors, stated = [], []
    for seed in range(80):
        picture = edge_picture(2.0, noise=4.0, size=300, seed=seed, ragged=1.0)
        fit = fit_edge(picture, ends(2.0, 200, 300, (2.0, -3.0)))
        assert fit is not None
        errors.append(math.radians(angle_of(fit.points) - 2.0))
        stated.append(fit.sigma_rad)
    assert 0.7 < np.std(errors) / np.median(stated) < 1.4
    assert 0.88 <= np.mean(np.abs(errors) < 1.96 * np.array(stated)) <= 0.995


def test_interruptions_do_not_bend_the_line() -> None:
    picture = edge_picture(1.5, noise=3.0)
    for x in range(80, 560, 60):  # posts in front of the edge, a third of it
        picture[230:390, x : x + 20] = 60
    picture[300:304, 400:470] = 240  # and something bright beside it
    fit = fit_edge(picture, ends(1.5, shift=(4.0, -5.0)))
    assert fit is not None
    assert angle_of(fit.points) == pytest.approx(1.5, abs=0.03)


def test_the_nearer_of_two_edges_is_taken() -> None:
    picture = edge_picture(0.0, noise=2.0)
    picture[317:, :] = (picture[317:, :] * 0.6).astype(np.uint8)  # another edge seven pixels below
    fit = fit_edge(picture, ends(0.0, shift=(-1.5, 1.0)))
    assert fit is not None
    assert fit.points[0][1] == pytest.approx(310, abs=0.3)


@pytest.mark.parametrize("kind", ["flat", "noise", "texture"])
def test_where_there_is_no_edge_it_says_so(kind: str) -> None:
    random = np.random.default_rng(3)
    picture = {
        "flat": np.full((400, 400, 3), 120, np.uint8),
        "noise": random.integers(90, 150, (400, 400, 3), np.uint8),
        "texture": np.kron(
            random.integers(60, 190, (50, 50, 1), np.uint8), np.ones((8, 8, 3), np.uint8)
        ),
    }[kind]
    assert fit_edge(picture, ((60.0, 190.0), (340.0, 230.0))) is None


def test_a_line_at_the_border_of_the_picture_stays_inside() -> None:
    picture = np.zeros((200, 300, 3), np.uint8)
    picture[:3] = 200
    fit = fit_edge(picture, ((0.0, 1.0), (300.0, 4.0)))
    assert fit is not None
    assert all(0 <= x <= 300 and 0 <= y <= 200 for x, y in fit.points)
    assert fit.points[0][1] == pytest.approx(3, abs=0.1)


def test_sixteen_bits_and_grey_give_the_same() -> None:
    picture = edge_picture(3.0, noise=2.0)
    deep = picture[:, :, :1].astype(np.uint16) * 257
    one, other = fit_edge(picture, ends(3.0, shift=(2, 1))), fit_edge(deep, ends(3.0, shift=(2, 1)))
    assert one is not None
    assert other is not None
    assert np.array(one.points) == pytest.approx(np.array(other.points), abs=1e-3)


def test_a_fitted_reading_remembers_the_drawn_line_and_is_fitted_again_from_it() -> None:
    picture = edge_picture(1.0, noise=2.0)
    drawn = Reading(id="a", kind="level", points=ends(1.0, shift=(4, 2)))
    once = fitted(drawn, picture)
    assert once is not None
    assert once.fitted is not None
    assert once.fitted.drawn == drawn.points
    assert fitted(once, picture) == once
    photo = PhotoFacts(width=620, height=620)
    by_hand, by_edge = (solve(photo, Recipe(readings=(r,))) for r in (drawn, once))
    assert by_edge.readings[0].sigma_deg < by_hand.readings[0].sigma_deg / 3
    assert by_edge.readings[0].stations == once.fitted.stations
    assert not by_hand.readings[0].fitted


@pytest.mark.parametrize("blur", [6.0, 15.0])
def test_a_soft_boundary_in_haze_is_fitted_and_its_deviation_says_so(blur: float) -> None:
    errors, stated = [], []
    for seed in range(24):
        picture = edge_picture(1.33, noise=14.0, blur=blur, seed=seed)
        fit = fit_edge(picture, ends(1.33, shift=(6.0, -5.0)), reach_px=24.0)
        assert fit is not None
        errors.append(angle_of(fit.points) - 1.33)
        stated.append(math.degrees(fit.sigma_rad))
    # To a fraction of its width, and no surer than it is: in the picture as it is the same edge is
    # lost in noise, with errors of a degree and more that nothing tells.
    assert np.abs(errors).max() < 0.25
    assert np.mean(np.abs(errors) < 1.96 * np.array(stated)) >= 0.9
    assert np.median(stated) < 0.3
