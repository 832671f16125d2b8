"""The HTTP interface: the whole job without a browser, and every kind of bad input."""

import io
import re
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image

from sequor.web.repeated import ONLY_ASKING
from tests.conftest import horizon_picture, measured_tilt_deg
from tests.pictures.test_reading_files import BAD, as_png, jpeg
from tests.web.conftest import draft, finished, keep, level_line, send, turn


@pytest.mark.parametrize("format", ["jpeg", "png", "tiff"])
def test_the_whole_job(browserless: FlaskClient, picture: dict, format: str) -> None:
    tried = draft(browserless, picture, level_line())
    assert tried.json["solution"]["stance"]["roll"]["applied_deg"] == pytest.approx(-1.33, abs=1e-6)
    entered = keep(browserless, picture, level_line())
    assert entered.status_code == 201
    assert {name: entered.json[name] for name in tried.json} == tried.json
    assert entered.json["what"] == "level reading added"
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
    assert [(p["state"], p["turn_words"]) for p in sheet] == [
        ("exported", "turned 1.33° anticlockwise")
    ]
    assert sheet[0]["state_words"] == "exported"
    # A second file of it is told from the first.
    again = finished(browserless, browserless.post(f"/api/exports/{export['id']}/again").json)
    assert Path(again["file_name"]).stem == f"{Path(export['file_name']).stem}-2"
    turned = {"do": "turn_by", "axis": "roll", "deg": 0.5}
    assert keep(browserless, entered.json, turned).status_code == 201
    (card,) = browserless.get(f"/api/sets/{picture['set_id']}").json["pictures"]
    assert card["state_words"] == "changed since its export"


def test_undo_redo_and_the_stale_window(browserless: FlaskClient, picture: dict) -> None:
    url = f"/api/pictures/{picture['id']}"
    entered = keep(browserless, picture, turn(2)).json
    late = keep(browserless, picture, turn(9))
    assert late.status_code == 409
    assert "another window" in late.json["problem"]
    undone = browserless.post(f"{url}/undo", json={"based_on": entered["entry_id"]}).json
    assert (undone["entry_id"], undone["can_undo"], undone["can_redo"]) == (
        picture["entry_id"],
        False,
        True,
    )
    redone = browserless.post(f"{url}/redo", json={"based_on": undone["entry_id"]}).json
    assert redone == {**entered, "can_redo": False}
    assert browserless.get(url).json == redone


def test_the_contact_sheet_says_what_was_taken_out(
    browserless: FlaskClient, picture: dict, set_id: int
) -> None:
    keep(browserless, picture, turn(2), turn(7.5, "lean"), turn(-3, "swing"))
    (shown,) = browserless.get(f"/api/sets/{set_id}").json["pictures"]
    assert shown["turn_words"] == "turned 2.00° clockwise"
    assert shown["perspective_words"] == "7.50° up, 3.00° left taken out"
    assert shown["state"] == "measured"


def test_typed_tilts(browserless: FlaskClient, picture: dict) -> None:
    typed = {"do": "type_angle", "text": "1°20'"}
    kept = keep(browserless, picture, level_line(), typed).json
    assert kept["recipe"]["trim"]["roll_deg"] == pytest.approx(1.33 - 4 / 3, abs=1e-6)
    assert "turned 1.33° anticlockwise" in kept["said"]
    refused = keep(browserless, kept, {**typed, "text": "rather tilted"})
    assert refused.status_code == 422
    assert "not an angle" in refused.json["problem"]


def test_a_rough_line_is_fitted_to_the_edge_when_it_is_kept(
    browserless: FlaskClient, picture: dict
) -> None:
    rough = {**level_line(fit=True), "points": [[60, 287], [840, 306]]}
    (tried,) = draft(browserless, picture, rough).json["recipe"]["readings"]
    assert tried["fitted"] is None
    kept = keep(browserless, picture, rough).json
    (found,) = kept["recipe"]["readings"]
    (ax, ay), (bx, by) = found["points"]
    assert np.degrees(np.arctan2(by - ay, bx - ax)) == pytest.approx(1.33, abs=0.01)
    assert found["fitted"]["drawn"] == rough["points"]
    assert kept["said"] == ""
    drawn = keep(browserless, kept, {"do": "unfit_reading", "id": "a"}).json
    assert drawn["recipe"]["readings"][0]["points"] == rough["points"]
    again = keep(browserless, drawn, {"do": "fit_reading", "id": "a"}).json
    assert again["recipe"] == kept["recipe"]
    moved = {"do": "move_point", "id": "a", "point": 0, "to": [100, 290], "zoom": 1, "refit": True}
    assert keep(browserless, again, moved).json["recipe"]["readings"][0]["fitted"]
    sky = {**rough, "id": "sky", "points": [[60, 87], [840, 106]]}
    nothing = keep(browserless, picture | {"entry_id": head(browserless, picture)}, sky).json
    assert nothing["recipe"]["readings"][1]["fitted"] is None
    assert "kept as drawn" in nothing["said"]
    point = {**rough, "id": "p", "points": [[5, 5], [5, 5]]}
    assert keep(browserless, nothing, point).status_code == 422


def head(client: FlaskClient, state: dict) -> int:
    return client.get(f"/api/pictures/{state['id']}").json["entry_id"]


def test_a_rectangle_becomes_four_linked_readings(browserless: FlaskClient, set_id: int) -> None:
    frame = np.full((600, 900, 3), 90, np.uint8)
    frame[150:450, 200:700] = 200
    added = send(browserless, set_id, "frame.png", as_png(frame)).json["picture"]
    state = browserless.get(f"/api/pictures/{added['id']}").json
    corners = [[204, 147], [697, 153], [703, 446], [198, 453]]
    edit = {"do": "place_rectangle", "group": "w", "vertices": corners, "zoom": 0.5, "fit": True}
    placed = keep(browserless, state, edit).json["recipe"]["readings"]
    assert [reading["kind"] for reading in placed] == ["level", "plumb", "level", "plumb"]
    found = np.array([reading["points"][0] for reading in placed])
    truth = np.array([[200, 150], [700, 150], [700, 450], [200, 450]])
    assert found == pytest.approx(truth, abs=0.1)
    assert all(reading["fitted"] for reading in placed)
    by_hand = draft(browserless, state, {**edit, "fit": False}).json["recipe"]["readings"]
    assert by_hand[0]["points"] == corners[:2]
    assert by_hand[0]["sigma_px"] == 2  # one screen pixel at that zoom
    assert draft(browserless, state, {**edit, "vertices": [[5, 5]] * 4}).status_code == 422
    outside = [[-50, 5], [90, 5], [90, 90], [5, 90]]
    assert draft(browserless, state, {**edit, "vertices": outside}).status_code == 422


def test_what_a_note_offers_can_be_done(browserless: FlaskClient, picture: dict) -> None:
    other = {**level_line(id="c"), "points": [[50, 80], [850, 98.57]]}
    held = [{"do": "hold_axis", "axis": axis, "deg": 0} for axis in ("lean", "swing")]
    state = keep(browserless, picture, level_line(), level_line(4.0, "b"), other, *held).json
    note = next(note for note in state["report"]["notes"] if "does not fit" in note["text"])
    assert note["readings"] == ["b"]
    done = keep(browserless, state, note["offers"][0]["edit"]).json
    assert [reading["active"] for reading in done["recipe"]["readings"]] == [True, False, True]
    gone = {"do": "switch_readings", "ids": ["nobody"], "active": False}
    refused = keep(browserless, done, gone)
    assert refused.status_code == 422
    assert "not there any more" in refused.json["problem"]


def test_a_guide_measures_the_edge_under_it(browserless: FlaskClient, picture: dict) -> None:
    def held(direction: str, ends: list, *edits: dict) -> dict:
        body = {
            "based_on": picture["entry_id"],
            "edits": edits,
            "direction": direction,
            "ends": ends,
        }
        return browserless.post(f"/api/pictures/{picture['id']}/guide", json=body).json

    tilted = held("level", [[400, 300], [500, 300]])
    assert tilted["angle_deg"] == pytest.approx(1.33, abs=0.05)
    assert tilted["words"].endswith("clockwise")
    plane = draft(browserless, picture, level_line()).json["solution"]["plane"]
    ends = [[200, plane["height"] / 2], [plane["width"] - 200, plane["height"] / 2]]
    assert held("level", ends, level_line())["angle_deg"] == pytest.approx(0, abs=0.01)
    sky = held("plumb", [[400, 20], [400, 120]])
    assert (sky["angle_deg"], sky["words"]) == (None, "no clear edge")
    assert held("plumb", [[-40, 20], [-40, 120]])["words"] == "beside the picture"


def test_the_loupe_shows_the_source_pixels_themselves(
    browserless: FlaskClient, picture: dict
) -> None:
    truth = horizon_picture(1.33)
    base = f"{picture['addresses']['original']}/tiles"
    shown = np.asarray(Image.open(io.BytesIO(browserless.get(f"{base}/1/1.png").data)))
    assert np.array_equal(shown, truth[256:512, 256:512])
    edge = np.asarray(Image.open(io.BytesIO(browserless.get(f"{base}/3/2.png").data)))
    assert np.array_equal(edge, truth[512:600, 768:900])
    assert browserless.get(f"{base}/4/0.png").status_code == 404


@pytest.mark.parametrize("scale", [0.3, 1.0, 2.5])
def test_the_crisp_view_is_the_corrected_picture(
    browserless: FlaskClient, picture: dict, scale: float
) -> None:
    entered = keep(browserless, picture, level_line()).json
    address = f"{entered['addresses']['corrected']}/view.jpg"
    plane = entered["solution"]["plane"]
    query = {"x": 100, "y": plane["height"] / 2 - 60, "width": 700, "height": 120, "scale": scale}
    view = browserless.get(address, query_string=query)
    pixels = np.asarray(Image.open(io.BytesIO(view.data)))
    assert pixels.shape[:2] == (round(120 * scale), round(700 * scale))
    grey = pixels.mean(axis=2)
    assert (
        grey[: round(40 * scale)].min() > grey[round(80 * scale) :].max()
    )  # sky above, water below, and the border between them
    assert np.ptp((grey < 135).argmax(axis=0)) <= 1  # lies level to the pixel
    assert browserless.get(address, query_string={**query, "scale": 60}).status_code == 422


def test_the_bow_is_taken_out_for_the_screen(browserless: FlaskClient, picture: dict) -> None:
    tried = draft(browserless, picture, {"do": "set_radial", "k1": -0.1}).json
    assert tried["report"]["lens"]["bow"].startswith("barrel")
    lens = tried["solution"]["lens"]
    x, y, width, height = lens["box"]
    assert x < 0
    assert width > 900
    box = {"x": x, "y": y, "width": width, "height": height, "edge": 600}
    query = dict(zip(("c1", "c2", "c3", "c4", "c5", "c6"), lens["polynomial"], strict=True)) | box
    address = f"{picture['addresses']['original']}/undistorted.jpg"
    made = browserless.get(address, query_string=query)
    straight = np.asarray(Image.open(io.BytesIO(made.data)))
    assert max(straight.shape) == 600
    # The horizon goes through the centre, where nothing moves.
    assert measured_tilt_deg(straight[60:-60, 60:-60]) == pytest.approx(1.33, abs=0.1)
    for wrong in ({"c2": -0.9}, {"width": 90000}):
        assert browserless.get(address, query_string={**query, **wrong}).status_code == 422
    folded = keep(browserless, picture, {"do": "set_radial", "k1": -0.5})
    assert folded.status_code == 422
    assert "the limit for k1" in folded.json["problem"]
    two = {"do": "draw_reading", "id": "t", "kind": "trace", "points": [[1, 2], [300, 4]]}
    refused = draft(browserless, picture, two)
    assert refused.status_code == 422
    assert "at least three points" in refused.json["problem"]


def test_a_lens_of_the_open_database(browserless: FlaskClient, picture: dict) -> None:
    url = f"/api/pictures/{picture['id']}/lenses"
    assert browserless.get(url).json == {"named": "", "lenses": [], "more": False}
    found = browserless.get(url, query_string={"text": "nikkor 28mm f/2.8D"}).json["lenses"]
    edit = {"do": "use_lens", "name": found[0]["name"]}
    held = draft(browserless, picture, edit)
    assert held.status_code == 200
    taken = keep(browserless, picture, edit).json
    lens = taken["recipe"]["lens"]
    assert (lens["source"], lens["name"]) == ("database", found[0]["name"])
    assert taken["solution"]["lens"]["polynomial"] == [*lens["polynomial"], 0.0, 0.0]
    assert any(lens["polynomial"])
    assert held.json["recipe"]["lens"] == lens
    assert keep(browserless, taken, {**edit, "name": "made up"}).status_code == 422


def test_the_same_file_twice_is_recognised(browserless: FlaskClient, set_id: int) -> None:
    content = as_png(horizon_picture(0, 90, 60))
    first, again = (
        send(browserless, set_id, "a.png", content),
        send(browserless, set_id, "b.png", content),
    )
    assert (first.status_code, again.status_code) == (201, 200)
    assert again.json["known"]
    assert again.json["picture"]["id"] == first.json["picture"]["id"]
    other = browserless.post("/api/sets", json={"name": "Other"}).json["id"]
    assert send(browserless, other, "c.png", content).status_code == 201


@pytest.mark.parametrize("kind", BAD)
def test_bad_files_store_nothing(
    browserless: FlaskClient, set_id: int, settings, kind: str
) -> None:
    name, content, says = BAD[kind]
    refused = send(browserless, set_id, name, content)
    assert refused.status_code == 422
    assert says in refused.json["problem"]
    assert browserless.get(f"/api/sets/{set_id}").json["pictures"] == []
    assert [p.name for p in Path(settings.data).rglob("*") if p.is_file()] == ["key"]


def test_a_bad_file_does_not_stop_the_others(browserless: FlaskClient, set_id: int) -> None:
    good = as_png(horizon_picture(0, 90, 60))
    codes = [
        send(browserless, set_id, n, c).status_code
        for n, c in (("a.png", good), ("b.jpg", b"no"), ("c.jpg", jpeg(horizon_picture(1))))
    ]
    assert codes == [201, 422, 201]


@pytest.mark.parametrize(
    ("edit", "says"),
    [
        ({**level_line(), "points": [[10, 10], [10, 10]]}, "shorter"),
        ({**level_line(), "points": [[10, 10], [9999, 10]]}, "outside"),
        ({**level_line(), "kind": "slanted"}, "kind"),
        ({"do": "choose_ratio", "ratio": "0:0"}, "ratio"),
        ({"do": "turn_by", "axis": "roll", "deg": "much"}, "deg"),
        ({"do": "stand_on_its_head"}, "do"),
        ({"do": "best_frame", "colour": "red"}, "colour"),
        ({"do": "move_point", "id": "gone", "point": 0, "to": [1, 1]}, "not there any more"),
        ({"do": "set_focal", "focal35_mm": 1}, "greater than or equal to 4"),
    ],
)
def test_bad_edits_change_nothing(
    browserless: FlaskClient, picture: dict, edit: dict, says: str
) -> None:
    refused = keep(browserless, picture, edit)
    assert refused.status_code == 422
    assert says in refused.json["problem"]
    assert browserless.get(f"/api/pictures/{picture['id']}").json == picture


@pytest.mark.parametrize(
    "body",
    [
        '{"based_on": 1, "edits": [{"do": "turn_by", "axis": "roll", "deg": NaN}]}',
        '{"based_on": 1, "edits": [{"do": "turn_by", "axis": "roll", "deg": Infinity}]}',
        '{"based_on": 1, "edits": []}',
        "{",
        "[]",
        "",
    ],
)
def test_bodies_that_are_no_request(browserless: FlaskClient, picture: dict, body: str) -> None:
    refused = browserless.post(
        f"/api/pictures/{picture['id']}/draft", data=body, content_type="application/json"
    )
    assert refused.status_code in (400, 422)
    assert refused.json["problem"]


def test_what_is_not_there(browserless: FlaskClient, picture: dict) -> None:
    for url in (
        "/api/sets/99",
        "/api/pictures/99",
        "/api/exports/99",
        "/api/nothing",
    ):
        missing = browserless.get(url)
        assert missing.status_code == 404
        assert missing.json["problem"]
    original, corrected = picture["addresses"]["original"], picture["addresses"]["corrected"]
    for address in (
        f"{original}/{'0' * 32}/thumbnail.jpg",
        f"{corrected.replace(original.split('/')[-1], '0' * 64)}/thumbnail.jpg",
        f"{original.replace('/api/images/', '/api/images/0')}/proxy.jpg",
    ):
        assert browserless.get(address).status_code == 404


def test_proxies_and_thumbnails(browserless: FlaskClient, picture: dict) -> None:
    proxy = browserless.get(f"{picture['addresses']['original']}/proxy.jpg")
    assert Image.open(io.BytesIO(proxy.data)).size == (900, 600)
    entered = keep(browserless, picture, level_line()).json
    (shown,) = browserless.get(f"/api/sets/{picture['set_id']}").json["pictures"]
    assert shown["thumbnail"].startswith(entered["addresses"]["corrected"])
    small = browserless.get(shown["thumbnail"])
    pixels = np.asarray(Image.open(io.BytesIO(small.data)))
    assert measured_tilt_deg(pixels) == pytest.approx(0, abs=0.1)
    assert "immutable" in small.headers["Cache-Control"]
    known = browserless.get(shown["thumbnail"], headers={"If-None-Match": small.headers["ETag"]})
    assert (known.status_code, known.data) == (304, b"")


def test_addresses_of_images_name_their_content(
    browserless: FlaskClient, picture: dict, set_id: int
) -> None:
    # Another picture of the same number, as after var/ was deleted, has another address; the same
    # picture with the same recipe has the same one, whatever its number.
    other = send(browserless, set_id, "b.png", as_png(horizon_picture(2))).json["picture"]
    state = browserless.get(f"/api/pictures/{other['id']}").json
    assert state["addresses"]["original"] != picture["addresses"]["original"]
    elsewhere = browserless.post("/api/sets", json={"name": "Other"}).json["id"]
    content = as_png(horizon_picture(1.33))
    again = send(browserless, elsewhere, "c.png", content).json["picture"]
    same = browserless.get(f"/api/pictures/{again['id']}").json
    assert same["id"] != picture["id"]
    assert same["addresses"] == picture["addresses"]
    turned = keep(browserless, picture, turn(1)).json["addresses"]["corrected"]
    assert turned != picture["addresses"]["corrected"]
    assert keep(browserless, same, turn(1)).json["addresses"]["corrected"] == turned


def test_the_same_file_twice_at_the_same_moment(browserless: FlaskClient, set_id: int) -> None:
    content = as_png(horizon_picture(0, 900, 600))
    app, at_once = browserless.application, 4
    start = threading.Barrier(at_once)

    def upload(number: int) -> int:
        client = app.test_client()
        client.environ_base |= browserless.environ_base
        start.wait()
        return send(client, set_id, f"{number}.png", content).status_code

    with ThreadPoolExecutor(at_once) as threads:
        codes = sorted(threads.map(upload, range(at_once)))
    assert codes == [200] * (at_once - 1) + [201]
    assert len(browserless.get(f"/api/sets/{set_id}").json["pictures"]) == 1


def test_a_cancelled_export_leaves_no_file(browserless: FlaskClient, set_id: int, settings) -> None:
    large = np.random.default_rng(1).integers(0, 256, (1900, 2000, 3), np.uint8)
    added = send(browserless, set_id, "large.png", as_png(large)).json["picture"]
    exports = [
        browserless.post(f"/api/pictures/{added['id']}/exports", json={"format": "tiff"}).json
        for _ in range(3)
    ]
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
    assert (
        browserless.post(
            "/api/sets", json={"name": "x"}, headers={"Sec-Fetch-Site": "cross-site"}
        ).status_code
        == 403
    )


def test_pages_allow_no_inline_script(browserless: FlaskClient) -> None:
    page = browserless.get("/")
    assert page.status_code == 200
    policy = page.headers["Content-Security-Policy"]
    assert "script-src 'self';" in policy
    ahead = re.compile(rb'<link rel="(modulepreload|preload)"[^>]* href="[^"]*" ?/>')
    for url in ("/", "/sets/1", "/pictures/1"):
        other = browserless.get(url)
        assert other.headers["Content-Security-Policy"] == policy
        assert b"<script>" not in other.data
        # One document: they differ in what they name to be fetched ahead, and in nothing else.
        assert ahead.sub(b"", other.data) == ahead.sub(b"", page.data)


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
    assert {"Recipe", "Reading", "Solution", "PictureState", "Problem"} <= set(
        document["components"]["schemas"]
    )


def test_what_only_asks_keeps_no_answer(browserless: FlaskClient, picture: dict) -> None:
    # The browser sends a key with everything that is not a GET; the server knows what only asks.
    views = browserless.application.view_functions
    assert all(name in views for name in ONLY_ASKING)
    body = {"based_on": picture["entry_id"], "edits": [turn(1)]}
    address, headers = f"/api/pictures/{picture['id']}/draft", {"Idempotency-Key": "a" * 12}
    first = browserless.post(address, json=body, headers=headers)
    body["edits"] = [turn(2)]
    second = browserless.post(address, json=body, headers=headers)
    assert (first.status_code, second.status_code) == (200, 200)
    assert "Idempotency-Replayed" not in second.headers
    roll = [one.json["solution"]["stance"]["roll"]["applied_deg"] for one in (first, second)]
    assert roll == pytest.approx([1, 2])
