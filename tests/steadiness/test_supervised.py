"""What `bin/start` runs starts the server again, and tells a service manager how it is."""

import os
import signal
import socket
import sys
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from tests.running import Application
from tests.steadiness.killing import command_of, descendants
from tests.waiting import PATIENCE_S, until

SOON = (
    "import sequor.supervise as s\n"
    "s.DEAF_S, s._ASK_EVERY_S, s._ASK_S = 3.0, 0.3, 1.0\n"
    "if __name__ == '__main__': s.main()\n"
)
"""The same, with less patience than it ships with."""


def server_of(app: Application) -> int:
    """The process of its server; 0 while there is none."""
    assert app.process
    family = descendants(app.process.pid)
    return next((pid for pid in family if "--watched-by" in command_of(pid)), 0)


@pytest.fixture
def notified(tmp_path: Path) -> Iterator[socket.socket]:
    """Where a service manager listens (sd_notify(3))."""
    with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as listener:
        listener.bind(f"\0sequor-test-{os.getpid()}")
        listener.settimeout(PATIENCE_S)
        yield listener


def test_a_server_that_hangs_is_started_again(tmp_path: Path, notified: socket.socket) -> None:
    """One that dies is among the kills of `test_kills`."""
    app = Application(tmp_path / "var", "--empty")
    app.command = (sys.executable, "-c", SOON)
    app.environment |= {"NOTIFY_SOCKET": f"@sequor-test-{os.getpid()}"}
    app.start()
    try:
        assert app.process
        assert notified.recv(100) == b"READY=1"
        app.post("/api/sets", {"name": "Kept"})
        before = server_of(app)
        os.kill(before, signal.SIGSTOP)
        until(lambda: notified.recv(100) == b"READY=1")
        assert server_of(app) not in (0, before)
        assert not Path(f"/proc/{before}").exists()
        sets = app.send("GET", "/api/sets")[1]["sets"]
        assert [one["name"] for one in sets] == ["Kept"]
        until(lambda: notified.recv(100) == b"WATCHDOG=1")
        supervisor = app.process.pid
        family = descendants(supervisor)
        # Told to stop it ends with everything that it started.
        assert app.stop(signal.SIGTERM) == 0
        until(lambda: not any(Path(f"/proc/{pid}").exists() for pid in family))
        until(lambda: notified.recv(100) == b"STOPPING=1")
    finally:
        if app.process and app.process.poll() is None:
            app.process.kill()


def test_a_server_waits_for_the_one_before(tmp_path: Path) -> None:
    """Its watcher was killed, and it is slow to end; one that goes on is left in peace."""
    app = Application(tmp_path / "var", "--empty")
    app.command = (sys.executable, "-m", "sequor")
    app.start()
    try:
        app.post("/api/sets", {"name": "Kept"})
        before = server_of(app)
        os.kill(before, signal.SIGSTOP)
        app.stop(signal.SIGKILL)
        with ThreadPoolExecutor() as beside:
            started = beside.submit(app.start)
            until(lambda: "still ending" in app.log.read_text())
            os.kill(before, signal.SIGCONT)
            started.result()
        # A second one on the same data is refused, wherever it listens, and does no harm.
        second = Application(tmp_path / "var", "--empty")
        second.command, second.log = app.command, tmp_path / "second.log"
        with pytest.raises(RuntimeError, match="another Sequor runs on the data"):
            second.start()
        sets = app.send("GET", "/api/sets")[1]["sets"]
        assert [one["name"] for one in sets] == ["Kept"]
    finally:
        if app.process and app.process.poll() is None:
            app.stop()


def test_what_cannot_start_is_said_once(tmp_path: Path) -> None:
    """A port that is taken: no restart helps."""
    app = Application(tmp_path / "var", "--empty")
    app.command = (sys.executable, "-m", "sequor")
    with socket.socket() as other:
        other.bind(("127.0.0.1", app.port))
        with pytest.raises(RuntimeError, match="is taken"):
            app.start()
    assert app.log.read_text().count("cannot start") == 1
