"""Recipes after edits, for tests that have numbers only, or the pixels of a picture."""

from sequor.core.advance import Untouched, advance, fitted_readings
from sequor.core.edits import Edit
from sequor.core.edits.base import Together
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.recipe import Edges, Recipe


def apply(edit: Edit, recipe: Recipe, photo: PhotoFacts) -> Recipe:
    """The recipe after an edit."""
    return advance(photo, recipe, (edit,)).recipe


class OfPixels(Untouched):
    """Lookups of one who has the pixels: lines are fitted to the edges under them."""

    def __init__(self, photo: PhotoFacts, pixels: Pixels, edges: Edges | None = None) -> None:
        self._photo, self._pixels, self._edges = photo, pixels, edges

    def fitted(self, recipe: Recipe, groups: tuple[Together, ...]) -> Recipe:
        return fitted_readings(groups, recipe, self._photo, self._pixels)

    def edges(self) -> Edges | None:
        return self._edges
