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


def named_of(session: Session, picture: Picture, otherwise: datetime) -> Named:
    """What the parts of a pattern stand for; ``otherwise`` is the moment of a picture whose file
    does not say when it was taken.
    """
    return Named(
        name=picture.name,
        set=picture.set.name,
        number=library.number_in_set(session, picture),
        moment=picture.original.taken_at or otherwise,
    )


def names_of(
    resources: Resources, picture_ids: list[int], options: ExportOptions
) -> list[WantedName]:
    """The names that files of pictures would get, in their order.

    Raises
    ------
    UnusableInput
        When the pattern, or the size for one of the pictures, cannot be.
    """
    check_pattern(options.pattern)
    with resources.database.reading() as session:
        found = [
            (number, _name_of(session, library.get_picture(session, number), options))
            for number in dict.fromkeys(picture_ids)
        ]
    counted = Counter(name.lower() for _, name in found)
    return [WantedName(number, name, counted[name.lower()] > 1) for number, name in found]


def _name_of(session: Session, picture: Picture, options: ExportOptions) -> str:
    recipe = ledger.recipe_of(ledger.standing(session, picture).entry)
    solution = solve(library.photo_of(picture.original), recipe)
    output = output_of(solution, recipe.frame, options.size)
    named = named_of(session, picture, now())
    size = (output.width, output.height)
    return file_name(options.pattern, named, size, SUFFIXES[options.format])
