"""Two people at one picture: each hears what the other does, and nothing of either is lost."""

import json
import threading

import pytest
from flask.testing import FlaskClient

from sequor.services.events import Hub, Subject
from tests.conftest import horizon_picture
from tests.pictures.test_reading_files import as_png
from tests.web.conftest import keep, level_line, send, turn
from tests.web.people import account, cheap_hashes, signed_in


@pytest.fixture(autouse=True)
def _cheap(monkeypatch: pytest.MonkeyPatch) -> None:
    cheap_hashes(monkeypatch)


@pytest.fixture
def two(browserless: FlaskClient) -> tuple[FlaskClient, FlaskClient, dict]:
    """An owner, a member who may work on her set, and a picture as both have it."""
    ida, ole = account(browserless, "Ida", "owner"), account(browserless, "Ole", "member")
    made = ida.post("/api/sets", json={"name": "Quay"}).json["id"]
    number = ole.get("/api/me").json["person"]["id"]
    ida.put(f"/api/sets/{made}/shares/{number}", json={"right": "work"})
    added = send(ida, made, "a.png", as_png(horizon_picture(1.33))).json["picture"]
    return ida, ole, ida.get(f"/api/pictures/{added['id']}").json


def trim(state: dict, axis: str) -> float:
    return state["recipe"]["trim"][f"{axis}_deg"]


def test_what_is_apart_is_kept_together(two: tuple) -> None:
    ida, ole, state = two
    assert keep(ida, state, turn(1, "roll")).status_code == 201
    both = keep(ole, state, turn(2, "lean"))  # from what holds no more
    assert both.status_code == 201
    assert (trim(both.json, "roll"), trim(both.json, "lean")) == (1, 2)
    assert "Ida" in both.json["beside"]
    history = ida.get(f"/api/pictures/{state['id']}/history").json["entries"]
    assert [one["author"] for one in history] == ["Ida", "Ida", "Ole"]
    versions = ida.get(f"/api/pictures/{state['id']}/versions").json["versions"]
    assert len(versions) == 1


def test_what_touches_the_same_is_kept_as_a_version(two: tuple) -> None:
    ida, ole, state = two
    keep(ida, state, turn(1, "roll"))
    answer = keep(ole, state, turn(3, "roll")).json
    assert trim(answer, "roll") == 1  # hers holds
    assert "Ole" in answer["beside"]
    versions = ida.get(f"/api/pictures/{state['id']}/versions").json["versions"]
    assert [one["name"] for one in versions][1:] == ["Ole"]
    his = ida.get(f"/api/pictures/{versions[1]['id']}").json
    assert trim(his, "roll") == 3


def test_two_windows_of_one_person_are_as_before(two: tuple) -> None:
    ida, _, state = two
    keep(ida, state, turn(1, "roll"))
    assert keep(signed_in(ida, "Ida"), state, turn(2, "lean")).status_code == 409


def test_many_changes_of_both_at_once_are_all_there(two: tuple) -> None:
    """Each draws readings from whatever it saw last, at the same time as the other."""
    ida, ole, state = two
    drawn: list[str] = []

    def draw(client: FlaskClient, name: str) -> None:
        seen = state
        for number in range(5):
            reading = f"{name}{number}"
            answer = keep(client, seen, level_line(id=reading, tilt_deg=1.0 + number / 50))
            assert answer.status_code == 201, answer.json
            drawn.append(reading)
            seen = answer.json

    hers = threading.Thread(target=draw, args=(ida, "ida"))
    hers.start()
    draw(ole, "ole")
    hers.join()
    versions = ida.get(f"/api/pictures/{state['id']}/versions").json["versions"]
    held = {
        reading["id"]
        for one in versions
        for reading in ida.get(f"/api/pictures/{one['id']}").json["recipe"]["readings"]
    }
    assert held == set(drawn)
    assert len(drawn) == 10


def news_of(client: FlaskClient, number: int, window: str, of: str = "picture"):
    """News as they come: pairs of what and who."""
    answer = client.get(f"/api/events?{of}_id={number}&window={window}", buffered=False)
    assert answer.mimetype == "text/event-stream"
    for chunk in answer.response:
        lines = (chunk.decode() if isinstance(chunk, bytes) else chunk).splitlines()
        if lines[0].startswith("event: "):
            yield lines[0].removeprefix("event: "), json.loads(lines[1].removeprefix("data: "))


def test_each_hears_of_the_other(two: tuple) -> None:
    ida, ole, state = two
    news = news_of(ida, state["id"], "w1")
    assert next(news) == ("present", [])
    his = news_of(ole, state["id"], "w2")
    assert next(his) == ("present", ["Ida"])
    assert next(news) == ("present", ["Ole"])
    ole.post(
        f"/api/pictures/{state['id']}/ledger",
        json={"based_on": state["entry_id"], "edits": [turn(1)]},
        headers={"X-Window": "w2"},
    )
    assert next(news) == ("changed", ["Ole"])
    his.close()
    assert next(news) == ("present", [])
    news.close()


def test_a_contact_sheet_hears_of_its_pictures_and_exports_are_none(two: tuple) -> None:
    """Numbers of exports that are cleared are not taken for those of pictures."""
    ida, ole, state = two
    news = news_of(ole, state["set_id"], "w2", of="set")
    assert next(news) == ("present", [])
    ida.post("/api/exports/clear", json={"ids": [state["id"]], "older_days": None})
    binned = ida.post("/api/pictures/bin", json={"picture_ids": [state["id"]]})
    assert binned.status_code == 200
    assert next(news) == ("changed", ["Ida"])
    waiting = ole.application.extensions["sequor"].hub._listeners[0].waiting
    assert waiting.empty()
    news.close()


def test_nobody_hears_of_what_is_not_shared(two: tuple, browserless: FlaskClient) -> None:
    ida, ole, state = two
    una = account(browserless, "Una", "member")
    assert una.get(f"/api/events?picture_id={state['id']}").status_code == 404
    news = news_of(ole, state["id"], "w2")
    assert next(news) == ("present", [])
    number = ole.get("/api/me").json["person"]["id"]
    ida.delete(f"/api/sets/{state['set_id']}/shares/{number}")
    keep(ida, state, turn(1))
    assert list(news) == []  # it ends


def test_who_takes_no_news_is_ended_and_who_comes_last_has_no_place() -> None:
    hub, about = Hub(), Subject("picture", 1)
    slow = hub.listen(about, "Ole", "w")
    for _ in range(300):
        hub.tell_of_change([about], "Ida", "v")
    rest = [slow.waiting.get_nowait() for _ in range(slow.waiting.qsize())]
    assert None in rest
    assert len(rest) <= 100
    many = [hub.listen(Subject("picture", n), "Ole", "w") for n in range(60)]
    assert sum(one is not None for one in many) == 39
    hub.stop()
    assert hub.listen(about, "Ole", "w") is None
