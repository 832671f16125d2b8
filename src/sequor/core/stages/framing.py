"""The frame in what the map makes of the picture, of whole pixels."""

from dataclasses import dataclass

from sequor.core.frame.by_hand import placed_frame
from sequor.core.frame.keeping import framing
from sequor.core.frame.placing import Found, Wanted
from sequor.core.frame.rectangle import Rectangle, border_centres, whole_pixels
from sequor.core.frame.wanted import around_readings, hand_of, wanted_frame
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe
from sequor.core.stages.setting import Readings
from sequor.core.stages.turning import Mapped
from sequor.core.warp.map import Warp

_MAX_SHRINKS = 40
"""A frame in a curved outline is drawn in by a pixel at each side at most so often; chords between
the outline's points stay within a pixel of it, so once is usual."""


@dataclass(frozen=True, eq=False)
class Framed:
    """What is wanted of the frame, what was found, and the frame itself.

    ``best`` is the best face, ``by_hand`` whether it was placed by hand instead, and
    ``kept_measured`` whether it is smaller than the largest to contain what was measured. The
    ``frame`` is the ``face`` with its margin.
    """

    wanted: Wanted
    found: Found
    kept_measured: bool
    best: Rectangle
    by_hand: bool
    face: Rectangle
    frame: Rectangle


def framed(map_: Mapped, photo: PhotoFacts, readings: Readings, recipe: Recipe) -> Framed:
    """The frame that the recipe asks for."""
    wanted = wanted_frame(recipe, photo, map_.warp, readings.every)
    keeps = recipe.frame.keep_measured and recipe.frame.placed is None
    measured = around_readings(readings.every, map_.warp) if keeps else None
    found, kept_measured = framing(map_.outline, wanted, recipe.frame, measured)
    best = _whole(found.frame, wanted, map_.warp, photo)
    hand = hand_of(recipe.frame.placed, map_.warp)
    face = best
    if hand is not None:
        face = _whole(placed_frame(map_.outline, wanted, hand), wanted, map_.warp, photo)
    frame = face.grown(round(recipe.frame.margin * min(face.width, face.height)))
    return Framed(wanted, found, kept_measured, best, hand is not None, face, frame)


def _whole(frame: Rectangle, wanted: Wanted, warp: Warp, photo: PhotoFacts) -> Rectangle:
    """A frame of whole pixels, all of them covered by the source when nothing may be filled."""
    whole = whole_pixels(frame, wanted.ratio)
    if warp.straight or wanted.allowance > 0:
        return whole
    # The outline is known at many points, not everywhere: what sticks out between them is cut off
    # pixel by pixel.
    size = [photo.width, photo.height]
    for _ in range(_MAX_SHRINKS):
        source = warp.to_source(border_centres(whole))
        if bool((source >= 0).all() and (source <= size).all()):
            break
        smaller = Rectangle(whole.x + 1, whole.y + 1, whole.width - 2, whole.height - 2)
        whole = whole_pixels(smaller, wanted.ratio)
    return whole
