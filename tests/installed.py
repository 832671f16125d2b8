"""A database that is installed once in a test run and copied for every server that needs one: to
install it takes seconds, and a dozen tests start servers of their own. And folders in memory, where
a disk's own pace is not what is tested: there every table is emptied in 20 ms, and not in 180.
"""

import fcntl
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import TemporaryDirectory

from sequor.store.mariadb import PrivateServer, free_port

_PLACE = "SEQUOR_TEST_INSTALLED"
"""Where it is, for this test run and the processes that it starts."""


def prepare(run: Path) -> None:
    """Say where it is to be, in the folder of a test run; it is made when it is asked for first."""
    os.environ[_PLACE] = str(run / "installed-database")


def put_into(directory: Path) -> Path:
    """Let a server's folder have it; the folder."""
    place = Path(os.environ[_PLACE])
    place.parent.mkdir(parents=True, exist_ok=True)
    with place.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not place.exists():
            making = place.with_suffix(".making")
            with PrivateServer(making, free_port()):
                pass
            (making / "data").rename(place)
    directory.mkdir(parents=True, exist_ok=True, mode=0o700)
    shutil.copytree(place, directory / "data", dirs_exist_ok=True)
    return directory


_MEMORY, _ROOM = Path("/dev/shm"), 4 << 30


@contextmanager
def in_memory() -> Iterator[Path]:
    """A folder in the machine's memory where there is room, and on its disk otherwise; it is
    removed afterwards, and with it those of test runs that were killed.
    """
    roomy = os.access(_MEMORY, os.W_OK) and shutil.disk_usage(_MEMORY).free > _ROOM
    for left in _MEMORY.glob("sequor-tests-*"):
        if not Path(f"/proc/{left.name.split('-')[2]}").exists():
            shutil.rmtree(left, ignore_errors=True)
    prefix = f"sequor-tests-{os.getpid()}-"
    with TemporaryDirectory(prefix=prefix, dir=_MEMORY if roomy else None) as folder:
        yield Path(folder)
