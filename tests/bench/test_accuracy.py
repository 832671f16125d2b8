"""The table of docs/accuracy.md: exactness in 100,000 pictures, and fitting on open photographs.

The edges of the photographs are those of OpenCV's line segment detector (von Gioi et al., "LSD: a
line segment detector", IPOL 2012).
"""

import math
from collections import defaultdict

import cv2
import numpy as np
import pytest
from skimage import data

from sequor.core.edges.fitting import REACH_SIGMAS, Fit, fit_edge, fitted
from sequor.core.recipe import Hold, Reading
from sequor.core.stance.orientation import measure_stance
from tests.conftest import OPEN_PICTURES
from tests.core.test_exactness import random_picture
from tests.core.test_orientation import in_degrees

PICTURES = (
    *("building.jpg", "home.jpg", "board.jpg", "box_in_scene.png", "sudoku.png", "left01.jpg"),
    *("left05.jpg", "right03.jpg", "pic1.png", "pic3.png", "leuvenA.jpg", "leuvenB.jpg"),
    *("blox.jpg", "stuff.jpg", "box.png", "cards.png"),
)
SKIMAGE = ("rocket", "brick", "camera")
STAGE = (1280, 800)


def test_consistent_readings_in_a_hundred_thousand_pictures() -> None:
    random = np.random.default_rng(7)
    worst, wrong, pictures = 0.0, 0, 0
    while pictures < 100_000:
        photo, stance, readings = random_picture(random)
        if not readings:
            continue
        pictures += 1
        found = measure_stance(photo, readings, photo.focal35_mm, Hold())
        wrong += bool(found.outliers or found.suspects)
        plumbs = sum(reading.kind == "plumb" for reading in readings)
        whole = (plumbs >= 2 and len(readings) > plumbs) or (plumbs == 1 and len(readings) > 2)
        if whole and all(found.determined):
            worst = max(worst, *np.abs(np.subtract(in_degrees(found.stance), stance)))
    print(f"{pictures} pictures: {wrong} with a reading called wrong, worst error {worst:.1e} deg")
    assert wrong == 0
    assert worst < 1e-6


def photographs() -> dict[str, np.ndarray]:
    found = {name: cv2.imread(str(OPEN_PICTURES / name)) for name in PICTURES}
    pictures = {n: p[:, :, ::-1].copy() for n, p in found.items() if p is not None}
    for name in SKIMAGE:
        picture = getattr(data, name)()
        deep = picture if picture.ndim == 3 else np.repeat(picture[:, :, None], 3, axis=2)
        pictures[name] = np.ascontiguousarray(deep[:, :, :3])
    return pictures


def segments(picture: np.ndarray) -> np.ndarray:
    """Every other one of the sixty longest, shape (N, 2, 2)."""
    grey = cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY)
    lines = cv2.createLineSegmentDetector(0).detect(grey)[0]
    ends = lines.reshape(-1, 2, 2) + 0.5
    lengths = np.hypot(*(ends[:, 1] - ends[:, 0]).T)
    ends = ends[np.argsort(-lengths)][:60:2]
    return ends[np.hypot(*(ends[:, 1] - ends[:, 0]).T) > 0.06 * max(picture.shape)]


def angle(fit: Fit) -> float:
    (ax, ay), (bx, by) = fit.points
    return math.atan2(by - ay, bx - ax)


@pytest.fixture(scope="module")
def pictures() -> dict[str, np.ndarray]:
    return photographs()


def test_lines_are_fitted_to_the_edges_they_were_drawn_on(pictures: dict) -> None:
    random = np.random.default_rng(5)
    count: dict[int, list[int]] = defaultdict(lambda: [0, 0, 0])
    for picture in pictures.values():
        height, width = picture.shape[:2]
        sigma = max(1 / min(STAGE[0] / width, STAGE[1] / height), 0.02)
        for a, b in segments(picture):
            along = (b - a) / np.hypot(*(b - a))
            across = np.array([-along[1], along[0]])
            for jitter in (0, 4, 8):
                off = random.uniform(-1, 1, 2) * jitter * sigma
                drawn = np.clip([a + across * off[0], b + across * off[1]], 0, [width, height])
                points = tuple(map(tuple, drawn.tolist()))
                found = fitted(
                    Reading(id="a", kind="level", points=points, sigma_px=sigma), picture
                )
                count[jitter][0] += 1
                if found is None:
                    count[jitter][1] += 1
                    continue
                apart = np.abs((np.array(found.points) - [a, b]) @ across).mean()
                before = np.abs((drawn - [a, b]) @ across).mean()
                count[jitter][2] += apart > max(2.5, 2.5 * sigma) and before < apart
    for jitter, (all_of_them, declined, other) in count.items():
        share = declined / all_of_them, other / all_of_them
        print(f"{jitter} px off: {share[0]:.1%} declined, {share[1]:.1%} on another edge")
        assert share[0] <= 0.12
        assert share[1] <= 0.06, "missed for 8 px when this was written: see docs/accuracy.md"


def test_the_halves_of_an_edge_agree_as_stated(pictures: dict) -> None:
    z = []
    for picture in pictures.values():
        height, width = picture.shape[:2]
        reach = REACH_SIGMAS / min(STAGE[0] / width, STAGE[1] / height)
        for a, b in segments(picture):
            halves = [
                fit_edge(picture, tuple(map(tuple, half.tolist())), None, reach)
                for half in (np.array([a, (a + b) / 2]), np.array([(a + b) / 2, b]))
            ]
            if all(halves):
                one, other = halves
                apart = angle(one) - angle(other)
                apart -= math.pi * round(apart / math.pi)
                z.append(apart / math.hypot(one.sigma_rad, other.sigma_rad))
    within = float(np.quantile(np.abs(z), 0.683))
    print(f"{len(z)} edges: 68 % of the halves agree within {within:.2f} stated deviations")
    assert 0.9 <= within <= 1.1
