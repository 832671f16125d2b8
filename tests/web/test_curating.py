"""Versions, ledgers opened, carrying over, sets, the bin, storage, archives: over HTTP."""

import io
import json
import zipfile
from datetime import timedelta
from pathlib import Path

import jsonschema
import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image
from sqlalchemy import update

from sequor.services import curating
from sequor.services.archives import manifest_schema
from sequor.store.models import Picture, PictureSet, now
from tests.conftest import ROOT, horizon_picture
from tests.pictures.test_reading_files import as_png
from tests.web.conftest import finished, keep, level_line, send, turn


def series(client: FlaskClient, set_id: int, count: int = 3) -> list[dict]:
    """Pictures of one place of the tripod, each a little darker."""
    states = []
    for number in range(count):
        pixels = horizon_picture(1.33) - np.uint8(number)
        added = send(client, set_id, f"step-{number}.png", as_png(pixels)).json["picture"]
        states.append(client.get(f"/api/pictures/{added['id']}").json)
    return states


def state_of(client: FlaskClient, picture_id: int) -> dict:
    return client.get(f"/api/pictures/{picture_id}").json


def sheet(client: FlaskClient, set_id: int) -> list[dict]:
    return client.get(f"/api/sets/{set_id}").json["pictures"]


def post(client: FlaskClient, address: str, **body: object):
    return client.post(f"/api{address}", json=body)


def test_the_ledger_is_opened_and_gone_back_to(browserless: FlaskClient, picture: dict) -> None:
    first = keep(browserless, picture, turn(1.0)).json
    undone = post(browserless, f"/pictures/{picture['id']}/undo", based_on=first["entry_id"]).json
    second = keep(browserless, undone, turn(2.0)).json
    history = browserless.get(f"/api/pictures/{picture['id']}/history").json
    assert history["head_id"] == second["entry_id"]
    assert [entry["depth"] for entry in history["entries"]] == [0, 1, 0]
    assert [entry["parent_id"] for entry in history["entries"]] == [
        None,
        picture["entry_id"],
        picture["entry_id"],
    ]
    looked = browserless.get(f"/api/pictures/{picture['id']}/entries/{first['entry_id']}").json
    assert looked["solution"]["homography"] == first["solution"]["homography"]
    assert state_of(browserless, picture["id"])["entry_id"] == second["entry_id"]
    back = post(
        browserless,
        f"/pictures/{picture['id']}/return",
        based_on=second["entry_id"],
        entry_id=first["entry_id"],
    ).json
    assert (back["recipe"], back["what"]) == (first["recipe"], "back to: turned by hand")
    again = post(browserless, f"/pictures/{picture['id']}/undo", based_on=back["entry_id"]).json
    assert again["entry_id"] == second["entry_id"]
    stale = post(
        browserless,
        f"/pictures/{picture['id']}/return",
        based_on=first["entry_id"],
        entry_id=picture["entry_id"],
    )
    assert stale.status_code == 409


def test_versions_have_ledgers_of_their_own(browserless: FlaskClient, picture: dict) -> None:
    state = keep(browserless, picture, level_line()).json
    made = [
        post(
            browserless,
            f"/pictures/{picture['id']}/versions",
            based_on=state["entry_id"],
            name=name,
            edits=[{"do": "choose_ratio", "ratio": ratio}],
        ).json["id"]
        for name, ratio in (("for print", "5:4"), ("square", "1:1"))
    ]
    found = browserless.get(f"/api/pictures/{picture['id']}/versions").json["versions"]
    assert [version["id"] for version in found] == [picture["id"], *made]
    assert [version["ratio"] for version in found] == ["original", "5:4", "1:1"]
    assert found[2]["width"] == found[2]["height"]
    square = state_of(browserless, made[1])
    keep(browserless, square, turn(0.5))
    assert state_of(browserless, picture["id"])["recipe"] == state["recipe"]
    undone = post(
        browserless,
        f"/pictures/{made[1]}/undo",
        based_on=state_of(browserless, made[1])["entry_id"],
    )
    assert undone.json["recipe"] == square["recipe"]
    cards = sheet(browserless, picture["set_id"])
    assert [card["version_name"] for card in cards] == ["", "for print", "square"]
    assert len({card["group"] for card in cards}) == 1
    renamed = browserless.patch(f"/api/pictures/{made[0]}/version", json={"name": "lab"}).json
    assert renamed["name"] == "lab"
    assert post(browserless, "/pictures/bin", picture_ids=made).json["count"] == 2
    assert len(browserless.get(f"/api/pictures/{picture['id']}/versions").json["versions"]) == 1
    refused = browserless.get(f"/api/pictures/{made[0]}")
    assert (refused.status_code, "in the bin" in refused.json["problem"]) == (404, True)


def carried(client: FlaskClient, state: dict, parts: list[str], targets: list[dict], **more):
    return post(
        client,
        f"/pictures/{state['id']}/carry",
        based_on=state["entry_id"],
        parts=parts,
        targets=[{"picture_id": one["id"], "entry_id": one["entry_id"]} for one in targets],
        **more,
    )


def test_a_series_is_carried_over_and_undone_as_one(browserless: FlaskClient, set_id: int) -> None:
    first, *others = series(browserless, set_id)
    first = keep(browserless, first, level_line(), {"do": "choose_ratio", "ratio": "16:9"}).json
    parts = ["focal", "lens", "stance", "shape", "place"]
    looked = post(
        browserless,
        f"/pictures/{first['id']}/carry/look",
        based_on=first["entry_id"],
        parts=parts,
        picture_ids=[other["id"] for other in others],
    ).json["pictures"]
    assert [one["changes"] for one in looked] == [True, True]
    assert looked[0]["kept_after"] == first["solution"]["kept_fraction"]
    assert state_of(browserless, others[0]["id"]) == others[0]
    done = carried(browserless, first, parts, others).json
    assert done["count"] == 2
    for other in others:
        now_holds = state_of(browserless, other["id"])
        assert now_holds["solution"]["homography"] == first["solution"]["homography"]
        assert now_holds["solution"]["frame"] == first["solution"]["frame"]
        assert "carried over from step-0.png" in now_holds["what"]
    # What was done since stays; the rest is undone as one.
    changed = keep(browserless, state_of(browserless, others[1]["id"]), turn(1.0)).json
    undone = post(browserless, f"/acts/{done['act_id']}/undo").json
    assert undone == {"count": 1, "changed": ["step-2.png"]}
    assert state_of(browserless, others[0]["id"])["entry_id"] == others[0]["entry_id"]
    assert state_of(browserless, others[1]["id"])["entry_id"] == changed["entry_id"]
    assert browserless.post("/api/acts/999/undo").status_code == 404


def test_carrying_over_is_all_or_nothing(browserless: FlaskClient, set_id: int) -> None:
    first, second, third = series(browserless, set_id)
    first = keep(browserless, first, level_line()).json
    moved_on = keep(browserless, third, turn(1.0)).json
    refused = carried(browserless, first, ["stance"], [second, third])
    assert refused.status_code == 409
    assert state_of(browserless, second["id"])["entry_id"] == second["entry_id"]
    assert state_of(browserless, third["id"])["entry_id"] == moved_on["entry_id"]
    # A part that is named often is one part all the same.
    often = carried(browserless, first, ["stance"] * 12, [second])
    assert often.status_code == 201
    second = state_of(browserless, second["id"])
    nothing = carried(browserless, first, [], [second])
    assert (nothing.status_code, "Nothing would change" in nothing.json["problem"]) == (422, True)


def test_file_choices_are_carried_and_undone(browserless: FlaskClient, set_id: int) -> None:
    first, second, _ = series(browserless, set_id)
    options = {"format": "png", "size": {"kind": "long_edge", "pixels": 300}}
    export = post(browserless, f"/pictures/{first['id']}/exports", **options).json
    assert finished(browserless, export)["state"] == "done"
    done = carried(browserless, first, [], [second], files=True).json
    assert state_of(browserless, second["id"])["file_options"]["format"] == "png"
    post(browserless, f"/acts/{done['act_id']}/undo")
    assert state_of(browserless, second["id"])["file_options"] is None


def test_sets_are_renamed_ordered_merged_and_split(browserless: FlaskClient, set_id: int) -> None:
    states = series(browserless, set_id)
    other = post(browserless, "/sets", name="Harbour").json["id"]
    changed = browserless.patch(f"/api/sets/{other}", json={"name": "Quay", "description": "May"})
    assert (changed.json["name"], changed.json["description"]) == ("Quay", "May")
    assert browserless.patch(f"/api/sets/{other}", json={"name": "Trial"}).status_code == 422
    ordered = browserless.put("/api/sets/order", json={"set_ids": [other, set_id]}).json["sets"]
    assert [one["name"] for one in ordered] == ["Quay", "Trial"]
    ids = [state["id"] for state in states]
    moved = post(browserless, "/pictures/move", picture_ids=ids[:1], set_id=other)
    assert moved.json["count"] == 1
    copied = post(browserless, "/pictures/copy", picture_ids=ids[:2], set_id=other)
    assert copied.json["count"] == 2
    cards = sheet(browserless, other)
    # A copy into a set that has the original already is another version of it.
    assert [card["version_name"] for card in cards] == ["", "from Quay, copied", ""]
    split = post(browserless, f"/sets/{other}/split", picture_ids=[ids[0]], name="Apart").json
    assert split["pictures"] == 1  # versions of one picture are counted as one everywhere
    merged = post(browserless, f"/sets/{split['id']}/merge", into_id=set_id)
    assert merged.json["count"] == 2
    names = [one["name"] for one in browserless.get("/api/sets").json["sets"]]
    assert names == ["Quay", "Trial"]
    assert len(sheet(browserless, set_id)) == 4
    assert post(browserless, f"/sets/{set_id}/merge", into_id=set_id).status_code == 422


def test_a_copy_has_the_whole_ledger(browserless: FlaskClient, picture: dict) -> None:
    turned = keep(browserless, picture, turn(1.0)).json
    post(browserless, f"/pictures/{picture['id']}/undo", based_on=turned["entry_id"])
    other = post(browserless, "/sets", name="Copies").json["id"]
    post(browserless, "/pictures/copy", picture_ids=[picture["id"]], set_id=other)
    (copy,) = sheet(browserless, other)
    state = state_of(browserless, copy["id"])
    assert (state["recipe"], state["can_redo"]) == (picture["recipe"], True)
    redone = post(browserless, f"/pictures/{copy['id']}/redo", based_on=state["entry_id"]).json
    assert redone["recipe"] == turned["recipe"]


def test_the_bin_gives_back_whole(browserless: FlaskClient, picture: dict) -> None:
    state = keep(browserless, picture, level_line()).json
    export = post(browserless, f"/pictures/{picture['id']}/exports", format="jpeg").json
    export = finished(browserless, export)
    post(browserless, "/pictures/bin", picture_ids=[picture["id"]])
    assert sheet(browserless, picture["set_id"]) == []
    found = browserless.get("/api/bin").json
    assert [one["name"] for one in found["pictures"]] == ["horizon.png"]
    back = post(browserless, "/bin/restore", picture_ids=[picture["id"]])
    assert back.json["count"] == 1
    assert {**state_of(browserless, picture["id"]), "said": ""} == {
        **state,
        "file_options": export_options(browserless, picture),
    }
    assert browserless.get(f"/api/exports/{export['id']}/file").status_code == 200
    # A file that is in the bin and comes in again comes back with all that was decided.
    post(browserless, "/pictures/bin", picture_ids=[picture["id"]])
    again = send(browserless, picture["set_id"], "h.png", as_png(horizon_picture(1.33)))
    assert (again.status_code, again.json["picture"]["id"]) == (200, picture["id"])
    assert state_of(browserless, picture["id"])["recipe"] == state["recipe"]


def export_options(client: FlaskClient, picture: dict) -> dict:
    return state_of(client, picture["id"])["file_options"]


def test_a_set_in_the_bin_leaves_its_name_and_comes_back_beside_it(
    browserless: FlaskClient, picture: dict
) -> None:
    set_id = picture["set_id"]
    assert browserless.delete(f"/api/sets/{set_id}").json["count"] == 1
    assert browserless.get(f"/api/sets/{set_id}").status_code == 404
    assert browserless.get(f"/api/pictures/{picture['id']}").status_code == 404
    post(browserless, "/sets", name="Trial")
    post(browserless, "/bin/restore", set_ids=[set_id])
    names = [one["name"] for one in browserless.get("/api/sets").json["sets"]]
    assert names == ["Trial 2", "Trial"]
    assert state_of(browserless, picture["id"])["entry_id"] == picture["entry_id"]


def test_emptying_the_bin_removes_what_nothing_needs(
    browserless: FlaskClient, picture: dict
) -> None:
    resources = browserless.application.extensions["sequor"].resources
    other = post(browserless, "/sets", name="Copies").json["id"]
    post(browserless, "/pictures/copy", picture_ids=[picture["id"]], set_id=other)
    sha256 = picture["addresses"]["original"].rsplit("/", 1)[1]
    export = finished(
        browserless, post(browserless, f"/pictures/{picture['id']}/exports", format="png").json
    )
    file = resources.files.export(export["id"], ".png")
    assert file.exists()
    post(browserless, "/pictures/bin", picture_ids=[picture["id"]])
    curating.clear_old_bin(resources, now() - timedelta(days=30))  # nothing goes before its time
    assert file.exists()
    assert post(browserless, "/bin/empty").json["count"] == 1
    assert not file.exists()
    assert resources.files.original(sha256).exists()  # the copy needs it
    (copy,) = sheet(browserless, other)
    browserless.delete(f"/api/sets/{other}")
    assert post(browserless, "/bin/empty").json["count"] == 1
    assert not resources.files.original(sha256).exists()
    assert not list((resources.files.root / "thumbnails").rglob("*.jpg"))
    assert browserless.get(f"/api/pictures/{copy['id']}").status_code == 404
    assert browserless.get("/api/bin").json["sets"] == []


def test_what_is_old_goes_by_itself_and_budgets_are_kept(
    browserless: FlaskClient, picture: dict
) -> None:
    resources = browserless.application.extensions["sequor"].resources
    long_ago = now() - timedelta(days=31)

    def age(session) -> None:
        session.execute(update(Picture).values(binned_at=long_ago))

    resources.database.write(age)
    original = resources.files.original(picture["addresses"]["original"].rsplit("/", 1)[1])
    content = original.read_bytes()
    curating.tidy_regularly(resources)
    assert browserless.get("/api/bin").json["pictures"] == []
    # Its original is set aside: nobody but a person deletes one.
    (aside,) = browserless.get("/api/quarantine").json["files"]
    assert aside["came_as"] == "horizon.png"
    assert resources.files.aside_file(aside["name"]).read_bytes() == content
    assert not original.exists()
    proxies = resources.files.root / "proxies"
    for number in range(4):
        (proxies / f"{number}.jpg").write_bytes(b"x" * 1000)
    assert resources.files.trim_below("proxies", 2500) == 2
    assert sum(path.stat().st_size for path in proxies.iterdir()) <= 2500
    with pytest.raises(AssertionError):
        resources.files.trim_below("originals", 0)


def test_what_is_kept_is_said(browserless: FlaskClient, picture: dict) -> None:
    found = browserless.get("/api/storage").json
    lines = {line["name"]: line for line in found["lines"]}
    assert lines["originals"]["size"] == picture["file"]["byte_size"]
    assert lines["proxies"]["most"] > 0
    assert lines["originals"]["most"] is None
    assert lines["database"]["size"] > 0
    assert found["free"] > 0


def test_exports_of_all_pictures(browserless: FlaskClient, set_id: int) -> None:
    first, second, _ = series(browserless, set_id)
    made = [
        finished(browserless, post(browserless, f"/pictures/{one['id']}/exports").json)
        for one in (first, second)
    ]
    listed = browserless.get("/api/exports").json["exports"]
    assert [one["picture_name"] for one in listed] == ["step-1.png", "step-0.png"]
    page = browserless.get(f"/api/exports?before={made[1]['id']}&limit=1").json["exports"]
    assert [one["id"] for one in page] == [made[0]["id"]]
    again = post(browserless, f"/exports/{made[0]['id']}/again").json
    again = finished(browserless, again)
    bytes_of = [
        browserless.get(f"/api/exports/{number}/file").data
        for number in (made[0]["id"], again["id"])
    ]
    assert bytes_of[0] == bytes_of[1]
    assert post(browserless, "/exports/clear", older_days=1).json["count"] == 0
    assert post(browserless, "/exports/clear", ids=[made[0]["id"]]).json["count"] == 1
    assert browserless.get(f"/api/exports/{made[0]['id']}").status_code == 404
    assert post(browserless, "/exports/clear").status_code == 422


def test_presets(browserless: FlaskClient) -> None:
    options: dict = {"format": "jpeg", "size": {"kind": "long_edge", "pixels": 2048}}
    kept = post(browserless, "/presets", name="screen 2048", options=options).json["presets"]
    assert kept[0]["options"]["size"]["pixels"] == 2048
    options["quality"] = 80
    kept = post(browserless, "/presets", name=" screen  2048 ", options=options).json["presets"]
    assert [(one["name"], one["options"]["quality"]) for one in kept] == [("screen 2048", 80)]
    assert browserless.delete(f"/api/presets/{kept[0]['id']}").json["presets"] == []
    wrong = {"pattern": "{nonsense}"}
    assert post(browserless, "/presets", name="x", options=wrong).status_code == 422


def test_a_recipe_is_saved_and_opened(browserless: FlaskClient, set_id: int) -> None:
    first, second, _ = series(browserless, set_id)
    first = keep(browserless, first, level_line()).json
    saved = browserless.get(f"/api/pictures/{first['id']}/recipe.json")
    assert "step-0.sequor.json" in saved.headers["Content-Disposition"]
    opened = keep(browserless, second, {"do": "open_recipe", "recipe": saved.json}).json
    assert (opened["recipe"], opened["what"]) == (first["recipe"], "recipe opened")
    nonsense = keep(browserless, opened, {"do": "open_recipe", "recipe": {"ease": 7}})
    assert nonsense.status_code == 422


def archived(client: FlaskClient, set_id: int) -> bytes:
    answer = client.get(f"/api/sets/{set_id}/archive.zip")
    assert answer.status_code == 200
    return answer.data


def bring(client: FlaskClient, content: bytes):
    return client.post("/api/archives", data={"file": (io.BytesIO(content), "set.zip")})


def ledger_of(client: FlaskClient, picture_id: int) -> list[tuple]:
    """A ledger without the numbers that only this database knows."""
    history = client.get(f"/api/pictures/{picture_id}/history").json
    places = {entry["id"]: place for place, entry in enumerate(history["entries"])}
    return [
        (
            places.get(entry["parent_id"]),
            *(entry[name] for name in ("what", "created_at", "kept_fraction", "thumbnail")),
            entry["id"] == history["head_id"],
        )
        for entry in history["entries"]
    ]


def test_an_archive_comes_back_to_the_last_entry(browserless: FlaskClient, picture: dict) -> None:
    """Into an empty machine: the bin is emptied, so that nothing of it is there any more."""
    state = keep(browserless, picture, level_line()).json
    undone = post(browserless, f"/pictures/{picture['id']}/undo", based_on=state["entry_id"]).json
    state = keep(browserless, undone, turn(1.5)).json
    body = {"based_on": state["entry_id"], "name": "square"}
    edits = [{"do": "choose_ratio", "ratio": "1:1"}]
    version = post(browserless, f"/pictures/{picture['id']}/versions", **body, edits=edits).json
    browserless.patch(f"/api/sets/{picture['set_id']}", json={"description": "by the river"})
    before = [ledger_of(browserless, number) for number in (picture["id"], version["id"])]
    content = archived(browserless, picture["set_id"])
    with zipfile.ZipFile(io.BytesIO(content)) as opened:
        manifest = json.loads(opened.read("manifest.json"))
        schema = json.loads(opened.read("manifest.schema.json"))
        jsonschema.validate(manifest, schema)
        (original,) = manifest["originals"]
        assert opened.read(f"originals/{original['sha256']}") == as_png(horizon_picture(1.33))
    browserless.delete(f"/api/sets/{picture['set_id']}")
    post(browserless, "/bin/empty")
    brought = bring(browserless, content)
    assert brought.status_code == 201
    (found,) = brought.json["sets"]
    assert (found["name"], found["description"]) == ("Trial", "by the river")
    cards = sheet(browserless, found["id"])
    assert [card["version_name"] for card in cards] == ["", "square"]
    assert [ledger_of(browserless, card["id"]) for card in cards] == before
    assert state_of(browserless, cards[0]["id"])["solution"] == state["solution"]
    # Beside what is there already it is a set of its own.
    (again,) = bring(browserless, content).json["sets"]
    assert again["name"] == "Trial 2"


def test_an_archive_of_some_pictures_has_all_their_versions(
    browserless: FlaskClient, set_id: int
) -> None:
    first, second, _ = series(browserless, set_id)
    path = f"/pictures/{first['id']}/versions"
    post(browserless, path, based_on=first["entry_id"], name="square")
    content = browserless.get(f"/api/pictures.zip?ids={first['id']},{second['id']}").data
    with zipfile.ZipFile(io.BytesIO(content)) as opened:
        (one,) = json.loads(opened.read("manifest.json"))["sets"]
    assert [picture["version_name"] for picture in one["pictures"]] == ["", "square", ""]


def spoilt(content: bytes, spoil) -> bytes:
    """An archive with its files changed by a function."""
    with zipfile.ZipFile(io.BytesIO(content)) as opened:
        files = {name: opened.read(name) for name in opened.namelist()}
    spoil(files)
    made = io.BytesIO()
    with zipfile.ZipFile(made, "w", zipfile.ZIP_DEFLATED) as out:
        for name, data in files.items():
            out.writestr(name, data)
    return made.getvalue()


def original_in(files: dict[str, bytes]) -> str:
    return next(name for name in files if name.startswith("originals/"))


def change_manifest(files: dict[str, bytes], **changes: object) -> None:
    manifest = {**json.loads(files["manifest.json"]), **changes}
    files["manifest.json"] = json.dumps(manifest).encode()


def wrong_checksum(files: dict[str, bytes]) -> None:
    name = original_in(files)
    files[name] = files[name][:-9] + b"x" * 9


def bomb(files: dict[str, bytes]) -> None:
    files[original_in(files)] = b"\0" * 50_000_000


def recipe_that_cannot_be(files: dict[str, bytes]) -> None:
    manifest = json.loads(files["manifest.json"])
    manifest["sets"][0]["pictures"][0]["ledger"][0]["recipe"]["ease"] = {"roll": 7}
    files["manifest.json"] = json.dumps(manifest).encode()


def loop(files: dict[str, bytes]) -> None:
    manifest = json.loads(files["manifest.json"])
    manifest["sets"][0]["pictures"][0]["ledger"][0]["parent"] = 0
    files["manifest.json"] = json.dumps(manifest).encode()


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (wrong_checksum, "not what its checksum says"),
        (bomb, "has not the size"),
        (lambda files: files.update({"../../evil.sh": b"#!"}), "does not list"),
        (lambda files: change_manifest(files, version=3), "newer Sequor"),
        (lambda files: change_manifest(files, version="x"), "not what docs"),
        (lambda files: files.pop("manifest.json"), "no manifest.json"),
        (lambda files: files.pop(original_in(files)), "original is missing"),
        (recipe_that_cannot_be, "not what docs"),
        (loop, "not in order"),
    ],
    ids=lambda value: getattr(value, "__name__", value)[:20],
)
def test_an_archive_that_is_not_what_it_says_is_refused_whole(
    browserless: FlaskClient, picture: dict, spoil, said: str
) -> None:
    content = spoilt(archived(browserless, picture["set_id"]), spoil)
    browserless.delete(f"/api/sets/{picture['set_id']}")
    post(browserless, "/bin/empty")
    resources = browserless.application.extensions["sequor"].resources
    refused = bring(browserless, content)
    assert refused.status_code == 422
    assert said in refused.json["problem"]
    assert "Nothing of it was kept" in refused.json["problem"]
    assert browserless.get("/api/sets").json["sets"] == []
    assert not list((resources.files.root / "incoming").iterdir())
    assert not [p for p in (resources.files.root / "originals").rglob("*") if p.is_file()]


def test_something_else_is_no_archive(browserless: FlaskClient) -> None:
    refused = bring(browserless, b"PK but no zip")
    assert (refused.status_code, "no ZIP file" in refused.json["problem"]) == (422, True)


def test_the_schema_of_the_manifest_in_the_documents_is_that_of_the_program() -> None:
    assert (ROOT / "docs" / "archive.schema.json").read_text() == manifest_schema()


def test_when_a_picture_was_taken_is_read_from_its_file(
    browserless: FlaskClient, set_id: int, tmp_path: Path
) -> None:
    exif = Image.Exif()
    exif.get_ifd(0x8769)[0x9003] = "2026:05:17 06:41:03"
    Image.fromarray(horizon_picture(0.5)).save(tmp_path / "a.jpg", exif=exif)
    content = (tmp_path / "a.jpg").read_bytes()
    card = send(browserless, set_id, "a.jpg", content).json["picture"]
    assert card["taken_at"] == "2026-05-17T06:41:03"
    assert (card["version"], card["told"]) == (1, "unread")


def test_sets_of_the_bin_are_not_counted(browserless: FlaskClient, picture: dict) -> None:
    resources = browserless.application.extensions["sequor"].resources
    with resources.database.reading() as session:
        assert session.get(PictureSet, picture["set_id"]).live == 1
    browserless.delete(f"/api/sets/{picture['set_id']}")
    with resources.database.reading() as session:
        assert session.get(PictureSet, picture["set_id"]).live is None
