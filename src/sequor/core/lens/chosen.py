"""The radial distortion that a recipe asks for."""

from sequor.core.lens.distortion import Distortion, radial
from sequor.core.lens.plumb_line import Traced, from_traces
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe


def distortion_of(photo: PhotoFacts, recipe: Recipe) -> tuple[Distortion, Traced | None]:
    """The distortion that a recipe asks for, and what the traces say when they decide it.

    Where traces are to tell it and there are none, the file does, if it states one.

    Raises
    ------
    UnusableInput
        When it folds the picture over.
    """
    chosen, traced = recipe.lens, None
    distortion = Distortion.of(photo)
    if chosen.source == "hand":
        distortion = Distortion.of(photo, radial(chosen.k1, chosen.k2))
    elif chosen.source == "database":
        distortion = Distortion.of(photo, chosen.polynomial)
    elif chosen.source == "traces":
        traces = tuple(r for r in recipe.readings if r.kind == "trace" and r.active)
        if traces:
            size = PhotoFacts(width=photo.width, height=photo.height)
            traced = from_traces(size, traces)
            distortion = traced.distortion(photo)
        elif photo.bow:
            bow = photo.bow
            distortion = Distortion.of(photo, bow.polynomial, bow.tangential, bow.off_centre)
    distortion.check()
    return distortion, traced
