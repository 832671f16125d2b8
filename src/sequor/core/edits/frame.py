"""Edits of the frame: its shape, what it keeps, what it is composed by, where it lies."""

from typing import Literal

import numpy as np
from pydantic import Field, model_validator

from sequor.core.edits.base import EditBase, Id, Joins, Now, OnPicture
from sequor.core.edits.parts import LEAST_BOX_PX, box_of, framed
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.names import named
from sequor.core.print_size import PrintSize
from sequor.core.recipe import (
    MAX_AIR,
    MAX_MARGIN,
    Aim,
    AimMeets,
    GuideName,
    Placed,
    Point,
    Recipe,
    Side,
)
from sequor.core.solved import SolvedFrame

_LEAST_FRAME_PX = 24.0
"""No edge of a frame can be dragged closer than this to the one across."""


def _aimed(recipe: Recipe) -> Aim:
    if recipe.frame.aim is None or recipe.frame.aim.point is None:
        raise UnusableInput(tr("There is no point to aim at any more."))
    return recipe.frame.aim


def _keeping(recipe: Recipe) -> Recipe:
    if recipe.frame.keep is None:
        raise UnusableInput(tr("There is no box to keep; draw one first."))
    return recipe


class ChooseRatio(EditBase):
    """The shape of the frame: ``original``, ``free`` or ``W:H``; a print size gives way to it."""

    do: Literal["choose_ratio"] = "choose_ratio"
    ratio: str = Field(max_length=40)

    def words(self) -> str:
        return tr("frame {ratio}", ratio=tr(self.ratio))

    def applied(self, now: Now) -> Recipe:
        return framed(now.recipe, ratio=self.ratio, print_size=None)


class ChoosePrintSize(EditBase):
    """A print size for the frame, or none."""

    do: Literal["choose_print_size"] = "choose_print_size"
    size: PrintSize | None

    def words(self) -> str:
        if self.size is None:
            return tr("no print size")
        return tr(
            "print {width:g} × {height:g} {unit}",
            width=self.size.width,
            height=self.size.height,
            unit=named(self.size.unit),
        )

    def applied(self, now: Now) -> Recipe:
        return framed(now.recipe, print_size=self.size)


class TurnShape(EditBase):
    """Turn the frame's shape, or its print size, from lying to upright and back."""

    do: Literal["turn_shape"] = "turn_shape"

    def words(self) -> str:
        return tr("frame turned over")

    def applied(self, now: Now) -> Recipe:
        frame, turned = now.recipe.frame, now.recipe.frame.turned_over
        if frame.print_size:
            return framed(now.recipe, print_size=turned.print_size)
        if ":" not in frame.ratio:
            raise UnusableInput(tr("This shape has no sides to change; choose a ratio."))
        return framed(now.recipe, ratio=turned.ratio)


class KeepBox(OnPicture):
    """A box that the frame must contain, by two opposite corners; None for nothing to keep."""

    do: Literal["keep_box"] = "keep_box"
    opposite: tuple[Point, Point] | None

    def words(self) -> str:
        return tr("box to keep") if self.opposite else tr("nothing to keep")

    def applied(self, now: Now) -> Recipe:
        if self.opposite is None:
            return framed(now.recipe, keep=None, air=0.0, looks=None)
        keep = box_of(self.in_source(self.opposite, now))
        return framed(now.recipe, keep=keep, placed=None)


class GiveMargin(EditBase):
    """A margin all round beyond the frame, as for a print that is wrapped about its panel.

    ``margin`` is a share of the frame's shorter side, ``length`` one in the unit of the print size.
    """

    joins = Joins()
    do: Literal["give_margin"] = "give_margin"
    margin: float | None = Field(default=None, ge=0, le=MAX_MARGIN)
    length: float | None = Field(default=None, ge=0, le=1000)

    @model_validator(mode="after")
    def _one_of_both(self) -> "GiveMargin":
        if (self.margin is None) == (self.length is None):
            raise ValueError(tr("a margin is a share of the frame, or a length on the print"))
        return self

    def words(self) -> str:
        if not (self.margin or self.length):
            return tr("no margin")
        if self.margin is not None:
            return tr("a margin of {share:.1f} %", share=self.margin * 100)
        return tr("a margin of {length:g} on the print", length=self.length)

    def applied(self, now: Now) -> Recipe:
        if self.margin is not None or not self.length:
            return framed(now.recipe, margin=self.margin or 0.0)
        size = now.recipe.frame.print_size
        if size is None:
            raise UnusableInput(
                tr("A margin as a length needs a print size; choose one, or give a share.")
            )
        share = self.length / size.shorter
        if share > MAX_MARGIN:
            raise UnusableInput(
                tr(
                    "A margin of {length:g} {unit} is more than half the shorter side of the "
                    "print; {most:g} {unit} is the most.",
                    length=self.length,
                    unit=named(size.unit),
                    most=MAX_MARGIN * size.shorter,
                )
            )
        return framed(now.recipe, margin=share)


class KeepMeasured(EditBase):
    """Let the frame contain what readings were drawn on where that costs little, or not."""

    do: Literal["keep_measured"] = "keep_measured"
    keep: bool

    def words(self) -> str:
        return tr("what was measured kept") if self.keep else tr("what was measured may be cut")

    def applied(self, now: Now) -> Recipe:
        return framed(now.recipe, keep_measured=self.keep, foot_first=True, placed=None)


class GiveAir(EditBase):
    """Air around the box to keep, as a share of its longer side, where there is room for it."""

    joins = Joins()
    do: Literal["give_air"] = "give_air"
    air: float = Field(ge=0, le=MAX_AIR)

    def words(self) -> str:
        return tr("{air:.0f} % air", air=self.air * 100) if self.air else tr("no air")

    def applied(self, now: Now) -> Recipe:
        return framed(_keeping(now.recipe), air=self.air, placed=None)


class LookTo(EditBase):
    """The side that what is kept looks to, on which the frame has the more room; None for none."""

    do: Literal["look_to"] = "look_to"
    side: Side | None

    def words(self) -> str:
        return (
            tr("looks to the {side}", side=named(self.side)) if self.side else tr("looks nowhere")
        )

    def applied(self, now: Now) -> Recipe:
        return framed(_keeping(now.recipe), looks=self.side, placed=None)


class MoveKeepCorner(OnPicture):
    """Move the top-left or the bottom-right corner of the box to keep."""

    joins = Joins(same=("corner",))
    do: Literal["move_keep_corner"] = "move_keep_corner"
    corner: Literal["top_left", "bottom_right"]
    to: Point

    def words(self) -> str:
        return tr("box to keep")

    def applied(self, now: Now) -> Recipe:
        keep = now.recipe.frame.keep
        if keep is None:
            raise UnusableInput(tr("There is no box to keep any more."))
        ((x, y),) = self.in_source((self.to,), now)
        if self.corner == "top_left":
            left, top = min(x, keep.right - LEAST_BOX_PX), min(y, keep.bottom - LEAST_BOX_PX)
            return framed(now.recipe, keep=keep.changed(left=left, top=top))
        right, bottom = max(x, keep.left + LEAST_BOX_PX), max(y, keep.top + LEAST_BOX_PX)
        return framed(now.recipe, keep=keep.changed(right=right, bottom=bottom))


class AimAt(OnPicture):
    """A point that a composition guide is to meet, on a guide of one's own when none is set yet."""

    do: Literal["aim_at"] = "aim_at"
    point: Point
    guide: GuideName | None = None

    def words(self) -> str:
        return "aim"

    def applied(self, now: Now) -> Recipe:
        (point,) = self.in_source((self.point,), now)
        aim, before = Aim(point=point), now.recipe.frame.aim
        if before and before.point:
            aim = before.changed(point=point)
        elif self.guide:
            aim = aim.changed(guide=self.guide)
        return framed(now.recipe, aim=aim, placed=None)


class MoveAim(OnPicture):
    """Move the point that is aimed at."""

    joins = Joins()
    do: Literal["move_aim"] = "move_aim"
    to: Point

    def words(self) -> str:
        return "aim"

    def applied(self, now: Now) -> Recipe:
        (point,) = self.in_source((self.to,), now)
        return framed(now.recipe, aim=_aimed(now.recipe).changed(point=point))


class ChangeAim(EditBase):
    """Another guide for the aim, or a line instead of a crossing of it."""

    do: Literal["change_aim"] = "change_aim"
    guide: GuideName | None = None
    meets: AimMeets | None = None

    def words(self) -> str:
        return "aim"

    def applied(self, now: Now) -> Recipe:
        given = {"guide": self.guide, "meets": self.meets}
        parts = {name: value for name, value in given.items() if value is not None}
        return framed(now.recipe, aim=_aimed(now.recipe).changed(**parts))


class AimBetween(EditBase):
    """Let the frame's middle lie midway between two readings."""

    do: Literal["aim_between"] = "aim_between"
    between: tuple[Id, Id]

    def words(self) -> str:
        return tr("centred between two edges")

    def applied(self, now: Now) -> Recipe:
        return framed(now.recipe, aim=Aim(between=self.between, guide="centre", meets="line"))


class ClearAim(EditBase):
    """Aim at nothing."""

    do: Literal["clear_aim"] = "clear_aim"

    def words(self) -> str:
        return tr("no aim")

    def applied(self, now: Now) -> Recipe:
        return framed(now.recipe, aim=None)


class DragFrame(EditBase):
    """Move the frame, or an edge or a corner of it, by some pixels of the corrected picture.

    ``handle`` says which: (0, 0) the whole frame, (-1, 0) its left edge, (1, 1) its bottom right
    corner. ``past`` lets it go beyond the picture as far as the fill allowance does; None leaves
    that as it is.
    """

    do: Literal["drag_frame"] = "drag_frame"
    handle: tuple[Literal[-1, 0, 1], Literal[-1, 0, 1]]
    by: Point
    past: bool | None = None

    def words(self) -> str:
        return tr("frame moved") if self.handle == (0, 0) else tr("frame resized")

    def applied(self, now: Now) -> Recipe:
        """The frame as the hand wants it; where it may lie is found when the recipe is solved."""
        frame, warp, (hx, hy) = now.solved.face, now.solved.warp, self.handle
        width, height = self._sides(frame, now.recipe)
        anchor = ((1 - hx) / 2, (1 - hy) / 2)
        at = np.array([[frame.x + anchor[0] * frame.width, frame.y + anchor[1] * frame.height]])
        if not (hx or hy):
            at += self.by
        past = self._past(now)
        x, y = warp.to_source(at)[0]
        if not past:
            # A frame that reaches past the picture is anchored to the nearest point of it only when
            # nothing may lie past it.
            x, y = np.clip([x, y], 0, [now.photo.width, now.photo.height])
        new = Placed(at=(float(x), float(y)), anchor=anchor, width=width, height=height, past=past)
        return framed(now.recipe, placed=new)

    def _sides(self, frame: SolvedFrame, recipe: Recipe) -> tuple[float, float]:
        """Width and height after it; with a shape that is fixed they follow each other."""
        (hx, hy), (dx, dy) = self.handle, self.by
        fixed = recipe.frame.ratio != "free" or recipe.frame.print_size is not None
        across = (frame.width + hx * dx) / frame.width
        down = (frame.height + hy * dy) / frame.height
        if fixed:
            across = down = max(across, down) if hx and hy else across if hx else down
        width, height = float(frame.width), float(frame.height)
        if hx or (hy and fixed):
            width = max(_LEAST_FRAME_PX, frame.width * across)
        if hy or (hx and fixed):
            height = max(_LEAST_FRAME_PX, frame.height * down)
        return width, height

    def _past(self, now: Now) -> bool:
        """Whether it may reach past the picture."""
        past, placed = self.past, now.recipe.frame.placed
        if past is None:
            past = placed.past if placed else now.solved.cost.fill_fraction > 0
        return past and now.recipe.fill.allowance > 0


class BestFrame(EditBase):
    """Back from a frame placed by hand to the best one."""

    do: Literal["best_frame"] = "best_frame"

    def words(self) -> str:
        return tr("best frame")

    def applied(self, now: Now) -> Recipe:
        return framed(now.recipe, placed=None)
