"""Names of files that are to be made: as the desk gives them, and looked at before a batch."""

from collections import Counter
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from sequor.core.render.size import output_of
from sequor.core.solve import solve
from sequor.making.exports import ExportOptions
from sequor.pictures.encode import SUFFIXES
from sequor.pictures.naming import Named, check_pattern, file_name
from sequor.services.resources import Resources
from sequor.store import ledger, library
from sequor.store.models import Picture, now


@dataclass(frozen=True)
class WantedName:
    """The name that the file of a picture would get, and whether another one would get it too."""

    picture_id: int
    name: str
    clashes: bool


_UNNUMBERED, _UNSIZED = 0, (0, 0)


def named_of(session: Session, picture: Picture, pattern: str, otherwise: datetime) -> Named:
    """What the parts of a pattern stand for; ``otherwise`` is the moment of a picture whose file
    does not say when it was taken. A number that it does not name is not counted.
    """
    numbered = "{number}" in pattern
    return Named(
        name=picture.name,
        set=picture.set.name,
        number=library.number_in_set(session, picture) if numbered else _UNNUMBERED,
        moment=picture.original.taken_at or otherwise,
    )


def names_of(
    resources: Resources, picture_ids: list[int], options: ExportOptions
) -> list[WantedName]:
    """The names that files of pictures would get, in their order.

    Raises
    ------
    NotFound
        When one of them is not there.
    UnusableInput
        When the pattern, or the size that it names for one of them, cannot be.
    """
    check_pattern(options.pattern)
    with resources.database.reading() as session:
        pictures = library.get_pictures(session, list(dict.fromkeys(picture_ids)))
        found = [(one.id, _name_of(session, one, options)) for one in pictures]
    counted = Counter(name.lower() for _, name in found)
    return [WantedName(number, name, counted[name.lower()] > 1) for number, name in found]


def _name_of(session: Session, picture: Picture, options: ExportOptions) -> str:
    pattern, size = options.pattern, _UNSIZED
    if "{width}" in pattern or "{height}" in pattern:
        recipe = ledger.recipe_of(ledger.holding(session, picture).entry)
        solution = solve(library.photo_of(picture.original), recipe)
        output = output_of(solution, recipe.frame, options.size)
        size = (output.width, output.height)
    named = named_of(session, picture, pattern, now())
    return file_name(pattern, named, size, SUFFIXES[options.format])
