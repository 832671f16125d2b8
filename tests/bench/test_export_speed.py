"""Measured, not timed tests: ratios on this machine in one run. ``bin/test --bench`` prints them."""

import io
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import pytest
import skimage.metrics
from PIL import Image

from sequor.core.recipe import LensBow, Recipe, Trim
from sequor.core.render import render
from sequor.core.solve import solve
from sequor.pictures.decode import decode
from sequor.pictures.encode import FileChoice, encode
from tests.conftest import OPEN_PICTURES, ROOT
from tests.core.test_render import middle, same_size_turn
from tests.core.test_stance import PHOTO, readings_of

pytestmark = pytest.mark.bench
WIDTH, HEIGHT = 6000, 4000
TURN = Recipe(trim=Trim(roll_deg=-1.33))


def median_seconds(work: Callable[[], object], runs: int = 5) -> float:
    work()
    took = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        took.append(time.perf_counter() - start)
    return float(np.median(took))


@pytest.fixture(scope="session")
def large_jpeg(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """24 megapixels: an open photograph enlarged, with grain, so that it weighs what a camera's file weighs."""
    photograph = np.asarray(Image.open(OPEN_PICTURES / "building.jpg").convert("RGB"))
    large = cv2.resize(photograph, (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC).astype(np.int16)
    large += np.random.default_rng(1).integers(-6, 7, large.shape, np.int16)
    path = tmp_path_factory.mktemp("bench") / "large.jpg"
    Image.fromarray(large.clip(0, 255).astype(np.uint8)).save(path, quality=95)
    return path


def ours(source: Path, target: Path) -> None:
    picture = decode(source)
    rendered = render(picture.pixels, solve(picture.facts.photo, TURN))
    encode(rendered.pixels, picture, source, target, FileChoice("jpeg", 95))


def with_opencv(source: Path, target: Path) -> None:
    pixels = cv2.imread(str(source))
    matrix = np.vstack([cv2.getRotationMatrix2D((WIDTH / 2, HEIGHT / 2), 1.33, 1), [0, 0, 1]])
    warped = cv2.warpPerspective(pixels, matrix, (WIDTH, HEIGHT), flags=cv2.INTER_LANCZOS4)
    cv2.imwrite(str(target), warped, [cv2.IMWRITE_JPEG_QUALITY, 95])


def test_export_of_24_megapixels_against_opencv(large_jpeg: Path, tmp_path: Path) -> None:
    mine = median_seconds(lambda: ours(large_jpeg, tmp_path / "a.jpg"))
    theirs = median_seconds(lambda: with_opencv(large_jpeg, tmp_path / "b.jpg"))
    print(f"\nexport, 24 MP JPEG: {mine:.2f} s, OpenCV Lanczos4: {theirs:.2f} s, ratio {mine / theirs:.2f} (target 1.3)")


PEAK = """
import re, sys
from pathlib import Path
from sequor.web.warm_up import warm_up
from tests.bench.test_export_speed import ours

def kilobytes(name):
    return int(re.search(name + r":\\s+(\\d+)", Path("/proc/self/status").read_text())[1])

warm_up()
Path("/proc/self/clear_refs").write_text("5")  # the peak is counted from here
idle = kilobytes("VmRSS")
ours(Path(sys.argv[1]), Path(sys.argv[2]))
print(kilobytes("VmHWM") - idle)
"""


def test_peak_memory_of_that_export(large_jpeg: Path, tmp_path: Path) -> None:
    command = [sys.executable, "-c", PEAK, str(large_jpeg), str(tmp_path / "a.jpg")]
    above_idle = int(subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=True).stdout) * 1024
    decoded = WIDTH * HEIGHT * 3
    print(f"\npeak memory above idle: {above_idle / 1e6:.0f} MB, {above_idle / decoded:.2f} x the decoded picture (target 4)")
    assert above_idle > decoded


def test_solving_eight_readings() -> None:
    readings = readings_of(np.random.default_rng(0), (1.5, 8.0, -12.0), 4, 4, noise=1.0)
    milliseconds = median_seconds(lambda: solve(PHOTO, Recipe(readings=readings)), 200) * 1e3
    print(f"\nsolve, 8 readings, roll, lean and swing: median {milliseconds:.1f} ms (target 10)")
    bowed = Recipe(readings=readings, bow=LensBow(source="hand", k1=-0.08))
    print(f"the same with a bow: median {median_seconds(lambda: solve(PHOTO, bowed), 100) * 1e3:.1f} ms")
    assert milliseconds > 0


@pytest.mark.parametrize("name", ["building.jpg", "home.jpg", "fruits.jpg", "aloeL.jpg", "leuvenA.jpg"])
def test_twelve_turns_of_thirty_degrees(name: str) -> None:
    photograph = np.asarray(Image.open(OPEN_PICTURES / name).convert("RGB"))
    height, width = photograph.shape[:2]
    matrix = cv2.getRotationMatrix2D(((width - 1) / 2, (height - 1) / 2), -30, 1)
    results = {"ours": photograph, "bicubic": photograph, "Lanczos4": photograph}
    for _ in range(12):
        results["ours"] = same_size_turn(results["ours"], 30)
        for kind, flag in (("bicubic", cv2.INTER_CUBIC), ("Lanczos4", cv2.INTER_LANCZOS4)):
            results[kind] = cv2.warpAffine(results[kind], matrix, (width, height), flags=flag, borderMode=cv2.BORDER_REPLICATE)
    psnr = {
        kind: skimage.metrics.peak_signal_noise_ratio(middle(photograph, 0.4), middle(result, 0.4))
        for kind, result in results.items()
    }
    print(f"\n{name}, 12 turns of 30 degrees, PSNR in dB: " + ", ".join(f"{kind} {value:.1f}" for kind, value in psnr.items()))


def test_decoding_is_not_slower_than_pillow(large_jpeg: Path) -> None:
    content = large_jpeg.read_bytes()
    mine = median_seconds(lambda: decode(large_jpeg))
    pillow = median_seconds(lambda: np.asarray(Image.open(io.BytesIO(content))))
    print(f"\ndecode, 24 MP JPEG: {mine:.2f} s, Pillow {pillow:.2f} s, ratio {mine / pillow:.2f}")
