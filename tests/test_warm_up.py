"""What is compiled when Sequor is set up is all that a user's first pictures need: nothing is
compiled while somebody waits.
"""

import importlib
import json
import pkgutil
import subprocess
import sys

import cv2
import numpy as np
from numba.core.dispatcher import Dispatcher
from PIL import Image

import sequor.core
from sequor.core.fill.apply import render_filled
from sequor.core.fill.judging import judge_fill
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.propose.proposing import propose
from sequor.core.recipe import (
    BendChoice,
    FillCandidate,
    FillChoice,
    Mend,
    Reading,
    Recipe,
    Trim,
)
from sequor.core.render.rendering import render
from sequor.core.solve import solve
from sequor.making.warm_up import compile_all
from tests.conftest import OPEN_PICTURES, ROOT


def compiled() -> dict[str, int]:
    """How many signatures every compiled loop of the core has in this process."""
    found = {}
    for module in pkgutil.walk_packages(sequor.core.__path__, "sequor.core."):
        for value in vars(importlib.import_module(module.name)).values():
            if isinstance(value, Dispatcher):
                found[f"{value.py_func.__module__}.{value.py_func.__name__}"] = len(
                    value.signatures
                )
    return found


def used(pixels: Pixels) -> None:
    """What a first session does with a picture: read, turned, bent, filled both ways, mended."""
    height, width = pixels.shape[:2]
    photo = PhotoFacts(width=width, height=height, focal35_mm=28)
    propose(pixels, photo, Recipe())
    lines = (
        Reading(id="a", kind="level", points=((90, 300), (700, 310))),
        Reading(id="b", kind="plumb", points=((100, 50), (110, 500))),
        Reading(id="c", kind="plumb", points=((700, 60), (680, 500))),
    )
    lean = Recipe(readings=lines)
    bent = Recipe(trim=Trim(roll_deg=4), bend=BendChoice(corners=1, lines=0.5), readings=lines[:1])
    for recipe in (lean, bent):
        solution = solve(photo, recipe)
        for size in (None, (300, 200)):
            render(pixels, solution, size=size)
    for style in ("sharp", "calm"):
        candidate = FillCandidate(style=style)
        recipe = Recipe(
            trim=Trim(roll_deg=2),
            fill=FillChoice(allowance=1, candidates=(candidate,) * 4),
            mends=(Mend(points=((300, 300), (330, 320)), reach=20),),
        )
        solution = solve(photo, recipe)
        render_filled(pixels, solution, recipe)
        judge_fill(pixels, solution, recipe)


def test_nothing_is_compiled_while_somebody_waits() -> None:
    run = subprocess.run(
        [sys.executable, "-m", "tests.test_warm_up"], cwd=ROOT, capture_output=True, text=True
    )
    assert run.returncode == 0, run.stderr
    assert json.loads(run.stdout.splitlines()[-1]) == {}


if __name__ == "__main__":
    compile_all()
    before = compiled()
    photograph = np.array(Image.open(OPEN_PICTURES / "building.jpg").convert("RGB"))
    used(photograph)
    used(cv2.resize(photograph, (1900, 1300)))
    after = compiled()
    print(json.dumps({name: after[name] for name in after if after[name] != before.get(name)}))
