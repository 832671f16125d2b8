"""Filling, measured: 24 megapixels, and against PyPatchMatch of PyPI and OpenCV at one size."""

import subprocess
import sys
import time
from collections.abc import Callable
from typing import TypeVar

import cv2
import numpy as np
import pytest
from patchmatch import patch_match

from sequor.core.fill.apply import render_filled
from sequor.core.fill.planning import plan_fill
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import FillChoice, Recipe, Trim
from sequor.core.solve import solve
from tests.bench.targets import Measured, hold_to, tell
from tests.conftest import ROOT
from tests.core.test_fill import filled, inpainted, likeness, photograph_of, wedges

T = TypeVar("T")


def seconds(work: Callable[[], T]) -> tuple[float, T]:
    start = time.perf_counter()
    result = work()
    return time.perf_counter() - start, result


def test_four_wedges_of_24_megapixels(reference_seconds: float) -> None:
    large = cv2.resize(photograph_of("building.jpg"), (6000, 4000), interpolation=cv2.INTER_CUBIC)
    large = np.clip(
        large.astype(np.int16) + np.random.default_rng(1).integers(-5, 6, large.shape, np.int16),
        0,
        255,
    ).astype(np.uint8)
    recipe = Recipe(trim=Trim(roll_deg=2.5), fill=FillChoice(allowance=1))
    solution = solve(PhotoFacts(width=6000, height=4000), recipe)
    render_filled(
        large[:400, :600], solve(PhotoFacts(width=600, height=400), recipe), recipe
    )  # compiled before the clock starts
    planned, plan = seconds(lambda: plan_fill(large, solution, recipe))
    whole, made = seconds(lambda: render_filled(large, solution, recipe))
    assert plan.hole.any()
    print(f"\n{made.filled_share * 100:.1f} % of the frame filled; the plan took {planned:.1f} s")
    preview = Measured("their preview's plan", planned / reference_seconds, 0.8, "R")
    tell(preview)
    hold_to(Measured("four wedges filled and rendered", whole / reference_seconds, 2, "R"))
    hold_to(preview)


PEAK = """
import re
from pathlib import Path
import numpy as np
from sequor.core.fill.apply import render_filled
from sequor.core.recipe import (FillChoice, Recipe, Trim)
from sequor.core.photo import (PhotoFacts)
from sequor.core.solve import solve

def kilobytes(name):
    return int(re.search(name + r":\\s+(\\d+)", Path("/proc/self/status").read_text())[1])

def filled(pixels):
    recipe = Recipe(trim=Trim(roll_deg=2.5), fill=FillChoice(allowance=1))
    photo = PhotoFacts(width=pixels.shape[1], height=pixels.shape[0])
    render_filled(pixels, solve(photo, recipe), recipe)

large = np.random.default_rng(1).integers(0, 255, (4000, 6000, 3), np.uint8)
filled(large[:400, :600])
Path("/proc/self/clear_refs").write_text("5")  # the peak is counted from here
idle = kilobytes("VmRSS")
filled(large)
print(kilobytes("VmHWM") - idle)
"""


def test_peak_memory_of_a_fill() -> None:
    command = [sys.executable, "-c", PEAK]
    above_idle = (
        int(subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=True).stdout)
        * 1024
    )
    decoded = 6000 * 4000 * 3
    assert above_idle > decoded  # else nothing was measured
    hold_to(Measured("peak memory of that fill", above_idle / decoded, 3, "decoded pictures"))


@pytest.mark.parametrize(
    "name", ["building.jpg", "aloeL.jpg", "leuvenA.jpg", "lock-keepers-row.jpg"]
)
def test_against_pypatchmatch_at_1200_by_800(name: str) -> None:
    picture = cv2.resize(photograph_of(name), (1200, 800), interpolation=cv2.INTER_AREA)
    hole = wedges(800, 1200, 1.33)
    known = np.where(hole[:, :, None], 0, picture).astype(np.uint8)
    filled(picture[:200, :300], wedges(200, 300, 3))
    mine, ours = seconds(lambda: filled(picture, hole))
    took, theirs = seconds(
        lambda: patch_match.inpaint(known, hole.astype(np.uint8) * 255, patch_size=9)
    )
    scores = {
        "ours": likeness(picture, ours, hole),
        "PyPatchMatch": likeness(picture, np.asarray(theirs), hole),
    }
    scores |= {"Telea": likeness(picture, inpainted(picture, hole, cv2.INPAINT_TELEA), hole)}
    said = ", ".join(
        f"{method} SSIM {ssim:.3f} PSNR {psnr:.1f}" for method, (ssim, psnr) in scores.items()
    )
    print(f"\n{name}, {hole.mean() * 100:.1f} % of 1200 x 800: {mine:.2f} s; {said}")
    hold_to(Measured(f"{name} against PyPatchMatch's {took:.2f} s", mine / took, 0.08, "times"))
