"""Edits of mends: places that are made anew by a brush."""

from typing import Annotated, Literal

from pydantic import Field

from sequor.core.edits.base import Brushing, EditBase, Now, OnPicture
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.recipe import (
    MAX_DRAW,
    MAX_MENDS,
    FillCandidate,
    Mend,
    Point,
    Recipe,
)

Number = Annotated[int, Field(ge=1, le=MAX_MENDS)]
"""Which mend, counted from 1 in the order they were made."""


class MendPlace(Brushing):
    """A place made anew, by a stroke."""

    do: Literal["mend_place"] = "mend_place"

    def words(self) -> str:
        return tr("a place mended")

    def applied(self, now: Now) -> Recipe:
        mends = now.recipe.mends
        if len(mends) >= MAX_MENDS:
            said = tr(
                "There are {most} mends already; nothing was changed. Remove one, or mend the rest "
                "in the exported file.",
                most=MAX_MENDS,
            )
            raise UnusableInput(said)
        stroke = self.stroke(now, within=False)
        mend = Mend(points=stroke.points, reach=stroke.reach)
        return now.recipe.changed(mends=(*mends, mend))


class MendOtherwise(EditBase):
    """Another suggestion for a mend, the next one unless told which; it is no longer copied from
    one place.
    """

    do: Literal["mend_otherwise"] = "mend_otherwise"
    number: Number
    candidate: FillCandidate | None = None

    def words(self) -> str:
        return tr("mend {number:d} made another way", number=self.number)

    def applied(self, now: Now) -> Recipe:
        mend = _mend(now.recipe, self.number)
        changed = mend.changed(candidate=self.candidate or _other(mend), copied_from=None)
        return _with(now.recipe, self.number, changed)


class MendFrom(OnPicture):
    """A mend, the last one without a number, copied from one place: the one that the middle of its
    stroke is copied from.
    """

    do: Literal["mend_from"] = "mend_from"
    number: Number | None = None
    place: Point

    def words(self) -> str:
        return tr("a mend copied from a place")

    def applied(self, now: Now) -> Recipe:
        number = self.number or max(1, len(now.recipe.mends))
        mend = _mend(now.recipe, number)
        ((x, y),) = self.in_source((self.place,), now)
        to = mend.points[len(mend.points) // 2]
        return _with(now.recipe, number, mend.changed(copied_from=(x - to[0], y - to[1])))


class RemoveMend(EditBase):
    """A mend taken away, or all of them."""

    do: Literal["remove_mend"] = "remove_mend"
    number: Number | None = None

    def words(self) -> str:
        if self.number is None:
            return tr("mends removed")
        return tr("mend {number:d} removed", number=self.number)

    def applied(self, now: Now) -> Recipe:
        if self.number is None:
            return now.recipe.changed(mends=())
        _mend(now.recipe, self.number)
        return _with(now.recipe, self.number)


def _other(mend: Mend) -> FillCandidate:
    """What is suggested next: sharp and calm in turn, each draw of them, and the first one after a
    copy.
    """
    if mend.copied_from:
        return FillCandidate()
    style, draw = mend.candidate.style, mend.candidate.draw
    if style == "sharp":
        return FillCandidate(style="calm", draw=draw)
    return FillCandidate(style="sharp", draw=draw % MAX_DRAW + 1)


def _mend(recipe: Recipe, number: int) -> Mend:
    if number > len(recipe.mends):
        said = tr("There is no mend {number:d} any more; nothing was changed.", number=number)
        raise UnusableInput(said)
    return recipe.mends[number - 1]


def _with(recipe: Recipe, number: int, *instead: Mend) -> Recipe:
    mends = recipe.mends
    return recipe.changed(mends=(*mends[: number - 1], *instead, *mends[number:]))
