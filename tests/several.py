"""A studio's machines on loopback: servers on the same data, Redis, workers with data folders of
their own, a depot between them.
"""

import os
import subprocess
import sys
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from sequor.store.database import migrate
from sequor.store.mariadb import PrivateServer, free_port
from tests.conftest import ROOT
from tests.installed import put_into
from tests.redis_server import RedisServer, redis_server
from tests.running import Application
from tests.waiting import until


class Machines:
    """All of them."""

    def __init__(
        self, folder: Path, database: PrivateServer, redis: RedisServer, servers: int
    ) -> None:
        self.folder, self.database, self.redis = folder, database, redis
        self.settings = {
            "SEQUOR_DATABASE": database.url,
            "SEQUOR_REDIS": redis.url,
            "SEQUOR_ENGINE": "celery",
            "SEQUOR_WORK_KEY": "what the machines of the tests have in common",
            "SEQUOR_DEPOT": f"file://{folder}/depot",
        }
        self.servers = [self._server() for _ in range(servers)]
        self.workers: list[subprocess.Popen[bytes]] = []

    def _server(self) -> Application:
        found = Application(self.folder / "var", "--empty")
        found.environment |= self.settings
        found.command = (sys.executable, "-m", "sequor")
        found.log = self.folder / f"server-{found.port}.log"
        return found

    def start_worker(self, cores: Sequence[int] = ()) -> subprocess.Popen[bytes]:
        """A machine joins, with some of this one's cores."""
        name = f"worker-{len(self.workers)}"
        pinned = ["taskset", "-c", ",".join(map(str, cores))] if cores else []
        data = {"SEQUOR_DATA": str(self.folder / name)}
        with (self.folder / f"{name}.log").open("wb") as log:
            worker = subprocess.Popen(
                [*pinned, sys.executable, "-m", "sequor.worker"],
                env={**os.environ, **self.settings, **data},
                stdout=log,
                stderr=log,
                cwd=ROOT,
            )
        self.workers.append(worker)
        return worker

    def start(self) -> None:
        for _ in range(2):
            self.start_worker()
        for server in self.servers:
            server.start()
        until(self.ready)

    def kill_worker(self, worker: subprocess.Popen[bytes]) -> None:
        """A machine's power goes."""
        found = subprocess.run(
            ["pgrep", "-P", str(worker.pid)], capture_output=True, text=True, check=True
        )
        for pid in [*found.stdout.split(), str(worker.pid)]:
            os.kill(int(pid), 9)
        worker.wait()

    def ready(self) -> bool:
        return all(server.send("GET", "/api/health")[1].get("ready") for server in self.servers)

    def end(self) -> None:
        for worker in self.workers:
            worker.terminate()
        for worker in self.workers:
            worker.wait(60)
        for server in self.servers:
            if server.process and server.process.poll() is None:
                server.stop()


@contextmanager
def several(folder: Path, servers: int = 2) -> Iterator[Machines]:
    """All of them but servers and workers, which are started when they are wanted; ended here."""
    (folder / "redis").mkdir()
    with (
        PrivateServer(put_into(folder / "mariadb"), free_port()) as database,
        redis_server(folder / "redis") as redis,
    ):
        migrate(database.url)
        found = Machines(folder, database, redis, servers)
        try:
            yield found
        finally:
            found.end()
