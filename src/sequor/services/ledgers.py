"""Ledgers opened: every entry, a picture as one of them has it, versions."""

from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy.orm import Session

from sequor.core.recipe import Recipe
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.services.reply import Reply, T
from sequor.services.resources import Resources
from sequor.store import exports, history, ledger, library, versions
from sequor.store.history import EntryLine
from sequor.store.ledger import Holding, Standing
from sequor.store.lines import depths_of
from sequor.store.models import Picture


@dataclass(frozen=True)
class Ledger:
    """Every entry of a picture, which of them holds, and how far each lies beside its line."""

    sha256: str
    head_id: int
    entries: list[EntryLine]
    depths: dict[int, int]


def ledger_of(resources: Resources, picture_id: int) -> Ledger:
    """The whole ledger of a picture."""
    with resources.database.reading() as session:
        picture = library.get_picture(session, picture_id)
        entries = history.entries_of(session, picture.id)
        head_id = ledger.standing(session, picture).entry.id
        sha256 = picture.original_sha256
    depths = depths_of([(entry.id, entry.parent_id) for entry in entries], head_id)
    return Ledger(sha256, head_id, entries, depths)


@dataclass(frozen=True)
class AsEntered:
    """A picture as an entry of its ledger has it."""

    picture: Picture
    recipe_hash: str
    recipe: Recipe
    solution: Solution


def entry_of(
    resources: Resources, picture_id: int, entry_id: int, make: Callable[[AsEntered], T]
) -> T:
    """A picture as an entry has it; nothing changes."""
    with resources.database.reading() as session:
        picture = library.get_picture(session, picture_id)
        entry = ledger.entry_of_picture(session, picture.id, entry_id)
        recipe = ledger.recipe_of(entry)
        solution = solve(library.photo_of(picture.original), recipe)
        return make(AsEntered(picture, entry.recipe_hash, recipe, solution))


def standing_of(resources: Resources, picture_id: int, make: Callable[[Standing], T]) -> T:
    """How a picture stands: what holds."""
    with resources.database.reading() as session:
        picture = library.get_picture(session, picture_id)
        return make(ledger.standing(session, picture))


@dataclass(frozen=True)
class VersionLine:
    """What holds of a version, and how many files were made of it."""

    holding: Holding
    exports: int


def versions_of(resources: Resources, picture_id: int, make: Callable[[list[VersionLine]], T]) -> T:
    """All versions of a picture."""
    with resources.database.reading() as session:
        picture = library.get_picture(session, picture_id)
        return make(_lines(session, versions.versions_of(session, picture)))


def name_version(
    resources: Resources, picture_id: int, name: str, reply: Reply[VersionLine, T]
) -> T:
    """Give a version another name."""

    def change(session: Session) -> T:
        (line,) = _lines(session, [versions.name_version(session, picture_id, name)])
        return reply.to(session, line)

    return resources.database.write(change)


def _lines(session: Session, pictures: list[Picture]) -> list[VersionLine]:
    done = exports.counts_done(session, [picture.id for picture in pictures])
    return [
        VersionLine(ledger.holding(session, picture), done.get(picture.id, 0))
        for picture in pictures
    ]
