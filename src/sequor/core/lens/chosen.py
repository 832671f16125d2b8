"""The radial distortion that a recipe asks for."""

from sequor.core.lens.distortion import RadialDistortion, radial
from sequor.core.lens.plumb_line import Traced, from_traces
from sequor.core.recipe import PhotoFacts, Recipe


def distortion_of(photo: PhotoFacts, recipe: Recipe) -> tuple[RadialDistortion, Traced | None]:
    """The distortion that a recipe asks for, and what the traces say when they decide it.

    Raises
    ------
    UnusableInput
        When it folds the picture over.
    """
    chosen, traced = recipe.lens, None
    polynomial = radial(0.0, 0.0)
    if chosen.source == "hand":
        polynomial = radial(chosen.k1, chosen.k2)
    elif chosen.source == "database":
        polynomial = chosen.polynomial
    elif chosen.source == "traces":
        traces = tuple(r for r in recipe.readings if r.kind == "trace" and r.active)
        if traces:
            size = PhotoFacts(width=photo.width, height=photo.height)
            traced = from_traces(size, traces)
            polynomial = radial(traced.k1, traced.k2)
    distortion = RadialDistortion.of(photo, polynomial)
    distortion.check()
    return distortion, traced
