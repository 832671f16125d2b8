"""What edits need of a stored picture: its lens, the edges under its lines, its straight edges."""

from collections.abc import Callable
from typing import Any

from sequor.core.edits.base import Together
from sequor.core.photo import Polynomial
from sequor.core.recipe import Edges, Point, Recipe
from sequor.core.white import Chromaticity
from sequor.making import fitting
from sequor.services.lenses import polynomial_of
from sequor.services.pictures import OriginalFacts, original_file
from sequor.services.resources import Resources
from sequor.services.working import run_task
from sequor.work.engine import Lane, Task


class PictureLookups:
    """See `core.edits.base.Lookups`; without ``fits`` lines stay as drawn, for a quick draft."""

    def __init__(self, resources: Resources, facts: OriginalFacts, fits: bool = True) -> None:
        self._resources, self._facts, self._fits = resources, facts, fits

    def polynomial(self, name: str, recipe: Recipe) -> Polynomial:
        """The distortion of a lens of the open database."""
        with original_file(self._resources, self._facts.sha256) as source:
            return polynomial_of(name, recipe, self._facts.photo, source)

    def fitted(self, recipe: Recipe, groups: tuple[Together, ...]) -> Recipe:
        """A recipe with some readings fitted to the edges under them."""
        if not self._fits:
            return recipe
        facts = self._facts
        arguments = (facts.sha256, facts.photo, recipe, groups)
        fitted: Recipe = by_the_pixels(self._resources, facts, fitting.fit, *arguments)
        return fitted

    def edges(self) -> Edges:
        """The straight edges of the picture; they are looked for once."""
        resources, facts = self._resources, self._facts
        return resources.caches.edges.get(
            facts.sha256, lambda: by_the_pixels(resources, facts, fitting.edges, facts.sha256)
        )

    def grey_at(self, point: Point) -> Chromaticity:
        """The light under which a place of a raw picture is grey."""
        found: Chromaticity = by_the_pixels(
            self._resources, self._facts, fitting.grey_at, self._facts.sha256, point
        )
        return found

    def check_light(self, white: Chromaticity) -> None:
        """Refuse a light that a raw picture cannot be developed for."""
        sha256 = self._facts.sha256
        by_the_pixels(self._resources, self._facts, fitting.check_light, sha256, white)


def by_the_pixels(
    resources: Resources, facts: OriginalFacts, function: Callable[..., Any], *arguments: object
) -> Any:
    """What the hand waits for and needs the original's pixels."""
    needed_mb = facts.decoded_mb * 1.5
    return run_task(
        resources,
        Task(
            function,
            arguments,
            Lane.HAND,
            about=facts.sha256,
            memory_mb=needed_mb,
            originals=(facts.sha256,),
        ),
    )
