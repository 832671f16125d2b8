"""A database that is installed once in a test run and copied for every server that needs one: to
install it takes seconds, and a dozen tests start servers of their own.
"""

import fcntl
import os
import shutil
from pathlib import Path

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
