"""photo + recipe -> solution: pure, no pixels, milliseconds.

The stages are those of the job, each a value made from those before it (`core.stages`).
"""

from functools import lru_cache

from sequor.core.photo import PhotoFacts
from sequor.core.readings.reading import check_reading
from sequor.core.recipe import Recipe
from sequor.core.solution import Solution
from sequor.core.stages.framing import framed
from sequor.core.stages.numbers import Stages, numbers_of
from sequor.core.stages.remarks import notes_of
from sequor.core.stages.setting import camera_of, lens_of, readings_of
from sequor.core.stages.turning import mapped, turned_by
from sequor.core.stance.staying import standing

_REMEMBERED = 64
"""Solutions that are kept: a draft is solved again for its report, its guide, its view."""


@lru_cache(maxsize=_REMEMBERED)
def solve(photo: PhotoFacts, recipe: Recipe) -> Solution:
    """Work out the whole correction of a photo.

    1. The camera: its focal length.
    2. The lens: the distortion that is taken out.
    3. The readings, freed of it.
    4. How the camera stood by them, and what of that stays in the picture.
    5. The turn that takes out as much of it as is wanted and safe.
    6. The whole map: the turn, and how the picture bends.
    7. The frame in what the map makes of the picture.
    8. The account of it all: numbers, then notes.

    Raises
    ------
    UnusableInput
        When a reading measures nothing or lies outside the picture, or when no frame fits.
    """
    for number, reading in enumerate(recipe.readings, 1):
        check_reading(reading, number, photo)
    camera = camera_of(photo, recipe)
    lens = lens_of(photo, recipe)
    readings = readings_of(recipe, camera, lens)
    stood = standing(camera.photo, readings.lines, recipe, camera.known)
    turned = turned_by(recipe.ease, stood, camera, lens, recipe)
    map_ = mapped(turned, photo, lens, readings, recipe)
    frame = framed(map_, photo, readings, recipe)
    made = Stages(photo, recipe, camera, lens, readings, stood, turned, map_, frame)
    solved = numbers_of(made)
    return Solution(**dict(solved), notes=tuple(notes_of(made, solved)))
