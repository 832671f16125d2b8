"""Edits of the white balance: the light that a raw picture is developed for."""

from typing import Literal, Self

from sequor.core.edits.base import EditBase, Lookups, Now, OnPicture
from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr
from sequor.core.names import named
from sequor.core.recipe import Point, Recipe, WhiteChoice
from sequor.core.white import Illuminant, LightX, LightY

_FINISHED = mark(
    "This picture is not a raw file: its colours are finished, so its white stays as it is."
)


def check_light(white: WhiteChoice, now: Now, lookups: Lookups) -> None:
    """Refuse a light that this raw picture cannot be developed for."""
    if now.photo.raw and white.chromaticity:
        lookups.check_light(white.chromaticity)


class ChooseWhite(EditBase):
    """One of the usual lights, or what the camera chose."""

    do: Literal["choose_white"] = "choose_white"
    source: Literal["camera", Illuminant]

    def words(self) -> str:
        return (
            tr("white by the camera")
            if self.source == "camera"
            else tr("white for {source}", source=named(self.source))
        )

    def supplied(self, now: Now, lookups: Lookups) -> Self:
        check_light(WhiteChoice(source=self.source), now, lookups)
        return self

    def applied(self, now: Now) -> Recipe:
        if not now.photo.raw:
            raise UnusableInput(tr(_FINISHED))
        return now.recipe.changed(white=WhiteChoice(source=self.source))


class PickGrey(OnPicture):
    """The light under which a place of the picture is grey, looked up unless it is given."""

    do: Literal["pick_grey"] = "pick_grey"
    point: Point
    x: LightX | None = None
    y: LightY | None = None

    def words(self) -> str:
        return tr("white by a grey spot")

    def supplied(self, now: Now, lookups: Lookups) -> Self:
        if not now.photo.raw:
            raise UnusableInput(tr(_FINISHED))
        if self.x is not None and self.y is not None:
            return self
        (point,) = self.in_source((self.point,), now)
        x, y = lookups.grey_at(point)
        return self.changed(point=point, x=x, y=y, seen=None)

    def applied(self, now: Now) -> Recipe:
        white = WhiteChoice(source="spot", spot=self.point, x=self.x, y=self.y)
        return now.recipe.changed(white=white)
