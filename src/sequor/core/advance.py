"""The one way from a recipe to the next: ``advance(photo, recipe, edits, lookups)``.

What is only tried, what is kept, proposals, review, carrying over, versions, candidates of a fill
and the command line all go through here.
"""

from dataclasses import dataclass
from functools import partial

from pydantic import ValidationError

from sequor.core.edges.together import fit_all
from sequor.core.edits import Edit
from sequor.core.edits.base import Lookups, Now, Together, Understood
from sequor.core.edits.parts import bending, find, giving_way, with_readings
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.lens.chosen import distortion_of
from sequor.core.photo import PhotoFacts, Polynomial
from sequor.core.pixels import Pixels
from sequor.core.readings.reading import check_reading
from sequor.core.recipe import Edges, Point, Recipe
from sequor.core.solve import solve
from sequor.core.stance.expecting import expected_angle
from sequor.core.white import Chromaticity

Edits = tuple[Edit, ...]


@dataclass(frozen=True)
class FewFitted:
    """Fewer of the lines than wanted found an edge: so many, at so many places together."""

    found: int
    wanted: int
    stations: int


Remark = Understood | FewFitted


@dataclass(frozen=True)
class Advanced:
    """A recipe that edits lead to, and what came of the last of them that there is anything to say
    of.
    """

    recipe: Recipe
    remark: Remark | None = None


class Untouched:
    """Lookups of one who has no picture at hand: nothing is fitted, no edges, no lens."""

    def polynomial(self, name: str, recipe: Recipe) -> Polynomial:
        """Refuses."""
        raise UnusableInput(tr("The distortion of {name} was not looked up.", name=name))

    def fitted(self, recipe: Recipe, groups: tuple[Together, ...]) -> Recipe:
        """The recipe as it is."""
        return recipe

    def edges(self) -> Edges | None:
        """None yet."""
        return None

    def grey_at(self, point: Point) -> Chromaticity:
        """Refuses."""
        raise UnusableInput(tr("The grey spot was not looked up."))

    def check_light(self, white: Chromaticity) -> None:
        """Any will do."""


UNTOUCHED = Untouched()


def advance(
    photo: PhotoFacts, recipe: Recipe, edits: Edits, lookups: Lookups = UNTOUCHED
) -> Advanced:
    """The recipe that edits lead to, one after the other.

    1. What an edit names is looked up.
    2. Its rule makes the recipe after it; what a hand had stated gives way to new readings.
    3. Readings that it wants fitted are fitted to the edges under them.
    4. A recipe that bends, and has not the straight edges of its picture yet, gets them, before
       the next edit is placed on what it makes of the picture.

    Raises
    ------
    UnusableInput
        When an edit cannot be done: a reading that is not there, a value out of its range, a text
        that is no angle. Nothing was changed.
    """
    remark: Remark | None = None
    recipe = _with_edges(recipe, lookups)
    for edit in edits:
        changed, said = _followed(edit, photo, recipe, lookups)
        recipe, remark = _with_edges(changed, lookups), said or remark
    return Advanced(recipe, remark)


def _with_edges(recipe: Recipe, lookups: Lookups) -> Recipe:
    """A recipe with the straight edges of its picture, if it bends and has them not yet."""
    if not recipe.bend.bends or recipe.bend.edges is not None:
        return recipe
    return bending(recipe, edges=lookups.edges())


def _followed(
    edit: Edit, photo: PhotoFacts, before: Recipe, lookups: Lookups
) -> tuple[Recipe, Remark | None]:
    now = Now(photo, before, solve)
    try:
        edit = edit.supplied(now, lookups)
        remark: Remark | None = edit.understood(now)
        recipe = giving_way(before, edit.applied(now), partial(solve, photo))
    except ValidationError as problem:
        said = str(problem.errors()[0]["msg"]).removeprefix("Value error, ")
        raise UnusableInput(f"{said[:1].upper()}{said[1:]}.") from problem
    groups = edit.to_fit(before)
    if groups:
        recipe = lookups.fitted(recipe, groups)
        remark = _few_fitted(recipe, groups) or remark
    return recipe, remark


def _few_fitted(recipe: Recipe, groups: tuple[Together, ...]) -> FewFitted | None:
    wanted = [name for group in groups for name in group]
    found = [fit for name in wanted if (fit := find(recipe, name).fitted)]
    if len(found) == len(wanted):
        return None
    return FewFitted(len(found), len(wanted), sum(fit.stations for fit in found))


def fitted_readings(
    groups: tuple[Together, ...], recipe: Recipe, photo: PhotoFacts, pixels: Pixels
) -> Recipe:
    """The recipe with some of its readings fitted to the edges under them: how `Lookups.fitted` is
    done where the pixels are.

    Parameters
    ----------
    groups : tuple of tuples of str
        Single readings, or the four sides of a rectangle; each finds what those before it left.
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    """
    number = {reading.id: place for place, reading in enumerate(recipe.readings, 1)}
    for names in groups:
        chosen = tuple(find(recipe, name) for name in names)
        for reading in chosen:
            check_reading(reading, number[reading.id], photo)
        distortion, _ = distortion_of(photo, recipe)
        expected = expected_angle(photo, recipe, chosen[0]) if len(chosen) == 1 else None
        recipe = with_readings(recipe, *fit_all(chosen, pixels, distortion, expected))
    return recipe
