"""What the plumb-line method is made of, against differences and NumPy's decomposition."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sequor.core.lens.distortion import Distortion, radial
from sequor.core.lens.plumb_kernels import movements, off_lines
from sequor.core.lens.plumb_line import NAMES
from sequor.core.photo import PhotoFacts

PHOTO = PhotoFacts(width=3000, height=2000)
LENSES = [(-0.1, 0.02, 0, 0, 0, 0, 0), (0.05, -0.01, 0.004, 0.002, -0.001, 0.02, -0.03)]


def lens_of(values: np.ndarray) -> Distortion:
    k1, k2, k3, p1, p2, across, down = map(float, values)
    return Distortion.of(PHOTO, radial(k1, k2, k3), (p1, p2), (across, down))


@pytest.mark.parametrize("values", LENSES)
def test_points_move_with_each_coefficient_as_differences_say(values: tuple[float, ...]) -> None:
    rng = np.random.default_rng(5)
    shot = rng.uniform((200, 150), (2800, 1850), (40, 2))
    known = np.array(values, dtype=float)
    lens = lens_of(known)
    away = (lens.undistorted(shot) - lens.centre) / lens.unit_px
    moved = movements(
        away, np.array(lens.polynomial), np.array(lens.tangential), np.arange(len(NAMES))
    )
    for place, name in enumerate(NAMES):
        step = np.zeros(len(NAMES))
        step[place] = 1e-6
        more, less = (lens_of(known + sign * step).undistorted(shot) for sign in (1, -1))
        numeric = (more - less) / 2e-6 / lens.unit_px
        assert np.abs(moved[:, :, place] - numeric).max() < 1e-6, name


def test_distances_are_those_of_total_least_squares_and_grow_as_differences_say() -> None:
    rng = np.random.default_rng(6)
    first = np.array([0, 7, 12])
    points = rng.uniform(0, 100, (12, 2)) * (1, 0.1)
    points[7:] = points[7:, ::-1]  # one lies across, one stands
    moved, weights = rng.normal(size=(12, 2, 3)), rng.uniform(0.2, 1, 12)

    def by_hand(at: np.ndarray) -> np.ndarray:
        found = []
        for begin, end in pairwise(first):
            some, w = at[begin:end], weights[begin:end]
            centred = some - np.average(some, axis=0, weights=w)
            normal = np.linalg.svd(centred * np.sqrt(w)[:, None])[2][1]
            found.append(centred @ normal)
        return np.concatenate(found)

    over, grown = off_lines(points, moved, weights, first)
    expected = by_hand(points)
    # On which side of a line is positive is free, once for each.
    sides = np.repeat(np.sign(over[first[:-1]] * expected[first[:-1]]), np.diff(first))
    assert np.abs(over - sides * expected).max() < 1e-9
    for k in range(3):
        more, less = (
            off_lines(points + sign * 1e-6 * moved[:, :, k], moved, weights, first)[0]
            for sign in (1, -1)
        )
        assert np.abs(grown[:, k] - (more - less) / 2e-6).max() < 1e-6


@given(st.floats(-1, 1), st.floats(-0.5, 0.5))
def test_the_slope_is_positive_up_to_the_fold_and_zero_there(k1: float, k2: float) -> None:
    fold = lens_of(np.array([k1, k2, 0, 0, 0, 0, 0])).fold
    # From a tenth to twenty times half the diagonal, as densely as the eye needs it.
    radius = np.geomspace(0.1, 20, 4000)
    slope = 1 + 3 * k1 * radius**2 + 5 * k2 * radius**4
    before = radius < fold
    assert (slope[before] > -1e-9 * (1 + radius[before] ** 4)).all()
    if math.isfinite(fold):
        assert 1 + 3 * k1 * fold**2 + 5 * k2 * fold**4 == pytest.approx(0, abs=1e-6 * (1 + fold**4))
