"""What is known of stored pictures: their facts, the recipes of their entries."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import cast

from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe
from sequor.making.worker_cache import Corrected, gone_from
from sequor.pictures.lenses import Shot, shot_of
from sequor.services.originals import lost
from sequor.services.resources import Resources
from sequor.store import ledger, library
from sequor.store.models import Original

_MB = 2**20
_NUMBERS_BITS, _SHOWN_BITS = 32, 16


@dataclass(frozen=True)
class OriginalFacts:
    """An original: its hash, what the core needs to know of it, and its size when decoded."""

    sha256: str
    photo: PhotoFacts
    decoded_mb: float


def facts_of(resources: Resources, picture_id: int) -> OriginalFacts:
    """The original of a picture; a drag does not ask the database every time."""

    def find() -> object:
        with resources.database.reading() as session:
            return facts_of_row(library.get_picture(session, picture_id).original)

    return cast(OriginalFacts, resources.caches.facts.get(picture_id, find))


def facts_of_original(resources: Resources, sha256: str) -> OriginalFacts:
    """The same by its hash."""

    def find() -> object:
        with resources.database.reading() as session:
            return facts_of_row(library.get_original(session, sha256))

    return cast(OriginalFacts, resources.caches.facts.get(sha256, find))


def recipe_of_entry(resources: Resources, picture_id: int, entry_id: int) -> Recipe:
    """The recipe of an entry of a picture's ledger; entries never change, so it is kept."""

    def find() -> Recipe:
        return known_of_entry(resources, picture_id, entry_id)[0]

    return resources.caches.recipes.get((picture_id, entry_id), find)


def known_of_entry(resources: Resources, picture_id: int, entry_id: int) -> tuple[Recipe, str]:
    """The recipe of an entry, and the hash under which it is stored: that of the recipe as it was
    written, by whatever version of the program.
    """
    with resources.database.reading() as session:
        entry = ledger.entry_of_picture(session, picture_id, entry_id)
        return ledger.recipe_of(entry), entry.recipe_hash


def corrected(resources: Resources, sha256: str, recipe_hash: str) -> Corrected:
    """An original with one of the recipes that its ledgers hold."""

    def find() -> Recipe:
        with resources.database.reading() as session:
            return ledger.recipe_by_hash(session, sha256, recipe_hash)

    recipe = resources.caches.recipes.get((sha256, recipe_hash), find)
    return Corrected(sha256, recipe_hash, facts_of_original(resources, sha256).photo, recipe)


def corrected_of_entry(resources: Resources, picture_id: int, entry_id: int) -> Corrected:
    """The original of a picture with the recipe of one of its entries."""
    with resources.database.reading() as session:
        original = library.get_picture(session, picture_id).original
        entry = ledger.entry_of_picture(session, picture_id, entry_id)
        photo, recipe = library.photo_of(original), ledger.recipe_of(entry)
        return Corrected(original.sha256, entry.recipe_hash, photo, recipe)


def shot_facts(resources: Resources, picture_id: int) -> Shot:
    """What a picture's file says of its camera and lens.

    Raises
    ------
    OriginalLost
        When the file is gone.
    """
    with original_file(resources, facts_of(resources, picture_id).sha256) as path:
        return shot_of(path)


@contextmanager
def original_file(resources: Resources, sha256: str) -> Iterator[Path]:
    """The file of an original, to be read at once; the bin may be emptied meanwhile.

    Raises
    ------
    OriginalLost
        When it is gone.
    """
    path = resources.files.original(sha256)
    try:
        yield path
    except FileNotFoundError as problem:
        raise lost(resources, sha256, gone_from(path)) from problem


def facts_of_row(original: Original) -> OriginalFacts:
    """The same of a row."""
    sides = original.width * original.height
    # Floating-point numbers have a version of 16 bits beside them.
    bits = original.bits + (_SHOWN_BITS if original.bits == _NUMBERS_BITS else 0)
    decoded_mb = sides * original.channels * bits / 8 / _MB
    return OriginalFacts(original.sha256, library.photo_of(original), decoded_mb)
