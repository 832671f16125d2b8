"""pixels + photo + recipe -> a proposal: readings with reasons, and how sure they are together.

Everything that explains the picture nearly as well as the best is followed to its end: where two
stances remain, what they do not agree on is not sure.
"""

import numpy as np

from sequor.core.camera import focal_of
from sequor.core.edits.parts import adding
from sequor.core.errors import UnusableInput
from sequor.core.lens.chosen import distortion_of
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.propose.attempts import View, attempts_of
from sequor.core.propose.bows import traces_of
from sequor.core.propose.horizon import STRONG, horizon_of, lines_suffice, with_horizon
from sequor.core.propose.judging import judged
from sequor.core.propose.pencil import refused
from sequor.core.propose.proposal import Proposal, Want
from sequor.core.propose.segments import about_centre, segments_of
from sequor.core.propose.skyline import skyline_of
from sequor.core.propose.small import Small, made_small
from sequor.core.recipe import Reading, Recipe


def propose(
    pixels: Pixels,
    photo: PhotoFacts,
    recipe: Recipe,
    want: Want = "any",
    small: Small | None = None,
) -> Proposal:
    """What the picture itself tells of the stance, beside the readings that it has.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    photo : PhotoFacts
        Its size and focal length.
    recipe : Recipe
        Its lens is used, its readings are kept, and what was rubbed out does not come back.
    want : str
        ``level``, ``plumb``, ``square``, or ``any``: what the picture asks for.
    small : Small, optional
        The picture made small, where that is at hand.

    Raises
    ------
    UnusableInput
        When the readings that are there cannot be used.
    """
    distortion, _ = distortion_of(photo, recipe)
    source, focal35_mm = focal_of(photo, recipe)
    known = source != "assumed"
    view = View(
        pixels, photo, recipe, small or made_small(pixels), (), distortion, focal35_mm, known
    )
    segments = segments_of(view.small, photo, distortion)
    segments = segments.taken(~refused(segments.seen, recipe, view.beside_px))
    if _bow_is_open(photo, recipe):
        found = traces_of(pixels, photo, segments, view.small.times)
        ends = np.array([trace.ends for trace in found]).reshape(-1, 2, 2)
        again = refused(ends, recipe, view.beside_px)
        traces = tuple(trace for trace, no in zip(found, again, strict=True) if not no)
        lens = _lens_by(photo, recipe, traces)
        if lens is not None:
            # What follows is looked for in the picture that they straighten.
            distortion = lens
            segments = about_centre(segments.seen, photo, distortion, view.end_px)
            view = view._replace(traces=traces, distortion=distortion)
    attempts = attempts_of(view, segments)
    # Where lines tell roll and lean anyway, the horizon is not looked for.
    told = bool(attempts) and lines_suffice(view, attempts[0])
    skyline = None if told else skyline_of(view.small, distortion)
    horizon = horizon_of(view, skyline, attempts[0] if attempts else None) if skyline else None
    if horizon is not None:
        first = with_horizon(view, horizon, attempts[0] if attempts else None)
        attempts = [first, *(rest for rest in attempts[1:] if rest.likelihood >= STRONG)]
    return judged(view, want, attempts, horizon is not None)


def _bow_is_open(photo: PhotoFacts, recipe: Recipe) -> bool:
    """Whether nothing tells the bow yet, neither traces nor the file."""
    traced = any(reading.kind == "trace" for reading in recipe.readings)
    return recipe.lens.source == "traces" and not traced and photo.bow is None


def _lens_by(photo: PhotoFacts, recipe: Recipe, traces: tuple[Reading, ...]) -> Distortion | None:
    """The lens by proposed traces; None where there are none, or no lens is like that."""
    if not traces:
        return None
    with_them = adding(recipe, *traces)
    try:
        return distortion_of(photo, with_them)[0]
    except UnusableInput:
        return None
