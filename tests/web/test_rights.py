"""Every address and every role: nothing of another's is ever answered, nor changed."""

import json
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy import text

from sequor.web import rights, who
from sequor.web.accounts import deed_names
from tests.conftest import horizon_picture
from tests.pictures.test_reading_files import as_png
from tests.waiting import until
from tests.web.conftest import finished, keep, level_line, send, turn
from tests.web.hostile import others, sharing
from tests.web.people import account, cheap_hashes, cookie_of, resources_of, stranger
from tests.web.test_fuzz import COOKIE, answered, drawn, names_of
from tests.web.test_queries import statements_of

SECRET = "blackwater"
"""Stands in every name that belongs to the one and is not to be seen by the others."""


@pytest.fixture(autouse=True)
def _cheap(monkeypatch: pytest.MonkeyPatch) -> None:
    cheap_hashes(monkeypatch)


@pytest.fixture
def ole(browserless: FlaskClient) -> FlaskClient:
    """A member with a set of his own."""
    account(browserless, "Ida", "owner")
    return account(browserless, "Ole", "member")


@pytest.fixture
def there(ole: FlaskClient) -> dict:
    """What is there of Ole's: a set with a picture that was worked on and exported."""
    made = ole.post("/api/sets", json={"name": f"{SECRET} set"}).json["id"]
    content = as_png(horizon_picture(1.33))
    added = send(ole, made, f"{SECRET}.png", content).json["picture"]
    state = ole.get(f"/api/pictures/{added['id']}").json
    state = keep(ole, state, level_line()).json
    export = ole.post(f"/api/pictures/{added['id']}/exports", json={"format": "png"}).json
    assert finished(ole, export)["state"] == "done"
    said = {"x": 0.5, "y": 0.5, "words": f"{SECRET} words"}
    comments = ole.post(f"/api/pictures/{added['id']}/comments", json=said).json["comments"]
    return {
        "set": made,
        "picture": added["id"],
        "entry": state["entry_id"],
        "export": export["id"],
        "act": 1,
        "size": 10_000,
        "preset": 10_000,
        "weighting": 10_000,
        "comment": comments[0]["id"],
        "state": state,
    }


def all_requests(there: dict) -> Iterator[tuple[str, str, dict | None]]:
    """A good request for every address that is about something of Ole's."""
    picture, state = f"/api/pictures/{there['picture']}", there["state"]
    yield from others(there)
    yield "DELETE", f"/api/comments/{there['comment']}", None
    yield "POST", "/api/sets", {"name": "Another"}
    edits = {"based_on": there["entry"], "edits": [{"do": "turn_by", "axis": "roll", "deg": 1}]}
    yield "POST", f"{picture}/draft", edits
    yield "POST", f"{picture}/ledger", edits
    yield "POST", f"{picture}/undo", {"based_on": there["entry"]}
    yield "POST", f"{picture}/guide", {**edits, "direction": "level", "ends": [[0, 9], [700, 9]]}
    yield "GET", f"{picture}/lenses?text=50", None
    yield "GET", f"{picture}/fill?entry={there['entry']}", None
    yield "GET", f"{picture}/corners?entry={there['entry']}", None
    yield "POST", f"{picture}/output", {"entry_id": there["entry"], "size": {"kind": "full"}}
    yield "POST", f"{picture}/exports", {"format": "png", "entry_id": there["entry"]}
    original, corrected = state["addresses"]["original"], state["addresses"]["corrected"]
    yield "GET", f"{original}/proxy.jpg", None
    yield "GET", f"{original}/tiles/0/0.png", None
    lens = "c1=0&c2=0&c3=0&c4=0&x=0&y=0&width=900&height=600"
    yield "GET", f"{original}/undistorted.jpg?{lens}", None
    yield "GET", f"{corrected}/thumbnail.jpg", None
    yield "GET", f"{corrected}/view.jpg?x=0&y=0&width=100&height=100&scale=1", None
    yield "GET", f"{corrected}/filled.jpg", None
    yield "GET", f"{corrected}/pieces/top.png", None
    yield from sharing(there)


def stored(client: FlaskClient, set_id: int) -> str:
    """Everything in the tables that belongs to a set."""
    pictures = f"SELECT id FROM pictures WHERE set_id = {set_id}"
    which = {
        "picture_sets": f"id = {set_id}",
        **dict.fromkeys(("pictures", "shares", "client_links"), f"set_id = {set_id}"),
        **dict.fromkeys(("ledger_entries", "exports", "comments"), f"picture_id IN ({pictures})"),
    }
    with resources_of(client).database._engine.connect() as connection:
        rows = {
            name: [
                list(row) for row in connection.execute(text(f"SELECT * FROM {name} WHERE {of}"))
            ]
            for name, of in which.items()
        }
    return json.dumps(rows, default=str)


def ask(client: FlaskClient, method: str, path: str, body: dict | None):
    if path.endswith("/pictures") and method == "POST":
        return send(client, int(path.split("/")[3]), "own.png", as_png(horizon_picture(2)))
    return client.open(path, method=method, json=body)


def test_every_address_is_in_the_table(browserless: FlaskClient) -> None:
    endpoints = {rule.endpoint for rule in browserless.application.url_map.iter_rules()}
    asked = set(rights.NEEDS) | set(who.OPEN_TO_ALL)
    assert endpoints == asked
    assert not set(rights.NEEDS) & set(who.OPEN_TO_ALL)


def test_whatever_changes_anything_is_in_the_log_of_deeds(browserless: FlaskClient) -> None:
    quiet = {  # what asks with a body and changes nothing, or notes itself what it does
        *("bench.draft_edits", "bench.hold_guide", "bench.read_picture", "frames.size_output"),
        *("carrying.look_at_carry", "frames.find_least_harm", "exports.name_exports"),
    }
    changing = {
        rule.endpoint
        for rule in browserless.application.url_map.iter_rules()
        if rule.methods & {"POST", "PUT", "PATCH", "DELETE"}
    }
    unnamed = {one for one in changing & set(rights.NEEDS) if not rights.NEEDS[one].deed}
    assert unnamed == quiet
    assert {one.deed for one in rights.NEEDS.values() if one.deed} <= deed_names()


def test_all_addresses_are_among_the_requests(browserless: FlaskClient, there: dict) -> None:
    adapter = browserless.application.url_map.bind("127.0.0.1")
    sent = {adapter.match(path.split("?")[0], method)[0] for method, path, _ in all_requests(there)}
    apart = {one for one in rights.NEEDS if one.split(".")[0] in ("accounts", "clients", "openapi")}
    assert set(rights.NEEDS) - apart - {"page"} == sent - {"health.health"}


@pytest.mark.parametrize("role", ["member", "guest", "stranger"])
def test_nothing_of_anothers_is_answered_or_changed(
    browserless: FlaskClient, ole: FlaskClient, there: dict, role: str
) -> None:
    una = stranger(browserless) if role == "stranger" else account(browserless, "Una", role)
    before = stored(browserless, there["set"])
    for method, path, body in all_requests(there):
        answer = ask(una, method, path, body)
        said = f"{method} {path}: {answer.status_code}"
        assert SECRET.encode() not in answer.data, said
        assert answer.status_code < 500, said
        assert not answer.mimetype.startswith("image/"), said
        if role == "stranger":
            assert answer.status_code == (200 if path == "/api/health" else 401), said
    assert stored(browserless, there["set"]) == before


@pytest.mark.parametrize("role", ["member", "guest", "stranger"])
def test_nothing_of_anothers_comes_of_whatever_the_document_allows(
    browserless: FlaskClient, ole: FlaskClient, there: dict, role: str
) -> None:
    """The same with requests drawn from the OpenAPI document itself, with a session and without."""
    headers = {"Host": browserless.environ_base["HTTP_HOST"]}
    if role != "stranger":
        una = account(browserless, "Una", role)
        name = cookie_of(browserless)
        token = una.environ_base[f"HTTP_{who.HEADER.upper().replace('-', '_')}"]
        headers |= {COOKIE: f"{name}={una.get_cookie(name).value}", who.HEADER: token}
    state, listed = there["state"], ("picture_ids", "ids", "targets")
    filled = {
        **names_of(state),
        **{name: [there["picture"]] for name in listed},
        "set_ids": [there["set"]],
        "into_id": there["set"],
        "export_id": there["export"],
        "act_id": there["act"],
        "comment_id": there["comment"],
    }
    before = stored(browserless, there["set"])
    codes: Counter[int] = Counter()

    def check(case: Any, response: Any) -> None:
        answered(case, response)
        assert SECRET.encode() not in response.content, case
        codes[response.status_code] += 1

    # Who signs out, or ends a sign-in that may be this one, is a stranger from then on.
    ending = frozenset({"/api/sign-out", "/api/me/sign-ins/{sign_in_id}"})
    drawn(browserless, headers, filled, 4, check, ending)
    assert stored(browserless, there["set"]) == before
    if role == "stranger":
        assert codes[401] > 300
    else:
        assert codes[401] < 20  # refused tries to sign in
        assert codes[200] > 20
        assert codes[404] + codes[403] > 100


def shared(ole: FlaskClient, una: FlaskClient, there: dict, right: str) -> int:
    """Let her do something with his set; the number of her account."""
    number = una.get("/api/me").json["person"]["id"]
    answer = ole.put(f"/api/sets/{there['set']}/shares/{number}", json={"right": right})
    assert answer.status_code == 200, answer.json
    return number


ALLOWED = {
    "look": {
        *("sets.get_set", "bench.get_picture", "history.get_history", "images.get_thumbnail"),
        *("exports.list_exports", "shares.list_comments", "shares.comment", "images.get_proxy"),
    },
    "work": {
        *("bench.record_edits", "sets.add_picture", "history.name_version", "bench.draft_edits"),
    },
    "export": {"exports.start_export", "archives.archive_set", "exports.download_export"},
    "own": {"sets.change_set", "shares.get_sharing", "shares.make_link", "sets.bin_set"},
}


@pytest.mark.parametrize("right", ["look", "work", "export"])
def test_a_share_lets_do_what_it_says_and_no_more(
    browserless: FlaskClient, ole: FlaskClient, there: dict, right: str
) -> None:
    una = account(browserless, "Una", "member")
    number = shared(ole, una, there, right)
    assert [one["name"] for one in una.get("/api/sets").json["sets"]] == [f"{SECRET} set"]
    adapter = browserless.application.url_map.bind("127.0.0.1")
    levels = list(ALLOWED)
    may = set().union(*(ALLOWED[level] for level in levels[: levels.index(right) + 1]))
    rest = set().union(*ALLOWED.values()) - may
    for wanted, fits in ((rest, lambda code: code == 403), (may, lambda code: code < 400)):
        for method, path, body in all_requests(there):
            endpoint = adapter.match(path.split("?")[0], method)[0]
            if endpoint in wanted:
                answer = ask(una, method, path, body)
                assert fits(answer.status_code), (endpoint, answer.status_code, answer.data[:300])
    binned = una.post("/api/pictures/bin", json={"picture_ids": [there["picture"]]})
    assert binned.status_code == (403 if right == "look" else 200)
    ole.delete(f"/api/sets/{there['set']}/shares/{number}")
    assert una.get(f"/api/sets/{there['set']}").status_code == 404
    assert una.get("/api/sets").json["sets"] == []


def test_what_one_address_of_the_hand_allows_is_none_of_the_other(
    browserless: FlaskClient, ole: FlaskClient, there: dict
) -> None:
    una = account(browserless, "Una", "member")
    shared(ole, una, there, "look")
    picture, body = f"/api/pictures/{there['picture']}", {"based_on": there["entry"], "edits": []}
    ends = {"direction": "level", "ends": [[50, 300], [850, 300]]}

    def answers() -> tuple[int, int]:
        looked = una.post(f"{picture}/guide", json={**body, **ends}).status_code
        return looked, una.post(f"{picture}/draft", json=body).status_code

    assert answers() == (200, 403)


def test_a_turn_in_the_hand_asks_the_database_once(
    browserless: FlaskClient, ole: FlaskClient, there: dict
) -> None:
    """And yet what is taken back holds at once."""
    una = account(browserless, "Una", "member")
    number = shared(ole, una, there, "work")
    share = f"/api/sets/{there['set']}/shares/{number}"
    engine = resources_of(browserless).database._engine
    address = f"/api/pictures/{there['picture']}/draft"

    def body(deg: float) -> dict:
        return {"based_on": there["entry"], "edits": [turn(deg)]}

    # Other work of the server may ask and write meanwhile.
    until(lambda: statements_of(una, engine, address, body(0.5))[0] == 0)
    ole.delete(share)
    assert una.post(address, json=body(4)).status_code == 404
    ole.put(share, json={"right": "look"})
    assert una.post(address, json=body(5)).status_code == 403
    ole.put(share, json={"right": "work"})
    assert una.post(address, json=body(6)).status_code == 200
    # By somebody at the machine itself: a moment later.
    with engine.begin() as connection:
        connection.execute(text("UPDATE sign_ins SET ended_at = NOW()"))
    until(lambda: una.post(address, json=body(7)).status_code == 401)


def test_a_guest_only_looks_whatever_was_shared(
    browserless: FlaskClient, ole: FlaskClient, there: dict
) -> None:
    una = account(browserless, "Una", "guest")
    number = shared(ole, una, there, "look")
    refused = ole.put(f"/api/sets/{there['set']}/shares/{number}", json={"right": "work"})
    assert refused.status_code == 422
    # Somebody who worked on it, and is a guest now.
    with resources_of(browserless).database._engine.begin() as connection:
        connection.execute(text("UPDATE shares SET may = 3"))
    body = {"based_on": there["entry"], "edits": []}
    assert una.post(f"/api/pictures/{there['picture']}/undo", json=body).status_code == 403
    assert una.get(f"/api/pictures/{there['picture']}").status_code == 200
    assert una.post("/api/sets", json={"name": "Own"}).status_code == 403


def test_numbers_written_otherwise_are_the_same_numbers(
    browserless: FlaskClient, ole: FlaskClient, there: dict
) -> None:
    """What a body's model takes for the number of a picture is looked at as one."""
    una = account(browserless, "Una", "member")
    shared(ole, una, there, "work")
    own = una.post("/api/sets", json={"name": "Own"}).json["id"]
    for given in (
        there["picture"],
        float(there["picture"]),
        f"{there['picture']}",
        "0",
        f" {there['picture']}.0",
    ):
        body = {"picture_ids": [given], "set_id": own}
        answer = una.post(f"/api/pictures/move?set_id={own}&picture_ids=0", json=body)
        assert answer.status_code in (403, 404, 422), (given, answer.json)
    assert una.get(f"/api/sets/{own}").json["pictures"] == []
    # In an address nothing counts but the address.
    body = {"picture_id": 1, "set_id": own, "name": "Mine"}
    assert una.patch(f"/api/sets/{there['set']}", json=body).status_code in (403, 422)


def test_two_people_name_their_sets_alike(ole: FlaskClient, browserless: FlaskClient) -> None:
    una = account(browserless, "Una", "member")
    assert ole.post("/api/sets", json={"name": "Quay"}).status_code == 201
    assert una.post("/api/sets", json={"name": "Quay"}).status_code == 201
    assert una.post("/api/sets", json={"name": "Quay"}).status_code == 422


def test_a_set_is_given_to_somebody(
    browserless: FlaskClient, ole: FlaskClient, there: dict
) -> None:
    una = account(browserless, "Una", "member")
    number = una.get("/api/me").json["person"]["id"]
    account(browserless, "Kai", "guest")
    address = f"/api/sets/{there['set']}"
    takers = ole.get(f"{address}/sharing").json["takers"]
    assert [one["name"] for one in takers] == ["Ida", "Una"]  # neither a guest nor himself
    assert ole.put(f"{address}/owner", json={"person_id": number}).status_code == 200
    assert una.patch(address, json={"name": "Mine now"}).status_code == 200
    assert ole.patch(address, json={"name": "Mine"}).status_code == 403
    assert ole.get(address).json["name"] == "Mine now"


@pytest.mark.parametrize("right", ["look", "work", "export"])
def test_a_picture_says_what_may_be_done_with_it(
    browserless: FlaskClient, ole: FlaskClient, there: dict, right: str
) -> None:
    una = account(browserless, "Una", "member")
    shared(ole, una, there, right)
    told = {
        name: client.get(f"/api/pictures/{there['picture']}").json["may"]
        for name, client in (("Una", una), ("Ole", ole), ("Ida", browserless))
    }
    words = ["look", "work", "export", "own"]
    assert told == {"Una": words[: words.index(right) + 1], "Ole": words, "Ida": words}


@pytest.mark.parametrize("was", ["member", "guest", "removed"])
def test_a_set_is_given_on_whatever_became_of_who_had_it(
    browserless: FlaskClient, ole: FlaskClient, there: dict, was: str
) -> None:
    una = account(browserless, "Una", "member")
    number, his = (one.get("/api/me").json["person"]["id"] for one in (una, ole))
    if was == "removed":
        assert browserless.delete(f"/api/people/{his}").status_code == 200
    else:
        browserless.patch(f"/api/people/{his}", json={"role": was})
    given = browserless.put(f"/api/sets/{there['set']}/owner", json={"person_id": number})
    assert given.status_code == 200, given.json
    listed = una.get(f"/api/sets/{there['set']}/sharing").json["shared"]
    left = {"member": ["export"], "guest": ["look"], "removed": []}
    assert [one["right"] for one in listed] == left[was]


def test_the_ledger_names_its_authors(
    browserless: FlaskClient, ole: FlaskClient, there: dict
) -> None:
    una = account(browserless, "Una", "member")
    shared(ole, una, there, "export")
    state = una.get(f"/api/pictures/{there['picture']}").json
    keep(una, state, {"do": "turn_by", "axis": "roll", "deg": 1})
    history = ole.get(f"/api/pictures/{there['picture']}/history").json["entries"]
    assert [one["author"] for one in history] == ["Ole", "Ole", "Una"]
    una.post(f"/api/pictures/{there['picture']}/exports", json={"format": "png"})
    listed = ole.get(f"/api/pictures/{there['picture']}/exports").json["exports"]
    assert [one["author"] for one in listed] == ["Una", "Ole"]


def test_an_act_on_somebody_elses_pictures_is_not_undone(
    browserless: FlaskClient, ole: FlaskClient, there: dict
) -> None:
    """Neither where it entered recipes, nor where it only chose how files are written."""
    other = send(ole, there["set"], f"{SECRET} 2.png", as_png(horizon_picture(2)))
    second = ole.get(f"/api/pictures/{other.json['picture']['id']}").json
    target = {"picture_id": second["id"], "entry_id": second["entry_id"]}
    body = {"based_on": there["entry"], "parts": ["stance"], "files": True, "targets": [target]}
    done = ole.post(f"/api/pictures/{there['picture']}/carry", json=body)
    assert done.status_code in (200, 201), done.json
    una = account(browserless, "Una", "member")
    before = stored(browserless, there["set"])
    with resources_of(browserless).database._engine.begin() as connection:
        acts = connection.execute(text("SELECT id FROM acts")).scalars().all()
    assert acts
    for number in acts:
        assert una.post(f"/api/acts/{number}/undo").status_code == 404
    assert stored(browserless, there["set"]) == before
    with resources_of(browserless).database._engine.begin() as connection:
        connection.execute(text("UPDATE ledger_entries SET act_id = NULL"))
    before = stored(browserless, there["set"])
    for number in acts:
        assert una.post(f"/api/acts/{number}/undo").status_code == 404
    assert stored(browserless, there["set"]) == before


def test_only_who_looks_after_the_machine_sees_its_folders(
    browserless: FlaskClient, ole: FlaskClient, there: dict, tmp_path: Path
) -> None:
    path = tmp_path / "private" / "a.png"
    path.parent.mkdir()
    path.write_bytes(as_png(horizon_picture(2)))
    opened = browserless.post(f"/api/sets/{there['set']}/opened", json={"path": str(path)}).json
    address = f"/api/pictures/{opened['picture']['id']}"
    assert browserless.get(address).json["file"]["opened_from"] == str(path)
    assert ole.get(address).json["file"]["opened_from"] == "a.png"
    refused = ole.post(f"/api/sets/{there['set']}/opened", json={"path": "/etc/hostname"})
    assert refused.status_code == 403
