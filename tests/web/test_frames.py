"""Frames, fills and files over HTTP.

Print sizes, candidates, the corner check, several exports as one ZIP, and bad input.
"""

import io
import re
import threading
import zipfile
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image

from sequor.making.exports import ExportOptions
from sequor.services.export_desk import ExportDesk
from sequor.services.exports import WantedFiles, ask_for
from sequor.services.reply import Reply
from tests.conftest import horizon_picture
from tests.pictures.test_reading_files import as_png
from tests.web.conftest import draft, finished, keep, send, turn

SOFTWARE = 0x0131


def allow(share: float) -> dict:
    return {"do": "allow_fill", "allowance": share}


def export(client: FlaskClient, state: dict, **options: object) -> tuple[dict, Image.Image]:
    started = client.post(f"/api/pictures/{state['id']}/exports", json=options)
    assert started.status_code == 202, started.json
    done = finished(client, started.json)
    assert done["state"] == "done", done
    return done, Image.open(io.BytesIO(client.get(f"/api/exports/{done['id']}/file").data))


def test_a_print_size_is_exported_with_its_resolution(
    browserless: FlaskClient, picture: dict
) -> None:
    size = {"width": 2, "height": 1.6, "unit": "in", "ppi": 300}
    printed = {"do": "choose_print_size", "size": size}
    state = keep(browserless, picture, turn(-3), printed).json
    words = browserless.post(
        f"/api/pictures/{state['id']}/output",
        json={"entry_id": state["entry_id"], "size": {"kind": "print"}},
    ).json
    assert words["words"].startswith("the picture is reduced to")
    assert (words["width"], words["height"], words["ppi"], words["enlarged"]) == (
        600,
        480,
        300,
        False,
    )
    done, image = export(
        browserless, state, format="tiff", size={"kind": "print"}, pattern="{name}-{width}x{height}"
    )
    assert image.size == (600, 480)
    assert image.info["dpi"] == pytest.approx((300, 300), abs=0.01)
    assert done["file_name"] == "horizon-600x480.tif"
    assert done["empty_pixels"] == 0


def test_enlarging_must_be_asked_for(browserless: FlaskClient, picture: dict) -> None:
    size = {"kind": "long_edge", "pixels": 2000}
    refused = browserless.post(f"/api/pictures/{picture['id']}/exports", json={"size": size})
    assert refused.status_code == 422
    assert "enlarged to 222 %" in refused.json["problem"]
    assert browserless.get(f"/api/pictures/{picture['id']}/exports").json["exports"] == []
    _, image = export(browserless, picture, size={**size, "enlarge": True}, format="png")
    assert image.size == (2000, 1333)


def test_a_fill_is_shown_checked_and_exported(browserless: FlaskClient, picture: dict) -> None:
    calm = {"do": "choose_candidate", "corner": 1, "candidate": {"style": "calm"}}
    state = keep(browserless, picture, turn(-3), allow(0.7), calm).json
    assert [c["style"] for c in state["recipe"]["fill"]["candidates"]] == [
        "sharp",
        "calm",
        "sharp",
        "sharp",
    ]
    share = state["solution"]["cost"]["fill_fraction"]
    assert 0.02 < share < 0.2
    address = f"/api/pictures/{state['id']}"
    images = state["addresses"]["corrected"]
    others = ",".join(["calm.2"] * 4)
    shown = [
        browserless.get(f"{images}/filled.jpg?edge=600{more}").data
        for more in ("", "", f"&candidates={others}", "&quick=true")
    ]
    assert shown[0] == shown[1] != shown[2]
    assert Image.open(io.BytesIO(shown[0])).size[0] == 600
    fill = browserless.get(f"{address}/fill?entry={state['entry_id']}").json
    assert {region["corner"] for region in fill["regions"]} <= {0, 1, 2, 3}
    assert sum(region["share"] for region in fill["regions"]) == pytest.approx(share, abs=0.02)
    assert 0 < fill["doubt"] < 1
    assert fill["doubt_words"].startswith(f"Doubt {round(100 * fill['doubt'])} %")
    for flaw in fill["flaws"]:
        assert 0 <= flaw["x"] <= 1
        assert 0 <= flaw["y"] <= 1
        assert flaw["strength"] >= 1
    check = browserless.get(f"{address}/corners?entry={state['entry_id']}").json
    assert check["empty_pixels"] == 0
    assert check["filled_pixels"] / (check["width"] * check["height"]) == pytest.approx(
        share, abs=0.002
    )
    done, image = export(browserless, state, format="png")
    assert done["filled_share"] == pytest.approx(share, abs=0.002)
    # The file was judged as the screen was.
    assert done["doubt"] == pytest.approx(fill["doubt"], abs=1e-9)
    assert min(done["flaws"], 6) == len(fill["flaws"])
    assert ("stand" in done["words"]) == bool(fill["flaws"])
    assert done["empty_pixels"] == 0
    assert re.match(r"Sequor: [\d.]+ % of the pixels", image.getexif()[SOFTWARE])
    # The corner check shows what is in the file, to the pixel.
    pixels = np.asarray(image.convert("RGB"))
    for place, part in (
        ("top-left", pixels[:112, :112]),
        ("bottom-right", pixels[-112:, -112:]),
        ("right", pixels[:, -24:]),
    ):
        piece = browserless.get(f"{images}/pieces/{place}.png")
        np.testing.assert_array_equal(
            np.asarray(Image.open(io.BytesIO(piece.data)).convert("RGB")), part
        )
    thumbnail = Image.open(io.BytesIO(browserless.get(f"{images}/thumbnail.jpg").data))
    assert np.asarray(thumbnail)[:4, -4:].mean() > 60  # nothing black in a corner that is filled


def test_the_contact_sheet_says_what_is_framed(browserless: FlaskClient, picture: dict) -> None:
    def shown() -> str:
        return browserless.get(f"/api/sets/{picture['set_id']}").json["pictures"][0]["state"]

    assert shown() == "new"
    state = keep(browserless, picture, turn(-3)).json
    assert shown() == "measured"
    assert not state["report"]["steps"]["frame"]["done"]
    state = keep(browserless, state, {"do": "choose_ratio", "ratio": "5:4"}).json
    assert shown() == "framed"
    assert state["report"]["steps"]["frame"]["done"]


def test_transparent_corners(browserless: FlaskClient, picture: dict) -> None:
    clear = {"do": "fill_with", "method": "transparent"}
    state = keep(browserless, picture, turn(-3), allow(1), clear).json
    check = browserless.get(f"/api/pictures/{state['id']}/corners?entry={state['entry_id']}").json
    done, image = export(browserless, state, format="png")
    alpha = np.asarray(image)[:, :, 3]
    assert check["empty_pixels"] == done["empty_pixels"] == int((alpha == 0).sum()) > 0
    # Said once: as what is left open, not as empty and as filled besides.
    share = f"{done['filled_share'] * 100:.1f} %"
    assert done["words"].endswith(f", {share} left transparent")
    white, image = export(browserless, state, format="jpeg")
    assert white["words"].endswith(f", {share} left white")
    assert np.asarray(image)[0, 0].min() > 250


def test_the_list_of_print_sizes_can_be_changed(browserless: FlaskClient) -> None:
    size = {"name": "Long strip", "width": 30, "height": 10, "unit": "cm", "ppi": 254}
    made = browserless.post("/api/print-sizes", json=size)
    assert made.status_code == 201
    assert (made.json["width_px"], made.json["height_px"]) == (3000, 1000)
    changed = browserless.put(
        f"/api/print-sizes/{made.json['id']}", json={**size, "name": "Strip", "height": 12}
    )
    assert changed.json["height_px"] == 1200
    assert [s["name"] for s in browserless.get("/api/print-sizes").json["sizes"]] == ["Strip"]
    assert browserless.delete(f"/api/print-sizes/{made.json['id']}").json["sizes"] == []
    assert browserless.delete(f"/api/print-sizes/{made.json['id']}").status_code == 404
    refused = browserless.post("/api/print-sizes", json={**size, "height": 0.1})
    assert refused.status_code == 422
    assert "50 times" in refused.json["problem"]


def test_the_guides_are_listed(browserless: FlaskClient) -> None:
    guides = {g["guide"]: g["lines"] for g in browserless.get("/api/options").json["guides"]}
    assert set(guides) == {"thirds", "fifths", "golden", "centre", "diagonals", "fine"}
    assert len(guides["thirds"]) == 4


def test_several_pictures_come_as_one_zip(browserless: FlaskClient, set_id: int) -> None:
    numbers = [
        send(
            browserless, set_id, "a.png", as_png(horizon_picture(tilt, width=300, height=200))
        ).json["picture"]["id"]
        for tilt in (0.5, 1.5)
    ]
    started = browserless.post(
        "/api/exports",
        json={
            "picture_ids": numbers,
            "format": "jpeg",
            "size": {"kind": "long_edge", "pixels": 150},
        },
    )
    assert started.status_code == 202
    made = started.json["exports"]
    early = browserless.get(
        "/api/exports.zip?ids=" + ",".join(str(e["id"]) for e in [*made, *made])
    )
    assert early.status_code in (200, 422)
    assert all(finished(browserless, e)["state"] == "done" for e in made)
    packed = browserless.get("/api/exports.zip?ids=" + ",".join(str(e["id"]) for e in made))
    with zipfile.ZipFile(io.BytesIO(packed.data)) as archive:
        assert archive.testzip() is None
        assert archive.namelist() == ["a-levelled.jpg", "a-levelled-2.jpg"]
        assert Image.open(archive.open("a-levelled.jpg")).size == (150, 100)
    assert browserless.get("/api/exports.zip?ids=x").status_code == 422
    assert browserless.get("/api/exports.zip?ids=999999").status_code == 404


def test_several_exports_start_all_or_none(browserless: FlaskClient, picture: dict) -> None:
    refused = browserless.post(
        "/api/exports", json={"picture_ids": [picture["id"]], "size": {"kind": "print"}}
    )
    assert refused.status_code == 422
    assert "horizon.png" in refused.json["problem"]
    assert "Nothing was exported" in refused.json["problem"]
    assert browserless.get(f"/api/pictures/{picture['id']}/exports").json["exports"] == []


def box(left: float, top: float, right: float, bottom: float) -> dict:
    return {"do": "keep_box", "opposite": [[left, top], [right, bottom]]}


@pytest.mark.parametrize(
    ("edit", "says"),
    [
        (box(5000, 0, 6000, 90), "outside the picture"),
        (box(9, 0, 9, 90), "too small"),
        ({"do": "choose_ratio", "ratio": "1:900"}, "not a usable ratio"),
        ({"do": "aim_between", "between": ["a", "a"]}, "two different"),
        (allow(1.4), "less than or equal to 1"),
        ({"do": "choose_colour", "colour": "red"}, "pattern"),
        ({"do": "choose_candidate", "candidate": {"draw": 0}}, "greater than or equal to 1"),
        ({"do": "turn_shape"}, "no sides to change"),
        ({"do": "move_aim", "to": [1, 1]}, "no point to aim at"),
    ],
)
def test_frames_that_make_no_sense_are_refused(
    browserless: FlaskClient, picture: dict, edit: dict, says: str
) -> None:
    refused = keep(browserless, picture, turn(-3), edit)
    assert refused.status_code == 422
    assert says in refused.json["problem"]
    assert browserless.get(f"/api/pictures/{picture['id']}").json["entry_id"] == picture["entry_id"]


def test_an_allowance_that_is_too_small_for_the_box_says_what_would_do(
    browserless: FlaskClient, picture: dict
) -> None:
    state = keep(browserless, picture, turn(-3), box(2, 2, 898, 598), allow(0.1)).json
    (note,) = [n for n in state["report"]["notes"] if "box to keep" in n["text"]]
    assert "with a fill allowance of 10 %" in note["text"]
    more = next(o["edit"] for o in note["offers"] if o["edit"]["do"] == "allow_fill")
    helped = draft(browserless, state, more).json
    assert not any("box to keep" in n["text"] for n in helped["report"]["notes"])


@pytest.mark.parametrize(
    "address",
    [
        "{i}/filled.jpg?candidates=sharp.1,calm.1",
        "{i}/filled.jpg?candidates=a,b,c,d",
        "{i}/filled.jpg?candidates=sharp.0,sharp.1,sharp.1,sharp.1",
        "{i}/pieces/middle.png",
        "/api/pictures/{p}/corners?entry=999999",
    ],
)
def test_bad_addresses(browserless: FlaskClient, picture: dict, address: str) -> None:
    place = address.format(i=picture["addresses"]["corrected"], p=picture["id"])
    answer = browserless.get(place)
    assert answer.status_code in (404, 422)
    assert answer.json["problem"]


def test_pictures_are_numbered_as_the_sheet_shows_them(
    browserless: FlaskClient, picture: dict
) -> None:
    # The picture's number in the database is another one: a set before it has pictures too.
    second = browserless.post("/api/sets", json={"name": "Second"}).json["id"]
    content = [as_png(horizon_picture(tilt, width=120, height=80)) for tilt in (1, 2)]
    added = [send(browserless, second, "x.png", one).json["picture"]["id"] for one in content]
    asked = {"picture_ids": added[::-1], "pattern": "{number}-{name}"}
    made = browserless.post("/api/exports", json=asked).json["exports"]
    names = {e["picture_id"]: finished(browserless, e)["file_name"] for e in made}
    assert [names[number] for number in added] == ["001-x.jpg", "002-x.jpg"]


def test_what_a_stop_interrupted_is_exported_after_the_next_start(
    browserless: FlaskClient, picture: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    # The row that is handed to the worker must be committed: else the worker's own change of it is
    # lost, and it stays queued for ever.
    context = browserless.application.extensions["sequor"]
    wanted = WantedFiles([picture["id"]], ExportOptions(format="png"))
    number = Reply(lambda made: made[0].id)
    with monkeypatch.context() as patched:  # it was stopped before any was begun
        patched.setattr(ExportDesk, "submit", lambda *_: None)
        exports = [ask_for(context.resources, context.exports, wanted, number) for _ in range(5)]
    context.exports.start()
    for number in exports:
        export = browserless.get(f"/api/exports/{number}").json
        assert finished(browserless, export)["state"] == "done"


def test_a_fill_is_cancelled_in_the_middle(browserless: FlaskClient, set_id: int, settings) -> None:
    noise = np.random.default_rng(1).integers(0, 255, (1200, 1800, 3), np.uint8)
    added = send(browserless, set_id, "noise.png", as_png(noise)).json["picture"]
    state = browserless.get(f"/api/pictures/{added['id']}").json
    state = keep(browserless, state, turn(-3), allow(1)).json
    started = browserless.post(f"/api/pictures/{state['id']}/exports", json={"format": "png"}).json
    while browserless.get(f"/api/exports/{started['id']}").json["progress"] < 0.1:
        pass
    browserless.post(f"/api/exports/{started['id']}/cancel")
    done = finished(browserless, started)
    assert done["state"] == "cancelled"
    while browserless.get("/api/health").json["running"]:
        pass
    assert list((settings.data / "exports").iterdir()) == []
    assert browserless.get(f"/api/exports/{started['id']}/file").status_code == 422


def test_a_fill_that_nobody_waits_for_is_given_up(browserless: FlaskClient, set_id: int) -> None:
    noise = np.random.default_rng(1).integers(0, 255, (1200, 1800, 3), np.uint8)
    added = send(browserless, set_id, "noise.png", as_png(noise)).json["picture"]
    state = browserless.get(f"/api/pictures/{added['id']}").json
    one = keep(browserless, state, turn(-3), allow(1)).json["addresses"]["corrected"]
    asked = threading.Event()

    def gone() -> bool:
        asked.set()
        return True

    # The server says by this whether the browser has closed its connection.
    left = {"waitress.client_disconnected": gone}
    refused = browserless.get(f"{one}/filled.jpg", environ_overrides=left)
    assert asked.is_set()
    assert refused.status_code == 422
    assert "was given up" in refused.json["problem"]
    assert browserless.get(f"{one}/filled.jpg").status_code == 200


def test_two_windows_on_one_original_do_not_give_up_each_others_fills(
    browserless: FlaskClient, picture: dict
) -> None:
    first = keep(browserless, picture, turn(-3), allow(1)).json
    second = keep(browserless, first, allow(0.5)).json
    with ThreadPoolExecutor(2) as windows:
        addresses = [f"{s['addresses']['corrected']}/filled.jpg" for s in (first, second)]
        clients = [browserless.application.test_client() for _ in addresses]
        for client in clients:
            client.environ_base |= browserless.environ_base
        answers = list(windows.map(lambda c, a: c.get(a).status_code, clients, addresses))
    assert answers == [200, 200]


def test_what_each_way_with_the_corners_would_cost(browserless: FlaskClient, picture: dict) -> None:
    state = keep(browserless, picture, turn(-4)).json
    address = f"/api/pictures/{state['id']}/corner-ways?entry={state['entry_id']}"
    ways = {one["cost"]["way"]: one for one in browserless.get(address).json["ways"]}
    assert [one["words"]["label"] for one in ways.values()] == ["Crop all", "Bend all", "Fill all"]
    assert any("invents" in words for words in ways["fill"]["words"]["costs"])
    # Nothing was stored; what is taken then is what was said, and the edges are kept with it.
    bent = keep(browserless, state, ways["bend"]["cost"]["edit"]).json
    assert bent["solution"]["kept_fraction"] == ways["bend"]["cost"]["kept_fraction"]
    assert isinstance(bent["recipe"]["bend"]["edges"], list)
    assert bent["report"]["bend"]["done"] == "bent: corners 100 %"
    done, image = export(browserless, bent, format="png")
    frame = bent["solution"]["frame"]
    assert (done["empty_pixels"], done["filled_share"]) == (0, 0)
    assert image.size == (frame["width"], frame["height"])
    check = browserless.get(f"/api/pictures/{state['id']}/corners?entry={bent['entry_id']}").json
    assert (check["empty_pixels"], check["filled_pixels"]) == (0, 0)
    thumbnail = browserless.get(f"{bent['addresses']['corrected']}/thumbnail.jpg")
    small = Image.open(io.BytesIO(thumbnail.data)).size
    assert small[0] / small[1] == pytest.approx(frame["width"] / frame["height"], abs=0.02)
    # A draft of another amount is solved with the same edges.
    half = draft(browserless, bent, {"do": "bend_corners", "share": 0.5}).json
    assert half["recipe"]["bend"]["edges"] == bent["recipe"]["bend"]["edges"]
    assert 0 < half["solution"]["bend"]["corners"] <= 0.5


def test_the_mixture_that_does_the_least_harm_is_taken_by_its_edit(
    browserless: FlaskClient, picture: dict
) -> None:
    state = keep(browserless, picture, turn(2.0)).json
    address = f"/api/pictures/{state['id']}"
    body = {"entry_id": state["entry_id"], "weights": {"bent": "never"}}
    answer = browserless.post(f"{address}/least-harm", json=body)
    assert answer.status_code == 200, answer.json
    found = answer.json
    assert found["words"]["harm"].startswith("Harm ")
    assert "cropping all" in found["words"]["beside"]
    after = keep(browserless, state, found["best"]["edit"]).json
    solution = after["solution"]
    assert solution["cost"]["fill_fraction"] == pytest.approx(found["best"]["fill_fraction"])
    assert solution["kept_fraction"] == pytest.approx(found["best"]["kept_fraction"])
    never = {"lost": "never", "bent": "never", "made_up": "never"}
    refused = browserless.post(
        f"{address}/least-harm", json={"entry_id": state["entry_id"], "weights": never}
    )
    assert refused.status_code == 422
    assert "Nothing is left" in refused.json["problem"]


def test_weightings_are_kept_under_names(browserless: FlaskClient) -> None:
    weights = {"lost": "usual", "bent": "usual", "made_up": "never", "keep_foot": True}
    made = browserless.post("/api/weightings", json={"name": " no  fills ", "weights": weights})
    assert made.status_code == 201
    assert made.json["weightings"] == [
        {"id": made.json["weightings"][0]["id"], "name": "no fills", "weights": weights}
    ]
    again = {**weights, "bent": "little"}
    changed = browserless.post("/api/weightings", json={"name": "no fills", "weights": again}).json
    (one,) = changed["weightings"]
    assert one["weights"] == again
    assert browserless.get("/api/weightings").json == changed
    gone = browserless.delete(f"/api/weightings/{one['id']}")
    assert gone.json == {"weightings": []}
    assert browserless.delete(f"/api/weightings/{one['id']}").status_code == 404
