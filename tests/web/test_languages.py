"""The language of an answer: by the browser's wish (RFC 9110, 12.5.4), or by what was chosen."""

import gzip
import json

import pytest
from flask.testing import FlaskClient

from tests.conftest import horizon_picture
from tests.pictures.test_reading_files import as_png
from tests.web.conftest import draft, finished, keep, level_line, send, turn

GERMAN = "de-AT,de;q=0.9,en;q=0.5"


@pytest.fixture
def german(browserless: FlaskClient) -> FlaskClient:
    """The same browser, from now on with another wish; reset afterwards by its fixture."""
    browserless.environ_base["HTTP_ACCEPT_LANGUAGE"] = GERMAN
    yield browserless
    del browserless.environ_base["HTTP_ACCEPT_LANGUAGE"]


@pytest.mark.parametrize(
    ("wanted", "chosen", "spoken"),
    [
        (None, None, "en"),
        (GERMAN, None, "de"),
        ("fr,it", None, "en"),
        ("en-GB,de;q=0.2", None, "en"),
        ("nonsense;;q=x,,", None, "en"),
        (GERMAN, "en", "en"),
        (None, "de", "de"),
        (GERMAN, "klingon", "de"),
    ],
)
def test_the_page_is_in_the_language_that_is_wanted(
    browserless: FlaskClient, wanted: str | None, chosen: str | None, spoken: str
) -> None:
    if chosen:
        browserless.set_cookie("sequor-language", chosen)
    answer = browserless.get("/", headers={"Accept-Language": wanted} if wanted else {})
    browserless.delete_cookie("sequor-language")
    assert f'<html lang="{spoken}">' in answer.text
    assert f'<script src="/words/{spoken}.js?' in answer.text
    assert {"Accept-Language", "Cookie"} <= set(answer.vary.to_header().split(", "))


def test_the_words_come_as_a_script(browserless: FlaskClient) -> None:
    answer = browserless.get("/words/de.js")
    assert answer.mimetype == "text/javascript"
    assert "immutable" in answer.headers["Cache-Control"]
    known = json.loads(answer.text.removeprefix("window.spoken = ").removesuffix(";"))
    assert known["languages"] == ["en", "de"]
    assert known["words"]["Undo"] == "Zurücknehmen"
    assert known["words"]["roll"] == "Verkantung"
    assert "there is nothing" not in answer.text
    assert browserless.get("/words/fr.js").status_code == 404


def test_what_is_said_of_a_picture(german: FlaskClient, picture: dict) -> None:
    kept = keep(german, picture, level_line()).json
    assert (
        "herausgenommen" in kept["report"]["lean"]["applied"] or kept["report"]["roll"]["applied"]
    )
    assert kept["report"]["roll"]["as_shot"] == "1,33° rechtsherum"
    assert kept["report"]["cost"]["kept"].startswith("behält ")
    assert kept["what"] == "Waagrechte hinzugefügt"
    typed = draft(german, kept, {"do": "type_angle", "text": "2,5 linksherum"}).json
    assert typed["report"]["roll"]["as_shot"] == "2,50° linksherum"


def test_a_ledger_is_kept_in_english_and_read_in_any(german: FlaskClient, picture: dict) -> None:
    kept = keep(german, picture, level_line()).json
    kept = keep(german, kept, turn(0.25, "lean")).json
    address = f"/api/pictures/{picture['id']}/history"
    said = [entry["what"] for entry in german.get(address).json["entries"]]
    assert {"Waagrechte hinzugefügt", "Neigung von Hand", "wie aufgenommen"} == set(said)
    english = german.get(address, headers={"Accept-Language": "en"}).json["entries"]
    assert {"level reading added", "lean by hand", "as shot"} == {one["what"] for one in english}
    back = {"based_on": kept["entry_id"], "entry_id": picture["entry_id"]}
    german.post(f"/api/pictures/{picture['id']}/return", json=back)
    said = [entry["what"] for entry in german.get(address).json["entries"]]
    assert "zurück zu: wie aufgenommen" in said


def test_what_is_refused(german: FlaskClient, picture: dict, set_id: int) -> None:
    refused = keep(german, picture, {"do": "type_angle", "text": "steil"})
    assert (refused.status_code, refused.json["problem"][:22]) == (422, "„steil“ ist kein Winke")
    assert german.get("/api/pictures/99999").json["problem"] == "Es gibt kein Bild 99999."
    # Said by another process.
    whole = as_png(horizon_picture(1.0))
    broken = send(german, set_id, "x.png", whole[: len(whole) // 2]).json["problem"]
    assert "ist abgebrochen oder beschädigt" in broken
    assert "kein Bild, das Sequor liest" in send(german, set_id, "x.txt", b"words").json["problem"]


def test_an_export_and_what_there_is_to_choose(german: FlaskClient, picture: dict) -> None:
    options = german.get("/api/options").json
    assert [axis["name"] for axis in options["axes"]] == ["Verkantung", "Neigung", "Schwenkung"]
    made = german.post(f"/api/pictures/{picture['id']}/exports", json={"format": "png"}).json
    assert finished(german, made)["words"].endswith("0 leere Pixel")
    assert "behält" in german.get(f"/api/pictures/{picture['id']}/versions").text


def test_a_lens_is_the_same_in_every_language(german: FlaskClient, picture: dict) -> None:
    address = f"/api/pictures/{picture['id']}/lenses?text=nikkor"
    found = german.get(address)
    english = german.get(address, headers={"Accept-Language": "en"})
    assert [one["name"] for one in found.json["lenses"]] == [
        one["name"] for one in english.json["lenses"]
    ]
    name = next(one["name"] for one in found.json["lenses"])
    used = keep(german, picture, {"do": "use_lens", "name": name}).json
    again = german.get(f"/api/pictures/{picture['id']}", headers={"Accept-Language": "en"}).json
    assert used["recipe"]["lens"]["name"] == again["recipe"]["lens"]["name"] == name


def test_sides_of_a_rectangle_are_called_in_the_language(
    german: FlaskClient, picture: dict
) -> None:
    vertices = [[100, 100], [500, 110], [510, 400], [90, 390]]
    placed = keep(german, picture, {"do": "place_rectangle", "group": "g", "vertices": vertices})
    assert placed.json["recipe"]["readings"][0]["name"] == "upper side"
    assert placed.json["report"]["readings"][0]["name"] == "obere Seite"


def test_a_print_begins_with_the_paper_of_the_language(german: FlaskClient) -> None:
    address = "/api/options"
    assert german.get(address).json["print_start"]["unit"] == "cm"
    inches = german.get(address, headers={"Accept-Language": "en"}).json["print_start"]
    assert (inches["width"], inches["height"], inches["unit"]) == (10, 8, "in")


def test_words_are_sent_packed(browserless: FlaskClient) -> None:
    packed = browserless.get("/words/de.js", headers={"Accept-Encoding": "gzip"})
    plain = browserless.get("/words/de.js")
    assert gzip.decompress(packed.data) == plain.data
    assert packed.headers["Content-Encoding"] == "gzip"
    assert len(packed.data) < 40_000


def test_why_an_export_failed_is_kept_in_english_and_read_in_any(
    german: FlaskClient, picture: dict
) -> None:
    resources = german.application.extensions["sequor"].resources
    sha256 = picture["addresses"]["original"].rsplit("/", 1)[1]
    resources.files.original(sha256).unlink()
    made = german.post(f"/api/pictures/{picture['id']}/exports", json={"format": "png"}).json
    failed = finished(german, made)
    assert failed["problem"].startswith(
        "Das Original dieses Bildes ist verschwunden aus: der Datenordner. Sein Rezept"
    )
    english = {"Accept-Language": "en"}
    kept = german.get(f"/api/exports/{made['id']}", headers=english).json["problem"]
    assert kept.startswith("The original of this picture is gone from the data folder. Its recipe")


def test_the_next_answer_is_english_again(browserless: FlaskClient) -> None:
    assert (
        "kein Bild"
        in browserless.get("/api/pictures/99999", headers={"Accept-Language": GERMAN}).json[
            "problem"
        ]
    )
    assert "no picture" in browserless.get("/api/pictures/99999").json["problem"]
