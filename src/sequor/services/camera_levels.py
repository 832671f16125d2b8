"""The level of a set's camera, by its pictures in which lines tell the roll too."""

from sequor.core.account.camera_offset import CameraOffset, offset_of
from sequor.core.advance import advance
from sequor.core.edits import RemoveReading
from sequor.core.errors import UnusableInput
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe
from sequor.core.solve import solve
from sequor.services.resources import Resources
from sequor.store import ledger, library
from sequor.store.sheet import cards_of

_MOST = 100
"""Pictures that are looked at, the nearest to the one that is asked for."""
_SURE_DEG = 0.4
"""A roll by lines that is less sure tells nothing of a camera's level."""


def level_of_set(resources: Resources, picture_id: int) -> CameraOffset | None:
    """What the other pictures of a picture's set say of its camera's level; None where too few say
    anything.
    """
    with resources.database.reading() as session:
        own = library.get_picture(session, picture_id)
        others = library.others_with_pose(session, own, _MOST)
        cards = {card.id: card for card in cards_of(session, ids=[other.id for other in others])}
        asked = [
            (library.photo_of(other.original), ledger.recipe_of(other.head), cards[other.id].told)
            for other in others
        ]
    differences = []
    for photo, recipe, told in asked:
        says = photo.pose.roll_deg if photo.pose else None
        if says is None:
            continue
        by_lines = _by_lines(photo, recipe)
        if by_lines is None and told is not None and told.sure:
            by_lines = told.deg
        if by_lines is not None:
            differences.append(by_lines - says)
    return offset_of(differences)


def _by_lines(photo: PhotoFacts, recipe: Recipe) -> float | None:
    """The roll that the lines of a recipe tell, without what its camera says."""
    told = tuple(RemoveReading(id=reading.id) for reading in recipe.readings if reading.camera)
    try:
        by_lines = advance(photo, recipe, told).recipe
        roll = solve(photo, by_lines).stance.roll
    except UnusableInput:
        return None
    sure = roll.sigma_deg is not None and 0 < roll.sigma_deg <= _SURE_DEG
    return roll.measured_deg if sure else None
