"""What was done by a backup, or by restoring one."""

from collections.abc import Callable
from dataclasses import dataclass, field

Progress = Callable[[int, int], None]
"""Told the bytes that are done, and of how many."""


@dataclass
class BackupReport:
    """What was done: files copied and already there, bytes copied, rows.

    ``missing`` and ``damaged`` are files of the data folder that are gone or not what they were;
    ``mended`` are bad copies in the backup that were replaced; ``gone`` are generations that were
    let go.
    """

    copied: int = 0
    kept: int = 0
    byte_size: int = 0
    rows: int = 0
    missing: list[str] = field(default_factory=list)
    damaged: list[str] = field(default_factory=list)
    mended: list[str] = field(default_factory=list)
    gone: list[str] = field(default_factory=list)

    @property
    def sound(self) -> bool:
        """Whether everything of the data folder is in the backup as it came in."""
        return not (self.missing or self.damaged)
