"""Measured, not timed tests: ratios on this machine in one run.

``bin/test --bench`` prints them.
"""

import io
import subprocess
import sys
from pathlib import Path

import cv2
import numpy as np
import pytest
import skimage.metrics
from PIL import Image

from sequor.core.lens_choice import LensChoice
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import BendChoice, Recipe, Trim
from sequor.core.render.rendering import render
from sequor.core.solve import solve
from sequor.core.stance.orientation import measure_stance
from sequor.pictures.decode import decode
from sequor.pictures.encode import FileChoice, encode
from tests.bench.conftest import HEIGHT, TURN_DEG, WIDTH, median_seconds
from tests.bench.targets import Measured, hold_to, tell
from tests.conftest import OPEN_PICTURES, ROOT
from tests.core.test_orientation import PHOTO, readings_of
from tests.core.test_render import middle, same_size_turn

TURN = Recipe(trim=Trim(roll_deg=-TURN_DEG))


def ours(source: Path, target: Path) -> None:
    picture = decode(source)
    rendered = render(picture.pixels, solve(picture.facts.photo, TURN))
    encode(rendered.pixels, picture, source, target, FileChoice("jpeg", 95))


def test_export_of_24_megapixels_against_opencv(
    large_jpeg: Path, tmp_path: Path, reference_seconds: float
) -> None:
    mine = median_seconds(lambda: ours(large_jpeg, tmp_path / "a.jpg"))
    print(f"\nexport, 24 MP JPEG: {mine:.2f} s, OpenCV Lanczos4: {reference_seconds:.2f} s")
    hold_to(Measured("export against OpenCV", mine / reference_seconds, 0.45, "times"))


KERNEL_TARGETS = {"turn": 0.3, "homography": 0.5, "lens": 0.6, "bending": 0.7}
KERNEL_RECIPES = {
    "turn": TURN,
    "homography": Recipe(trim=Trim(roll_deg=2, lean_deg=5, swing_deg=3)),
    "lens": Recipe(trim=Trim(roll_deg=2), lens=LensChoice(source="hand", k1=-0.05)),
    "bending": Recipe(trim=Trim(roll_deg=3), bend=BendChoice(corners=1.0)),
}


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
@pytest.mark.parametrize("way", KERNEL_TARGETS)
def test_the_kernel_against_opencvs(way: str, kind: type[np.generic], large_jpeg: Path) -> None:
    pixels = decode(large_jpeg).pixels.astype(kind) * (257 if kind == np.uint16 else 1)
    solution = solve(PhotoFacts(width=WIDTH, height=HEIGHT), KERNEL_RECIPES[way])
    size = solution.frame.width, solution.frame.height
    turn = cv2.getRotationMatrix2D((WIDTH / 2, HEIGHT / 2), 2, 1)
    mine = median_seconds(lambda: render(pixels, solution))
    opencv = median_seconds(lambda: cv2.warpAffine(pixels, turn, size, flags=cv2.INTER_LANCZOS4))
    print(f"\n{way}, {np.dtype(kind)}: {mine:.2f} s, OpenCV's Lanczos4 {opencv:.2f} s")
    name = f"{way} of {np.dtype(kind)} against OpenCV's Lanczos4"
    tell(Measured(name, mine / opencv, KERNEL_TARGETS[way], "times"))


PEAK = """
import re, sys
from pathlib import Path
from sequor.making.warm_up import warm_up
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
    above_idle = (
        int(subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=True).stdout)
        * 1024
    )
    decoded = WIDTH * HEIGHT * 3
    assert above_idle > decoded  # else nothing was measured
    hold_to(Measured("peak memory of an export", above_idle / decoded, 2, "decoded pictures"))


def test_solving_eight_readings() -> None:
    readings = readings_of(np.random.default_rng(0), (1.5, 8.0, -12.0), 4, 4, noise=1.0)

    def solve_anew(recipe: Recipe) -> None:
        solve.cache_clear()
        measure_stance.cache_clear()
        solve(PHOTO, recipe)

    plain, bowed = (
        Recipe(readings=readings, lens=lens)
        for lens in (LensChoice(), LensChoice(source="hand", k1=-0.08))
    )
    for what, recipe, target in (("8 readings", plain, 5), ("8 readings and a bow", bowed, 15)):
        milliseconds = median_seconds(lambda r=recipe: solve_anew(r), 100) * 1e3
        tell(Measured(f"solving {what}", milliseconds, target, "ms"))


@pytest.mark.parametrize(
    "name", ["building.jpg", "home.jpg", "fruits.jpg", "aloeL.jpg", "leuvenA.jpg"]
)
def test_twelve_turns_of_thirty_degrees(name: str) -> None:
    photograph = np.asarray(Image.open(OPEN_PICTURES / name).convert("RGB"))
    height, width = photograph.shape[:2]
    matrix = cv2.getRotationMatrix2D(((width - 1) / 2, (height - 1) / 2), -30, 1)
    results = {"ours": photograph, "bicubic": photograph, "Lanczos4": photograph}
    for _ in range(12):
        results["ours"] = same_size_turn(results["ours"], 30)
        for kind, flag in (("bicubic", cv2.INTER_CUBIC), ("Lanczos4", cv2.INTER_LANCZOS4)):
            results[kind] = cv2.warpAffine(
                results[kind], matrix, (width, height), flags=flag, borderMode=cv2.BORDER_REPLICATE
            )
    psnr = {
        kind: skimage.metrics.peak_signal_noise_ratio(middle(photograph, 0.4), middle(result, 0.4))
        for kind, result in results.items()
    }
    said = ", ".join(f"{kind} {value:.1f}" for kind, value in psnr.items())
    print(f"\n{name}, 12 turns of 30 degrees, PSNR in dB: {said}")
    hold_to(
        Measured(f"{name} against Lanczos4", psnr["ours"], psnr["Lanczos4"], "dB", at_least=True)
    )


def test_decoding_is_not_slower_than_pillow(large_jpeg: Path) -> None:
    content = large_jpeg.read_bytes()
    mine = median_seconds(lambda: decode(large_jpeg))
    pillow = median_seconds(lambda: np.asarray(Image.open(io.BytesIO(content))))
    print(f"\ndecode, 24 MP JPEG: {mine:.2f} s, Pillow {pillow:.2f} s")
    hold_to(Measured("decoding against Pillow", mine / pillow, 1.1, "times"))
