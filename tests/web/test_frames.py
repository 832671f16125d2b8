"""Frames, fills and files over HTTP: print sizes, candidates, the corner check, several exports as one ZIP, and bad input."""

import io
import re
import time
import zipfile
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image

from tests.conftest import horizon_picture
from tests.pictures.test_reading_files import as_png
from tests.web.test_http import enter, finished, picture, send, set_id  # noqa: F401, fixtures

SOFTWARE = 0x0131


def turned(state: dict, **changes: dict) -> dict:
    recipe = {**state["recipe"], "trim": {"roll_deg": -3, "lean_deg": 0, "swing_deg": 0}}
    for name, change in changes.items():
        recipe[name] = {**recipe[name], **change}
    return recipe


def export(client: FlaskClient, state: dict, **options: object) -> tuple[dict, Image.Image]:
    started = client.post(f"/api/pictures/{state['id']}/exports", json=options)
    assert started.status_code == 202, started.json
    done = finished(client, started.json)
    assert done["state"] == "done", done
    return done, Image.open(io.BytesIO(client.get(f"/api/exports/{done['id']}/file").data))


def test_a_print_size_is_exported_with_its_resolution(browserless: FlaskClient, picture: dict) -> None:  # noqa: F811
    size = {"width": 2, "height": 1.6, "unit": "in", "ppi": 300}
    state = enter(browserless, picture, turned(picture, frame={"print_size": size})).json
    words = browserless.post(
        f"/api/pictures/{state['id']}/output", json={"recipe": state["recipe"], "size": {"kind": "print"}}
    ).json
    assert (words["width"], words["height"], words["ppi"], words["enlarged"]) == (600, 480, 300, False)
    done, image = export(browserless, state, format="tiff", size={"kind": "print"}, pattern="{name}-{width}x{height}")
    assert image.size == (600, 480)
    assert image.info["dpi"] == pytest.approx((300, 300), abs=0.01)
    assert done["file_name"] == "horizon-600x480.tif"
    assert done["empty_pixels"] == 0


def test_enlarging_must_be_asked_for(browserless: FlaskClient, picture: dict) -> None:  # noqa: F811
    size = {"kind": "long_edge", "pixels": 2000}
    refused = browserless.post(f"/api/pictures/{picture['id']}/exports", json={"size": size})
    assert refused.status_code == 422
    assert "enlarged to 222 %" in refused.json["problem"]
    assert browserless.get(f"/api/pictures/{picture['id']}/exports").json["exports"] == []
    _, image = export(browserless, picture, size={**size, "enlarge": True}, format="png")
    assert image.size == (2000, 1333)


def test_a_fill_is_shown_checked_and_exported(browserless: FlaskClient, picture: dict) -> None:  # noqa: F811
    recipe = turned(picture, corners={"allowance": 0.7, "seeds": [1, 2, 3, 1]})
    state = enter(browserless, picture, recipe).json
    share = state["solution"]["cost"]["fill_fraction"]
    assert 0.02 < share < 0.2
    address = f"/api/pictures/{state['id']}"
    shown = [
        browserless.get(f"{address}/filled.jpg?entry={state['entry_id']}&edge=600{more}").data
        for more in ("", "", "&seeds=4,4,4,4", "&quick=true")
    ]
    assert shown[0] == shown[1] != shown[2]
    assert Image.open(io.BytesIO(shown[0])).size[0] == 600
    fill = browserless.get(f"{address}/fill?entry={state['entry_id']}").json
    assert {region["corner"] for region in fill["regions"]} <= {0, 1, 2, 3}
    assert sum(region["share"] for region in fill["regions"]) == pytest.approx(share, abs=0.02)
    check = browserless.get(f"{address}/corners?entry={state['entry_id']}").json
    assert check["empty_pixels"] == 0
    assert check["filled_pixels"] / (check["width"] * check["height"]) == pytest.approx(share, abs=0.002)
    done, image = export(browserless, state, format="png")
    assert done["filled_share"] == pytest.approx(share, abs=0.002)
    assert done["empty_pixels"] == 0
    assert re.match(r"Sequor: [\d.]+ % of the pixels", image.getexif()[SOFTWARE])
    # The corner check shows what is in the file, to the pixel.
    pixels = np.asarray(image.convert("RGB"))
    for place, part in (("top-left", pixels[:112, :112]), ("bottom-right", pixels[-112:, -112:]), ("right", pixels[:, -24:])):
        piece = browserless.get(f"{address}/corners/{place}.png?entry={state['entry_id']}")
        np.testing.assert_array_equal(np.asarray(Image.open(io.BytesIO(piece.data)).convert("RGB")), part)
    thumbnail = Image.open(io.BytesIO(browserless.get(f"{address}/thumbnail.jpg?entry={state['entry_id']}").data))
    assert np.asarray(thumbnail)[:4, -4:].mean() > 60  # nothing black in a corner that is filled


def test_the_contact_sheet_says_what_is_framed(browserless: FlaskClient, picture: dict) -> None:  # noqa: F811
    def shown() -> str:
        return browserless.get(f"/api/sets/{picture['set_id']}").json["pictures"][0]["state"]

    assert shown() == "new"
    state = enter(browserless, picture, turned(picture)).json
    assert shown() == "measured"
    enter(browserless, state, turned(state, frame={"ratio": "5:4"}))
    assert shown() == "framed"


def test_transparent_corners(browserless: FlaskClient, picture: dict) -> None:  # noqa: F811
    state = enter(browserless, picture, turned(picture, corners={"allowance": 1, "method": "transparent"})).json
    check = browserless.get(f"/api/pictures/{state['id']}/corners?entry={state['entry_id']}").json
    done, image = export(browserless, state, format="png")
    alpha = np.asarray(image)[:, :, 3]
    assert check["empty_pixels"] == done["empty_pixels"] == int((alpha == 0).sum()) > 0


def test_the_list_of_print_sizes_can_be_changed(browserless: FlaskClient) -> None:
    size = {"name": "Long strip", "width": 30, "height": 10, "unit": "cm", "ppi": 254}
    made = browserless.post("/api/print-sizes", json=size)
    assert made.status_code == 201
    assert (made.json["width_px"], made.json["height_px"]) == (3000, 1000)
    changed = browserless.put(f"/api/print-sizes/{made.json['id']}", json={**size, "name": "Strip", "height": 12})
    assert changed.json["height_px"] == 1200
    assert [s["name"] for s in browserless.get("/api/print-sizes").json["sizes"]] == ["Strip"]
    assert browserless.delete(f"/api/print-sizes/{made.json['id']}").json["sizes"] == []
    assert browserless.delete(f"/api/print-sizes/{made.json['id']}").status_code == 404
    refused = browserless.post("/api/print-sizes", json={**size, "height": 0.1})
    assert refused.status_code == 422
    assert "50 times" in refused.json["problem"]


def test_the_guides_are_listed(browserless: FlaskClient) -> None:
    guides = {g["guide"]: g["lines"] for g in browserless.get("/api/composition").json["guides"]}
    assert set(guides) == {"thirds", "fifths", "golden", "centre", "diagonals", "fine"}
    assert len(guides["thirds"]) == 4


def test_several_pictures_come_as_one_zip(browserless: FlaskClient, set_id: int) -> None:  # noqa: F811
    numbers = [
        send(browserless, set_id, "a.png", as_png(horizon_picture(tilt, width=300, height=200))).json["picture"]["id"]
        for tilt in (0.5, 1.5)
    ]
    started = browserless.post(
        "/api/exports", json={"picture_ids": numbers, "format": "jpeg", "size": {"kind": "long_edge", "pixels": 150}}
    )
    assert started.status_code == 202
    made = started.json["exports"]
    early = browserless.get("/api/exports.zip?ids=" + ",".join(str(e["id"]) for e in [*made, *made]))
    assert early.status_code in (200, 422)
    assert all(finished(browserless, e)["state"] == "done" for e in made)
    packed = browserless.get("/api/exports.zip?ids=" + ",".join(str(e["id"]) for e in made))
    with zipfile.ZipFile(io.BytesIO(packed.data)) as archive:
        assert archive.testzip() is None
        assert archive.namelist() == ["a-levelled.jpg", "a-levelled-2.jpg"]
        assert Image.open(archive.open("a-levelled.jpg")).size == (150, 100)
    assert browserless.get("/api/exports.zip?ids=x").status_code == 422
    assert browserless.get("/api/exports.zip?ids=999999").status_code == 404


def test_several_exports_start_all_or_none(browserless: FlaskClient, picture: dict) -> None:  # noqa: F811
    refused = browserless.post("/api/exports", json={"picture_ids": [picture["id"]], "size": {"kind": "print"}})
    assert refused.status_code == 422
    assert "horizon.png" in refused.json["problem"]
    assert "Nothing was exported" in refused.json["problem"]
    assert browserless.get(f"/api/pictures/{picture['id']}/exports").json["exports"] == []


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"frame": {"keep": {"left": 5000, "top": 0, "right": 6000, "bottom": 90}}}, "outside the picture"),
        ({"frame": {"keep": {"left": 9, "top": 0, "right": 9, "bottom": 90}}}, "at least one pixel"),
        ({"frame": {"ratio": "1:900"}}, "not a usable ratio"),
        ({"frame": {"aim": {"point": [1, 1], "between": ["a", "b"]}}}, "an aim is a point"),
        ({"corners": {"allowance": 1.4}}, "less than or equal to 1"),
        ({"corners": {"colour": "red"}}, "pattern"),
        ({"corners": {"seeds": [0, 1, 1, 1]}}, "greater than or equal to 1"),
    ],
)
def test_frames_that_make_no_sense_are_refused(browserless: FlaskClient, picture: dict, changes: dict, says: str) -> None:  # noqa: F811
    refused = enter(browserless, picture, turned(picture, **changes))
    assert refused.status_code == 422
    assert says in refused.json["problem"]
    assert browserless.get(f"/api/pictures/{picture['id']}").json["entry_id"] == picture["entry_id"]


def test_an_allowance_that_is_too_small_for_the_box_says_what_would_do(browserless: FlaskClient, picture: dict) -> None:  # noqa: F811
    recipe = turned(picture, frame={"keep": {"left": 2, "top": 2, "right": 898, "bottom": 598}}, corners={"allowance": 0.1})
    state = enter(browserless, picture, recipe).json
    (note,) = [n for n in state["solution"]["notes"] if "box to keep" in n["text"]]
    assert "with a fill allowance of 10 %" in note["text"]
    allow = next(a for a in note["actions"] if a["do"] == "allow")
    helped = browserless.post(f"/api/pictures/{state['id']}/act", json={"recipe": state["recipe"], "action": allow}).json
    solved = browserless.post(f"/api/pictures/{state['id']}/solve", json={"recipe": helped}).json
    assert not any("box to keep" in n["text"] for n in solved["notes"])


@pytest.mark.parametrize(
    "address",
    [
        "filled.jpg?entry={e}&seeds=1,2",
        "filled.jpg?entry={e}&seeds=a,b,c,d",
        "filled.jpg?entry={e}&seeds=0,1,1,1",
        "corners/middle.png?entry={e}",
        "corners?entry=999999",
    ],
)
def test_bad_addresses(browserless: FlaskClient, picture: dict, address: str) -> None:  # noqa: F811
    answer = browserless.get(f"/api/pictures/{picture['id']}/{address.format(e=picture['entry_id'])}")
    assert answer.status_code in (404, 422)
    assert answer.json["problem"]


def test_a_fill_is_cancelled_in_the_middle(browserless: FlaskClient, set_id: int, settings) -> None:  # noqa: F811
    noise = np.random.default_rng(1).integers(0, 255, (1200, 1800, 3), np.uint8)
    added = send(browserless, set_id, "noise.png", as_png(noise)).json["picture"]
    state = browserless.get(f"/api/pictures/{added['id']}").json
    state = enter(browserless, state, turned(state, corners={"allowance": 1})).json
    started = browserless.post(f"/api/pictures/{state['id']}/exports", json={"format": "png"}).json
    while browserless.get(f"/api/exports/{started['id']}").json["progress"] < 0.1:
        pass
    browserless.post(f"/api/exports/{started['id']}/cancel")
    done = finished(browserless, started)
    assert done["state"] == "cancelled"
    assert list((settings.data / "exports").iterdir()) == []
    assert browserless.get(f"/api/exports/{started['id']}/file").status_code == 422


def test_a_fill_that_nobody_waits_for_is_given_up(browserless: FlaskClient, set_id: int) -> None:  # noqa: F811
    noise = np.random.default_rng(1).integers(0, 255, (1200, 1800, 3), np.uint8)
    added = send(browserless, set_id, "noise.png", as_png(noise)).json["picture"]
    state = browserless.get(f"/api/pictures/{added['id']}").json
    first = enter(browserless, state, turned(state, corners={"allowance": 1})).json
    second = enter(browserless, first, turned(first, corners={"allowance": 0.01, "method": "colour"})).json
    address = f"/api/pictures/{state['id']}/filled.jpg?entry="
    desk = browserless.application.extensions["sequor"].finishing
    with ThreadPoolExecutor(1) as other:
        overtaken = other.submit(browserless.application.test_client().get, address + str(first["entry_id"]))
        while not desk._lock.locked() and not overtaken.done():
            time.sleep(0.01)
        assert browserless.get(address + str(second["entry_id"])).status_code == 200
        refused = overtaken.result()
    assert refused.status_code == 422
    assert "was given up" in refused.json["problem"]
    assert browserless.get(address + str(first["entry_id"])).status_code == 200
