"""Archives from outside: whatever is in them, an answer in a sentence at a bounded cost, and
nothing of what is refused is left.
"""

import io
import json
import random
import struct
import time
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from sqlalchemy import Engine, text

from sequor.core.errors import UnusableInput
from sequor.making.archives import contents_of
from tests.web.conftest import keep, turn
from tests.web.test_acknowledged import resources_of
from tests.web.test_curating import archived, bring, change_manifest, ledger_of, spoilt


@pytest.fixture
def content(browserless: FlaskClient, picture: dict) -> bytes:
    """An archive of a set with a picture that was turned."""
    keep(browserless, picture, turn(1))
    return archived(browserless, picture["set_id"])


def is_refused(client: FlaskClient, content: bytes) -> str:
    """Why an archive is refused; nothing of it is left."""
    before = client.get("/api/sets").json
    root = resources_of(client).files.root

    def there() -> set[Path]:
        """Thumbnails of what was there before are made when nobody waits for anything."""
        return {
            path for path in root.rglob("*") if path.is_file() and "thumbnails" not in path.parts
        }

    kept = there()
    answer = bring(client, content)
    assert answer.status_code == 422, answer.json
    assert client.get("/api/sets").json == before
    assert there() == kept
    return str(answer.json["problem"])


def edited(content: bytes, edit: Callable[[dict[str, Any]], None]) -> bytes:
    """An archive with its manifest changed by a function."""

    def spoil(files: dict[str, bytes]) -> None:
        manifest = json.loads(files["manifest.json"])
        edit(manifest)
        files["manifest.json"] = json.dumps(manifest).encode()

    return spoilt(content, spoil)


def one_of(manifest: dict[str, Any]) -> dict[str, Any]:
    found: dict[str, Any] = manifest["sets"][0]["pictures"][0]
    return found


def twice(manifest: dict[str, Any]) -> None:
    manifest["sets"][0]["pictures"].append(one_of(manifest))


MANIFESTS: list[tuple[str, Callable[[dict[str, Any]], None], str]] = [
    ("file options", lambda m: one_of(m).update(file_options={"format": "gif"}), "file_options"),
    ("version", twice, "is in it twice"),
    ("head", lambda m: one_of(m).update(head=7), "no entry 7"),
    ("huge head", lambda m: one_of(m).update(head=10**30), "cannot be"),
    ("time", lambda m: one_of(m).update(added_at="9999-12-31T23:00:00-05:00"), "a time in it"),
    ("version number", lambda m: one_of(m).update(version=10**400), "cannot be"),
    ("name", lambda m: m["sets"][0].update(name=["a", "b"]), "not what docs"),
    ("sets", lambda m: m.update(sets={"0": {}}), "not what docs"),
    ("a list", lambda m: m.update(sets=[[]]), "not what docs"),
    ("unknown", lambda m: m.update(more=1), "not what docs"),
    ("not a number", lambda m: one_of(m)["ledger"][0]["recipe"].update(proportion="x"), "propor"),
]


@pytest.mark.parametrize(("name", "edit", "said"), MANIFESTS, ids=[one[0] for one in MANIFESTS])
def test_what_a_manifest_must_not_say(
    browserless: FlaskClient, content: bytes, name: str, edit: Any, said: str
) -> None:
    assert said in is_refused(browserless, edited(content, edit))


def flagged(content: bytes, flags: int | None = None, method: int | None = None) -> bytes:
    """An archive whose members claim to be encrypted, or packed in another way (APPNOTE.TXT 4.3.7
    and 4.3.12).
    """
    made = bytearray(content)
    for signature, at in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        start = made.find(signature)
        while start >= 0:
            if flags is not None:
                made[start + at : start + at + 2] = struct.pack("<H", flags)
            if method is not None:
                made[start + at + 2 : start + at + 4] = struct.pack("<H", method)
            start = made.find(signature, start + 4)
    return bytes(made)


@pytest.mark.parametrize(
    ("how", "said"),
    [
        ({"flags": 1}, "it is encrypted"),
        *(({"method": method}, f"method {method}") for method in (1, 9, 12, 99)),
    ],
    ids=str,
)
def test_how_an_archive_must_not_be_packed(
    browserless: FlaskClient, content: bytes, how: dict[str, int], said: str
) -> None:
    whole = spoilt(content, lambda files: None)
    assert said in is_refused(browserless, flagged(whole, **how))


def places_that_are_read(content: bytes) -> list[int]:
    """Where the data of the members stand that are read: all but the schema's, which is there for
    whoever has the archive and not Sequor (local header: APPNOTE.TXT 4.3.7).
    """
    found: list[int] = []
    for member in zipfile.ZipFile(io.BytesIO(content)).infolist():
        if member.filename.endswith(".schema.json"):
            continue
        name, extra = struct.unpack_from("<HH", content, member.header_offset + 26)
        start = member.header_offset + 30 + name + extra
        found.extend(range(start, start + member.compress_size))
    return found


def test_flipped_bits_are_refused_or_harmless(browserless: FlaskClient, content: bytes) -> None:
    """90 archives with three bits flipped each: never an error of the server's own, and every one
    refused of which a flipped bit stands in what is read, as a checksum stands beside that.
    """
    chance = random.Random(7)
    whole = spoilt(content, lambda files: None)
    read = places_that_are_read(whole)
    anywhere, hits, known = range(len(whole)), 0, set(read)
    for number in range(90):
        damaged = bytearray(whole)
        # Most of an archive so small is the schema, which is not read.
        places = [chance.choice(anywhere if number < 60 else read) for _ in range(3)]
        for place in places:
            damaged[place] ^= 1 << chance.randrange(8)
        answer = bring(browserless, bytes(damaged))
        assert answer.status_code in (201, 422), answer.json
        if any(place in known and damaged[place] != whole[place] for place in places):
            hits += 1
            assert answer.status_code == 422
    assert hits >= 30


@pytest.mark.parametrize(
    "manifest",
    [
        b'{"sets": [' + b"[]," * 3_000_000 + b"[]]}",
        b'{"sets": [{"pictures": [' + b"{}," * 2_000_000 + b"{}]}]}",
        b'{"sets": [{"name": ' + b"[" * 500_000,
        b'{"originals": [' + b'{"sha256": "x"},' * 500_000 + b"1]}",
        b'{"left_out": [' + b'"x",' * 2_000_000 + b'"x"]}',
        b'{"format": ' + b"1" * 5_000_000 + b"}",
    ],
    ids=["sets", "pictures", "deep", "originals", "left out", "digits"],
)
def test_a_small_archive_with_a_large_manifest_costs_little(
    workers: Any, tmp_path: Path, manifest: bytes
) -> None:
    """A manifest packs a thousand times; it was 1.6 GB for 10 MB of it."""
    import tracemalloc

    path = tmp_path / "a.zip"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("manifest.json", manifest)
    told = type("Told", (), {"cancelled": lambda _: False})()
    tracemalloc.start()
    start_s = time.process_time()
    with pytest.raises(UnusableInput, match="cannot be taken in"):
        contents_of(told, None, path)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert time.process_time() - start_s < 5
    assert peak < 50 * 2**20


def test_a_ledger_of_many_entries_comes_in_beside_other_work(
    browserless: FlaskClient, content: bytes
) -> None:
    """1,500 entries are checked in a worker: requests of others go on meanwhile."""
    import threading

    def long(manifest: dict[str, Any]) -> None:
        entry = one_of(manifest)["ledger"][-1]
        one_of(manifest)["ledger"] += [
            {**entry, "parent": n, "recipe": {**entry["recipe"], "proportion": 1 + n / 1e5}}
            for n in range(1, 1501)
        ]
        one_of(manifest)["head"] = 1501

    answers: list[Any] = []
    made = edited(content, long)
    client = browserless.application.test_client()
    client.environ_base |= browserless.environ_base
    thread = threading.Thread(target=lambda: answers.append(bring(client, made)))
    thread.start()
    slowest = 0.0
    while thread.is_alive():
        start = time.monotonic()
        assert browserless.get("/api/sets").status_code == 200
        slowest = max(slowest, time.monotonic() - start)
    assert answers[0].status_code == 201
    assert slowest < 3  # 18 s once
    (brought,) = answers[0].json["sets"]
    (card,) = browserless.get(f"/api/sets/{brought['id']}").json["pictures"]
    entries = ledger_of(browserless, card["id"])
    assert len(entries) == 1502
    state = browserless.get(f"/api/pictures/{card['id']}").json
    assert state["recipe"]["proportion"] == 1.015


def test_names_of_any_script(browserless: FlaskClient, content: bytes) -> None:
    """A set in Polish and Japanese, one with what cannot be seen in its name, and a picture too."""
    names = ["Łódź 写真", "two\nlines\x07"]

    def named(manifest: dict[str, Any]) -> None:
        first = manifest["sets"][0]
        one_of(manifest)["name"] = "夕\n焼け.png"
        manifest["sets"] = [{**first, "name": name} for name in names]

    brought = bring(browserless, edited(content, named)).json["sets"]
    assert [one["name"] for one in brought] == ["Łódź 写真", "two lines"]
    for one in brought:
        answer = browserless.get(f"/api/sets/{one['id']}/archive.zip")
        assert answer.status_code == 200
        shown = answer.headers["Content-Disposition"]
        shown.encode("latin-1")  # what a header may be
        (card,) = browserless.get(f"/api/sets/{one['id']}").json["pictures"]
        recipe = browserless.get(f"/api/pictures/{card['id']}/recipe.json")
        assert recipe.status_code == 200
        recipe.headers["Content-Disposition"].encode("latin-1")
    first = browserless.get(f"/api/sets/{brought[0]['id']}/archive.zip")
    # RFC 6266, 4.3 and RFC 8187: the real name in UTF-8, percent-encoded.
    assert (
        "filename*=UTF-8''%C5%81%C3%B3d%C5%BA%20%E5%86%99%E7%9C%9F.sequor.zip"
        in first.headers["Content-Disposition"]
    )


def test_an_entry_that_cannot_be_read_is_left_out_and_said(
    browserless: FlaskClient, engine: Engine, picture: dict
) -> None:
    first = keep(browserless, picture, turn(1)).json
    middle = keep(browserless, first, turn(1)).json
    last = keep(browserless, middle, turn(1)).json
    with engine.begin() as connection:
        spoil = "UPDATE ledger_entries SET recipe = '{\"version\": 99}' WHERE id = :id"
        connection.execute(text(spoil), {"id": middle["entry_id"]})
    content = archived(browserless, picture["set_id"])
    with zipfile.ZipFile(io.BytesIO(content)) as opened:
        assert "turned" in opened.read("left-out.txt").decode()
        manifest = json.loads(opened.read("manifest.json"))
    assert len(manifest["left_out"]) == 1
    assert [entry["parent"] for entry in one_of(manifest)["ledger"]] == [None, 0, 1]
    (brought,) = bring(browserless, content).json["sets"]
    (card,) = browserless.get(f"/api/sets/{brought['id']}").json["pictures"]
    state = browserless.get(f"/api/pictures/{card['id']}").json
    assert state["recipe"] == last["recipe"]


def test_an_archive_of_the_first_version_still_comes_in(
    browserless: FlaskClient, content: bytes
) -> None:
    def first(files: dict[str, bytes]) -> None:
        manifest = json.loads(files["manifest.json"])
        del manifest["left_out"]
        for original in manifest["originals"]:
            del original["damaged"]
        files["manifest.json"] = json.dumps(manifest).encode()
        change_manifest(files, version=1)

    assert bring(browserless, spoilt(content, first)).status_code == 201
