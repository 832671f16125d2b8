"""Proposals over HTTP: asked for, taken, refused, remembered, and read in the background."""

import numpy as np
from flask.testing import FlaskClient

from sequor.store.models import StoredProposal
from sequor.web.context import Context
from tests.pictures.test_reading_files import as_png
from tests.propose.scenes import scene, sea
from tests.waiting import until
from tests.web.conftest import keep, send


def added(client: FlaskClient, set_id: int, name: str, pixels: np.ndarray) -> dict:
    picture = send(client, set_id, name, as_png(pixels)).json["picture"]
    return client.get(f"/api/pictures/{picture['id']}").json


def ask(client: FlaskClient, state: dict, want: str = "any", **more: object):
    body = {"based_on": state["entry_id"], "want": want, **more}
    return client.post(f"/api/pictures/{state['id']}/proposal", json=body)


def read_cards(client: FlaskClient, set_id: int, but: int = 0) -> list[dict]:
    """The cards of a set when all pictures, but for some, have been read."""

    def read() -> list[dict] | None:
        cards = client.get(f"/api/sets/{set_id}").json["pictures"]
        return cards if [card["told"] for card in cards].count("unread") <= but else None

    return until(read)


def test_a_front_is_proposed_refused_line_by_line_and_taken(
    browserless: FlaskClient, set_id: int
) -> None:
    made = scene(2)
    state = added(browserless, set_id, "front.png", made.pixels)
    keep_focal = {"do": "set_focal", "focal35_mm": made.focal35_mm}
    state = keep(browserless, state, keep_focal).json
    first = ask(browserless, state, "square").json
    assert first["proposal"]["sure"]
    assert len(first["words"]["readings"]) == len(first["proposal"]["readings"])
    refused = first["proposal"]["readings"][0]["reading"]
    rubbed = {"do": "rub_out", "points": refused["points"]}
    state = keep(browserless, state, rubbed).json
    assert state["what"] == "proposed line rubbed out"
    again = ask(browserless, state, "square").json
    assert refused["id"] not in [r["reading"]["id"] for r in again["proposal"]["readings"]]
    taken = keep(browserless, state, again["take"]).json
    assert abs(taken["solution"]["stance"]["roll"]["applied_deg"] - made.stance[0]) < 0.1
    assert "readings inked" in taken["what"]
    back = browserless.post(
        f"/api/pictures/{state['id']}/undo", json={"based_on": taken["entry_id"]}
    ).json
    assert back["recipe"]["readings"] == []
    assert back["recipe"]["rubbed_out"] == [refused["points"]]


def test_what_was_read_is_remembered(browserless: FlaskClient, set_id: int) -> None:
    state = added(browserless, set_id, "sea.png", sea(0).pixels)
    first = ask(browserless, state)
    context: Context = browserless.application.extensions["sequor"]
    with context.resources.database.reading() as session:
        kept = session.query(StoredProposal).one()
        assert kept.want == "any"
    # Nothing can be read off the picture any more.
    sha256 = state["addresses"]["original"].rsplit("/", 1)[-1]
    context.resources.files.original(sha256).unlink()
    assert ask(browserless, state).json == first.json


def test_pictures_are_read_in_the_background_and_their_cards_say_so(
    browserless: FlaskClient, set_id: int
) -> None:
    made = sea(0)
    added(browserless, set_id, "sea.png", made.pixels)
    added(browserless, set_id, "blank.png", np.full((300, 400, 3), 90, np.uint8))
    context: Context = browserless.application.extensions["sequor"]

    context.reader.start()
    try:
        tilted, blank = read_cards(browserless, set_id)
        assert tilted["told"] == "sure"
        size = f"{abs(made.stance[0]):.1f}°"
        way = "anticlockwise" if made.stance[0] > 0 else "clockwise"
        assert tilted["told_words"] == f"about {size} {way} off, sure to 0.1°"
        assert (blank["told"], blank["told_words"]) == ("unsure", "cannot tell")
        # One that comes in later is read without being asked for.
        added(browserless, set_id, "another.png", sea(5).pixels)
        assert read_cards(browserless, set_id)[2]["told"] == "sure"
    finally:
        context.reader.stop()


def test_a_picture_whose_original_goes_while_it_waits_stops_nothing(
    browserless: FlaskClient, set_id: int
) -> None:
    lost = added(browserless, set_id, "lost.png", sea(5).pixels)
    context: Context = browserless.application.extensions["sequor"]
    sha256 = lost["addresses"]["original"].rsplit("/", 1)[-1]
    added(browserless, set_id, "sea.png", sea(0).pixels)
    context.resources.files.original(sha256).unlink()
    context.reader.start()
    try:
        assert read_cards(browserless, set_id, but=1)[1]["told"] == "sure"
    finally:
        context.reader.stop()
    refused = ask(browserless, lost)
    assert refused.status_code == 422
    assert "gone from the data folder" in refused.json["problem"]


def test_bad_requests(browserless: FlaskClient, picture: dict) -> None:
    assert ask(browserless, picture, "upside_down").status_code == 422
    assert ask(browserless, picture | {"entry_id": 10**9}).status_code == 404
    empty = {"do": "ink_readings", "readings": []}
    assert keep(browserless, picture, empty).status_code == 422
    beside = {
        "do": "ink_readings",
        "readings": [{"id": "x", "kind": "level", "points": [[0, 0], [99999, 0]]}],
    }
    assert keep(browserless, picture, beside).status_code == 422
