"""What edits need of a picture file: its lens, the edges under its lines, its straight edges."""

from dataclasses import dataclass
from pathlib import Path

from sequor.core.advance import fitted_readings
from sequor.core.edits.base import Together
from sequor.core.photo import PhotoFacts, Polynomial
from sequor.core.recipe import Edges, Point, Recipe
from sequor.core.white import Chromaticity
from sequor.pictures.decode import DecodedPicture
from sequor.services.lenses import polynomial_of


@dataclass(frozen=True)
class FileLookups:
    """See `core.edits.base.Lookups`."""

    source: Path
    picture: DecodedPicture

    @property
    def photo(self) -> PhotoFacts:
        """What the core needs to know of it."""
        return self.picture.facts.photo

    def polynomial(self, name: str, recipe: Recipe) -> Polynomial:
        """The distortion of a lens of the open database."""
        return polynomial_of(name, recipe, self.photo, self.source)

    def fitted(self, recipe: Recipe, groups: tuple[Together, ...]) -> Recipe:
        """A recipe with some readings fitted to the edges under them."""
        return fitted_readings(groups, recipe, self.photo, self.picture.pixels)

    def edges(self) -> Edges:
        """The straight edges of the picture."""
        # OpenCV takes a while to load, and is needed for this only.
        from sequor.core.propose.straight import straight_edges

        return straight_edges(self.picture.pixels)

    def grey_at(self, point: Point) -> Chromaticity:
        """The light under which a place of a raw picture is grey."""
        # LibRaw takes a while to load, and is needed for raw files only.
        from sequor.pictures.raw import grey_at

        return grey_at(self.source, point)

    def check_light(self, white: Chromaticity) -> None:
        """Refuse a light that a raw picture cannot be developed for."""
        from sequor.pictures.raw import check_light

        check_light(self.source, white)
