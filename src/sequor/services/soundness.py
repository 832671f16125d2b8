"""Whether everything that is stored is sound: originals, ledgers, and files without a row."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import NamedTuple

from sqlalchemy import Engine, select, update
from sqlalchemy.orm import Session

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.recipe import Recipe
from sequor.core.retelling import retold
from sequor.core.solve import solve
from sequor.pictures.encode import SUFFIXES
from sequor.services import backups
from sequor.store import library
from sequor.store.files import FileStore, content_hash
from sequor.store.models import Export, LedgerEntry, Original, Picture, now

_ROWS = 500


class Unsound(NamedTuple):
    """Something that is not sound, in words, and the file that it is about, below the data folder,
    if it is about one.
    """

    words: str
    file: str = ""


@dataclass
class Soundness:
    """What was looked at, and what is not sound; ``orphans`` are files that no row names, which do
    no harm.
    """

    originals: int = 0
    entries: int = 0
    exports: int = 0
    problems: list[Unsound] = field(default_factory=list)
    orphans: list[str] = field(default_factory=list)


def look_over(engine: Engine, files: FileStore) -> Soundness:
    """Read every original against its hash, solve every entry, and look for what is alone."""
    found = Soundness()
    with Session(engine) as session:
        _originals(session, files, found)
        _ledgers(session, found)
        _exports(session, files, found)
    return found


def heal(engine: Engine, files: FileStore, folder: Path, found: Soundness) -> Iterator[str]:
    """Put back from a backup what is not sound and what that has whole; what was healed is not
    among the problems any more, and is said.

    Raises
    ------
    UnusableInput
        When the folder holds no backup.
    """
    if not backups.generations(folder):
        raise UnusableInput(tr("{folder} holds no finished backup.", folder=folder))
    for problem in list(found.problems):
        sha256 = Path(problem.file).name
        if problem.file.startswith("exports/"):
            sha256 = backups.recorded_hash(folder, problem.file) or ""
        copy = backups.good_copy(folder, problem.file, sha256) if problem.file else None
        if copy is None:
            continue
        with copy.open("rb") as stream, files.incoming(stream) as (received, came):
            if came != sha256:
                continue
            if problem.file.startswith("exports/"):
                received.replace(files.root / problem.file)
            else:
                files.store_original(received, sha256)
                _note_sound(engine, sha256)
        found.problems.remove(problem)
        yield problem.words


def _note_sound(engine: Engine, sha256: str) -> None:
    sound = update(Original).where(Original.sha256 == sha256)
    with Session(engine) as session:
        session.execute(sound.values(damage=None, verified_at=now()))
        session.commit()


def _of_original(files: FileStore, sha256: str, how: str) -> Unsound:
    file = str(files.original(sha256).relative_to(files.root))
    return Unsound(tr("original {sha256}: {how}", sha256=sha256[:12], how=retold(how)), file)


def _originals(session: Session, files: FileStore, found: Soundness) -> None:
    known = set()
    for sha256 in session.scalars(select(Original.sha256).order_by(Original.sha256)):
        known.add(sha256)
        found.originals += 1
        path = files.original(sha256)
        try:
            content = content_hash(path)
        except OSError as problem:
            found.problems.append(_of_original(files, sha256, str(problem.strerror)))
            continue
        if content != sha256:
            found.problems.append(_of_original(files, sha256, tr("was changed on the disk")))
    for path in sorted((files.root / "originals").rglob("*")):
        if path.is_file() and path.name not in known:
            found.orphans.append(str(path.relative_to(files.root)))


def _ledgers(session: Session, found: Soundness) -> None:
    names = {}
    for picture in session.scalars(select(Picture)):
        names[picture.id] = picture.name, library.photo_of(picture.original)
        if picture.head_id is None:
            words = tr("picture {id}, {name}: nothing holds", id=picture.id, name=picture.name)
            found.problems.append(Unsound(words))
    query = select(LedgerEntry.id, LedgerEntry.picture_id, LedgerEntry.recipe)
    for number, picture_id, stored in session.execute(
        query.order_by(LedgerEntry.id).execution_options(yield_per=_ROWS)
    ):
        found.entries += 1
        name, photo = names[picture_id]
        try:
            solve(photo, Recipe.model_validate(stored))
        except (UnusableInput, ValueError) as problem:
            found.problems.append(
                Unsound(
                    tr(
                        "entry {number} of {name}: {problem}",
                        number=number,
                        name=name,
                        problem=problem,
                    )
                )
            )


def _exports(session: Session, files: FileStore, found: Soundness) -> None:
    known = set()
    for number, kind in session.execute(
        select(Export.id, Export.format).where(Export.state == "done")
    ):
        found.exports += 1
        path = files.export(number, SUFFIXES[kind])
        known.add(path.name)
        if not path.exists():
            file = str(path.relative_to(files.root))
            found.problems.append(
                Unsound(tr("export {number}: its file is gone", number=number), file)
            )
    for path in sorted((files.root / "exports").glob("*")):
        if path.is_file() and path.name not in known:
            found.orphans.append(str(path.relative_to(files.root)))
