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
from sequor.store.models import Picture
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
        cards = {card.id: card for card in cards_of(session, own.set_id)}
        others = [
            other
            for other in library.list_pictures(session, own.set_id)
            if other.original_sha256 != own.original_sha256 and _says(other) is not None
        ]
        others.sort(key=lambda other: abs(other.id - own.id))
        asked = [
            (
                library.photo_of(other.original),
                _says(other) or 0.0,
                ledger.recipe_of(other.head),
                cards[other.id].told,
            )
            for other in others[:_MOST]
        ]
    differences = []
    for photo, says, recipe, told in asked:
        by_lines = _by_lines(photo, recipe)
        if by_lines is None and told is not None and told.sure:
            by_lines = told.deg
        if by_lines is not None:
            differences.append(by_lines - says)
    return offset_of(differences)


def _says(picture: Picture) -> float | None:
    pose = library.photo_of(picture.original).pose
    return pose.roll_deg if pose else None


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
