"""Edits of bending: what is to become of lines, how much bends, and what does not."""

import math
from typing import Literal

import numpy as np
from pydantic import Field

from sequor.core.edits.base import Brushing, EditBase, Id, Joins, Now, OnPicture
from sequor.core.edits.parts import LEAST_BOX_PX, bending, box_of, find, find_solved, switched
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.readings.angles import tilt_of
from sequor.core.recipe import (
    LEAST_MAX_STRETCH,
    MAX_BOXES,
    MAX_WANTED_DEG,
    MOST_MAX_STRETCH,
    Becomes,
    Point,
    Recipe,
    Share,
)


def _wanted(recipe: Recipe, name: str, becomes: Becomes, wanted_deg: float | None) -> Recipe:
    """What a reading is to become; what does nothing yet then bends all that is left over."""
    if find(recipe, name).kind == "check":
        raise UnusableInput(
            tr("A check is measured and does nothing; read it as something else first.")
        )
    changed = switched(recipe, (name,), becomes=becomes, wanted_deg=wanted_deg)
    if becomes in ("angle", "straight") and recipe.bend.lines == 0:
        return bending(changed, lines=1.0)
    return changed


class LetReadingBecome(EditBase):
    """What is to become of a reading by bending; at an ``angle`` without one, as it is now."""

    joins = Joins(same=("id",))
    do: Literal["let_reading_become"] = "let_reading_become"
    id: Id
    becomes: Becomes
    wanted_deg: float | None = Field(default=None, ge=-MAX_WANTED_DEG, le=MAX_WANTED_DEG)

    def words(self) -> str:
        if self.becomes == "angle":
            return (
                tr("wanted angle")
                if self.wanted_deg is None
                else tr("wanted at {wanted_deg:g}°", wanted_deg=self.wanted_deg)
            )
        return {"true": tr("to come true"), "straight": tr("only to be straight")}.get(
            self.becomes, tr("to stay as it is")
        )

    def applied(self, now: Now) -> Recipe:
        if self.becomes != "angle":
            return _wanted(now.recipe, self.id, self.becomes, None)
        wanted = self.wanted_deg
        if wanted is None:
            wanted = round(find_solved(now.solved, self.id).residual_deg, 3)
        return _wanted(now.recipe, self.id, "angle", wanted)


class PointReading(EditBase):
    """The angle that a reading is to have, by where its first (0) or last (1) end is to point, in
    pixels of the uncropped corrected picture.
    """

    do: Literal["point_reading"] = "point_reading"
    id: Id
    end: Literal[0, 1]
    to: Point

    def words(self) -> str:
        return tr("wanted angle")

    def applied(self, now: Now) -> Recipe:
        reading, solved = find(now.recipe, self.id), now.solved
        other = solved.warp.to_corrected(np.array([reading.ends[1 - self.end]]))[0]
        dx, dy = self.to[0] - other[0], self.to[1] - other[1]
        if math.hypot(dx, dy) < LEAST_BOX_PX:
            raise UnusableInput(tr("That is too near to the line's other end to tell a direction."))
        tilt = math.degrees(tilt_of(dx, dy, find_solved(solved, self.id).reads_as))
        return _wanted(now.recipe, self.id, "angle", round(tilt, 2))


class BendLines(EditBase):
    """How much of what the turn leaves over of readings is bent away."""

    joins = Joins()
    do: Literal["bend_lines"] = "bend_lines"
    share: Share

    def words(self) -> str:
        return tr("lines bent {share:.0f} %", share=self.share * 100)

    def applied(self, now: Now) -> Recipe:
        return bending(now.recipe, lines=self.share)


class BendCorners(EditBase):
    """How much of the empty corners is closed by bending."""

    joins = Joins()
    do: Literal["bend_corners"] = "bend_corners"
    share: Share

    def words(self) -> str:
        return tr("corners bent {share:.0f} %", share=self.share * 100)

    def applied(self, now: Now) -> Recipe:
        return bending(now.recipe, corners=self.share)


class LimitBending(EditBase):
    """The most by which anything may be stretched or squeezed."""

    joins = Joins()
    do: Literal["limit_bending"] = "limit_bending"
    max_stretch: float = Field(ge=LEAST_MAX_STRETCH, le=MOST_MAX_STRETCH)

    def words(self) -> str:
        return tr("limit of bending")

    def applied(self, now: Now) -> Recipe:
        return bending(now.recipe, max_stretch=self.max_stretch)


class KeepStill(OnPicture):
    """A box, by two opposite corners, that does not bend."""

    do: Literal["keep_still"] = "keep_still"
    opposite: tuple[Point, Point]

    def words(self) -> str:
        return tr("not to be bent")

    def applied(self, now: Now) -> Recipe:
        box = box_of(self.in_source(self.opposite, now))
        if box.inside(now.photo.width, now.photo.height) is None:
            raise UnusableInput(
                tr("That box lies outside the picture; draw it over what must not bend.")
            )
        return bending(now.recipe, still=(*now.recipe.bend.still, box))


class BrushStill(Brushing):
    """A stroke of a brush over what does not bend, such as a face or a person."""

    do: Literal["brush_still"] = "brush_still"

    def words(self) -> str:
        return tr("not to be bent")

    def applied(self, now: Now) -> Recipe:
        brushed = now.recipe.bend.brushed
        if len(brushed) >= MAX_BOXES:
            raise UnusableInput(
                tr(
                    "There are {most} strokes over what must not bend already; nothing was "
                    "changed. Go over more of it in one stroke.",
                    most=MAX_BOXES,
                )
            )
        return bending(now.recipe, brushed=(*brushed, self.stroke(now, within=True)))


class BendEverything(EditBase):
    """Let everything bend again."""

    do: Literal["bend_everything"] = "bend_everything"

    def words(self) -> str:
        return tr("everything may bend")

    def applied(self, now: Now) -> Recipe:
        return bending(now.recipe, still=(), brushed=())
