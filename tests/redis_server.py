"""A Redis of the tests' own, which can be killed and started again."""

import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import redis

from sequor.store.mariadb import free_port
from tests.waiting import until


class RedisServer:
    """Debian's redis-server on a port of its own; it keeps what it was told (append-only file)."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.port = folder, free_port()
        self._process: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        return f"redis://127.0.0.1:{self.port}/0"

    @property
    def client(self) -> redis.Redis:
        return redis.Redis.from_url(self.url, socket_timeout=5)

    def start(self) -> None:
        command = ["redis-server", "--port", str(self.port), "--bind", "127.0.0.1"]
        kept = ["--dir", str(self.folder), "--appendonly", "yes", "--save", ""]
        self._process = subprocess.Popen([*command, *kept], stdout=subprocess.DEVNULL)
        until(self._answers)

    def kill(self, forget: bool = False) -> None:
        """End it as a power cut does; ``forget``: with its disk."""
        self._process.kill()
        self._process.wait()
        if forget:
            for path in sorted(self.folder.rglob("*"), reverse=True):
                path.rmdir() if path.is_dir() else path.unlink()

    def _answers(self) -> bool:
        try:
            return bool(self.client.ping())
        except redis.ConnectionError:
            return False


@contextmanager
def redis_server(folder: Path) -> Iterator[RedisServer]:
    """One that runs, until the end."""
    server = RedisServer(folder)
    server.start()
    try:
        yield server
    finally:
        server.kill()
