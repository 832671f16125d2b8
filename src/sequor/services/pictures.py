"""What is known of stored pictures: their facts, their pixels, the recipes of their entries."""

from dataclasses import dataclass

from sequor.core.pixels import Pixels
from sequor.core.recipe import PhotoFacts, Recipe
from sequor.pictures.decode import Picture as Decoded
from sequor.pictures.decode import decode
from sequor.pictures.lenses import Shot, shot_of
from sequor.pictures.proxy import halved
from sequor.services.means import Means, Original
from sequor.store import ledger, library
from sequor.store.library import NotFound


@dataclass(frozen=True)
class Corrected:
    """A recipe of an original: what everything that is shown of it is made from.

    Both are named by hashes of their content, so what is made from them never changes.
    """

    sha256: str
    recipe_hash: str
    photo: PhotoFacts
    recipe: Recipe

    @property
    def key(self) -> tuple[str, str]:
        """By which what was made of it is kept."""
        return self.sha256, self.recipe_hash


def photo_of(means: Means, picture_id: int) -> PhotoFacts:
    """What the core needs to know about a picture; a drag does not ask the database every time."""

    def find() -> PhotoFacts:
        with means.sessions() as session:
            return library.photo_of(library.get_picture(session, picture_id).original)

    return means.caches.photos.get(picture_id, find)


def photo_of_original(means: Means, sha256: str) -> PhotoFacts:
    """The same for an original."""

    def find() -> PhotoFacts:
        with means.sessions() as session:
            return library.photo_of(library.get_original(session, sha256))

    return means.caches.photos.get(sha256, find)


def recipe_of_entry(means: Means, picture_id: int, entry_id: int) -> Recipe:
    """The recipe of an entry of a picture's ledger; entries never change, so it is kept."""

    def find() -> Recipe:
        with means.sessions() as session:
            entry = ledger.entry_of_picture(session, picture_id, entry_id)
            return ledger.recipe_of(entry)

    return means.caches.recipes.get((picture_id, entry_id), find)


def corrected(means: Means, sha256: str, recipe_hash: str) -> Corrected:
    """An original with one of the recipes that its ledgers hold."""

    def find() -> Recipe:
        with means.sessions() as session:
            return ledger.recipe_by_hash(session, sha256, recipe_hash)

    recipe = means.caches.recipes.get((sha256, recipe_hash), find)
    return Corrected(sha256, recipe_hash, photo_of_original(means, sha256), recipe)


def shot_facts(means: Means, picture_id: int) -> Shot:
    """What a picture's file says of its camera and lens."""
    with means.sessions() as session:
        sha256 = library.get_picture(session, picture_id).original_sha256
    return shot_of(means.files.original(sha256))


def sha256_of(means: Means, picture_id: int) -> str:
    """The content hash of a picture's original."""
    with means.sessions() as session:
        return library.get_picture(session, picture_id).original_sha256


def original(means: Means, sha256: str) -> Decoded:
    """An original, decoded upright."""
    return _kept(means, sha256).picture


def reduced(means: Means, sha256: str, times: int) -> Pixels:
    """The pixels of an original halved so many times; each is the mean of those it covers."""
    kept = _kept(means, sha256)
    halves = kept.halves or [kept.picture.pixels]
    while len(halves) <= times:
        halves.append(halved(halves[-1]))
    kept.halves[:] = halves
    return halves[times]


def _kept(means: Means, sha256: str) -> Original:
    path, limit = means.files.original(sha256), means.settings.max_megapixels
    if not path.exists():
        raise NotFound("The original of this picture is gone from the data folder.")
    return means.caches.originals.get(
        sha256, lambda: Original(decode(path, max_megapixels=limit, stored=True))
    )
