"""What `bin/start` runs: it starts the server, watches that it answers, and starts it again.

The server watches its database and its workers in the same way. Under systemd this process tells
the service manager how the server is (docs/serving.md).
"""

import contextlib
import http.client
import logging
import os
import signal
import subprocess
import sys
import threading
import time
from types import FrameType

import sdnotify

from sequor.core.errors import UnusableInput
from sequor.own_workers import own_workers
from sequor.settings import Settings
from sequor.starting import WATCHED, parse, set_up_log, settings_here
from sequor.web.key import key_of

log = logging.getLogger(__name__)
_LOOK_S, _ASK_EVERY_S, _ASK_S = 0.2, 5.0, 5.0
DEAF_S = 60.0
"""A server that has not answered for so long is killed and started again. Health answers from
memory, also while the database hangs (`mariadb.HUNG_S`)."""
_START_S = 900.0
"""A start that takes longer, with kernels compiled and every ledger brought up to date, hangs."""
_MOST_RESTARTS, _WITHIN_S = 6, 300.0
_BACKOFF_S, _LONGEST_BACKOFF_S = 0.5, 30.0
_NOT_PASSED_ON = ("NOTIFY_SOCKET", "WATCHDOG_USEC", "WATCHDOG_PID")
_ENVIRONMENT = {
    # Memory that many threads freed is given back instead of being kept by each (mallopt(3)).
    "MALLOC_ARENA_MAX": "2",
}


def main() -> None:
    """Run the server until it is told to stop, and again whenever it ends before."""
    given = parse(sys.argv[1:])
    try:
        settings = settings_here()
    except UnusableInput as problem:
        sys.exit(f"Sequor cannot start: {problem}")
    set_up_log(settings)
    try:
        with own_workers(settings, given.workers) as more:
            os.environ.update(more)
            status = _Supervisor(settings, ["--empty"] if given.empty else []).run()
    except UnusableInput as problem:
        sys.exit(f"Sequor cannot start: {problem}")
    sys.exit(status)


class _Supervisor:
    """The server as a process, from its first start to the end of the last."""

    def __init__(self, settings: Settings, arguments: list[str]) -> None:
        self._settings, self._arguments = settings, arguments
        self._stopping = threading.Event()
        self._server: subprocess.Popen[bytes] | None = None
        self._told = sdnotify.SystemdNotifier()

    def run(self) -> int:
        """The exit status."""
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, self._stop)
        restarts: list[float] = []
        ever_ready = False
        while True:
            status, was_ready = self._run_once()
            ever_ready = ever_ready or was_ready
            if self._stopping.is_set() or not ever_ready:
                return status
            now = time.monotonic()
            restarts = [then for then in restarts if now - then < _WITHIN_S] + [now]
            if len(restarts) > _MOST_RESTARTS:
                log.error(
                    "the server stopped %s times in a few minutes; it stays so", len(restarts)
                )
                return status or 1
            log.error("the server stopped (status %s); it is started again", status)
            wait = min(_LONGEST_BACKOFF_S, _BACKOFF_S * 2 ** (len(restarts) - 1))
            if self._stopping.wait(wait):
                return status

    def _run_once(self) -> tuple[int, bool]:
        """Run the server to its end; its exit status, and whether it had answered before."""
        command = [sys.executable, "-m", "sequor", WATCHED, str(os.getpid()), *self._arguments]
        # The service manager is told by this process alone; MariaDB would tell it things too.
        inherited = {name: os.environ[name] for name in os.environ if name not in _NOT_PASSED_ON}
        self._server = subprocess.Popen(command, env=_ENVIRONMENT | inherited)
        if self._stopping.is_set():
            self._server.terminate()
        ready, heard_s, asked_s = False, time.monotonic(), 0.0
        while True:
            with contextlib.suppress(subprocess.TimeoutExpired):
                return self._server.wait(_LOOK_S), ready
            now = time.monotonic()
            if now - asked_s < (_ASK_EVERY_S if ready else _LOOK_S):
                continue
            asked_s = now
            if self._answers():
                heard_s = time.monotonic()
                self._told.notify("WATCHDOG=1" if ready else "READY=1")
                ready = True
                continue
            silent_s = time.monotonic() - heard_s
            if silent_s > (DEAF_S if ready else _START_S) and not self._stopping.is_set():
                log.error("the server has not answered for %.0f s; it is killed", silent_s)
                self._server.kill()

    def _answers(self) -> bool:
        """Whether the server answers at all, whatever it says."""
        key = key_of(self._settings.data, self._settings.port)
        connection = http.client.HTTPConnection("127.0.0.1", self._settings.port, timeout=_ASK_S)
        try:
            headers = {"Authorization": f"Bearer {key.text}"}
            connection.request("GET", "/api/health", headers=headers)
            return connection.getresponse().status in (200, 503)
        except (OSError, http.client.HTTPException):
            return False
        finally:
            connection.close()

    def _stop(self, number: int, _: FrameType | None) -> None:
        """Pass a signal on; the server ends cleanly, and this with it."""
        self._stopping.set()
        self._told.notify("STOPPING=1")
        if self._server and self._server.poll() is None:
            self._server.send_signal(number)
