"""The door in front of the application: what is refused before any of it is stored.

A request is looked at as soon as its headers are there: who sends it, how large it claims to be,
and whether the disk has room for it. Everything here is about waitress, the server that ships.
"""

import errno
import json
import os
import secrets
from functools import partial
from pathlib import Path
from typing import Any

import waitress
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.utilities import Error

from sequor.settings import Settings
from sequor.store.space import DiskFull, Space

_THREADS = 96
"""Most of them only wait for a worker: at most `means.WAITERS` and `means.HAND_WAITERS` do."""
_CONNECTIONS = 2000
_IDLE_S = 60
_ESTABLISHED = "01"
_TABLES = (Path("/proc/net/tcp"), Path("/proc/net/tcp6"))
_LOOPBACK = {"0100007F", "0000000000000000FFFF00000100007F"}
_NOTHING = "nothing was stored"
_NO_LIMIT = 2**62
_POURED_OUT = 4
"""What is refused is received to its end up to so many times the largest upload."""


class Refusal(Error):  # type: ignore[misc]
    """An answer given at the door, as the application would give it."""

    def __init__(self, code: int, reason: str, problem: str) -> None:
        super().__init__(problem)
        self.code, self.reason = code, reason

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        """Status, headers and body."""
        body = {"problem": self.body, "request_id": secrets.token_hex(8)}
        headers = [
            ("Content-Type", "application/json"),
            ("Cache-Control", "no-store"),
            ("X-Content-Type-Options", "nosniff"),
        ]
        return f"{self.code} {self.reason}", headers, json.dumps(body).encode()


class DoorParser(HTTPRequestParser):  # type: ignore[misc]
    """Looks at a request when its headers are there."""

    error: Error | None
    completed: bool
    expect_continue: bool
    content_length: int
    poured_out = 0

    def __init__(self, settings: Settings, space: Space, adj: Any) -> None:
        super().__init__(adj)
        self._settings, self._space = settings, space

    def received(self, data: bytes) -> int:
        """Take what has come, or pour it out; how much of it was taken."""
        if self.error is not None and not self.completed:
            return self._pour_out(len(data))
        before = self.headers_finished
        try:
            consumed: int = super().received(data)
        except OSError as problem:
            if problem.errno != errno.ENOSPC:
                raise
            self.poured_out = self.body_bytes_received
            self._refuse(Refusal(507, "Insufficient Storage", _full(self._space)))
            return self._pour_out(len(data))
        if self.headers_finished and not before and self.error is None:
            self._look()
        return consumed

    def _look(self) -> None:
        body, multipart = self.content_length, _is_multipart(self.headers)
        most_mb, most_kb = self._settings.max_upload_mb, self._settings.max_request_kb
        limit = most_mb * 2**20 if multipart else most_kb * 1024
        if self.chunked:
            problem = f"A request must say how long it is; {_NOTHING}."
            self._refuse(Refusal(411, "Length Required", problem))
        elif body > limit:
            said = f"{limit / 2**20:,.0f} MB" if multipart else f"{limit // 1024:,} kB"
            problem = f"This is larger than the {said} that may be sent; {_NOTHING}."
            self._refuse(Refusal(413, "Content Too Large", problem))
        elif multipart:
            try:
                # Received, and taken out of its envelope, before it is where it belongs.
                self._space.require_for_files(3 * body)
            except DiskFull as full:
                self._refuse(Refusal(507, "Insufficient Storage", str(full)))

    def _refuse(self, refusal: Refusal) -> None:
        """Answer when all is received, without keeping it: one that is still sending would
        not see an answer, only that the connection ends.
        """
        sends_on = not self.chunked and not self.expect_continue
        self.error = refusal
        most = _POURED_OUT * self._settings.max_upload_mb * 2**20
        self.completed = not (sends_on and 0 < self.content_length <= most)
        self.expect_continue = False

    def _pour_out(self, size: int) -> int:
        taken = min(size, self.content_length - self.poured_out)
        self.poured_out += taken
        self.completed = self.poured_out >= self.content_length
        return taken


class DoorChannel(HTTPChannel):  # type: ignore[misc]
    """A connection; of another person's program it takes nothing."""

    def __init__(self, server: Any, sock: Any, addr: Any, adj: Any, map: Any = None) -> None:
        super().__init__(server, sock, addr, adj, map)
        self.foreign = is_foreign(int(addr[1]), int(server.effective_port))

    def received(self, data: bytes) -> bool:
        """Take what has come, but from another person's program."""
        if self.foreign:  # not a word to other people of this machine
            self.will_close = True
            return False
        return bool(super().received(data))


def serve_with(app: Any, settings: Settings, space: Space) -> Any:
    """A waitress server for the application; its ``run`` serves."""
    server = waitress.create_server(
        app,
        host="127.0.0.1",
        port=settings.port,
        threads=_THREADS,
        connection_limit=_CONNECTIONS,
        channel_timeout=_IDLE_S,
        cleanup_interval=_IDLE_S // 4,
        asyncore_use_poll=True,
        max_request_body_size=_NO_LIMIT,  # the door looks itself
        max_request_header_size=2**16,
        ident=None,
        # Lets a request see that its client has gone, so that a fill can be given up.
        channel_request_lookahead=1,
    )
    parser = partial(DoorParser, settings, space)
    server.channel_class = type("Channel", (DoorChannel,), {"parser_class": parser})
    return server


def is_foreign(client_port: int, server_port: int) -> bool:
    """Whether a connection on the loopback comes from another person's program.

    The system's table of connections names the user of each (proc(5), /proc/net/tcp); root and the
    one who started this may ask. Where there is no such table nobody can be told apart.
    """
    wanted = f"{client_port:04X}", f"{server_port:04X}"
    readable = False
    for table in _TABLES:
        try:
            lines = table.read_text().splitlines()[1:]
        except OSError:
            continue
        readable = True
        for line in lines:
            _, local, remote, state, *_, user = line.split(maxsplit=8)[:8]
            address, _, port = local.rpartition(":")
            ends = port, remote.rpartition(":")[2]
            if ends == wanted and state == _ESTABLISHED and address in _LOOPBACK:
                return int(user) not in (0, os.geteuid())
    return readable


def _is_multipart(headers: dict[str, str]) -> bool:
    return headers.get("CONTENT_TYPE", "").lower().startswith("multipart/form-data")


def _full(space: Space) -> str:
    return f"The disk is full: {space.free_mb:,.0f} MB free, {_NOTHING}."
