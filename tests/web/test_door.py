"""The door: what is refused before any of it is stored, over a real connection."""

import json
import os
import shutil
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy import Engine

from sequor.settings import Settings
from sequor.store import space
from sequor.store.mariadb import free_port
from sequor.web.app import create_app
from sequor.web.door import is_foreign, serve_with
from sequor.work.processes import ProcessEngine


@pytest.fixture
def door(
    empty_tables: Engine, workers: ProcessEngine, settings: Settings
) -> Iterator[tuple[int, Settings]]:
    """The application behind its door, on a port of its own."""
    own = settings.model_copy(update={"port": free_port(), "max_upload_mb": 2, "reserve_mb": 100})
    app = create_app(own, workers, empty_tables)
    server = serve_with(app, own, app.extensions["sequor"].means.files.space)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield own.port, own
    server.close()
    app.extensions["sequor"].exports.stop()


def ask(port: int, head: str, body: bytes = b"") -> tuple[int, Any]:
    """Send some bytes as they are; the status and the body of the answer."""
    with socket.create_connection(("127.0.0.1", port), timeout=30) as connection:
        connection.sendall(head.replace("\n", "\r\n").encode() + b"\r\n" + body)
        answer = b""
        while part := connection.recv(65536):
            answer += part
            head_bytes, _, content = answer.partition(b"\r\n\r\n")
            fields = dict(
                line.lower().split(b": ", 1) for line in head_bytes.split(b"\r\n")[1:] if line
            )
            if len(content) >= int(fields.get(b"content-length", 10**9)):
                break
    return int(head_bytes.split()[1]), json.loads(content)


HOST = "Host: 127.0.0.1\n"
JSON = "Content-Type: application/json\n"
FORM = "Content-Type: multipart/form-data; boundary=x\n"


def test_it_lets_good_requests_through(door: tuple[int, Settings]) -> None:
    assert ask(door[0], f"GET /api/health HTTP/1.1\n{HOST}")[0] == 200
    body = b'{"name": "Through the door"}'
    length = f"Content-Length: {len(body)}\n"
    assert ask(door[0], f"POST /api/sets HTTP/1.1\n{HOST}{JSON}{length}", body)[0] == 201


@pytest.mark.parametrize(
    ("fields", "sent", "status"),
    [
        (f"{JSON}Content-Length: 1100000\n", 1_100_000, 413),
        (f"{FORM}Content-Length: 3000000\n", 3_000_000, 413),
        # What it would take long to send is refused at its headers.
        (f"{FORM}Content-Length: 300000000\n", 0, 413),
        (f"{JSON}Content-Length: 1100000\nExpect: 100-continue\n", 0, 413),
        (f"{JSON}Transfer-Encoding: chunked\n", 0, 411),
    ],
)
def test_what_is_too_large_is_received_but_never_stored(
    door: tuple[int, Settings],
    fields: str,
    sent: int,
    status: int,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    import tempfile

    def never(*_: object, **__: object) -> None:
        raise AssertionError("it was stored")

    monkeypatch.setattr(tempfile, "TemporaryFile", never)
    found, answer = ask(door[0], f"POST /api/sets HTTP/1.1\n{HOST}{fields}", bytes(sent))
    assert found == status
    assert "nothing was stored" in answer["problem"]
    assert answer["request_id"]


def test_an_upload_that_the_disk_has_no_room_for(
    door: tuple[int, Settings], monkeypatch: pytest.MonkeyPatch
) -> None:
    usage = type("Usage", (), {"free": 101 * space.MB})
    monkeypatch.setattr(space.shutil, "disk_usage", lambda _: usage)
    head = f"POST /api/sets/1/pictures HTTP/1.1\n{HOST}{FORM}Content-Length: 1500000\n"
    found, answer = ask(door[0], head, bytes(1_500_000))
    assert found == 507
    assert "The disk is full: 101 MB free" in answer["problem"]


def test_idle_connections_do_not_shut_others_out(door: tuple[int, Settings]) -> None:
    idle = [socket.create_connection(("127.0.0.1", door[0])) for _ in range(300)]
    half = [socket.create_connection(("127.0.0.1", door[0])) for _ in range(100)]
    for connection in half:
        connection.sendall(b"POST /api/sets HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Le")
    try:
        assert ask(door[0], f"GET /api/health HTTP/1.1\n{HOST}")[0] == 200
    finally:
        for connection in idle + half:
            connection.close()


def test_who_asks_is_told_from_the_table_of_connections(door: tuple[int, Settings]) -> None:
    with socket.create_connection(("127.0.0.1", door[0])) as own:
        assert not is_foreign(own.getsockname()[1], door[0])
    assert is_foreign(1, door[0])  # nobody known is let in


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can become somebody else")
def test_other_people_of_the_machine_get_no_answer(door: tuple[int, Settings]) -> None:
    script = (
        "import socket, sys\n"
        "c = socket.create_connection(('127.0.0.1', int(sys.argv[1])))\n"
        "c.sendall(b'GET /api/sets HTTP/1.1\\r\\nHost: 127.0.0.1\\r\\n\\r\\n')\n"
        "try: print(len(c.recv(1000)))\n"
        "except OSError: print(0)\n"
    )
    python = shutil.which("python3", path="/usr/bin") or sys.executable
    command = ["setpriv", "--reuid=65534", "--clear-groups", python, "-c", script, str(door[0])]
    asked = subprocess.run(command, capture_output=True, text=True, check=True, cwd="/")
    assert asked.stdout.strip() == "0"


def test_other_people_cannot_read_the_files(
    browserless: FlaskClient, picture: dict, settings: Settings
) -> None:
    assert settings.data.stat().st_mode & 0o777 == 0o700
    for path in (settings.data / "originals").rglob("*"):
        if path.is_file():
            assert path.stat().st_mode & 0o077 == 0
