"""A picture as a camera gives it, and the reference job that times are compared with."""

import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image

from tests.conftest import OPEN_PICTURES
from tests.web import conftest as web

WIDTH, HEIGHT = 6000, 4000
set_id, picture = web.set_id, web.picture
"""Fixtures of the tests over HTTP, for the measurements that go the same way."""
TURN_DEG = 1.33


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Whatever stands in this folder is a measurement, without a mark of its own."""
    for item in items:
        if item.path.is_relative_to(Path(__file__).parent):
            item.add_marker(pytest.mark.bench)


def median_seconds(work: Callable[[], object], runs: int = 5) -> float:
    """The median time of some runs, after one that warms up."""
    work()
    took = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        took.append(time.perf_counter() - start)
    return float(np.median(took))


@pytest.fixture(scope="session")
def large_jpeg(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """24 megapixels: an open photograph enlarged, with grain, so that it weighs what a camera's
    file weighs.
    """
    photograph = np.asarray(Image.open(OPEN_PICTURES / "building.jpg").convert("RGB"))
    large = cv2.resize(photograph, (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC).astype(np.int16)
    large += np.random.default_rng(1).integers(-6, 7, large.shape, np.int16)
    path = tmp_path_factory.mktemp("bench") / "large.jpg"
    Image.fromarray(large.clip(0, 255).astype(np.uint8)).save(path, quality=95)
    return path


@pytest.fixture
def reference_seconds(large_jpeg: Path, tmp_path: Path) -> float:
    """R: the picture decoded, turned by OpenCV's Lanczos4 and encoded, timed beside the test."""
    turn = cv2.getRotationMatrix2D((WIDTH / 2, HEIGHT / 2), TURN_DEG, 1)
    matrix = np.vstack([turn, [0, 0, 1]])

    def work() -> None:
        pixels = cv2.imread(str(large_jpeg))
        warped = cv2.warpPerspective(pixels, matrix, (WIDTH, HEIGHT), flags=cv2.INTER_LANCZOS4)
        cv2.imwrite(str(tmp_path / "r.jpg"), warped, [cv2.IMWRITE_JPEG_QUALITY, 95])

    return median_seconds(work)
