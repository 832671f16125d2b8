"""The HTTP interface: the whole job without a browser, and every kind of bad input."""

import io
import json
import time
from pathlib import Path

import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image

from tests.conftest import horizon_picture, line, measured_tilt_deg
from tests.pictures.test_reading_files import BAD, as_png, jpeg


@pytest.fixture
def set_id(browserless: FlaskClient) -> int:
    return browserless.post("/api/sets", json={"name": "Trial"}).json["id"]


def send(client: FlaskClient, set_id: int, name: str, content: bytes):
    return client.post(f"/api/sets/{set_id}/pictures", data={"file": (io.BytesIO(content), name)})


@pytest.fixture
def picture(browserless: FlaskClient, set_id: int) -> dict:
    added = send(browserless, set_id, "horizon.png", as_png(horizon_picture(1.33))).json["picture"]
    return browserless.get(f"/api/pictures/{added['id']}").json


def level_line(tilt_deg: float = 1.33, width: int = 900, height: int = 600) -> dict:
    rise = np.tan(np.radians(tilt_deg)) * 400
    return line("level", width / 2 - 400, height / 2 - rise, width / 2 + 400, height / 2 + rise).model_dump(mode="json")


def finished(client: FlaskClient, export: dict) -> dict:
    deadline = time.monotonic() + 60
    while export["state"] in ("queued", "running") and time.monotonic() < deadline:
        time.sleep(0.05)
        export = client.get(f"/api/exports/{export['id']}").json
    return export


def enter(client: FlaskClient, state: dict, recipe: dict, what: str = "level reading added"):
    return client.post(
        f"/api/pictures/{state['id']}/ledger", json={"based_on": state["entry_id"], "recipe": recipe, "what": what}
    )


@pytest.mark.parametrize("format", ["jpeg", "png", "tiff"])
def test_the_whole_job(browserless: FlaskClient, picture: dict, format: str) -> None:
    recipe = {**picture["recipe"], "readings": [level_line()]}
    tried = browserless.post(f"/api/pictures/{picture['id']}/solve", json={"recipe": recipe})
    assert tried.json["stance"]["roll"]["applied_deg"] == pytest.approx(-1.33, abs=1e-6)
    entered = enter(browserless, picture, recipe)
    assert entered.status_code == 201
    assert entered.json["solution"] == tried.json
    assert entered.json["can_undo"]
    started = browserless.post(f"/api/pictures/{picture['id']}/exports", json={"format": format})
    assert started.status_code == 202
    export = finished(browserless, started.json)
    assert export["state"] == "done", export
    assert export["empty_pixels"] == 0
    file = browserless.get(f"/api/exports/{export['id']}/file")
    assert "horizon-levelled." in file.headers["Content-Disposition"]
    pixels = np.asarray(Image.open(io.BytesIO(file.data)))
    assert pixels.shape[1::-1] == (export["width"], export["height"])
    assert measured_tilt_deg(pixels) == pytest.approx(0, abs=0.02)
    sheet = browserless.get(f"/api/sets/{picture['set_id']}").json["pictures"]
    assert [(p["state"], p["turn_words"]) for p in sheet] == [("exported", "turned 1.33° anticlockwise")]


def test_undo_redo_and_the_stale_window(browserless: FlaskClient, picture: dict) -> None:
    url = f"/api/pictures/{picture['id']}"
    entered = enter(browserless, picture, {"trim": {"roll_deg": 2}}).json
    late = enter(browserless, picture, {"trim": {"roll_deg": 9}})
    assert late.status_code == 409
    assert "another window" in late.json["problem"]
    undone = browserless.post(f"{url}/undo", json={"based_on": entered["entry_id"]}).json
    assert (undone["entry_id"], undone["can_undo"], undone["can_redo"]) == (picture["entry_id"], False, True)
    redone = browserless.post(f"{url}/redo", json={"based_on": undone["entry_id"]}).json
    assert redone == {**entered, "can_redo": False}
    assert browserless.get(url).json == redone


def test_the_contact_sheet_says_what_was_taken_out(browserless: FlaskClient, picture: dict, set_id: int) -> None:
    enter(browserless, picture, {"trim": {"roll_deg": 2, "lean_deg": 7.5, "swing_deg": -3}})
    (shown,) = browserless.get(f"/api/sets/{set_id}").json["pictures"]
    assert shown["turn_words"] == "turned 2.00° clockwise"
    assert shown["perspective_words"] == "7.50° up, 3.00° left taken out"
    assert shown["state"] == "measured"


def test_typed_tilts(browserless: FlaskClient, picture: dict) -> None:
    url = f"/api/pictures/{picture['id']}/angle"
    answer = browserless.post(url, json={"recipe": {"readings": [level_line()]}, "text": "1°20'"}).json
    assert answer["recipe"]["trim"]["roll_deg"] == pytest.approx(1.33 - 4 / 3, abs=1e-6)
    assert "turned 1.33° anticlockwise" in answer["said"]
    refused = browserless.post(url, json={"recipe": {}, "text": "rather tilted"})
    assert refused.status_code == 422
    assert "not an angle" in refused.json["problem"]


def test_a_rough_line_is_fitted_to_the_edge(browserless: FlaskClient, picture: dict) -> None:
    url = f"/api/pictures/{picture['id']}/fit"
    rough = line("level", 60, 287, 840, 306).model_dump(mode="json")
    (found,) = browserless.post(url, json={"readings": [rough]}).json["readings"]
    (ax, ay), (bx, by) = found["points"]
    assert np.degrees(np.arctan2(by - ay, bx - ax)) == pytest.approx(1.33, abs=0.01)
    assert found["fitted"]["drawn"] == rough["points"]
    nothing = browserless.post(url, json={"readings": [line("level", 60, 87, 840, 106).model_dump(mode="json")]}).json
    assert nothing["readings"][0]["fitted"] is None
    assert "kept as drawn" in nothing["said"]
    assert browserless.post(url, json={"readings": [line("level", 5, 5, 5, 5).model_dump(mode="json")]}).status_code == 422


def test_a_rectangle_becomes_four_linked_readings(browserless: FlaskClient, set_id: int) -> None:
    frame = np.full((600, 900, 3), 90, np.uint8)
    frame[150:450, 200:700] = 200
    picture = send(browserless, set_id, "frame.png", as_png(frame)).json["picture"]
    url = f"/api/pictures/{picture['id']}/rectangle"
    rough = {"corners": [[204, 147], [697, 153], [703, 446], [198, 453]], "group": "w", "sigma_px": 2}
    placed = browserless.post(url, json=rough).json
    assert [reading["kind"] for reading in placed["readings"]] == ["level", "plumb", "level", "plumb"]
    corners = [reading["points"][0] for reading in placed["readings"]]
    assert np.array(corners) == pytest.approx(np.array([[200, 150], [700, 150], [700, 450], [200, 450]]), abs=0.1)
    assert all(reading["fitted"] for reading in placed["readings"])
    by_hand = browserless.post(url, json={**rough, "fit": False}).json
    assert by_hand["readings"][0]["points"] == [[204, 147], [697, 153]]
    assert browserless.post(url, json={**rough, "corners": [[5, 5]] * 4}).status_code == 422
    assert browserless.post(url, json={**rough, "corners": [[-50, 5], [90, 5], [90, 90], [5, 90]]}).status_code == 422


def test_what_a_note_offers_can_be_done(browserless: FlaskClient, picture: dict) -> None:
    readings = [level_line(), {**level_line(4.0), "id": "b"}, {**level_line(1.33), "id": "c", "points": [[50, 80], [850, 98.57]]}]
    recipe = {"readings": readings, "hold": {"lean_deg": 0, "swing_deg": 0}}
    solved = browserless.post(f"/api/pictures/{picture['id']}/solve", json={"recipe": recipe}).json
    note = next(note for note in solved["notes"] if "does not fit" in note["text"])
    assert note["readings"] == ["b"]
    done = browserless.post(f"/api/pictures/{picture['id']}/act", json={"recipe": recipe, "action": note["actions"][0]})
    assert [reading["active"] for reading in done.json["readings"]] == [True, False, True]
    gone = {"label": "x", "do": "switch_off", "readings": ["nobody"]}
    refused = browserless.post(f"/api/pictures/{picture['id']}/act", json={"recipe": recipe, "action": gone})
    assert refused.status_code == 422
    assert "not there any more" in refused.json["problem"]


def test_a_guide_measures_the_edge_under_it(browserless: FlaskClient, picture: dict) -> None:
    url = f"/api/pictures/{picture['id']}/guide"
    held = browserless.post(url, json={"recipe": {}, "direction": "level", "ends": [[400, 300], [500, 300]]}).json
    assert held["angle_deg"] == pytest.approx(1.33, abs=0.05)
    assert held["words"].endswith("clockwise")
    levelled = {"readings": [level_line()]}
    plane = browserless.post(f"/api/pictures/{picture['id']}/solve", json={"recipe": levelled}).json["plane"]
    middle = plane["height"] / 2
    ends = [[200, middle], [plane["width"] - 200, middle]]
    assert browserless.post(url, json={"recipe": levelled, "direction": "level", "ends": ends}).json[
        "angle_deg"
    ] == pytest.approx(0, abs=0.01)
    sky = browserless.post(url, json={"recipe": {}, "direction": "plumb", "ends": [[400, 20], [400, 120]]}).json
    assert (sky["angle_deg"], sky["words"]) == (None, "no clear edge")
    beside = browserless.post(url, json={"recipe": {}, "direction": "plumb", "ends": [[-40, 20], [-40, 120]]}).json
    assert beside["words"] == "beside the picture"


def test_the_loupe_shows_the_source_pixels_themselves(browserless: FlaskClient, picture: dict) -> None:
    truth = horizon_picture(1.33)
    base = f"/api/pictures/{picture['id']}/tiles"
    shown = np.asarray(Image.open(io.BytesIO(browserless.get(f"{base}/1/1.png").data)))
    assert np.array_equal(shown, truth[256:512, 256:512])
    edge = np.asarray(Image.open(io.BytesIO(browserless.get(f"{base}/3/2.png").data)))
    assert np.array_equal(edge, truth[512:600, 768:900])
    assert browserless.get(f"{base}/4/0.png").status_code == 404


@pytest.mark.parametrize("scale", [0.3, 1.0, 2.5])
def test_the_crisp_view_is_the_corrected_picture(browserless: FlaskClient, picture: dict, scale: float) -> None:
    body = {"based_on": picture["entry_id"], "recipe": {"readings": [level_line()]}, "what": "level"}
    entered = browserless.post(f"/api/pictures/{picture['id']}/ledger", json=body).json
    plane = entered["solution"]["plane"]
    part = {"x": 100, "y": plane["height"] / 2 - 60, "width": 700, "height": 120, "scale": scale}
    query = {"entry": entered["entry_id"], **part}
    view = browserless.get(f"/api/pictures/{picture['id']}/view.jpg", query_string=query)
    pixels = np.asarray(Image.open(io.BytesIO(view.data)))
    assert pixels.shape[:2] == (round(120 * scale), round(700 * scale))
    grey = pixels.mean(axis=2)
    assert (
        grey[: round(40 * scale)].min() > grey[round(80 * scale) :].max()
    )  # sky above, water below, and the border between them
    assert np.ptp((grey < 135).argmax(axis=0)) <= 1  # lies level to the pixel
    large = {**query, "scale": 60}
    assert browserless.get(f"/api/pictures/{picture['id']}/view.jpg", query_string=large).status_code == 422


def test_the_bow_is_taken_out_for_the_screen(browserless: FlaskClient, picture: dict) -> None:
    url = f"/api/pictures/{picture['id']}"
    solved = browserless.post(f"{url}/solve", json={"recipe": {"bow": {"source": "hand", "k1": -0.1}}}).json
    assert solved["bow"]["words"].startswith("barrel")
    x, y, width, height = solved["bow"]["box"]
    assert x < 0
    assert width > 900
    query = {
        **dict(zip(("c1", "c2", "c3", "c4"), solved["bow"]["polynomial"], strict=True)),
        "x": x,
        "y": y,
        "width": width,
        "height": height,
    }
    straight = np.asarray(
        Image.open(io.BytesIO(browserless.get(f"{url}/straight.jpg", query_string={**query, "edge": 600}).data))
    )
    assert max(straight.shape) == 600
    # The horizon goes through the centre, where nothing moves.
    assert measured_tilt_deg(straight[60:-60, 60:-60]) == pytest.approx(1.33, abs=0.1)
    assert browserless.get(f"{url}/straight.jpg", query_string={**query, "c2": -0.9}).status_code == 422
    assert browserless.get(f"{url}/straight.jpg", query_string={**query, "width": 90000}).status_code == 422
    folded = browserless.post(f"{url}/solve", json={"recipe": {"bow": {"source": "hand", "k1": -0.5}}})
    assert folded.status_code == 422
    assert "the limit for k1" in folded.json["problem"]
    two = {"id": "t", "kind": "trace", "points": [[1, 2], [300, 4]]}
    assert browserless.post(f"{url}/solve", json={"recipe": {"readings": [two]}}).status_code == 422


def test_a_lens_of_the_open_database(browserless: FlaskClient, picture: dict) -> None:
    url = f"/api/pictures/{picture['id']}"
    assert browserless.get(f"{url}/lenses").json == {"named": "", "lenses": []}
    found = browserless.get(f"{url}/lenses", query_string={"text": "nikkor 28mm f/2.8D"}).json["lenses"]
    taken = browserless.post(f"{url}/lens", json={"recipe": {}, "name": found[0]["name"]}).json
    assert (taken["bow"]["source"], taken["bow"]["lens"]) == ("database", found[0]["name"])
    solved = browserless.post(f"{url}/solve", json={"recipe": taken}).json
    assert solved["bow"]["polynomial"] == taken["bow"]["polynomial"]
    assert browserless.post(f"{url}/lens", json={"recipe": {}, "name": "made up"}).status_code == 422


def test_the_same_file_twice_is_recognised(browserless: FlaskClient, set_id: int) -> None:
    content = as_png(horizon_picture(0, 90, 60))
    first, again = send(browserless, set_id, "a.png", content), send(browserless, set_id, "b.png", content)
    assert (first.status_code, again.status_code) == (201, 200)
    assert again.json["known"]
    assert again.json["picture"]["id"] == first.json["picture"]["id"]
    other = browserless.post("/api/sets", json={"name": "Other"}).json["id"]
    assert send(browserless, other, "c.png", content).status_code == 201


@pytest.mark.parametrize("kind", BAD)
def test_bad_files_store_nothing(browserless: FlaskClient, set_id: int, settings, kind: str) -> None:
    name, content, says = BAD[kind]
    refused = send(browserless, set_id, name, content)
    assert refused.status_code == 422
    assert says in refused.json["problem"]
    assert browserless.get(f"/api/sets/{set_id}").json["pictures"] == []
    assert [p for p in Path(settings.data).rglob("*") if p.is_file()] == []


def test_a_bad_file_does_not_stop_the_others(browserless: FlaskClient, set_id: int) -> None:
    good = as_png(horizon_picture(0, 90, 60))
    codes = [
        send(browserless, set_id, n, c).status_code
        for n, c in (("a.png", good), ("b.jpg", b"no"), ("c.jpg", jpeg(horizon_picture(1))))
    ]
    assert codes == [201, 422, 201]


@pytest.mark.parametrize(
    ("recipe", "says"),
    [
        ({"readings": [{"id": "a", "kind": "level", "points": [[10, 10], [10, 10]]}]}, "shorter"),
        ({"readings": [{"id": "a", "kind": "level", "points": [[10, 10], [9999, 10]]}]}, "outside"),
        ({"readings": [{"id": "a", "kind": "slanted", "points": [[10, 10], [90, 10]]}]}, "kind"),
        ({"frame": {"ratio": "0:0"}}, "ratio"),
        ({"trim": {"roll_deg": "much"}}, "roll_deg"),
        ({"version": 99}, "version"),
        ({"colour": "red"}, "colour"),
    ],
)
def test_bad_recipes_change_nothing(browserless: FlaskClient, picture: dict, recipe: dict, says: str) -> None:
    refused = enter(browserless, picture, recipe)
    assert refused.status_code == 422
    assert says in refused.json["problem"]
    assert browserless.get(f"/api/pictures/{picture['id']}").json == picture


@pytest.mark.parametrize(
    "body", ['{"recipe": {"trim": {"roll_deg": NaN}}}', '{"recipe": {"trim": {"roll_deg": Infinity}}}', "{", "[]", ""]
)
def test_bodies_that_are_no_request(browserless: FlaskClient, picture: dict, body: str) -> None:
    refused = browserless.post(f"/api/pictures/{picture['id']}/solve", data=body, content_type="application/json")
    assert refused.status_code in (400, 422)
    assert refused.json["problem"]


def test_what_is_not_there(browserless: FlaskClient, picture: dict) -> None:
    for url in ("/api/sets/99", "/api/pictures/99", "/api/exports/99", "/api/pictures/99/proxy.jpg", "/api/nothing"):
        missing = browserless.get(url)
        assert missing.status_code == 404
        assert missing.json["problem"]
    assert browserless.get(f"/api/pictures/{picture['id']}/thumbnail.jpg?entry=99").status_code == 404


def test_proxies_and_thumbnails(browserless: FlaskClient, picture: dict) -> None:
    url = f"/api/pictures/{picture['id']}"
    proxy = browserless.get(f"{url}/proxy.jpg")
    assert Image.open(io.BytesIO(proxy.data)).size == (900, 600)
    entered = enter(browserless, picture, {"readings": [level_line()]}).json
    small = browserless.get(f"{url}/thumbnail.jpg?entry={entered['entry_id']}")
    assert measured_tilt_deg(np.asarray(Image.open(io.BytesIO(small.data)))) == pytest.approx(0, abs=0.1)
    assert "immutable" in small.headers["Cache-Control"]


def test_a_cancelled_export_leaves_no_file(browserless: FlaskClient, set_id: int, settings) -> None:
    large = np.random.default_rng(1).integers(0, 256, (1900, 2000, 3), np.uint8)
    added = send(browserless, set_id, "large.png", as_png(large)).json["picture"]
    exports = [browserless.post(f"/api/pictures/{added['id']}/exports", json={"format": "tiff"}).json for _ in range(3)]
    for export in exports:
        browserless.post(f"/api/exports/{export['id']}/cancel")
    states = {finished(browserless, export)["state"] for export in exports}
    assert states <= {"cancelled", "done"}
    assert finished(browserless, exports[-1])["state"] == "cancelled"
    refused = browserless.get(f"/api/exports/{exports[-1]['id']}/file")
    assert refused.status_code == 422
    assert not list((settings.data / "exports").glob(f"{exports[-1]['id']}*"))


def test_foreign_hosts_and_origins_are_refused(browserless: FlaskClient) -> None:
    def status(**headers: str) -> int:
        return browserless.get("/api/sets", headers=headers).status_code

    assert status() == 200
    assert status(Host="localhost:8700", Origin="http://localhost:8700") == 200
    assert status(Host="evil.example") == 403
    assert status(Host="127.0.0.1.evil.example:8700") == 403
    assert status(Origin="http://evil.example") == 403
    assert status(Origin="null") == 403
    assert browserless.post("/api/sets", json={"name": "x"}, headers={"Sec-Fetch-Site": "cross-site"}).status_code == 403


def test_pages_allow_no_inline_script(browserless: FlaskClient) -> None:
    page = browserless.get("/")
    assert page.status_code == 200
    policy = page.headers["Content-Security-Policy"]
    assert "script-src 'self';" in policy
    assert b"<script>" not in page.data
    for url in ("/sets/1", "/pictures/1"):
        assert browserless.get(url).data == page.data


def test_health_and_request_ids(browserless: FlaskClient) -> None:
    healthy = browserless.get("/api/health", headers={"X-Request-Id": "abc-1"})
    assert healthy.json["status"] == "ok"
    assert healthy.headers["X-Request-Id"] == "abc-1"
    made_up = browserless.get("/api/sets/99", headers={"X-Request-Id": "bad id\u00e9"})
    assert made_up.json["request_id"] == made_up.headers["X-Request-Id"] != "bad id"


def test_every_answer_is_as_the_document_says(browserless: FlaskClient) -> None:
    document = browserless.get("/api/openapi.json").json
    assert document["openapi"].startswith("3.1")
    operations = [op for path in document["paths"].values() for op in path.values()]
    assert len({op["operationId"] for op in operations}) == len(operations) >= 16
    assert {"Recipe", "Reading", "Solution", "PictureState", "Problem"} <= set(document["components"]["schemas"])
    assert json.dumps(document)
