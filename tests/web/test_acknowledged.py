"""What was acknowledged is kept and what was refused is not: requests that come again, answers that
need nothing more once a change is kept, entries that cannot be read, files that no row names.
"""

import json
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from unittest.mock import MagicMock

import numpy as np
import pytest
from flask.testing import FlaskClient
from sqlalchemy import Engine, event, text

from sequor.core.recipe import Reading, Recipe
from sequor.services.export_desk import ExportDesk
from sequor.services.housekeeping import tidy
from sequor.store import library
from sequor.store.database import Database
from sequor.store.failures import DatabaseAway
from sequor.store.models import ENDED, Export, Picture, now
from sequor.work.dispatcher import Dispatcher
from tests.conftest import horizon_picture
from tests.pictures.test_reading_files import as_png
from tests.waiting import until
from tests.web.conftest import finished, keep, level_line, send, turn
from tests.web.test_curating import carried, post, series, state_of


def resources_of(client: FlaskClient) -> Any:
    return client.application.extensions["sequor"].resources


# Recipes that can be read back


def many(kind: str, count: int) -> list[dict]:
    points = [[10, 10], [400, 12]] if kind == "plumb" else [[10, 10], [200, 11], [400, 12]]
    return [
        {"do": "draw_reading", "id": f"{kind}{n}", "kind": kind, "points": points}
        for n in range(count)
    ]


def test_more_readings_than_a_picture_can_have_are_not_carried(
    browserless: FlaskClient, set_id: int
) -> None:
    origin, target = series(browserless, set_id, 2)
    origin = keep(browserless, origin, *many("plumb", 150)).json
    target = keep(browserless, target, *many("trace", 60)).json
    body = {"based_on": origin["entry_id"], "parts": ["stance"], "picture_ids": [target["id"]]}
    (look,) = post(browserless, f"/pictures/{origin['id']}/carry/look", **body).json["pictures"]
    assert not look["changes"]
    assert "more than 200 readings" in look["misfits"][0]
    assert carried(browserless, origin, ["stance"], [target]).status_code == 422
    assert state_of(browserless, target["id"])["recipe"] == target["recipe"]


def test_no_recipe_is_written_that_is_not_read_back(
    browserless: FlaskClient, picture: dict
) -> None:
    """Whoever makes it: a recipe that its own model refuses never reaches the ledger."""
    readings = tuple(
        Reading(id=str(n), kind="plumb", points=((1, 1), (2, 400))) for n in range(201)
    )
    too_many = Recipe().model_copy(update={"readings": readings})
    with pytest.raises(Exception, match="cannot be kept: readings"):
        library.entry_of(Picture(id=1, original=_original()), too_many, "made by hand")


def _original() -> Any:
    from tests.store.test_ledger import original

    return original("0" * 64)


@pytest.fixture
def unreadable(browserless: FlaskClient, engine: Engine, picture: dict) -> dict:
    """A picture whose newest entry a program of another time wrote; the state before that."""
    before = keep(browserless, picture, turn(1)).json
    after = keep(browserless, before, turn(1)).json
    spoil = "UPDATE ledger_entries SET recipe = JSON_SET(recipe, '$.ease', 'x') WHERE id = :id"
    with engine.begin() as connection:
        connection.execute(text(spoil), {"id": after["entry_id"]})
    resources_of(browserless).caches.forget()
    return before


def test_an_entry_that_cannot_be_read_takes_only_itself(
    browserless: FlaskClient, unreadable: dict
) -> None:
    address = f"/api/pictures/{unreadable['id']}"
    state = browserless.get(address).json
    assert state["recipe"] == unreadable["recipe"]
    assert "cannot be read (ease" in state["unreadable"]
    assert not state["can_redo"]  # what cannot be read is not gone to
    for path in (f"/api/sets/{state['set_id']}", f"{address}/versions", f"{address}/recipe.json"):
        assert browserless.get(path).status_code == 200
    history = browserless.get(f"{address}/history").json
    assert len(history["entries"]) == 3  # nothing was deleted
    bad = history["entries"][-1]["id"]
    assert browserless.get(f"{address}/entries/{bad}").status_code == 422
    # It goes on from there, and back.
    on = keep(browserless, state, turn(0.5))
    assert on.status_code == 201
    assert on.json["recipe"]["trim"]["roll_deg"] == 1.5
    back = post(browserless, f"/pictures/{state['id']}/undo", based_on=on.json["entry_id"])
    assert back.json["recipe"] == unreadable["recipe"]
    assert browserless.get(address).json["unreadable"] == ""
    assert (
        finished(browserless, post(browserless, f"/pictures/{state['id']}/exports").json)["state"]
        == "done"
    )


# Requests that come again


def test_a_request_that_comes_again_gets_its_first_answer(
    browserless: FlaskClient, picture: dict
) -> None:
    address = f"/api/pictures/{picture['id']}/ledger"
    body = {"based_on": picture["entry_id"], "edits": [turn(1)]}
    headers = {"Idempotency-Key": "5a1e-0001"}
    first = browserless.post(address, json=body, headers=headers)
    again = browserless.post(address, json=body, headers=headers)
    assert (first.status_code, again.status_code) == (201, 201)
    assert again.json == first.json
    assert again.headers["Idempotency-Replayed"] == "true"
    assert len(browserless.get(f"/api/pictures/{picture['id']}/history").json["entries"]) == 2
    # Another request cannot have the same key, nor may a key be anything.
    other = browserless.post(address, json={**body, "edits": [turn(2)]}, headers=headers)
    assert other.status_code == 422
    assert browserless.post(address, json=body, headers={"Idempotency-Key": "x"}).status_code == 422
    # What was refused may be asked again.
    headers = {"Idempotency-Key": "5a1e-0002"}
    assert browserless.post(address, json=body, headers=headers).status_code == 409
    body["based_on"] = first.json["entry_id"]
    assert browserless.post(address, json=body, headers=headers).status_code == 201


def test_the_same_request_at_the_same_moment_is_done_once(
    browserless: FlaskClient, set_id: int
) -> None:
    start, answers = threading.Barrier(4), []

    def ask() -> None:
        client = browserless.application.test_client()
        client.environ_base |= browserless.environ_base
        start.wait()
        headers = {"Idempotency-Key": "same-moment"}
        answers.append(client.post("/api/print-sizes", json=SIZE, headers=headers))

    threads = [threading.Thread(target=ask) for _ in range(4)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert [answer.status_code for answer in answers] == [201] * 4
    assert len({answer.json["id"] for answer in answers}) == 1
    assert len(browserless.get("/api/print-sizes").json["sizes"]) == 1


SIZE = {"name": "small", "width": 6, "height": 4, "unit": "in", "ppi": 300}


def test_kept_answers_are_forgotten_after_a_day(browserless: FlaskClient, engine: Engine) -> None:
    browserless.post("/api/print-sizes", json=SIZE, headers={"Idempotency-Key": "forgotten"})
    with engine.connect() as connection:
        count = text("SELECT (SELECT COUNT(*) FROM kept_answers), (SELECT COUNT(*) FROM receipts)")
        kept, receipts = connection.execute(count).one()
        assert (kept, receipts > 0) == (1, True)
        connection.rollback()
        with engine.begin() as other:
            other.execute(text("UPDATE kept_answers SET made_at = '2026-01-01'"))
            other.execute(text("UPDATE receipts SET made_at = '2026-01-01'"))
        resources_of(browserless).database.forget(now())
        assert connection.execute(count).one() == (0, 1)


# Answers once a change is kept


@contextmanager
def away_after_a_commit(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """The database goes as soon as anything was kept."""
    write, reading = Database.write, Database.reading
    gone = threading.Event()

    def keep_and_go(self: Database, *arguments: Any, **named: Any) -> Any:
        result = write(self, *arguments, **named)
        gone.set()
        return result

    def read(self: Database) -> Any:
        if gone.is_set():
            raise DatabaseAway("It is away.")
        return reading(self)

    with monkeypatch.context() as patched:
        patched.setattr(Database, "write", keep_and_go)
        patched.setattr(Database, "reading", read)
        yield


CHANGES = [
    ("/pictures/{id}/ledger", {"based_on": "entry_id", "edits": [turn(1)]}),
    ("/pictures/{id}/return", {"based_on": "entry_id", "entry_id": "entry_id"}),
    ("/pictures/{id}/versions", {"based_on": "entry_id", "name": "", "edits": []}),
    ("/pictures/{id}/exports", {"format": "png"}),
    ("/pictures/bin", {"picture_ids": ["id"]}),
    ("/sets", {"name": "Another"}),
    ("/print-sizes", SIZE),
]


@pytest.mark.parametrize(("address", "body"), CHANGES, ids=lambda v: v if type(v) is str else "")
def test_no_refusal_follows_what_was_kept(
    browserless: FlaskClient,
    picture: dict,
    monkeypatch: pytest.MonkeyPatch,
    address: str,
    body: dict,
) -> None:
    def filled(value: Any) -> Any:
        if isinstance(value, list):
            return [filled(one) for one in value]
        return picture.get(value, value) if isinstance(value, str) else value

    sent = {name: filled(value) for name, value in body.items()}
    with away_after_a_commit(monkeypatch):
        answered = browserless.post(f"/api{address.format(**picture)}", json=sent)
    assert 200 <= answered.status_code < 300, answered.json


def test_what_is_queued_is_made_whoever_forgot_it(
    browserless: FlaskClient, picture: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The word that an export is there is lost; the sweep finds it."""
    desk = browserless.application.extensions["sequor"].exports
    export, later = (unheard(browserless, picture, monkeypatch) for _ in range(2))
    assert (export["state"], desk._jobs) == ("queued", {})
    # It can be called off although no worker knows it.
    assert post(browserless, f"/exports/{later['id']}/cancel").json["state"] == "cancelled"
    assert post(browserless, "/exports/clear", ids=[later["id"]]).json["count"] == 1
    desk.start()
    assert finished(browserless, export)["state"] == "done"


def unheard(client: FlaskClient, picture: dict, monkeypatch: pytest.MonkeyPatch) -> dict:
    """An export of which the word that it is there was lost."""
    with monkeypatch.context() as patched:
        patched.setattr(ExportDesk, "submit", lambda *_: None)
        return post(client, f"/pictures/{picture['id']}/exports").json


def test_an_export_that_never_comes_to_its_end_is_given_up(
    browserless: FlaskClient, engine: Engine, picture: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    export = unheard(browserless, picture, monkeypatch)
    with engine.begin() as connection:
        connection.execute(text("UPDATE exports SET begun = 4"))
    browserless.application.extensions["sequor"].exports.start()
    ended = finished(browserless, export)
    assert ended["state"] == "failed"
    assert "begun 4 times" in ended["problem"]


def test_what_only_waits_may_see_many_starts(
    browserless: FlaskClient, engine: Engine, picture: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A queue that takes days is not what ends the program, however often that ends."""
    desk = browserless.application.extensions["sequor"].exports
    export = unheard(browserless, picture, monkeypatch)
    with monkeypatch.context() as patched:
        patched.setattr(Dispatcher, "submit", lambda engine, task: MagicMock())  # no worker is free
        for _ in range(10):
            killed = ExportDesk(resources_of(browserless))
            killed.start()
            until(lambda desk=killed: desk._jobs)
            killed.stop()
    desk.start()
    assert finished(browserless, export)["state"] == "done"

    def begun() -> int:
        with engine.connect() as connection:
            return connection.scalar(text("SELECT begun FROM exports"))

    until(lambda: begun() == 1)  # and what was begun is counted


def test_what_an_orderly_end_interrupts_is_not_what_ended_the_program(
    browserless: FlaskClient, engine: Engine, picture: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A large export may be interrupted by restarts as often as there are any."""
    export = unheard(browserless, picture, monkeypatch)

    def begun() -> int:
        with engine.connect() as connection:
            return connection.scalar(text("SELECT begun FROM exports"))

    runs = MagicMock(running=True)
    runs.when_begun = lambda tell: tell()
    with monkeypatch.context() as patched:
        patched.setattr(Dispatcher, "submit", lambda engine, task: runs)
        for _ in range(6):
            stopped = ExportDesk(resources_of(browserless))
            stopped.start()
            until(lambda: begun() == 1)
            stopped.stop()
            assert begun() == 0
    browserless.application.extensions["sequor"].exports.start()
    assert finished(browserless, export)["state"] == "done"


def test_an_export_whose_picture_is_gone_ends_quietly(
    browserless: FlaskClient, picture: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Out of the bin while it is made: nothing is left of it."""
    resources = resources_of(browserless)
    started = post(browserless, f"/pictures/{picture['id']}/exports", format="png").json
    post(browserless, "/pictures/bin", picture_ids=[picture["id"]])
    assert post(browserless, "/bin/empty").status_code == 200
    assert browserless.get(f"/api/exports/{started['id']}").status_code == 404
    desk = browserless.application.extensions["sequor"].exports
    until(lambda: not desk._jobs and not resources.engine.load().running)
    assert not list((resources.files.root / "exports").iterdir())


def test_calling_off_races_the_end(browserless: FlaskClient, picture: dict) -> None:
    """Whatever comes first, the answer and the row agree, and a file is there only when done."""
    resources = resources_of(browserless)
    for wait in (0, 0.02, 0.1, 0.2, 0.4):
        export = post(browserless, f"/pictures/{picture['id']}/exports", format="png").json
        time.sleep(wait)
        called = post(browserless, f"/exports/{export['id']}/cancel")
        assert called.status_code == 200
        assert called.json["state"] in ENDED
        desk = browserless.application.extensions["sequor"].exports
        until(lambda desk=desk: not desk._jobs)
        after = browserless.get(f"/api/exports/{export['id']}").json
        assert after["state"] == called.json["state"]
        there = resources.files.export(export["id"], ".png").exists()
        assert there == (after["state"] == "done")


def test_what_is_called_off_before_its_turn_is_not_begun(
    browserless: FlaskClient, picture: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Also where the desk saw it waiting just before."""
    desk = browserless.application.extensions["sequor"].exports
    export = unheard(browserless, picture, monkeypatch)
    waiting = desk._waiting()
    post(browserless, f"/exports/{export['id']}/cancel")
    given = MagicMock()
    monkeypatch.setattr(Dispatcher, "submit", given)
    for number in waiting:
        desk._begin(number)
    assert waiting == [export["id"]]
    assert not given.called


def test_undoing_an_act_leaves_the_choices_of_what_it_leaves(
    browserless: FlaskClient, set_id: int
) -> None:
    origin, edited, untouched, exported = series(browserless, set_id, 4)
    finished(
        browserless, post(browserless, f"/pictures/{origin['id']}/exports", format="webp").json
    )
    origin = keep(browserless, origin, level_line()).json
    act = carried(browserless, origin, ["stance"], [edited, untouched, exported], files=True).json
    edited = keep(browserless, state_of(browserless, edited["id"]), turn(0.3)).json
    for one in (edited, exported):
        address = f"/pictures/{one['id']}/exports"
        finished(browserless, post(browserless, address, format="png").json)
    back = post(browserless, f"/acts/{act['act_id']}/undo").json
    assert (back["count"], len(back["changed"])) == (1, 2)
    formats = [
        (state_of(browserless, one["id"])["file_options"] or {}).get("format")
        for one in (edited, untouched, exported)
    ]
    assert formats == ["png", None, "png"]


# Files that no row names


def test_originals_survive_a_database_of_yesterday(browserless: FlaskClient, set_id: int) -> None:
    """Put back a copy of the database from before three uploads, and start: nothing is deleted."""
    resources = resources_of(browserless)
    contents = [as_png(horizon_picture(tilt)) for tilt in (1, 2, 3)]
    for number, content in enumerate(contents):
        send(browserless, set_id, f"{number}.png", content)

    def yesterday(session: Any) -> None:
        session.execute(text("UPDATE pictures SET head_id = NULL"))
        for table in ("ledger_entries", "proposals", "unsettled", "pictures", "originals"):
            session.execute(text(f"DELETE FROM {table}"))

    resources.database.write(yesterday)
    resources.caches.forget()
    tidy(resources)
    aside = browserless.get("/api/quarantine").json["files"]
    kept = {resources.files.aside_file(one["name"]).read_bytes() for one in aside}
    assert kept == set(contents)
    (line,) = [
        line
        for line in browserless.get("/api/storage").json["lines"]
        if line["name"] == "quarantine"
    ]
    assert (line["files"], line["size"]) == (3, sum(map(len, contents)))
    # A person takes two back, and deletes one.
    names = [one["name"] for one in aside]
    left = post(browserless, "/quarantine/take-back", names=names[:2], set_id=set_id)
    assert [one["name"] for one in left.json["files"]] == names[2:]
    cards = browserless.get(f"/api/sets/{set_id}").json["pictures"]
    assert len(cards) == 2
    assert all(card["name"].startswith("found-") for card in cards)
    assert post(browserless, "/quarantine/delete", names=names[2:]).json["files"] == []
    assert post(browserless, "/quarantine/delete", names=["../../key"]).status_code == 404


def test_a_file_comes_in_while_the_bin_is_emptied(browserless: FlaskClient, set_id: int) -> None:
    content = as_png(horizon_picture(1))
    codes: list[int] = []

    def upload() -> None:
        client = browserless.application.test_client()
        client.environ_base |= browserless.environ_base
        codes.extend(send(client, set_id, "a.png", content).status_code for _ in range(12))

    added = send(browserless, set_id, "a.png", content).json["picture"]
    thread = threading.Thread(target=upload)
    thread.start()
    while thread.is_alive():
        post(browserless, "/pictures/bin", picture_ids=[added["id"]])
        assert post(browserless, "/bin/empty").status_code == 200
        cards = browserless.get(f"/api/sets/{set_id}").json["pictures"]
        added = cards[0] if cards else added
    assert set(codes) <= {200, 201}
    send(browserless, set_id, "a.png", content)
    (card,) = browserless.get(f"/api/sets/{set_id}").json["pictures"]
    assert browserless.get(card["thumbnail"]).status_code == 200


def test_a_picture_that_is_deleted_for_good_is_not_known_any_more(
    browserless: FlaskClient, picture: dict
) -> None:
    """What is remembered of it goes with it: lenses of it were once looked for in its file."""
    address = f"/api/pictures/{picture['id']}"
    body = {"based_on": picture["entry_id"], "edits": [turn(1)]}
    assert browserless.post(f"{address}/draft", json=body).status_code == 200
    assert browserless.get(f"{address}/lenses").status_code == 200
    post(browserless, "/pictures/bin", picture_ids=[picture["id"]])
    post(browserless, "/bin/empty")
    for path in ("lenses", "fill?entry=1", "corners?entry=1"):
        assert browserless.get(f"{address}/{path}").status_code == 404
    assert browserless.post(f"{address}/draft", json=body).status_code == 404


def test_lenses_of_a_lost_original_are_refused_in_words(
    browserless: FlaskClient, picture: dict
) -> None:
    resources = resources_of(browserless)
    resources.files.original(picture["addresses"]["original"].rsplit("/", 1)[1]).unlink()
    answer = browserless.get(f"/api/pictures/{picture['id']}/lenses")
    assert answer.status_code == 422
    assert "add the same file again" in answer.json["problem"]


# Lists


def test_a_list_of_exports_is_one_query_and_only_what_changed(
    browserless: FlaskClient, engine: Engine, picture: dict
) -> None:
    def enter(session: Any) -> None:
        for number in range(300):
            session.add(
                Export(
                    picture_id=picture["id"],
                    entry_id=picture["entry_id"],
                    format="png",
                    quality=90,
                    state="done",
                    file_name=f"{number}.png",
                    created_at="2026-01-01",
                    finished_at="2026-01-01",
                )
            )

    resources_of(browserless).database.write(enter)
    statements: list[str] = []

    def count(*arguments: Any) -> None:
        statements.append(arguments[2])

    event.listen(engine, "before_cursor_execute", count)
    try:
        listed = browserless.get("/api/exports?limit=500")
    finally:
        event.remove(engine, "before_cursor_execute", count)
    assert len(listed.json["exports"]) == 300
    assert len([one for one in statements if "FROM exports" in one]) == 1
    assert len(statements) <= 3  # with what tests a connection
    assert not any("recipe" in one.split("FROM")[0] for one in statements)
    same = browserless.get(
        "/api/exports?limit=500", headers={"If-None-Match": listed.headers["ETag"]}
    )
    assert (same.status_code, same.data) == (304, b"")
    fresh = finished(browserless, post(browserless, f"/pictures/{picture['id']}/exports").json)
    since = fresh["created_at"]
    changed = browserless.get(f"/api/exports?limit=500&since={since}").json["exports"]
    assert [one["id"] for one in changed] == [fresh["id"]]


def test_a_recipe_is_json_of_numbers_only(browserless: FlaskClient, picture: dict) -> None:
    answer = browserless.get(f"/api/pictures/{picture['id']}/recipe.json")
    assert Recipe.model_validate(json.loads(answer.data)) == Recipe()
    assert np.isfinite(picture["solution"]["kept_fraction"])


def test_what_a_stop_cuts_off_is_put_off(
    browserless: FlaskClient, set_id: int, settings: Any
) -> None:
    """An upload that meets the end of the server was not refused: it may come again."""
    from sequor.services.engine import engine_for

    resources = resources_of(browserless)
    stopped = engine_for(settings)
    stopped.stop()
    object.__setattr__(resources, "engine", stopped)
    answer = send(browserless, set_id, "a.png", as_png(horizon_picture(1)))
    assert answer.status_code == 503
    assert "being stopped; nothing was changed" in answer.json["problem"]
    assert answer.headers["Retry-After"] == "1"
