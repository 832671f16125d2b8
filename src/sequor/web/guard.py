"""What may be asked from where, and what a page may do.

Who is known (`who`), hosts that are Sequor's own, no foreign origins, no inline scripts; a request
id for the log.
"""

import logging
import re
import secrets
import time
from urllib.parse import urlsplit

from flask import Flask, Response, g, request

from sequor.core.language import tr
from sequor.web.answers import problem
from sequor.web.bodies import fault_of
from sequor.web.key import Key
from sequor.web.who import identify

log = logging.getLogger(__name__)

HOSTS = ("127.0.0.1", "localhost", "[::1]")
"""Werkzeug refuses every request for another one."""
_REQUEST_ID = re.compile(r"[A-Za-z0-9-]{1,64}")
_POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; "
    "img-src 'self' blob: data:; font-src 'self'; connect-src 'self'; object-src 'none'; "
    "base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)


def register(app: Flask, key: Key, most_bytes: int) -> None:
    """Put the guard in front of every request; a body of JSON may have ``most_bytes``."""

    @app.before_request
    def check() -> Response | None:
        given = request.headers.get("X-Request-Id", "")
        g.request_id = given if _REQUEST_ID.fullmatch(given) else secrets.token_hex(8)
        g.started = time.perf_counter()
        refused = identify(key)
        if refused is not None:
            return refused
        origin = request.headers.get("Origin")
        if origin is not None and not _is_own(origin):
            return problem(tr("Requests from other sites are refused."), 403)
        if (
            request.headers.get("Sec-Fetch-Site") in ("cross-site", "same-site")
            and request.method != "GET"
        ):
            return problem(tr("Requests from other sites are refused."), 403)
        if request.method != "GET" and request.mimetype != "multipart/form-data":
            fault = fault_of(request.get_data(), most_bytes)
            if fault:
                return problem(
                    tr("The request cannot be used: {fault}. Nothing was changed.", fault=fault),
                    413,
                )
        return None

    @app.after_request
    def finish(response: Response) -> Response:
        response.headers["X-Request-Id"] = g.get("request_id", "")
        response.headers["Content-Security-Policy"] = _POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        took_ms = (time.perf_counter() - g.get("started", time.perf_counter())) * 1000
        log.info(
            "%s %s %s %s %.1f ms",
            g.get("request_id", "-"),
            request.method,
            _path(),
            response.status_code,
            took_ms,
            extra={
                "request_id": g.get("request_id", "-"),
                "method": request.method,
                "path": _path(),
                "status": response.status_code,
                "took_ms": round(took_ms, 1),
            },
        )
        return response


def _path() -> str:
    """The address for the log; what lets somebody in is left out of it."""
    token = (request.view_args or {}).get("token")
    return request.path.replace(token, "...") if token else request.path


def _is_own(origin: str) -> bool:
    """Whether an origin is that of the pages themselves; one that is none is not."""
    try:
        return urlsplit(origin).netloc == request.host
    except ValueError:
        return False
