"""A data folder belongs to one running server; the next waits for one that is ending."""

import fcntl
import logging
import os
import time
from pathlib import Path

from sequor.core.errors import UnusableInput
from sequor.core.language import tr

log = logging.getLogger(__name__)
_NAME = "server.lock"
_ENDING_S = 60.0
"""So long a server that was told to stop, or whose watcher died, is waited for."""
_LOOK_S = 0.05


class Claim:
    """What a server says of itself to one that would start beside it.

    The file is locked (flock(2)) until the server's end, however that comes, and names the server
    and who watches it until the server is told to stop.
    """

    def __init__(self, descriptor: int) -> None:
        self._file = descriptor

    def ending(self) -> None:
        """From here on the next server waits. May be called by a signal's handler."""
        os.ftruncate(self._file, 0)


def claim(folder: Path) -> Claim:
    """Have the data folder for this process alone, until its end.

    Raises
    ------
    UnusableInput
        When another server runs on it, or does not come to its end.
    """
    folder.mkdir(parents=True, exist_ok=True)
    file = os.open(folder / _NAME, os.O_RDWR | os.O_CREAT | os.O_APPEND, 0o600)
    _await_previous(file, folder)
    claimed = Claim(file)
    claimed.ending()
    os.write(file, f"{os.getpid()} {os.getppid()}".encode())
    return claimed


def _await_previous(file: int, folder: Path) -> None:
    deadline, told = time.monotonic() + _ENDING_S, False
    while not _locks(file):
        holder = os.pread(file, 100, 0).decode()
        if holder and not _is_left_alone(holder):
            raise UnusableInput(
                tr(
                    "another Sequor runs on the data in {folder} (process {process}); use that "
                    "one, stop it, or set SEQUOR_DATA to another folder.",
                    folder=folder,
                    process=holder.split()[0],
                )
            )
        if time.monotonic() > deadline:
            raise UnusableInput(
                tr(
                    "the Sequor that ran before on the data in {folder} does not come to its end; "
                    "end it (kill -9), then start again. Nothing that was kept is lost by that.",
                    folder=folder,
                )
            )
        if not told:
            log.info("the server that ran on these data before is still ending; it is waited for")
            told = True
        time.sleep(_LOOK_S)


def _locks(file: int) -> bool:
    """Lock the file, if nobody else has."""
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    return True


def _is_left_alone(holder: str) -> bool:
    """Whether who watched a server is gone: it was sent a signal to stop by that."""
    server, _, watcher = holder.partition(" ")
    try:
        status = Path(f"/proc/{server}/status").read_text()
    except OSError:
        return True  # between its last act and its end
    return f"\nPPid:\t{watcher}\n" not in status
