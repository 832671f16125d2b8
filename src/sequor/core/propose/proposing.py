"""pixels + photo + recipe -> a proposal: readings with reasons, and how sure they are together.

Everything that explains the picture nearly as well as the best is followed to its end: where two
stances remain, what they do not agree on is not sure.
"""

from sequor.core.camera import focal_of, focal_px_of
from sequor.core.lens.chosen import distortion_of
from sequor.core.pixels import Pixels
from sequor.core.propose.attempts import View, attempts_of, without_rubbed
from sequor.core.propose.horizon import STRONG, horizon_of, with_horizon
from sequor.core.propose.judging import judged
from sequor.core.propose.proposal import Proposal, Want
from sequor.core.propose.segments import segments_of
from sequor.core.propose.skyline import skyline_of
from sequor.core.propose.small import Small, made_small
from sequor.core.recipe import PhotoFacts, Recipe


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
    _, focal35_mm = focal_of(photo, recipe)
    view = View(
        pixels,
        photo,
        recipe,
        small or made_small(pixels),
        distortion,
        focal35_mm,
        focal_px_of(focal35_mm, photo),
    )
    segments = without_rubbed(segments_of(view.small, photo, distortion), recipe, view)
    attempts = attempts_of(view, segments)
    skyline = skyline_of(view.small, distortion)
    horizon = horizon_of(view, skyline, attempts[0] if attempts else None) if skyline else None
    if horizon is not None:
        first = with_horizon(view, horizon, attempts[0] if attempts else None)
        attempts = [first, *(rest for rest in attempts[1:] if rest.likelihood >= STRONG)]
    return judged(view, want, attempts, horizon is not None)
