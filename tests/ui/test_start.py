"""Starting and stopping as a person does."""

import os
import signal
import socket
import subprocess
from pathlib import Path

from sequor.store.mariadb import free_port
from tests.conftest import ROOT
from tests.running import Application


def test_a_taken_port_is_one_clear_sentence(tmp_path: Path) -> None:
    with socket.socket() as other:
        other.bind(("127.0.0.1", 0))
        other.listen()
        port = other.getsockname()[1]
        environment = {
            **os.environ,
            "SEQUOR_PORT": str(port),
            "SEQUOR_DB_PORT": str(free_port()),
            "SEQUOR_DATA": str(tmp_path),
        }
        done = subprocess.run(
            [ROOT / "bin" / "start", "--empty"], env=environment, capture_output=True, text=True
        )
    assert done.returncode == 1
    assert f"port {port} on 127.0.0.1 is taken" in done.stderr
    assert done.stderr.count("\n") == 1


def test_a_bad_setting_is_one_clear_sentence(tmp_path: Path) -> None:
    environment = {**os.environ, "SEQUOR_MAX_MEGAPIXELS": "many", "SEQUOR_DATA": str(tmp_path)}
    done = subprocess.run(
        [ROOT / "bin" / "start", "--empty"], env=environment, capture_output=True, text=True
    )
    assert done.returncode == 1
    assert "SEQUOR_MAX_MEGAPIXELS is “many”" in done.stderr


def test_stopping_leaves_no_process_behind(tmp_path: Path) -> None:
    for how in (signal.SIGINT, signal.SIGTERM, signal.SIGKILL):
        running = Application(tmp_path / "var", "--empty")
        running.start()
        running.stop(how)
        # A killed application cannot stop its database; the kernel tells the database, which needs
        # a moment.
        for _ in range(50):
            left = subprocess.run(
                ["pgrep", "-f", str(tmp_path / "var")], capture_output=True, text=True
            ).stdout
            if not left:
                break
            subprocess.run(["sleep", "0.2"])
        assert left == ""
