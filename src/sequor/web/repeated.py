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
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from sequor.services.means import Say
from sequor.store.models import KeptAnswer
from sequor.web.answers import answer, database_problem, problem
from sequor.web.context import means

HEADER = "Idempotency-Key"
_KEY = re.compile(r'"?([A-Za-z0-9_-]{8,64})"?')
_QUICKLY = 1
"""Level of zlib: what is kept is small JSON, of which most repeats itself."""
V = TypeVar("V")


def register(app: Flask) -> None:
    """Answer what was answered before, before anything is done."""

    @app.before_request
    def again() -> Response | None:
        given = request.headers.get(HEADER)
        if given is None or request.method in ("GET", "HEAD", "OPTIONS"):
            return None
        found = _KEY.fullmatch(given)
        if not found:
            return problem(f"{HEADER} must have 8 to 64 letters and digits.", 422)
        g.request_key, g.asked = found[1], _asked()
        return _kept()

    @app.errorhandler(IntegrityError)
    def clash(error: IntegrityError) -> Response:
        """The same request came twice at the same moment, and the other one was quicker."""
        return (_kept() if "request_key" in g else None) or database_problem(error)


def told(make: Callable[[Session, V], BaseModel], status: int = 200) -> Say[V, BaseModel]:
    """What a service is told to answer with: made inside its transaction, and kept there."""

    def say(session: Session, value: V) -> BaseModel:
        return _remembered(session, make(session, value), status)

    return say


def written(
    change: Callable[[Session], BaseModel], status: int = 200, small: bool = False
) -> Response:
    """Do a change, and answer with what it gives; see `Database.write`."""
    made = means().database.write(lambda s: _remembered(s, change(s), status), small)
    return answer(made, status)


def _remembered(session: Session, body: BaseModel, status: int) -> BaseModel:
    if "request_key" in g:
        kept = KeptAnswer(
            request_key=g.request_key,
            asked=g.asked,
            status=status,
            body=zlib.compress(body.model_dump_json().encode(), _QUICKLY),
        )
        session.add(kept)
    return body


def _kept() -> Response | None:
    """What was answered to this request before."""
    with means().database.reading() as session:
        found = session.get(KeptAnswer, g.request_key)
    if found is None:
        return None
    if found.asked != g.asked:
        return problem(f"This {HEADER} was used for another request; nothing was changed.", 422)
    body = zlib.decompress(found.body)
    response = current_app.response_class(body, found.status, mimetype="application/json")
    response.headers["Cache-Control"] = "no-store"
    response.headers["Idempotency-Replayed"] = "true"
    return response


def _asked() -> str:
    """A hash of what is asked for; of a file its length stands for it."""
    digest = hashlib.sha256(f"{request.method} {request.full_path}\n".encode())
    if request.mimetype == "multipart/form-data":
        digest.update(str(request.content_length).encode())
    else:
        digest.update(request.get_data())
    return digest.hexdigest()
