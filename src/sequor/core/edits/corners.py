"""Edits of the empty corners: how much may be filled, with what, and how they are shared out."""

from typing import Literal

from pydantic import Field

from sequor.core.edits.base import EditBase, Joins, Now, OnPicture
from sequor.core.edits.parts import bending, box_of, filled
from sequor.core.language import tr
from sequor.core.names import named
from sequor.core.recipe import FillCandidate, FillMethod, Point, Recipe, Share


class AllowFill(EditBase):
    """How much of the frame may be filled."""

    joins = Joins()
    do: Literal["allow_fill"] = "allow_fill"
    allowance: Share

    def words(self) -> str:
        return tr("fill allowance")

    def applied(self, now: Now) -> Recipe:
        return filled(now.recipe, allowance=self.allowance)


class FillWith(EditBase):
    """How the parts of the frame that the picture does not cover are filled."""

    do: Literal["fill_with"] = "fill_with"
    method: FillMethod

    def words(self) -> str:
        return tr("corners {method}", method=named(self.method))

    def applied(self, now: Now) -> Recipe:
        return filled(now.recipe, method=self.method)


class ChooseColour(EditBase):
    """The colour of what is filled with one."""

    joins = Joins()
    do: Literal["choose_colour"] = "choose_colour"
    colour: str = Field(pattern="^#[0-9a-fA-F]{6}$")

    def words(self) -> str:
        return tr("colour of the corners")

    def applied(self, now: Now) -> Recipe:
        return filled(now.recipe, colour=self.colour)


class ChooseCandidate(EditBase):
    """A candidate for one corner of the frame, 0 to 3 clockwise from the top left, or for all."""

    do: Literal["choose_candidate"] = "choose_candidate"
    corner: int | None = Field(default=None, ge=0, le=3)
    candidate: FillCandidate

    def words(self) -> str:
        draw = tr(", draw {draw:d}", draw=self.candidate.draw) if self.candidate.draw > 1 else ""
        return tr("{style} fill{draw}", style=named(self.candidate.style), draw=draw)

    def applied(self, now: Now) -> Recipe:
        chosen = [
            self.candidate if self.corner in (None, corner) else before
            for corner, before in enumerate(now.recipe.fill.candidates)
        ]
        return filled(now.recipe, candidates=tuple(chosen))


class AvoidBox(OnPicture):
    """A box, by two opposite corners, that nothing is copied from."""

    do: Literal["avoid_box"] = "avoid_box"
    opposite: tuple[Point, Point]

    def words(self) -> str:
        return tr("not to be copied")

    def applied(self, now: Now) -> Recipe:
        box = box_of(self.in_source(self.opposite, now))
        return filled(now.recipe, avoid=(*now.recipe.fill.avoid, box))


class CopyEverything(EditBase):
    """Let everything be copied again."""

    do: Literal["copy_everything"] = "copy_everything"

    def words(self) -> str:
        return tr("everything may be copied")

    def applied(self, now: Now) -> Recipe:
        return filled(now.recipe, avoid=())


class ShareCorners(EditBase):
    """Of the empty corners how much is closed by bending, and how much of the rest may be filled;
    what is left is cropped.
    """

    joins = Joins()
    do: Literal["share_corners"] = "share_corners"
    bend: Share
    fill: Share

    def words(self) -> str:
        return tr("corners shared out")

    def applied(self, now: Now) -> Recipe:
        return bending(filled(now.recipe, allowance=self.fill), corners=self.bend)
