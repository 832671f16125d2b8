"""The judgement of a fill as a recipe makes it, whatever its method."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from sequor.core.fill.apply import apply_plan, plan_for, render_filled
from sequor.core.fill.judge import Judgement, judge
from sequor.core.fill.plan import FillPlan, as_colours, fills_corners, plan_size, small_hole
from sequor.core.pixels import Pixels
from sequor.core.recipe import Recipe
from sequor.core.solution import Solution

JUDGED = ("patches", "mirror")
"""Methods that pretend to be the picture; a colour or nothing is what was asked for."""


def judge_fill(
    pixels: Pixels,
    solution: Solution,
    recipe: Recipe,
    plan: FillPlan | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Judgement | None:
    """Judge what fills the frame of a solution, at the size that fills are worked out at.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    solution, recipe
        The recipe and its solution for that picture.
    plan : FillPlan, optional
        One that was made before for this recipe; else it is made where it is needed.

    Returns
    -------
    Judgement or None
        None where nothing is filled that could be judged; places are in shares of the frame, their
        radius in shares of its width.
    """
    pretended = solution.cost.fill_fraction > 0 and recipe.fill.method in JUDGED
    if not pretended and solution.mended_fraction <= 0:
        return None
    plan = plan or plan_for(pixels, solution, recipe, cancelled=cancelled)
    if plan and (fills_corners(solution, recipe) or solution.cost.fill_fraction <= 0):
        hole = plan.hole
        made: Pixels = np.rint(plan.colours).astype(np.uint8)
        apply_plan(made, ~hole, plan, cancelled)
    else:
        size = plan_size(solution)
        made = render_filled(
            pixels, solution, recipe, cancelled=cancelled, size=size, plan=plan
        ).pixels
        hole = plan.mended if plan else np.zeros(made.shape[:2], np.bool_)
        if pretended:
            hole = hole | small_hole(solution, (pixels.shape[1], pixels.shape[0]), size)
    height, width = hole.shape
    found = judge(as_colours(made), hole, plan.shift if plan else None)
    flaws = sorted(found.flaws, key=lambda flaw: -flaw.strength)
    return Judgement(
        found.doubt,
        tuple(
            replace(flaw, x=flaw.x / width, y=flaw.y / height, radius=flaw.radius / width)
            for flaw in flaws
        ),
    )
