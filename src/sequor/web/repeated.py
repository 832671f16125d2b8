"""Requests that come again: one that names itself by a key gets the same answer each time.

A page that heard nothing cannot know whether its change was kept; so it asks again, with the same
``Idempotency-Key`` (a header by the draft of that name of the IETF's HTTPAPI group). The answer is
kept in the transaction of the change itself, and a day long.
"""

import hashlib
import re
import zlib
from collections.abc import Callable
from typing import TypeVar

from flask import Flask, Response, current_app, g, request
from pydantic import BaseModel

from sequor.core.language import tr
from sequor.services.reply import KeyedAnswer, Reply, find_receipt
from sequor.store.acting import author_id
from sequor.store.failures import Clash
from sequor.web.answers import database_problem, problem
from sequor.web.common_bodies import Done
from sequor.web.context import resources

HEADER = "Idempotency-Key"
_KEY = re.compile(r'"?([A-Za-z0-9_-]{8,64})"?')
_QUICKLY = 1
"""Level of zlib: what is kept is small JSON, of which most repeats itself."""
ONLY_ASKING = (
    "bench.draft_edits",
    "bench.hold_guide",
    "bench.read_picture",
    "frames.size_output",
    "carrying.look_at_carry",
)
"""What changes nothing and is only too long for an address: it may be done as often as it comes."""
V = TypeVar("V")


def register(app: Flask) -> None:
    """Answer what was answered before, before anything is done."""

    @app.before_request
    def again() -> Response | None:
        given = request.headers.get(HEADER)
        if given is None or request.method in ("GET", "HEAD", "OPTIONS"):
            return None
        if request.endpoint in ONLY_ASKING:
            return None
        found = _KEY.fullmatch(given)
        if not found:
            return problem(tr("{header} must have 8 to 64 letters and digits.", header=HEADER), 422)
        g.request_key, g.asked = found[1], _asked()
        return _kept()

    @app.errorhandler(Clash)
    def clash(error: Clash) -> Response:
        """The same request came twice at the same moment, and the other one was quicker."""
        return (_kept() if "request_key" in g else None) or database_problem(error)


def replying(make: Callable[[V], BaseModel], status: int = 200) -> Reply[V, BaseModel]:
    """How a service is to answer this request."""
    return Reply(make, lambda made: _receipt(made, status))


def counting(status: int = 200) -> Reply[int, BaseModel]:
    """The same, with how many things were changed."""
    return replying(lambda count: Done(count=count), status)


def _receipt(body: BaseModel, status: int) -> KeyedAnswer | None:
    if "request_key" not in g:
        return None
    sent = zlib.compress(body.model_dump_json().encode(), _QUICKLY)
    return KeyedAnswer(g.request_key, g.asked, status, sent)


def _kept() -> Response | None:
    """What was answered to this request before."""
    found = find_receipt(resources(), g.request_key)
    if found is None:
        return None
    if found.asked != g.asked:
        return problem(
            tr("This {header} was used for another request; nothing was changed.", header=HEADER),
            422,
        )
    body = zlib.decompress(found.body)
    response = current_app.response_class(body, found.status, mimetype="application/json")
    response.headers["Cache-Control"] = "no-store"
    response.headers["Idempotency-Replayed"] = "true"
    return response


def _asked() -> str:
    """A hash of what is asked for, and by whom; of a file its length stands for it."""
    digest = hashlib.sha256(f"{author_id() or ''} {request.method} {request.full_path}\n".encode())
    if request.mimetype == "multipart/form-data":
        digest.update(str(request.content_length).encode())
    else:
        digest.update(request.get_data())
    return digest.hexdigest()
