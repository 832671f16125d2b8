"""JSON answers from pydantic values, and errors as one kind of body."""

import logging
from collections.abc import Callable, Mapping
from typing import Any

from flask import Flask, Response, current_app, g
from pydantic import BaseModel, ValidationError
from werkzeug.exceptions import HTTPException, RequestEntityTooLarge, SecurityError

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.language import tr
from sequor.pictures.decode import Damaged
from sequor.pictures.inspect import SeveralPages
from sequor.services.people import NotLetIn
from sequor.services.rights import Forbidden
from sequor.services.servers import ServersAway
from sequor.services.working import Stopping, TooBusy, WorkersAway
from sequor.store.failures import DatabaseAway, DiskFull, Refused, Stale
from sequor.web.common_bodies import Problem

log = logging.getLogger(__name__)


def answer(body: BaseModel, status: int = 200) -> Response:
    """A JSON response."""
    response = current_app.response_class(
        body.model_dump_json(), status, mimetype="application/json"
    )
    response.headers["Cache-Control"] = "no-store"
    return response


def problem(message: str, status: int) -> Response:
    """An error response: a sentence for a person and the request's id."""
    return answer(Problem(problem=message, request_id=g.get("request_id", "")), status)


def _later(response: Response) -> Response:
    response.headers["Retry-After"] = "1"
    return response


def validation_problem(error: ValidationError) -> Response:
    """What is wrong with a request body, in the words of the first thing found."""
    first = error.errors()[0]
    message = str(first["msg"]).removeprefix("Value error, ")
    place = ".".join(str(part) for part in first["loc"])
    return problem(
        tr(
            "The request cannot be used: {value}: {message}. Nothing was changed.",
            value=place or "body",
            message=message,
        ),
        422,
    )


def database_problem(error: Refused) -> Response:
    """What is said when the database refuses something that was not foreseen."""
    log.error("database", exc_info=error)
    return problem(
        tr("The database refused this; nothing was changed. The log has the details."), 500
    )


def _damaged(error: Damaged) -> Response:
    said = Problem(problem=str(error), request_id=g.get("request_id", ""), as_damaged=True)
    return answer(said, 422)


def _several_pages(error: SeveralPages) -> Response:
    said = Problem(problem=str(error), request_id=g.get("request_id", ""), pages=error.pages)
    return answer(said, 422)


def _too_large(_: RequestEntityTooLarge) -> Response:
    limit = (current_app.config["MAX_CONTENT_LENGTH"] or 0) // 2**20
    return problem(
        tr(
            "The file is larger than the {limit} MB that may be sent; nothing was stored.",
            limit=limit,
        ),
        413,
    )


def _database_away(error: DatabaseAway) -> Response:
    log.error("%s", error)
    return _later(problem(str(error), 503))


def _unexpected(_: Exception) -> Response:
    log.exception("unexpected error")
    return problem(
        tr(
            "Something went wrong in the server; what was stored before is kept. The "
            "log has the details."
        ),
        500,
    )


def _http_problem(error: HTTPException) -> Response:
    said = {
        404: tr("There is nothing at this address."),
        405: tr("This cannot be done at this address."),
        429: tr("There were too many tries; wait a few minutes."),
    }
    code = error.code or 500
    return problem(said.get(code) or error.description or error.name, code)


_ANSWERS: Mapping[type[Exception], Callable[[Any], Response]] = {
    Damaged: _damaged,
    SeveralPages: _several_pages,
    UnusableInput: lambda error: problem(str(error), 422),
    Stale: lambda error: problem(str(error), 409),
    Forbidden: lambda error: problem(str(error), 403),
    NotLetIn: lambda error: problem(str(error), 401),
    NotFound: lambda error: problem(str(error.args[0]), 404),
    RequestEntityTooLarge: _too_large,
    SecurityError: lambda _: problem(
        tr("Sequor does not answer to this name; SEQUOR_HOSTS says to which it does."), 403
    ),
    HTTPException: _http_problem,
    DatabaseAway: _database_away,
    TooBusy: lambda error: _later(problem(str(error), 503)),
    WorkersAway: lambda error: _later(problem(str(error), 503)),
    ServersAway: lambda error: _later(problem(str(error), 503)),
    Stopping: lambda error: _later(problem(str(error), 503)),
    DiskFull: lambda error: problem(str(error), 507),
    Refused: database_problem,
    Exception: _unexpected,
}


def register(app: Flask) -> None:
    """Turn every error into a `Problem`."""
    for kind, answered in _ANSWERS.items():
        app.register_error_handler(kind, answered)
