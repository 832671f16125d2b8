"""Edits of a recipe as a whole: begun anew, opened, or with parts of another picture's."""

from typing import Annotated, Literal, Self

from pydantic import Field

from sequor.core.edits.base import EditBase, Lookups, Now
from sequor.core.edits.carrying import PARTS, Misfit, Part, WithRecipe, carry
from sequor.core.edits.parts import bending
from sequor.core.edits.white import check_light
from sequor.core.language import tr
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe


class StartOver(EditBase):
    """Nothing decided: the picture as shot."""

    do: Literal["start_over"] = "start_over"

    def words(self) -> str:
        return tr("started over")

    def applied(self, now: Now) -> Recipe:
        return Recipe()


class OpenRecipe(EditBase):
    """Everything as a recipe has it that was saved before, of this picture or another one."""

    do: Literal["open_recipe"] = "open_recipe"
    recipe: Recipe

    def words(self) -> str:
        return tr("recipe opened")

    def supplied(self, now: Now, lookups: Lookups) -> Self:
        check_light(self.recipe.white, now, lookups)
        return self

    def applied(self, now: Now) -> Recipe:
        # Edges are looked for anew: the recipe may be of another picture.
        return bending(self.recipe, edges=None)


class CarryOver(EditBase):
    """Parts of another picture's recipe; those that do not fit this picture are left out."""

    do: Literal["carry_over"] = "carry_over"
    parts: Annotated[tuple[Part, ...], Field(max_length=len(PARTS))]
    photo: PhotoFacts
    recipe: Recipe

    def words(self) -> str:
        return tr("carried over")

    def supplied(self, now: Now, lookups: Lookups) -> Self:
        if "white" in self.parts:
            check_light(self.recipe.white, now, lookups)
        return self

    def applied(self, now: Now) -> Recipe:
        return self._carried(now.photo, now.recipe)[0]

    def misfits(self, photo: PhotoFacts, recipe: Recipe) -> dict[Part, Misfit]:
        """Which parts do not fit a picture, and why."""
        return self._carried(photo, recipe)[1]

    def _carried(self, photo: PhotoFacts, recipe: Recipe) -> tuple[Recipe, dict[Part, Misfit]]:
        source = WithRecipe(self.photo, self.recipe)
        return carry(self.parts, source, WithRecipe(photo, recipe))
