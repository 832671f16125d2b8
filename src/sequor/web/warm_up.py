"""Compile the kernel and load the slow libraries before the first person waits for them."""

import numpy as np

from sequor.core.recipe import LensBow, PhotoFacts, Reading, Recipe, Trim
from sequor.core.render import render
from sequor.core.solve import solve


def warm_up() -> None:
    """Solve and render once on a few pixels; results of the compilation are cached on disk."""
    photo = PhotoFacts(width=32, height=24)
    level = Reading(id="a", kind="level", points=((2, 12), (30, 13)))
    solution = solve(photo, Recipe(readings=(level,), trim=Trim(roll_deg=1), bow=LensBow(source="hand", k1=-0.01)))
    for pixels in (np.zeros((24, 32, 3), np.uint8), np.zeros((24, 32, 3), np.uint16)):
        render(pixels, solution)
