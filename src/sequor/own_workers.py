"""`bin/start --workers N`: workers as other machines have them, on this one, with a Redis of their
own. Each has cores of its own where there are enough.
"""

import os
import secrets
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sequor.core.errors import UnusableInput
from sequor.kept_running import keep_running
from sequor.settings import Settings
from sequor.store.mariadb import port_is_free

_ENDS_S = 60.0


@contextmanager
def own_workers(settings: Settings, count: int) -> Iterator[dict[str, str]]:
    """Redis and so many workers, for as long as this lasts; the settings that a server needs to
    work with them.

    Raises
    ------
    UnusableInput
        When the port of Redis is taken.
    """
    if not count:
        yield {}
        return
    if not port_is_free(settings.redis_port):
        raise UnusableInput(
            f"port {settings.redis_port} on 127.0.0.1 is taken; set SEQUOR_REDIS_PORT to a free "
            "one."
        )
    password, given = _passwords(settings.data)
    given |= {
        "SEQUOR_ENGINE": "celery",
        "SEQUOR_REDIS": f"redis://:{password}@127.0.0.1:{settings.redis_port}/0",
    }
    stopping = threading.Event()
    kept = [keep_running(stopping, _redis_command(settings, password))]
    share = {"SEQUOR_WORK_MB": str(settings.work_mb // (count + 1))}
    for cores in _cores(count):
        command = [sys.executable, "-m", "sequor.worker"]
        kept.append(keep_running(stopping, command, {**given, **share}, cores))
    try:
        yield given
    finally:
        stopping.set()
        for thread in kept:
            thread.join(_ENDS_S)


def _passwords(data: Path) -> tuple[str, dict[str, str]]:
    """The password of Redis, and what signs work: made once, and kept where nobody else reads."""
    folder = data / "redis"
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    path = folder / "keys"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(f"{secrets.token_urlsafe(24)} {secrets.token_urlsafe(24)}")
    password, key = path.read_text().split()
    return password, {"SEQUOR_WORK_KEY": key}


def _redis_command(settings: Settings, password: str) -> list[str]:
    """Redis on the loopback, with a password: other people of the machine can connect, too."""
    folder = settings.data / "redis"
    written = folder / "redis.conf"
    written.touch(mode=0o600)
    lines = {
        "bind": "127.0.0.1",
        "port": settings.redis_port,
        "dir": folder,
        "requirepass": password,
        "appendonly": "yes",
        "save": '""',
        "loglevel": "warning",
    }
    written.write_text("".join(f"{name} {value}\n" for name, value in lines.items()))
    return ["redis-server", str(written)]


def _cores(count: int) -> list[set[int] | None]:
    """The cores of each worker; None where there are too few to have any alone."""
    there = sorted(os.sched_getaffinity(0))
    if count > len(there):
        return [None] * count
    return [set(there[place::count]) for place in range(count)]
