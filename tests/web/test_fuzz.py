"""A fuzz of the whole interface from its own OpenAPI document: no answer of 500, whatever comes,
and every answer of a status and a shape that the document names.

A longer one is in tests/bench.
"""

from collections import Counter
from itertools import islice
from typing import Any

import schemathesis
from flask.testing import FlaskClient
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error

from tests.web.conftest import keep, level_line
from tests.web.hostile import requests

EXAMPLES = 12
"""Of every kind of request; drawn anew in every run but in CI."""


def test_whatever_the_document_allows_or_forbids(browserless: FlaskClient, picture: dict) -> None:
    fuzz(browserless, picture, EXAMPLES)


def test_good_requests_with_something_spoilt(browserless: FlaskClient, picture: dict) -> None:
    answers = spoil(browserless, picture, 800, seed=1)
    assert answers[200] > 50  # some are still good, and go all the way
    assert answers[422] > 200


def spoil(client: FlaskClient, picture: dict, count: int, seed: int) -> Counter[int]:
    """Send so many spoilt requests; gives the number of answers of each status."""
    state = keep(client, picture, level_line()).json
    answers: Counter[int] = Counter()
    for request in islice(requests(state, seed), count):
        kind = request.kind if request.body is not None else None
        answer = client.open(
            request.path, method=request.method, data=request.body, content_type=kind
        )
        answers[answer.status_code] += 1
        assert answer.status_code < 500, (request, answer.json)
        if answer.status_code >= 400:
            assert answer.json["problem"], request
        if answer.status_code == 201 and request.path.endswith("/ledger"):
            back = {"based_on": answer.json["entry_id"]}
            undone = client.post(f"/api/pictures/{state['id']}/undo", json=back).json
            state["entry_id"] = undone["entry_id"]  # go on from the same recipe
    return answers


def fuzz(client: FlaskClient, picture: dict, examples: int) -> int:
    """Send so many requests of every kind, some about what is there; gives their number."""
    state = keep(client, picture, level_line()).json
    _, _, _, program, sha256, recipe_hash = state["addresses"]["corrected"].split("/")
    there: dict[str, Any] = {
        "picture_id": picture["id"],
        "set_id": picture["set_id"],
        "program": program,
        "sha256": sha256,
        "recipe_hash": recipe_hash,
        "place": "top-left",
        "entry_id": state["entry_id"],
        "based_on": state["entry_id"],
        "entry": state["entry_id"],
    }
    schema = schemathesis.openapi.from_wsgi(
        "/api/openapi.json", client.application, headers={"Host": "127.0.0.1:8700"}
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
        case.headers = {**(case.headers or {}), "Host": "127.0.0.1:8700"}
        response = case.call()
        sent += 1
        case.validate_response(response, checks=(not_a_server_error,))

    for found in schema.get_all_operations():
        one(found.ok())
    return sent
