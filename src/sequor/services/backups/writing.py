"""A backup is written: a new generation, of which every byte is compared on both sides."""

import os
import shutil
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

import sqlalchemy as sa
from alembic.migration import MigrationContext
from sqlalchemy import Engine

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.services.backups.generations import (
    ABOUT,
    READ_AT_ONCE,
    STAMP,
    About,
    BackedUpFile,
    Generation,
    generations,
    hash_of,
    hash_or_none,
    own_hash,
)
from sequor.services.backups.report import BackupReport, Progress
from sequor.services.backups.tables import files_of, write_tables
from sequor.store.files import PARTIAL, FileStore, sync_folder, write_whole
from sequor.store.models import now

LAST = "last-backup"
"""A file in the data folder that says where its backup is."""
_OLD = ("originals", "exports", ABOUT)


class Retention(NamedTuple):
    """How many generations stay besides the newest: the last of a day, and the last of a week."""

    daily: int = 7
    weekly: int = 5


def back_up(
    engine: Engine,
    files: FileStore,
    folder: Path,
    progress: Progress = lambda *_: None,
    retention: Retention | None = None,
) -> BackupReport:
    """Add a generation to the backup in a folder.

    Raises
    ------
    UnusableInput
        When the folder cannot be used or its disk is full; what is there stays whole.
    """
    _check_folder(files, folder)
    done = BackupReport()
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        for left in folder.glob(f"{PARTIAL}*"):
            shutil.rmtree(left)
        before = generations(folder)
        stamp = now().strftime("%Y%m%d-%H%M%S-%f")
        made = folder / f"{PARTIAL}{stamp}"
        (made / "database").mkdir(parents=True, mode=0o700)
        with engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection:
            connection.execute(sa.text("START TRANSACTION WITH CONSISTENT SNAPSHOT"))
            revision = MigrationContext.configure(connection).get_current_revision() or ""
            tables, checksums = write_tables(connection, made / "database")
            wanted = list(files_of(connection))
            connection.rollback()
        done.rows = sum(tables.values())
        copying = _Copying(files.root, made, before, done, progress)
        there = copying.all(wanted)
        about = About(
            made_at=now(), revision=revision, tables=tables, checksums=checksums, files=there
        )
        write_whole(made / ABOUT, about.model_dump_json(indent=1).encode())
        os.sync()
        made.rename(folder / stamp)
        sync_folder(folder)
        _thin_out(folder, retention or Retention(), done)
        write_whole(files.root / LAST, str(folder.resolve()).encode())
    except OSError as problem:
        raise UnusableInput(
            tr(
                "The backup did not come to its end: {strerror}. What was there before is "
                "whole; free some space, or take another folder, and start it again.",
                strerror=problem.strerror,
            )
        ) from problem
    return done


class _Copying:
    """Files on their way into a new generation."""

    def __init__(
        self,
        source: Path,
        target: Path,
        before: list[Generation],
        done: BackupReport,
        progress: Progress,
    ) -> None:
        self._source, self._target, self._before = source, target, before
        self._done, self._progress = done, progress
        self._lock = threading.Lock()
        self._whole = self._so_far = 0

    def all(self, names: list[str]) -> dict[str, BackedUpFile]:
        """Copy or link all of them; those that are in the generation then."""
        sizes = {name: _size_of(self._source / name) for name in names}
        self._whole = sum(sizes.values())
        for parent in sorted({(self._target / name).parent for name in names}):
            parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        with ThreadPoolExecutor(READ_AT_ONCE) as threads:
            kept = threads.map(lambda name: self._one(name, sizes[name]), names)
            return {name: one for name, one in zip(names, kept, strict=True) if one}

    def _one(self, name: str, size: int) -> BackedUpFile | None:
        """A file of the new generation: linked to one that is good already, else copied."""
        # An original that stays where it lies is a link here, and a copy in the backup.
        target, source = self._target / name, (self._source / name).resolve()
        live = hash_or_none(source)
        expected = own_hash(name) or self._recorded(name) or live
        good = next((one for one in self._before if expected and one.holds(name, expected)), None)
        if good is not None:
            _link(good.folder / name, target)
        elif live is not None and live == expected:
            self._copy(source, target, live)
        with self._lock:
            self._count(name, size, live, expected, good is not None)
        if expected is None or not target.exists():
            return None
        self._mend(name, expected, target)
        return BackedUpFile(byte_size=target.stat().st_size, sha256=expected)

    def _recorded(self, name: str) -> str | None:
        """The hash of a file as the newest generation that has it says."""
        known = (one.about.files[name].sha256 for one in self._before if name in one.about.files)
        return next(known, None)

    def _count(
        self, name: str, size: int, live: str | None, expected: str | None, kept: bool
    ) -> None:
        """What became of a file: whether it is there, sound, kept from before or copied."""
        if live is None:
            self._done.missing.append(name)
        elif live != expected:
            self._done.damaged.append(name)
        if kept:
            self._done.kept += 1
        elif live is not None and live == expected:
            self._done.copied += 1
            self._done.byte_size += size
        self._so_far += size
        self._progress(self._so_far, self._whole)

    def _copy(self, source: Path, target: Path, sha256: str) -> None:
        shutil.copyfile(source, target)
        shutil.copystat(source, target)
        if hash_of(target) != sha256:
            raise OSError(
                5, tr("{name} could not be read back as it was written", name=target.name)
            )

    def _mend(self, name: str, sha256: str, good: Path) -> None:
        """Replace bad copies of the same content in older generations."""
        for generation in self._before:
            path, kept = generation.folder / name, generation.about.files.get(name)
            if kept is None or kept.sha256 != sha256 or _same_file(path, good):
                continue
            if generation.holds(name, sha256):
                continue
            partial = path.with_name(f"{PARTIAL}{path.name}")
            partial.unlink(missing_ok=True)
            _link(good, partial)
            os.replace(partial, path)
            with self._lock:
                self._done.mended.append(f"{generation.folder.name}/{name}")


def _check_folder(files: FileStore, folder: Path) -> None:
    inside = folder.resolve()
    if inside == files.root.resolve() or files.root.resolve() in inside.parents:
        raise UnusableInput(tr("A backup cannot lie inside the data folder that it is of."))
    if folder.exists() and not folder.is_dir():
        raise UnusableInput(tr("{folder} is no folder.", folder=folder))
    older = (folder / ABOUT).exists()  # a backup of version 1 may stay beside generations
    for path in folder.iterdir() if folder.is_dir() else ():
        own = STAMP.fullmatch(path.name) or path.name.startswith(PARTIAL)
        old = older and (path.name in _OLD or path.name.startswith("database-"))
        if not own and not old:
            raise UnusableInput(
                tr(
                    "{folder} holds other things than a backup ({name}); take an empty folder.",
                    folder=folder,
                    name=path.name,
                )
            )


def _thin_out(folder: Path, retention: Retention, done: BackupReport) -> None:
    """Let generations go: the newest stays, and the last of so many days and weeks before."""
    found = [one for one in generations(folder) if one.folder != folder]
    days: set[str] = set()
    weeks: set[tuple[int, int]] = set()
    for generation in found[1:]:
        at = datetime.strptime(generation.folder.name, "%Y%m%d-%H%M%S-%f")
        day, week = f"{at:%Y%m%d}", at.isocalendar()[:2]
        stays = (day not in days and len(days) < retention.daily) or (
            week not in weeks and len(weeks) < retention.weekly
        )
        days.add(day)
        weeks.add(week)
        if not stays:
            gone = folder / f"{PARTIAL}{generation.folder.name}"
            generation.folder.rename(gone)
            shutil.rmtree(gone)
            done.gone.append(generation.folder.name)


def _size_of(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return 0


def _same_file(one: Path, other: Path) -> bool:
    try:
        return os.path.samestat(one.lstat(), other.lstat())
    except OSError:
        return False


def _link(source: Path, target: Path) -> None:
    """The same file under another name, or a copy where the disk knows no links."""
    try:
        os.link(source, target, follow_symlinks=False)
    except OSError:
        shutil.copyfile(source, target)
        shutil.copystat(source, target)
