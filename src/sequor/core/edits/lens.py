"""Edits of the lens: its focal length, its radial distortion."""

from typing import Literal, Self

from pydantic import Field

from sequor.core.edits.base import EditBase, Joins, Lookups, Now
from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr
from sequor.core.lens_choice import MAX_RADIAL
from sequor.core.photo import Polynomial
from sequor.core.recipe import Focal35, Recipe

_SOURCES = {
    "none": mark("bow left in"),
    "traces": mark("bow from traces"),
    "hand": mark("bow by hand"),
}


def millimetres(focal35_mm: float) -> str:
    """A focal length: ``28 mm``, ``24.5 mm``."""
    return tr("{focal35_mm:g} mm", focal35_mm=round(focal35_mm, 1))


class SetFocal(EditBase):
    """A focal length in 35-mm terms; None takes the file's."""

    do: Literal["set_focal"] = "set_focal"
    focal35_mm: Focal35 | None

    def words(self) -> str:
        if self.focal35_mm is None:
            return tr("focal length of the file")
        return tr("focal length {millimetres}", millimetres=millimetres(self.focal35_mm))

    def applied(self, now: Now) -> Recipe:
        return now.recipe.changed(focal35_mm=self.focal35_mm)


class ChooseLensSource(EditBase):
    """How the radial distortion is found; by hand goes on from what is there."""

    do: Literal["choose_lens_source"] = "choose_lens_source"
    source: Literal["none", "traces", "hand"]

    def words(self) -> str:
        return tr(_SOURCES[self.source])

    def applied(self, now: Now) -> Recipe:
        parts: dict[str, object] = {"source": self.source}
        if self.source == "hand":
            _, k1, _, k2, _, _ = now.solved.lens.polynomial
            parts |= {"k1": round(k1, 5), "k2": round(k2, 5)}
        return now.recipe.changed(lens=now.recipe.lens.changed(**parts))


class SetRadial(EditBase):
    """Coefficients of the radial distortion by hand; None leaves one as it is."""

    joins = Joins()
    do: Literal["set_radial"] = "set_radial"
    k1: float | None = Field(default=None, ge=-MAX_RADIAL, le=MAX_RADIAL)
    k2: float | None = Field(default=None, ge=-MAX_RADIAL, le=MAX_RADIAL)

    def words(self) -> str:
        return tr("bow by hand")

    def applied(self, now: Now) -> Recipe:
        given = {"k1": self.k1, "k2": self.k2}
        parts = {name: value for name, value in given.items() if value is not None}
        return now.recipe.changed(lens=now.recipe.lens.changed(source="hand", **parts))


class UseLens(EditBase):
    """The radial distortion of a lens of the open database, looked up unless it is given."""

    do: Literal["use_lens"] = "use_lens"
    name: str = Field(min_length=1, max_length=200)
    polynomial: Polynomial | None = None

    def words(self) -> str:
        return tr("bow of a lens")

    def supplied(self, now: Now, lookups: Lookups) -> Self:
        if self.polynomial is not None:
            return self
        return self.changed(polynomial=lookups.polynomial(self.name, now.recipe))

    def applied(self, now: Now) -> Recipe:
        if self.polynomial is None:
            raise UnusableInput(tr("The distortion of {name} was not looked up.", name=self.name))
        parts = {"source": "database", "polynomial": self.polynomial, "name": self.name}
        return now.recipe.changed(lens=now.recipe.lens.changed(**parts))
