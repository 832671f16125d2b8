"""A fuzz of the whole interface from its own OpenAPI document: no answer of 500, whatever comes,
and every answer of a status and a shape that the document names.

A longer one is in tests/bench.
"""

import re
import time
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from itertools import islice
from typing import Any

import schemathesis
from flask.testing import FlaskClient
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error
from werkzeug.exceptions import HTTPException

from tests.web.conftest import keep, level_line
from tests.web.hostile import others, people, requests, sharing

_FILLED_IN = re.compile(r"(?<=[/-])(\d+|t{43})(?=[/.]|$)")
COOKIE = "Fuzz-Cookie"
"""The header that the application gets as the cookie."""
EXAMPLES = 12
"""Of every kind of request; drawn anew in every run but in CI."""


def test_whatever_the_document_allows_or_forbids(browserless: FlaskClient, picture: dict) -> None:
    fuzz(browserless, picture, EXAMPLES)


def test_good_requests_with_something_spoilt(browserless: FlaskClient, picture: dict) -> None:
    answers, _ = spoil(browserless, picture, 800, seed=1)
    assert answers[200] > 50  # some are still good, and go all the way
    assert answers[422] > 150


def test_every_address_is_among_what_is_spoilt(browserless: FlaskClient) -> None:
    document = browserless.get("/api/openapi.json").json
    wanted = {
        (method.upper(), path)
        for path, methods in document["paths"].items()
        for method in methods
        if "/images/" not in path
    }
    there = dict.fromkeys(
        ("set", "picture", "entry", "export", "act", "size", "preset", "weighting"), 7
    )
    good = [*others(there), *sharing(there), *people(there)]
    spoilt = {(method, path) for method, path, _ in good}
    state = {"id": 7, "entry_id": 7, "recipe": {"readings": [{"id": "a"}]}}
    state["addresses"] = {"corrected": "/x", "original": "/x"}
    sent = {(one.method, one.path.split("?")[0]) for one in islice(requests(state, 1), 3000)}
    sent |= {(method, path.split("?")[0]) for method, path in spoilt}
    # Numbers and links are others here and there.
    sent = {(method, _FILLED_IN.sub("{}", path)) for method, path in sent}
    left = [
        (method, path)
        for method, path in wanted
        if (method, re.sub(r"\{\w+\}", "{}", path)) not in sent
    ]
    assert left == []


def there_of(client: FlaskClient, state: dict) -> dict[str, Any]:
    """Things that may be moved, thrown away and deleted, apart from the picture on the bench."""
    made = client.post("/api/sets", json={"name": f"Apart {time.monotonic_ns()}"}).json["id"]
    client.post("/api/pictures/copy", json={"picture_ids": [state["id"]], "set_id": made})
    (card,) = client.get(f"/api/sets/{made}").json["pictures"][:1]
    export = client.post(f"/api/pictures/{card['id']}/exports", json={"format": "png"}).json
    size = {"name": "small", "width": 6, "height": 4, "unit": "in", "ppi": 30}
    presets = client.post("/api/presets", json={"name": "p", "options": {}}).json["presets"]
    weighted = client.post("/api/weightings", json={"name": "w", "weights": {}}).json
    return {
        "set": made,
        "picture": card["id"],
        "entry": card["entry_id"],
        "export": export["id"],
        "act": 1,
        "size": client.post("/api/print-sizes", json=size).json["id"],
        "preset": presets[0]["id"],
        "weighting": weighted["weightings"][0]["id"],
    }


def spoil(
    client: FlaskClient, picture: dict, count: int, seed: int
) -> tuple[Counter[int], Counter[tuple[str, str]]]:
    """Send so many spoilt requests; gives the number of answers of each status, and of requests to
    each address.
    """
    # The picture that is spoilt at is none of the small numbers that are sent.
    sets = [
        client.post("/api/sets", json={"name": f"Bench {n} {seed}"}).json["id"] for n in range(3)
    ]
    for one in sets:
        copy = {"picture_ids": [picture["id"]], "set_id": one}
        client.post("/api/pictures/copy", json=copy)
    (card,) = client.get(f"/api/sets/{sets[-1]}").json["pictures"]
    state = client.get(f"/api/pictures/{card['id']}").json
    state = keep(client, state, level_line()).json
    answers: Counter[int] = Counter()
    sent: Counter[tuple[str, str]] = Counter()
    adapter = client.application.url_map.bind("127.0.0.1")
    there: dict[str, Any] = {}
    for number in range(count):
        if number % 100 == 0:  # what was deleted is there again
            there.clear()
            there.update(there_of(client, state))
            stream = requests(state, seed + number, there)
        request = next(stream)
        kind = request.kind if request.body is not None else None
        answer = client.open(
            request.path, method=request.method, data=request.body, content_type=kind
        )
        answers[answer.status_code] += 1
        with suppress(HTTPException):
            sent[request.method, adapter.match(request.path.split("?")[0], request.method)[0]] += 1
        assert answer.status_code < 500, (request, answer.json)
        if answer.status_code >= 400:
            assert answer.json["problem"], request
        if answer.status_code == 201 and request.path.endswith(f"/{state['id']}/ledger"):
            back = {"based_on": answer.json["entry_id"]}
            undone = client.post(f"/api/pictures/{state['id']}/undo", json=back).json
            state["entry_id"] = undone["entry_id"]  # go on from the same recipe
    return answers, sent


def known_headers(client: FlaskClient) -> dict[str, str]:
    """The headers by which a client is known."""
    base = client.environ_base
    return {"Host": base["HTTP_HOST"], "Authorization": base["HTTP_AUTHORIZATION"]}


def fuzz(client: FlaskClient, picture: dict, examples: int) -> int:
    """Send so many requests of every kind, some about what is there; gives their number."""
    state = keep(client, picture, level_line()).json
    return drawn(client, known_headers(client), names_of(state), examples, answered)


def names_of(state: dict) -> dict[str, Any]:
    """What requests about a picture are filled in with, by the names of their fields."""
    _, _, _, program, sha256, recipe_hash = state["addresses"]["corrected"].split("/")
    return {
        "picture_id": state["id"],
        "set_id": state["set_id"],
        "program": program,
        "original": sha256,
        "recipe_hash": recipe_hash,
        "place": "top-left",
        "entry_id": state["entry_id"],
        "based_on": state["entry_id"],
        "entry": state["entry_id"],
    }


def answered(case: Any, response: Any) -> None:
    """It has a status and a shape that the document names, which is never 500."""
    case.validate_response(response, checks=(not_a_server_error,))


def asked_from_here(client: FlaskClient) -> Callable[[dict[str, Any], Any], Any]:
    """The application, asked by this machine: nobody else is known by the key."""
    app = client.application

    def ask(environ: dict[str, Any], start: Any) -> Any:
        # The client of the library takes a cookie that is a header for none.
        cookie = environ.get(f"HTTP_{COOKIE.upper().replace('-', '_')}", "")
        return app({**environ, "REMOTE_ADDR": "127.0.0.1", "HTTP_COOKIE": cookie}, start)

    return ask


def drawn(
    client: FlaskClient,
    headers: dict[str, str],
    there: dict[str, Any],
    examples: int,
    check: Callable[[Any, Any], None],
    but: frozenset[str] = frozenset(),
) -> int:
    """Send so many requests of every kind that the document allows.

    Parameters
    ----------
    headers : dict
        By which who sends them is known.
    there : dict
        What three of four are filled in with, by the names of fields.
    check : callable
        Gets each request and its answer.
    but : set of str
        Paths that are left out.
    """
    schema = schemathesis.openapi.from_wsgi(
        "/api/openapi.json", asked_from_here(client), headers=known_headers(client)
    )
    sent = 0

    @settings(
        max_examples=examples,
        deadline=None,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(data=st.data(), known=st.sampled_from([True, True, True, False]))
    def one(operation: Any, data: st.DataObject, known: bool) -> None:
        nonlocal sent
        case = data.draw(operation.as_strategy())
        if known:
            for part in (case.path_parameters, case.query, case.body):
                if isinstance(part, dict):
                    part.update({name: there[name] for name in part if name in there})
        case.headers = {**(case.headers or {}), **headers}
        response = case.call()
        sent += 1
        check(case, response)

    for found in schema.get_all_operations():
        if found.ok().path not in but:
            one(found.ok())
    return sent
