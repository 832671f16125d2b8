"""The door in front of the application: what is refused before any of it is stored.

A request is looked at as soon as its headers are there: who sends it, how large it claims to be,
and whether the disk has room for it. A connection on which the key was not shown is a stranger's:
it has seconds, and there may be so many of them. Everything here is about waitress, the server that
ships.
"""

import errno
import json
import secrets
import socket
import time
from collections.abc import Callable
from typing import Any

from waitress.adjustments import Adjustments
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer
from waitress.task import ThreadedTaskDispatcher
from waitress.utilities import Error

from sequor.core.language import mark, speaking, tr
from sequor.settings import Settings
from sequor.store.failures import DiskFull
from sequor.store.people import is_served
from sequor.store.space import Space
from sequor.web.key import Key, key_of
from sequor.web.languages import language_of
from sequor.web.who import Cookies

_THREADS = 96
"""Most of them only wait for a worker: at most `WAITERS` and `HAND_WAITERS` of `resources` do."""
_CONNECTIONS = 2000
_IDLE_S = 60
_MOST_STRANGERS, _STRANGER_S, _CLEAN_S = 128, 5.0, 2
"""So many connections may be open on which no key was shown, and so many seconds each; when there
are more, the oldest are closed."""
_MOST_GUESTS, _GUEST_S = 1000, 60.0
"""The same where there are accounts: who signs in, or looks by a link, is a stranger first."""
_STRANGERS_BYTES = 16 * 1024
"""A name and a password, or a note of a client."""
_ACCEPTED_AT_ONCE = 64
_TCP_CLOSED = 7  # TCP_CLOSE of tcp_states.h
_STILL_THERE = b"HTTP/1.1 100 Continue\r\n\r\n"
_STRANGE = mark(
    "Sequor answers only the person who started it. Open the address that "
    "bin/start printed; it ends in ?key=..., and has to be opened once in "
    "every browser."
)
_NOTHING = mark("nothing was stored")
_NO_LIMIT = 2**62
_POURED_OUT = 4
"""What is refused is received to its end up to so many times the largest upload."""


class Refusal(Error):  # type: ignore[misc]
    """An answer given at the door, as the application would give it."""

    def __init__(self, code: int, reason: str, problem: str, as_text: bool = False) -> None:
        super().__init__(problem)
        self.code, self.reason, self.as_text = code, reason, as_text

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        """Status, headers and body."""
        body = {"problem": self.body, "request_id": secrets.token_hex(8)}
        kind = "text/plain; charset=utf-8" if self.as_text else "application/json"
        headers = [
            ("Content-Type", kind),
            ("Cache-Control", "no-store"),
            ("X-Content-Type-Options", "nosniff"),
        ]
        content = f"{self.body}\n" if self.as_text else json.dumps(body)
        return f"{self.code} {self.reason}", headers, content.encode()


class DoorParser(HTTPRequestParser):  # type: ignore[misc]
    """Looks at a request when its headers are there."""

    error: Error | None
    completed: bool
    expect_continue: bool
    content_length: int
    poured_out = 0

    def __init__(
        self, settings: Settings, space: Space, key: Key, known: Callable[[], None], adj: Any
    ) -> None:
        super().__init__(adj)
        self._settings, self._space, self._key, self._known = settings, space, key, known
        self._cookies = Cookies(key)

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
            with speaking(language_of(self.headers)):
                self._look()
        return consumed

    def _look(self) -> None:
        shown = self.headers.get("COOKIE", ""), self.headers.get("AUTHORIZATION", "")
        if self._key.is_shown(*shown) or self._cookies.is_shown(shown[0]):
            self._known()
            self._measure()
        elif self._key.is_in(self.query):
            self._known()
        elif is_served(self._settings.data):
            # Somebody who is to sign in, or looks by a link: small requests only.
            self._measure(stranger=True)
        else:
            # At once: a stranger is not listened to any further.
            page = "text/html" in self.headers.get("ACCEPT", "")
            self.error, self.completed = Refusal(403, "Forbidden", tr(_STRANGE), page), True
            self.expect_continue = False

    def _measure(self, stranger: bool = False) -> None:
        """Refuse what is too large to be received."""
        body = self.content_length
        multipart = _is_multipart(self.headers) and not stranger
        most_mb, most_kb = self._settings.max_upload_mb, self._settings.max_request_kb
        limit = most_mb * 2**20 if multipart else most_kb * 1024
        if stranger:
            limit = min(limit, _STRANGERS_BYTES)
        if self.chunked:
            problem = tr("A request must say how long it is; {nothing}.", nothing=tr(_NOTHING))
            self._refuse(Refusal(411, "Length Required", problem))
        elif body > limit:
            said = f"{limit / 2**20:,.0f} MB" if multipart else f"{limit // 1024:,} kB"
            problem = tr(
                "This is larger than the {said} that may be sent; {nothing}.",
                said=said,
                nothing=tr(_NOTHING),
            )
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
    """A connection: a stranger's until the key is shown on it; one that sends no more may still
    wait for its answer.
    """

    requests: list[Any]
    total_outbufs_len: int
    ended = answering = False

    def __init__(self, server: "DoorServer", sock: Any, addr: Any, adj: Any, map: Any) -> None:
        super().__init__(server, sock, addr, adj, map)
        server.meet(self)

    def parser_class(self, adj: Any) -> DoorParser:
        """What looks at the next request."""
        server = self.server
        return DoorParser(server.settings, server.space, server.key, self._become_known, adj)

    def _become_known(self) -> None:
        self.server.strangers.pop(self, None)

    def handle_close(self) -> None:
        """It is over."""
        self._become_known()
        super().handle_close()

    def handle_read(self) -> None:
        """Take what has come. An end of it is not yet an end of the connection: the other side may
        have said all and wait for its answer (half-closed, RFC 9293, 3.6).
        """
        try:
            data = self.socket.recv(self.adj.recv_bytes)
        except BlockingIOError:
            return
        except OSError:
            self.handle_close()
            return
        if data:
            self.last_activity = time.time()
            self.received(data)
        elif self.requests:
            self.ended = True
            self._ask_whether_anybody_listens()
        else:
            self.handle_close()

    def _ask_whether_anybody_listens(self) -> None:
        """Send an interim answer (RFC 9110, 15.2), unless the answer is on its way already: a
        system where nobody has this connection open any more resets it then.
        """
        with self.outbuf_lock:
            if not self.answering and self.requests[0].version == "1.1":
                try:
                    self.socket.send(_STILL_THERE)
                except OSError:
                    self.connected = False

    def readable(self) -> bool:
        """Whether more may come."""
        return not self.ended and bool(super().readable())

    def writable(self) -> bool:
        """Whether there is something to send, or to end."""
        if self.ended and not self.requests and not self.total_outbufs_len:
            self.will_close = True
        return bool(super().writable())

    def service(self) -> None:
        """Answer one request."""
        self.answering = False
        super().service()

    def write_soon(self, data: Any) -> Any:
        """Send a part of an answer."""
        self.answering = True
        return super().write_soon(data)

    def check_client_disconnected(self) -> bool:
        """Whether nobody waits for the answer any more."""
        if not self.connected:
            return True
        if not self.ended:
            return False
        try:
            state = self.socket.getsockopt(socket.IPPROTO_TCP, socket.TCP_INFO, 1)[0]
        except OSError:
            return True
        return bool(state == _TCP_CLOSED)


class DoorServer(TcpWSGIServer):  # type: ignore[misc]
    """The server, which keeps an eye on strangers."""

    channel_class = DoorChannel

    def __init__(self, app: Any, settings: Settings, space: Space, key: Key, adj: Any) -> None:
        self.settings, self.space, self.key = settings, space, key
        self.strangers: dict[DoorChannel, float] = {}
        workers = ThreadedTaskDispatcher()
        workers.set_thread_count(adj.threads)
        super().__init__(app, {}, True, None, dispatcher=workers, adj=adj, sockinfo=adj.listen[0])

    def meet(self, channel: DoorChannel) -> None:
        """A connection came; the oldest stranger goes when there are too many."""
        self.strangers[channel] = time.monotonic()
        most = _MOST_GUESTS if is_served(self.settings.data) else _MOST_STRANGERS
        while len(self.strangers) > most:
            next(iter(self.strangers)).handle_close()

    def handle_accept(self) -> None:
        """Take connections, several at once when many come."""
        for _ in range(_ACCEPTED_AT_ONCE):
            before = len(self.active_channels)
            super().handle_accept()
            if len(self.active_channels) <= before:
                return

    def maintenance(self, now: float) -> None:
        """Close what has been idle, strangers soon."""
        super().maintenance(now)
        served = is_served(self.settings.data)
        until = time.monotonic() - (_GUEST_S if served else _STRANGER_S)
        for channel, since_s in list(self.strangers.items()):
            if since_s < until:
                channel.will_close = True


def serve_with(app: Any, settings: Settings, space: Space) -> DoorServer:
    """A waitress server for the application; its ``run`` serves."""
    adj = Adjustments(
        host=settings.bind,
        port=settings.port,
        threads=_THREADS,
        connection_limit=_CONNECTIONS,
        channel_timeout=_IDLE_S,
        cleanup_interval=_CLEAN_S,
        asyncore_use_poll=True,
        max_request_body_size=_NO_LIMIT,  # the door looks itself
        max_request_header_size=2**16,
        ident=None,
        # What a client says of proxies that there are not.
        clear_untrusted_proxy_headers=not settings.proxy,
        # Lets a request see that its client has gone, so that a fill can be given up.
        channel_request_lookahead=1,
    )
    return DoorServer(app, settings, space, key_of(settings.data, settings.port), adj)


def _is_multipart(headers: dict[str, str]) -> bool:
    return headers.get("CONTENT_TYPE", "").lower().startswith("multipart/form-data")


def _full(space: Space) -> str:
    return tr(
        "The disk is full: {free_mb:,.0f} MB free, {nothing}.",
        free_mb=space.free_mb,
        nothing=tr(_NOTHING),
    )
