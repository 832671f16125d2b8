"""The free space of the disk: watched, kept in reserve for the database, refused early.

Files may fill the disk down to one limit, entries of the ledger down to a lower one; below that
only what needs no more space, such as reading and undoing, goes on. The database has a ballast
beside it, a file that is there only to be given up when others have filled the disk.
"""

import os
import shutil
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from sequor.core.language import tr
from sequor.store.failures import DiskFull

MB = 2**20
_BALLAST_MB = 48
"""What MariaDB needs to start: its redo log and temporary tablespace (12 MB) made anew, and the
rest for what it writes until there is space again."""
_SHARE_FOR_ENTRIES = 8
"""Entries may go on down to this part of the reserve that files leave."""
_SOON = 4
"""Times the reserve: with less free it is said before it is too late."""


@dataclass(frozen=True)
class Space:
    """The disk that a folder lies on.

    Attributes
    ----------
    reserve_mb : float
        What files leave free for the database.
    ballast : Path, optional
        The database's ballast. While it is given up, its space is owed and is not free: it is
        there for what the database itself writes.
    """

    folder: Path
    reserve_mb: float
    ballast: Path | None = None

    @property
    def free_mb(self) -> float:
        """Megabytes that may still be written."""
        held = self.reserve_mb <= 0 or self.ballast is None or self.ballast.exists()
        owed = 0 if held else _BALLAST_MB
        return max(0.0, shutil.disk_usage(self.folder).free / MB - owed)

    @property
    def takes_files(self) -> bool:
        """Whether small files may be written now."""
        return self.free_mb >= self.reserve_mb

    @property
    def soon_full(self) -> bool:
        """Whether it is time to say that the disk fills up."""
        return self.free_mb < _SOON * self.reserve_mb

    @property
    def takes_entries(self) -> bool:
        """Whether entries may be written now."""
        return self.free_mb >= self.reserve_mb / _SHARE_FOR_ENTRIES

    def require_for_files(self, size: int) -> None:
        """Refuse files of so many bytes unless the reserve would be left.

        Raises
        ------
        DiskFull
        """
        if self.free_mb - size / MB < self.reserve_mb:
            raise DiskFull(self._words())

    def require_for_entries(self) -> None:
        """Refuse an entry unless the database has room for it.

        Raises
        ------
        DiskFull
        """
        if not self.takes_entries:
            raise DiskFull(self._words())

    def _words(self) -> str:
        return tr(
            "The disk is full: {free_mb:,.0f} MB free, nothing was changed. Free some "
            "space on the disk of the data folder; Sequor goes on by itself.",
            free_mb=self.free_mb,
        )


class Ballast:
    """A file that holds space for the database, in a folder of its own disk."""

    def __init__(self, path: Path, space: Space) -> None:
        self._path, self._space = path, space

    def watch(self) -> None:
        """Give the ballast up when the disk is nearly full, and take it back when it is not."""
        if self._space.reserve_mb <= 0:
            return
        low = self._space.reserve_mb / _SHARE_FOR_ENTRIES / 2
        held = self._path.exists()
        if held and self._space.free_mb < low:
            with suppress(OSError):
                self._path.unlink()
        elif not held and self._space.free_mb > self._space.reserve_mb:
            self._hold()

    def _hold(self) -> None:
        partial = self._path.with_suffix(".partial")
        try:
            with partial.open("wb") as file:
                os.posix_fallocate(file.fileno(), 0, _BALLAST_MB * MB)
            partial.rename(self._path)
        except OSError:  # the next time
            partial.unlink(missing_ok=True)
