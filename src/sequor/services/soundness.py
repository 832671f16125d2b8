"""Whether everything that is stored is sound: originals, ledgers, and files without a row."""

from dataclasses import dataclass, field

from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from sequor.core.errors import UnusableInput
from sequor.core.recipe import Recipe
from sequor.core.solve import solve
from sequor.pictures.encode import SUFFIXES
from sequor.store import library
from sequor.store.files import FileStore, content_hash
from sequor.store.models import Export, LedgerEntry, Original, Picture

_ROWS = 500


@dataclass
class Soundness:
    """What was looked at, and sentences about what is not sound; ``orphans`` are files that no row
    names, which do no harm.
    """

    originals: int = 0
    entries: int = 0
    exports: int = 0
    problems: list[str] = field(default_factory=list)
    orphans: list[str] = field(default_factory=list)


def look_over(engine: Engine, files: FileStore) -> Soundness:
    """Read every original against its hash, solve every entry, and look for what is alone."""
    found = Soundness()
    with Session(engine) as session:
        _originals(session, files, found)
        _ledgers(session, found)
        _exports(session, files, found)
    return found


def _originals(session: Session, files: FileStore, found: Soundness) -> None:
    known = set()
    for sha256 in session.scalars(select(Original.sha256).order_by(Original.sha256)):
        known.add(sha256)
        found.originals += 1
        path = files.original(sha256)
        try:
            now = content_hash(path)
        except OSError as problem:
            found.problems.append(f"original {sha256[:12]}: {problem.strerror}")
            continue
        if now != sha256:
            found.problems.append(f"original {sha256[:12]}: was changed on the disk")
    for path in sorted((files.root / "originals").rglob("*")):
        if path.is_file() and path.name not in known:
            found.orphans.append(str(path.relative_to(files.root)))


def _ledgers(session: Session, found: Soundness) -> None:
    names = {}
    for picture in session.scalars(select(Picture)):
        names[picture.id] = picture.name, library.photo_of(picture.original)
        if picture.head_id is None:
            found.problems.append(f"picture {picture.id}, {picture.name}: nothing holds")
    query = select(LedgerEntry.id, LedgerEntry.picture_id, LedgerEntry.recipe)
    for number, picture_id, stored in session.execute(
        query.order_by(LedgerEntry.id).execution_options(yield_per=_ROWS)
    ):
        found.entries += 1
        name, photo = names[picture_id]
        try:
            solve(photo, Recipe.model_validate(stored))
        except (UnusableInput, ValueError) as problem:
            found.problems.append(f"entry {number} of {name}: {problem}")


def _exports(session: Session, files: FileStore, found: Soundness) -> None:
    known = set()
    for number, kind in session.execute(
        select(Export.id, Export.format).where(Export.state == "done")
    ):
        found.exports += 1
        path = files.export(number, SUFFIXES[kind])
        known.add(path.name)
        if not path.exists():
            found.problems.append(f"export {number}: its file is gone")
    for path in sorted((files.root / "exports").glob("*")):
        if path.is_file() and path.name not in known:
            found.orphans.append(str(path.relative_to(files.root)))
