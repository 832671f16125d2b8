"""Pictures that stay where they lie: opened, gone and back; sidecars and exports beside them."""

import io
import json
import os
from pathlib import Path
from typing import cast

import pytest
from flask.testing import FlaskClient
from PIL import Image
from sqlalchemy import Engine

from sequor.core.recipe import Recipe
from sequor.services import backups, soundness
from sequor.services.beside import put_beside
from sequor.settings import Settings
from sequor.store.files import FileStore
from sequor.web.context import Context
from tests.conftest import horizon_picture
from tests.waiting import until
from tests.web.conftest import finished, keep, level_line, send, turn


@pytest.fixture
def photo(tmp_path: Path) -> Path:
    """A picture in a folder of its photographer."""
    folder = tmp_path / "ridge walk"
    folder.mkdir()
    path = folder / "horizon.png"
    Image.fromarray(horizon_picture(1.33)).save(path)
    path.chmod(0o640)
    return path


@pytest.fixture
def store(browserless: FlaskClient) -> FileStore:
    return context_of(browserless).resources.files


def context_of(client: FlaskClient) -> Context:
    return cast(Context, client.application.extensions["sequor"])


def opened(client: FlaskClient, set_id: int, path: Path, **more: object):
    return client.post(f"/api/sets/{set_id}/opened", json={"path": str(path), **more})


def state_of(client: FlaskClient, answer) -> dict:
    assert answer.status_code in (200, 201), answer.json
    return client.get(f"/api/pictures/{answer.json['picture']['id']}").json


def card_of(client: FlaskClient, set_id: int) -> dict:
    (card,) = client.get(f"/api/sets/{set_id}").json["pictures"]
    return card


def about(path: Path) -> tuple[bytes, int, int]:
    found = path.stat()
    return path.read_bytes(), found.st_mtime_ns, found.st_mode


def test_it_stays_where_it_lies_and_is_not_copied(
    browserless: FlaskClient, set_id: int, photo: Path, store: FileStore
) -> None:
    before = about(photo)
    answer = opened(browserless, set_id, photo)
    state = state_of(browserless, answer)
    assert (answer.status_code, answer.json["known"], answer.json["said"]) == (201, False, "")
    assert state["file"]["opened_from"] == str(photo)
    assert card_of(browserless, set_id)["opened"]
    assert store.sizes_of("originals") == (0, 0)
    kept = keep(browserless, state, level_line()).json
    assert kept["solution"]["stance"]["roll"]["applied_deg"] == pytest.approx(-1.33, abs=0.01)
    done = finished(
        browserless, browserless.post(f"/api/pictures/{state['id']}/exports", json={}).json
    )
    assert (done["state"], done["placed"]) == ("done", None)
    # A version of it, and the same picture in another set, lie there too.
    other = browserless.post("/api/sets", json={"name": "Other"}).json["id"]
    assert opened(browserless, other, photo).status_code == 201
    assert opened(browserless, set_id, photo).json["known"]
    assert about(photo) == before
    assert list(photo.parent.iterdir()) == [photo]


def test_one_that_is_gone_is_said_to_be_and_comes_back(
    browserless: FlaskClient, set_id: int, photo: Path
) -> None:
    state = state_of(browserless, opened(browserless, set_id, photo))
    watch = context_of(browserless).references
    watch.look()
    assert not card_of(browserless, set_id)["lost"]
    away = photo.rename(photo.with_suffix(".away"))
    watch.look()
    card = card_of(browserless, set_id)
    assert (card["lost"], card["state_words"]) == (True, "file gone from its folder")
    asked = browserless.post(f"/api/pictures/{state['id']}/exports", json={}).json
    failed = finished(browserless, asked)
    assert failed["state"] == "failed"
    assert f"is gone from {photo.parent}" in failed["problem"]
    away.rename(photo)
    watch.look()
    assert not card_of(browserless, set_id)["lost"]


def test_one_that_was_changed_is_another_picture(
    browserless: FlaskClient, set_id: int, photo: Path
) -> None:
    opened(browserless, set_id, photo)
    watch = context_of(browserless).references
    watch.look()
    whole = photo.read_bytes()
    Image.fromarray(horizon_picture(2.0)).save(photo)
    watch.look()
    assert card_of(browserless, set_id)["lost"]
    # As it was again, though the clock says otherwise.
    photo.write_bytes(whole)
    watch.look()
    assert not card_of(browserless, set_id)["lost"]


def test_a_folder_that_was_moved_is_opened_again(
    browserless: FlaskClient, set_id: int, photo: Path
) -> None:
    state = state_of(browserless, opened(browserless, set_id, photo))
    kept = keep(browserless, state, turn(1.5)).json
    moved = photo.parent.rename(photo.parent.with_name("archive")) / photo.name
    context_of(browserless).references.look()
    assert card_of(browserless, set_id)["lost"]
    again = state_of(browserless, opened(browserless, set_id, moved))
    assert (again["id"], again["entry_id"]) == (state["id"], kept["entry_id"])
    assert again["file"]["opened_from"] == str(moved)
    assert not card_of(browserless, set_id)["lost"]


def test_nothing_that_tidies_up_takes_the_file(
    browserless: FlaskClient, set_id: int, photo: Path, store: FileStore
) -> None:
    before = about(photo)
    state = state_of(browserless, opened(browserless, set_id, photo))
    (link,) = [path for path in (store.root / "originals").rglob("*") if path.is_symlink()]
    browserless.post("/api/pictures/bin", json={"picture_ids": [state["id"]]})
    assert browserless.post("/api/bin/empty").json["count"] == 1
    assert not link.is_symlink()
    assert store.aside() == []
    # A link that a kill left behind and no row names.
    store.refer_to(photo, "ab" * 32)
    assert store.clean([], []).removed == 1
    assert about(photo) == before


def test_a_backup_has_it_whole(
    browserless: FlaskClient, empty_tables: Engine, set_id: int, photo: Path, store: FileStore
) -> None:
    opened(browserless, set_id, photo)
    folder = photo.parent.parent / "backup"
    folder.mkdir()
    found = soundness.look_over(empty_tables, store)
    assert (found.originals, found.problems, found.orphans) == (1, [], [])
    made = backups.back_up(empty_tables, store, folder)
    assert made is not None
    copies = [path for path in folder.rglob("originals/*/*") if path.is_file()]
    assert [copy.read_bytes() for copy in copies] == [photo.read_bytes()]
    assert not any(copy.is_symlink() for copy in copies)


def test_what_cannot_be_opened_is_refused(
    browserless: FlaskClient, set_id: int, photo: Path, settings: Settings
) -> None:
    text = photo.with_name("notes.png")
    text.write_text("no picture")
    within = settings.data / "within.png"
    within.write_bytes(photo.read_bytes())
    fifo = photo.with_name("pipe.png")
    os.mkfifo(fifo)
    for path, why in (
        (Path("horizon.png"), "the whole path"),
        (photo.with_name("none.png"), "No such file"),
        (photo / "below.png", "Not a directory"),
        (photo.parent, "no file"),
        (fifo, "no file"),
        (within, "own data folder"),
        (text, "notes.png"),
    ):
        refused = opened(browserless, set_id, path)
        assert refused.status_code == 422, path
        assert why in refused.json["problem"]
    assert browserless.get(f"/api/sets/{set_id}").json["pictures"] == []


def test_recipes_beside_the_pictures_are_written_and_read_back(
    browserless: FlaskClient, set_id: int, photo: Path
) -> None:
    before = about(photo)
    state = state_of(browserless, opened(browserless, set_id, photo))
    kept = keep(browserless, state, level_line()).json
    square = {"based_on": kept["entry_id"], "name": "square"}
    edits = [{"do": "choose_ratio", "ratio": "1:1"}]
    browserless.post(f"/api/pictures/{state['id']}/versions", json={**square, "edits": edits})
    written = browserless.post(f"/api/sets/{set_id}/sidecars").json
    assert written == {"written": 1, "refused": []}
    sidecar = photo.with_name("horizon.png.sequor.json")
    assert sidecar.stat().st_mode & 0o777 == 0o640
    assert json.loads(sidecar.read_text())["versions"][0]["recipe"] == kept["recipe"]
    # Another set stands for another machine: nothing of the picture is known there.
    other = browserless.post("/api/sets", json={"name": "Other"}).json["id"]
    again = state_of(browserless, opened(browserless, other, photo))
    assert again["recipe"] == kept["recipe"]
    cards = browserless.get(f"/api/sets/{other}").json["pictures"]
    assert [card["version_name"] for card in cards] == ["", "square"]
    second = browserless.get(f"/api/pictures/{cards[1]['id']}").json
    assert second["recipe"]["frame"]["ratio"] == "1:1"
    # As shot is one undo away, and the next writing takes the place of the one before.
    based = {"based_on": again["entry_id"]}
    assert browserless.post(f"/api/pictures/{again['id']}/undo", json=based).status_code == 200
    assert browserless.post(f"/api/sets/{set_id}/sidecars").json["written"] == 1
    assert about(photo) == before
    assert {path.name for path in photo.parent.iterdir()} == {photo.name, sidecar.name}


@pytest.mark.parametrize(
    ("content", "why"),
    [
        (b"{", "Invalid JSON"),
        (b"[" * 100_000, "Invalid JSON"),
        (b" " * 5_000_000, "too large"),
        (b'{"format": "sequor-sidecar"}', "Field required"),
        ({"width": 901}, "901 x 600"),
        ({"versions": []}, "at least 1 item"),
        ({"versions": [{"recipe": {"trim": {"roll_deg": 1e9}}}]}, "less than"),
    ],
)
def test_a_sidecar_that_cannot_be_taken_is_said_and_the_picture_is_as_shot(
    browserless: FlaskClient, set_id: int, photo: Path, content: bytes | dict, why: str
) -> None:
    if isinstance(content, dict):
        good = {"format": "sequor-sidecar", "format_version": 1, "sha256": "0" * 64}
        good |= {"width": 900, "height": 600, "versions": [{"recipe": {}}]}
        content = json.dumps(good | content).encode()
    photo.with_name("horizon.png.sequor.json").write_bytes(content)
    answer = opened(browserless, set_id, photo)
    assert answer.status_code == 201
    assert "was not taken" in answer.json["said"]
    assert why in answer.json["said"]
    assert state_of(browserless, answer)["recipe"] == Recipe().model_dump(mode="json")


def test_a_sidecar_replaces_nothing_that_is_none(
    browserless: FlaskClient, set_id: int, photo: Path
) -> None:
    opened(browserless, set_id, photo)
    other = photo.with_name("horizon.png.sequor.json")
    other.write_text('{"format": "shopping list"}')
    found = browserless.post(f"/api/sets/{set_id}/sidecars").json
    assert found["written"] == 0
    assert "is no sidecar" in found["refused"][0]
    assert other.read_text() == '{"format": "shopping list"}'


def test_a_set_that_was_copied_in_has_no_place_for_sidecars(
    browserless: FlaskClient, set_id: int, picture: dict
) -> None:
    assert not card_of(browserless, set_id)["opened"]
    refused = browserless.post(f"/api/sets/{set_id}/sidecars")
    assert (refused.status_code, "archive" in refused.json["problem"]) == (422, True)


def exported(client: FlaskClient, picture_id: int, **options: object) -> dict:
    return placed(client, client.post(f"/api/pictures/{picture_id}/exports", json=options).json)


def placed(client: FlaskClient, export: dict) -> dict:
    """An export when its copy has found its place, or none."""

    def there() -> dict | None:
        found = finished(client, export)
        return None if found["placed"] == "" else found

    return until(there)


def test_exports_go_into_a_folder_beside(
    browserless: FlaskClient, set_id: int, photo: Path
) -> None:
    state = state_of(browserless, opened(browserless, set_id, photo))
    done = exported(browserless, state["id"], beside="levelled")
    target = photo.parent / "levelled" / "horizon-levelled.jpg"
    assert done["placed"] == str(target)
    assert f"also in {target}" in done["words"]
    # Who may read the original may read what lies beside it.
    assert target.stat().st_mode & 0o777 == 0o640
    assert target.parent.stat().st_mode == photo.parent.stat().st_mode
    file = browserless.get(f"/api/exports/{done['id']}/file").data
    assert target.read_bytes() == file
    assert Image.open(io.BytesIO(file)).size == (900, 600)
    # What is there stays; the same once more is there already.
    target.write_bytes(b"somebody else's")
    again = exported(browserless, state["id"], beside="levelled", pattern="{name}-levelled")
    assert again["placed"] != str(target)
    assert target.read_bytes() == b"somebody else's"
    assert sorted(path.name for path in target.parent.iterdir())[0] == "horizon-levelled-2.jpg"


def test_a_copy_that_cannot_be_put_there_is_said_and_the_file_is_kept(
    browserless: FlaskClient, set_id: int, photo: Path
) -> None:
    state = state_of(browserless, opened(browserless, set_id, photo))
    photo.with_name("taken").write_text("a file, and no folder")
    done = exported(browserless, state["id"], beside="taken")
    assert (done["state"], done["placed"]) == ("done", None)
    assert "could not be put into" in done["words"]
    assert browserless.get(f"/api/exports/{done['id']}/file").status_code == 200


@pytest.mark.parametrize("folder", ["../up", "a/b", "..", ".hidden.", "/etc", "a\x00b"])
def test_only_a_folder_right_beside(
    browserless: FlaskClient, set_id: int, photo: Path, folder: str
) -> None:
    state = state_of(browserless, opened(browserless, set_id, photo))
    body = {"beside": folder}
    refused = browserless.post(f"/api/pictures/{state['id']}/exports", json=body)
    assert refused.status_code == 422


def test_one_that_was_copied_in_lies_beside_nothing(
    browserless: FlaskClient, picture: dict
) -> None:
    body = {"beside": "levelled"}
    refused = browserless.post(f"/api/pictures/{picture['id']}/exports", json=body)
    assert (refused.status_code, "was copied in" in refused.json["problem"]) == (422, True)


def test_a_place_that_knows_no_second_names(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refuse(*_: object) -> None:
        raise PermissionError(1, "Operation not permitted")

    monkeypatch.setattr(os, "link", refuse)
    made = tmp_path / "1.jpg"
    made.write_bytes(b"made")
    first = put_beside(made, tmp_path / "a.jpg", "out", "a.jpg")
    second = put_beside(made, tmp_path / "a.jpg", "out", "a.jpg")
    assert (first.name, second.name) == ("a.jpg", "a-2.jpg")
    assert len(list(first.parent.iterdir())) == 2


def test_an_upload_of_the_same_file_makes_a_copy_of_one_that_is_gone(
    browserless: FlaskClient, set_id: int, photo: Path, store: FileStore
) -> None:
    content = photo.read_bytes()
    opened(browserless, set_id, photo)
    photo.unlink()
    context_of(browserless).references.look()
    assert send(browserless, set_id, "horizon.png", content).json["known"]
    assert not card_of(browserless, set_id)["lost"]
    assert store.sizes_of("originals")[0] == 1
