"""A backup is put back, into nothing."""

import shutil
import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.services.backups.generations import (
    READ_AT_ONCE,
    Generation,
    generations,
    hash_of,
    plain,
    read_backup,
)
from sequor.services.backups.report import BackupReport, Progress
from sequor.services.backups.tables import read_table
from sequor.store.database import connect, migrate


def restore(
    url: str, root: Path, folder: Path, progress: Progress = lambda *_: None, chosen: str = ""
) -> BackupReport:
    """Put a generation of a backup into an empty data folder and an empty database.

    A file of it that is not what it was is taken from another generation, if one has it.

    Parameters
    ----------
    url : str
        The database.
    root : Path
        The data folder.
    chosen : str
        The name of a generation; the newest otherwise.

    Raises
    ------
    UnusableInput
        When it is no backup, or not whole.
    """
    generation = read_backup(folder, chosen)
    others = [one for one in generations(folder) if one.folder != generation.folder]
    done = BackupReport()
    _Restoring(generation, others, root, done, progress).all()
    migrate(url, generation.about.revision)
    engine = connect(url)
    with engine.begin() as connection:
        connection.execute(sa.text("SET FOREIGN_KEY_CHECKS = 0"))
        for name, count in generation.about.tables.items():
            done.rows += read_table(connection, generation.table(name), name)
            there = connection.scalar(sa.text(f"SELECT COUNT(*) FROM {name}"))
            if there != count:
                raise UnusableInput(
                    tr(
                        "The backup is not whole: {name} has {there} of {count} rows.",
                        name=name,
                        there=there,
                        count=count,
                    )
                )
        connection.execute(sa.text("SET FOREIGN_KEY_CHECKS = 1"))
    engine.dispose()
    migrate(url)
    return done


@dataclass
class _Restoring:
    """Files on their way out of a backup."""

    generation: Generation
    others: list[Generation]
    root: Path
    done: BackupReport
    progress: Progress
    _lock: Any = field(default_factory=threading.Lock)
    _so_far: int = 0

    def all(self) -> None:
        """Copy all of them, each checked on both sides."""
        names = list(self.generation.about.files)
        for name in names:
            plain(self.generation.folder, name)
        for parent in sorted({(self.root / name).parent for name in names}):
            parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        with ThreadPoolExecutor(READ_AT_ONCE) as threads:
            list(threads.map(self._one, names))

    def _one(self, name: str) -> None:
        kept = self.generation.about.files[name]
        having = (one for one in (self.generation, *self.others) if one.holds(name, kept.sha256))
        good = next(having, None)
        if good is None:
            raise UnusableInput(
                tr("The backup is not whole: {name} is missing or was changed.", name=name)
            )
        target = self.root / name
        shutil.copyfile(plain(good.folder, name), target)
        shutil.copystat(good.folder / name, target)
        if hash_of(target) != kept.sha256:
            raise UnusableInput(
                tr("{name} could not be read back as it was written; try once more.", name=name)
            )
        with self._lock:
            self.done.copied, self._so_far = self.done.copied + 1, self._so_far + kept.byte_size
            if good is not self.generation:
                self.done.mended.append(name)
            whole = sum(one.byte_size for one in self.generation.about.files.values())
            self.progress(self._so_far, whole)
