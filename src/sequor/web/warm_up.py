"""Compile the kernel and load the slow libraries before the first person waits for them."""

import numpy as np

from sequor.core.recipe import PhotoFacts, Recipe, Trim
from sequor.core.render import render
from sequor.core.solve import solve


def warm_up() -> None:
    """Run every kind of rendering once on a few pixels; results of the compilation are cached on disk."""
    photo = PhotoFacts(width=32, height=24)
    solution = solve(photo, Recipe(trim=Trim(roll_deg=1)))
    for pixels in (np.zeros((24, 32, 3), np.uint8), np.zeros((24, 32, 3), np.uint16)):
        render(pixels, solution)
