"""Compile the kernel and load the slow libraries before the first person waits for them."""

from pathlib import Path

import numpy as np

from sequor.core import render as render_room
from sequor.core.fill.apply import render_filled
from sequor.core.fill.judging import judge_fill
from sequor.core.fill.planning import plan_fill
from sequor.core.fill.risk import crossings_of
from sequor.core.lens_choice import LensChoice
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.propose.proposing import propose
from sequor.core.recipe import (
    BendChoice,
    FillCandidate,
    FillChoice,
    FillMethod,
    Mend,
    Reading,
    Recipe,
    Trim,
)
from sequor.core.render.light import Light
from sequor.core.render.rendering import render
from sequor.core.solve import solve


def compiled_before() -> bool:
    """Whether the results of a compilation are there, so that warming up takes a second."""
    kept = Path(render_room.__path__[0]) / "__pycache__"
    return any(kept.glob("kernel.*.nbi"))


def warm_up() -> None:
    """Solve and render once on a few pixels; results of the compilation are cached on disk.

    Safe in a process that others are forked off: it leaves no threads behind.
    """
    photo = PhotoFacts(width=32, height=24)
    level = Reading(id="a", kind="level", points=((2, 12), (30, 13)))
    plumb = Reading(id="b", kind="plumb", points=((9, 2), (10, 22)))
    solution = solve(
        photo,
        Recipe(
            readings=(level, plumb), trim=Trim(roll_deg=1), lens=LensChoice(source="hand", k1=-0.01)
        ),
    )
    bowed = tuple((float(x), 2 + (x - 16) ** 2 / 400) for x in range(0, 32, 4))
    solve(photo, Recipe(readings=(Reading(id="c", kind="trace", points=bowed),)))
    turned = PhotoFacts(width=96, height=64)
    turn = solve(turned, Recipe(trim=Trim(roll_deg=5)))
    light = Light(np.linspace(0, 1, 16) ** 2)
    methods: tuple[FillMethod, ...] = ("patches", "mirror")
    for small, large in (
        (np.zeros((24, 32, 3), np.uint8), np.zeros((64, 96, 3), np.uint8)),
        (np.zeros((24, 32, 3), np.uint16), np.zeros((64, 96, 3), np.uint16)),
    ):
        render(small, solution)
        for method in methods:
            fill = FillChoice(allowance=0.5, method=method)
            mend = Mend(points=((48, 32), (50, 32)), reach=4)
            recipe = Recipe(trim=Trim(roll_deg=5), fill=fill, mends=(mend,))
            wedged = solve(turned, recipe)
            render_filled(large, wedged, recipe)
            judge_fill(large, wedged, recipe)
            render(large, wedged, size=(32, 20))
        render(large, turn, size=(32, 20), light=light)
    render(np.zeros((24, 32, 3), np.float32), solution)
    step = np.zeros((60, 60, 3), np.float32)
    step[:, 30:] = 200
    crossings_of(step, np.arange(60)[:, None] + np.zeros(60) < 6)


def compile_all() -> None:
    """The same for everything, with what reads pictures; not in a process that others are forked
    off, since OpenCV keeps its threads.
    """
    warm_up()
    turn = solve(PhotoFacts(width=96, height=64), Recipe(trim=Trim(roll_deg=5)))
    # Of grey pictures and of those with alpha the kernels that most of them need; what is rarer
    # takes two seconds when it is needed first.
    for channels, kind in ((1, np.uint8), (1, np.uint16), (4, np.uint8)):
        pixels = np.full((64, 96, channels), np.iinfo(kind).max, kind)
        for size in (None, (32, 20)):
            render(pixels, turn, size=size)
    noise = np.random.default_rng(1).integers(0, 65536, (160, 240, 3), np.uint16)
    _fill_and_bend(noise)
    _fill_and_bend((noise >> 8).astype(np.uint8))
    wall = np.zeros((300, 400, 3), np.uint8)
    wall[100:220, 90:310] = 200
    propose(wall, PhotoFacts(width=400, height=300), Recipe())


def _fill_and_bend(grain: Pixels) -> None:
    """What a picture with grain needs that is filled calmly and finer than its plan, or bent."""
    photo, turn = PhotoFacts(width=grain.shape[1], height=grain.shape[0]), Trim(roll_deg=8)
    calm = FillChoice(allowance=1, candidates=(FillCandidate(style="calm"),) * 4)
    filled = Recipe(trim=turn, fill=calm)
    solution = solve(photo, filled)
    plan = plan_fill(grain, solution, filled, edge=100)
    render_filled(grain, solution, filled, plan=plan)
    bent = solve(photo, Recipe(trim=turn, bend=BendChoice(corners=1)))
    for size in (None, (60, 40)):
        render(grain, bent, size=size)


if __name__ == "__main__":
    compile_all()
