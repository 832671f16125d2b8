"""The door: what is refused before any of it is stored, over a real connection."""

import json
import shutil
import socket
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy import Engine

from sequor.settings import Settings
from sequor.store import space
from sequor.store.mariadb import free_port
from sequor.web.app import create_app
from sequor.web.context import client_gone
from sequor.web.door import DoorServer, serve_with
from sequor.web.key import key_of
from sequor.work.dispatcher import Dispatcher
from tests.waiting import until


@dataclass(frozen=True)
class Door:
    """The application behind its door, on a port of its own."""

    app: Any
    server: DoorServer
    settings: Settings

    @property
    def port(self) -> int:
        return self.settings.port


@pytest.fixture
def door(empty_tables: Engine, workers: Dispatcher, settings: Settings) -> Iterator[Door]:
    own = settings.model_copy(update={"port": free_port(), "max_upload_mb": 2, "reserve_mb": 100})
    app = create_app(own, workers, empty_tables)
    server = serve_with(app, own, app.extensions["sequor"].resources.files.space)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    yield Door(app, server, own)
    server.close()
    app.extensions["sequor"].exports.stop()


def with_key(door: Door, head: str) -> str:
    key = key_of(door.settings.data, door.port)
    return f"{head}{HOST}Authorization: Bearer {key.text}\n\n".replace("\n", "\r\n")


def ask(door: Door, head: str, body: bytes = b"", known: bool = True) -> tuple[int, Any]:
    """Send some bytes as they are; the status and the body of the answer."""
    sent = with_key(door, head) if known else f"{head}{HOST}\n".replace("\n", "\r\n")
    with socket.create_connection(("127.0.0.1", door.port), timeout=30) as connection:
        connection.sendall(sent.encode() + body)
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


def test_it_lets_good_requests_through(door: Door) -> None:
    assert ask(door, "GET /api/health HTTP/1.1\n")[0] == 200
    body = b'{"name": "Through the door"}'
    length = f"Content-Length: {len(body)}\n"
    assert ask(door, f"POST /api/sets HTTP/1.1\n{JSON}{length}", body)[0] == 201


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
    door: Door,
    fields: str,
    sent: int,
    status: int,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    import tempfile

    def never(*_: object, **__: object) -> None:
        raise AssertionError("it was stored")

    monkeypatch.setattr(tempfile, "TemporaryFile", never)
    found, answer = ask(door, f"POST /api/sets HTTP/1.1\n{fields}", bytes(sent))
    assert found == status
    assert "nothing was stored" in answer["problem"]
    assert answer["request_id"]


def test_an_upload_that_the_disk_has_no_room_for(
    door: Door, monkeypatch: pytest.MonkeyPatch
) -> None:
    usage = type("Usage", (), {"free": 101 * space.MB})
    monkeypatch.setattr(shutil, "disk_usage", lambda _: usage)
    head = f"POST /api/sets/1/pictures HTTP/1.1\n{FORM}Content-Length: 1500000\n"
    found, answer = ask(door, head, bytes(1_500_000))
    assert found == 507
    assert "The disk is full: 101 MB free" in answer["problem"]


def test_idle_connections_do_not_shut_others_out(door: Door) -> None:
    """Those of somebody who does not know the key: more than there may be, and half a request."""
    idle = [socket.create_connection(("127.0.0.1", door.port)) for _ in range(500)]
    half = [socket.create_connection(("127.0.0.1", door.port)) for _ in range(100)]
    for connection in half:
        with suppress(OSError):
            connection.sendall(b"POST /api/sets HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Le")
    try:
        start = time.monotonic()
        assert ask(door, "GET /api/health HTTP/1.1\n")[0] == 200
        assert time.monotonic() - start < 3  # 6 s once, with a table of connections to be read
        assert len(door.server.strangers) <= 128
    finally:
        for connection in idle + half:
            connection.close()


def test_a_stranger_has_seconds(door: Door, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("sequor.web.door._STRANGER_S", 0.2)
    with socket.create_connection(("127.0.0.1", door.port), timeout=30) as connection:
        connection.sendall(b"GET /api/sets HT")
        assert connection.recv(100) == b""  # it was closed


@pytest.mark.parametrize(
    "shown",
    ["", "Authorization: Bearer guess\n", "Cookie: sequor-1=guess\n", "Cookie: ;;==,\n"],
)
def test_who_does_not_know_the_key_is_told_so(door: Door, shown: str) -> None:
    status, answer = ask(door, f"GET /api/sets HTTP/1.1\n{shown}", known=False)
    assert status == 403
    assert "the address that bin/start printed" in answer["problem"]
    # An upload is not even listened to.
    head = f"POST /api/sets/1/pictures HTTP/1.1\n{shown}{FORM}Content-Length: 1500000\n"
    assert ask(door, head, known=False)[0] == 403


def test_the_address_that_is_printed_lets_a_browser_in(browserless: FlaskClient) -> None:
    key = browserless.environ_base["HTTP_AUTHORIZATION"].removeprefix("Bearer ")
    browser = browserless.application.test_client()
    browser.environ_base["HTTP_HOST"] = "127.0.0.1:8700"
    assert browser.get("/api/sets").status_code == 403
    assert browser.get("/?key=guess").status_code == 403
    opened = browser.get(f"/?key={key}")
    assert (opened.status_code, opened.headers["Location"]) == (303, "/")
    cookie = opened.headers["Set-Cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Lax" in cookie
    assert browser.get("/api/sets").status_code == 200  # by the cookie


def test_who_has_said_all_and_listens_gets_an_answer(door: Door) -> None:
    """Half-closed, as some programs do."""
    with socket.create_connection(("127.0.0.1", door.port), timeout=30) as connection:
        connection.sendall(with_key(door, "GET /api/storage HTTP/1.1\n").encode())
        connection.shutdown(socket.SHUT_WR)
        answer = b""
        while part := connection.recv(65536):
            answer += part
    answer = answer.removeprefix(b"HTTP/1.1 100 Continue\r\n\r\n")
    assert answer.startswith(b"HTTP/1.1 200 OK")
    assert b'"lines"' in answer


def test_who_has_gone_is_noticed(door: Door) -> None:
    """The server asks once whether anybody listens; a system that has closed answers no."""
    gone = threading.Event()
    waits = threading.Event()

    @door.app.get("/api/wait")
    def wait() -> str:
        waits.set()
        has_gone = client_gone()
        until(has_gone)
        gone.set()
        return ""

    connection = socket.create_connection(("127.0.0.1", door.port))
    connection.sendall(with_key(door, "GET /api/wait HTTP/1.1\n").encode())
    assert waits.wait(20)
    connection.close()
    assert gone.wait(20)


def test_other_people_cannot_read_the_files(
    browserless: FlaskClient, picture: dict, settings: Settings
) -> None:
    assert settings.data.stat().st_mode & 0o066 == 0
    assert (settings.data / "key").stat().st_mode & 0o077 == 0
    for path in (settings.data / "originals").rglob("*"):
        if path.is_file():
            assert path.stat().st_mode & 0o077 == 0
