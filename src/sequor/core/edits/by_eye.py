"""Edits by eye, where there is nothing to measure: the calmest of five, a corner that is pulled."""

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import FailFast, Field

from sequor.core.camera import Stance, focal_of, intrinsics
from sequor.core.edits.base import EditBase, Now
from sequor.core.edits.parts import clamped, told_by_readings, trimmed
from sequor.core.language import tr
from sequor.core.lens.chosen import distortion_of
from sequor.core.names import CORNERS, named
from sequor.core.recipe import (
    AXES,
    MAX_BY_EYE_DEG,
    MAX_PROPORTION,
    MAX_ROLL_DEG,
    MAX_TILT_DEG,
    MIN_PROPORTION,
    Coordinate,
    Recipe,
)
from sequor.core.warp.pulling import pulled

BY_EYE_STEPS_DEG = (1.0, 0.5, 0.25)
"""How far the turns of a round are apart; a horizon that is off by half a degree is seen (common
practice, no published source; the figures are ours)."""
BY_EYE_ROUNDS_DEG = tuple(tuple(step * n for n in (-2, -1, 0, 1, 2)) for step in BY_EYE_STEPS_DEG)
"""The five turns of every round, from the one that was chosen last."""
_MOST_CHOICES = 12
"""Of one act: rounds that are gone back to are not counted."""
Turn = Annotated[float, Field(ge=-MAX_ROLL_DEG, le=MAX_ROLL_DEG, allow_inf_nan=False)]


class JudgeByEye(EditBase):
    """The roll by eye: the turns that were chosen as the calmest, round by round, in degrees.

    The last one holds, as a statement of the hand that a reading replaces. Its deviation is that of
    the choices, at least half of the last step.
    """

    do: Literal["judge_by_eye"] = "judge_by_eye"
    turns: Annotated[tuple[Turn, ...], FailFast()] = Field(min_length=1, max_length=_MOST_CHOICES)

    def words(self) -> str:
        return tr("turned by eye")

    @property
    def sigma_deg(self) -> float:
        """The standard deviation of the choices."""
        spread = float(np.std(self.turns, ddof=1)) if len(self.turns) > 1 else 0.0
        round_ = min(len(self.turns), len(BY_EYE_STEPS_DEG)) - 1
        return clamped(spread, BY_EYE_STEPS_DEG[round_] / 2, MAX_BY_EYE_DEG)

    def applied(self, now: Now) -> Recipe:
        roll = now.solved.stance.roll
        trim = math.remainder(self.turns[-1] - (roll.measured_deg or 0.0), 360.0)
        turned = trimmed(now.recipe, "roll", round(trim, 6), stated=True)
        return turned.changed(trim=turned.trim.changed(by_eye_sigma_deg=self.sigma_deg))


class PullCorner(EditBase):
    """Pull a corner of the picture, clockwise from the top left, by pixels of the corrected one.

    That is roll, lean and swing by hand, and proportion where turns alone do not bring it there.
    """

    do: Literal["pull_corner"] = "pull_corner"
    corner: Literal[0, 1, 2, 3]
    by: tuple[Coordinate, Coordinate]

    def words(self) -> str:
        return tr("{corner} pulled", corner=named(CORNERS[self.corner]))

    def applied(self, now: Now) -> Recipe:
        photo, recipe, stance = now.photo, now.recipe, now.solved.stance
        _, focal35_mm = focal_of(photo, recipe)
        k = intrinsics(photo.model_copy(update={"focal35_mm": focal35_mm}))
        applied = [math.radians(stance.axis(axis).applied_deg) for axis in AXES]
        size = np.array([photo.width, photo.height], dtype=float)
        corners = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * size
        straight = distortion_of(photo, recipe)[0].undistorted(corners)
        pull = pulled(k, Stance(*applied), recipe.proportion, straight, self.corner, self.by)
        for axis, limit in zip(AXES, (MAX_ROLL_DEG, MAX_TILT_DEG, MAX_TILT_DEG), strict=True):
            deg = math.degrees(getattr(pull, f"{axis}_rad"))
            trim = getattr(recipe.trim, f"{axis}_deg") + deg
            stated = axis in recipe.trim.stated or not told_by_readings(now.solved, axis)
            recipe = trimmed(recipe, axis, round(clamped(trim, -limit, limit), 6), stated)
        proportion = clamped(recipe.proportion * pull.proportion, MIN_PROPORTION, MAX_PROPORTION)
        return recipe.changed(proportion=proportion)
