"""Backups into an empty machine: the same afterwards, to the last entry; what cannot be used."""

import json
import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from sqlalchemy import Engine, create_engine, select, text

from sequor.core.errors import UnusableInput
from sequor.services import backups, soundness
from sequor.store.database import clear, migrate
from sequor.store.files import FileStore
from sequor.store.mariadb import PrivateServer, free_port
from sequor.store.models import Base
from tests.installed import in_memory, put_into
from tests.web.conftest import finished, keep, level_line, turn


@pytest.fixture(scope="module")
def other() -> Iterator[PrivateServer]:
    """An empty machine's database."""
    with in_memory() as folder, PrivateServer(put_into(folder), free_port()) as running:
        yield running


@pytest.fixture
def elsewhere(other: PrivateServer, tmp_path: Path) -> Iterator[tuple[Engine, FileStore]]:
    clear(other.url)
    engine = create_engine(other.url)
    yield engine, FileStore(tmp_path / "elsewhere")
    engine.dispose()


@pytest.fixture
def worked(browserless: FlaskClient, picture: dict) -> dict:
    """A picture with a ledger, a branch, a version and an export."""
    state = keep(browserless, picture, level_line()).json
    undone = browserless.post(
        f"/api/pictures/{picture['id']}/undo", json={"based_on": state["entry_id"]}
    ).json
    state = keep(browserless, undone, turn(1.5)).json
    edits = [{"do": "choose_ratio", "ratio": "1:1"}]
    body = {"based_on": state["entry_id"], "name": "square", "edits": edits}
    browserless.post(f"/api/pictures/{picture['id']}/versions", json=body)
    export = browserless.post(f"/api/pictures/{picture['id']}/exports", json={}).json
    assert finished(browserless, export)["state"] == "done"
    return browserless.get(f"/api/pictures/{picture['id']}").json


def rows_of(engine: Engine) -> dict[str, list[tuple]]:
    with engine.connect() as connection:
        return {
            table.name: sorted(map(repr, connection.execute(select(table))))
            for table in Base.metadata.sorted_tables
            if table.name not in ("receipts", "kept_answers")
        }


def files_of(store: FileStore) -> dict[str, bytes]:
    return {
        str(path.relative_to(store.root)): path.read_bytes()
        for folder in ("originals", "exports")
        for path in (store.root / folder).rglob("*")
        if path.is_file()
    }


def store_of(client: FlaskClient) -> FileStore:
    return client.application.extensions["sequor"].resources.files


def test_a_backup_is_restored_to_the_last_entry(
    browserless: FlaskClient,
    engine: Engine,
    worked: dict,
    other: PrivateServer,
    elsewhere: tuple[Engine, FileStore],
    tmp_path: Path,
) -> None:
    files, folder = store_of(browserless), tmp_path / "backup"
    done = backups.back_up(engine, files, folder)
    assert (done.copied, done.kept, done.missing) == (2, 0, [])
    there, empty = elsewhere
    back = backups.restore(other.url, empty.root, folder)
    assert back.copied == 2
    assert rows_of(there) == rows_of(engine)
    assert files_of(empty) == files_of(files)
    found = soundness.look_over(there, empty)
    assert (found.problems, found.orphans) == ([], [])
    assert (found.originals, found.exports) == (1, 1)
    assert found.entries == 5
    migrate(other.url)  # it is a database as any other


def flip(path: Path) -> None:
    """Change a byte, as a disk does."""
    path.chmod(0o600)
    content = bytearray(path.read_bytes())
    content[len(content) // 2] ^= 1
    path.write_bytes(content)


def the_original(store: FileStore) -> Path:
    (found,) = [path for path in (store.root / "originals").rglob("*") if path.is_file()]
    return found


def test_a_second_backup_links_what_is_the_same(
    browserless: FlaskClient, engine: Engine, worked: dict, tmp_path: Path
) -> None:
    files, folder = store_of(browserless), tmp_path / "backup"
    backups.back_up(engine, files, folder)
    keep(browserless, worked, turn(0.1))
    again = backups.back_up(engine, files, folder)
    assert (again.copied, again.kept, again.sound) == (0, 2, True)
    newer, older = backups.generations(folder)
    name = str(the_original(files).relative_to(files.root))
    assert (newer.folder / name).samefile(older.folder / name)
    assert (newer.about.tables["ledger_entries"], older.about.tables["ledger_entries"]) == (6, 5)


def test_a_changed_byte_of_an_original_is_named_and_the_good_copy_kept(
    browserless: FlaskClient, engine: Engine, worked: dict, tmp_path: Path
) -> None:
    files, folder = store_of(browserless), tmp_path / "backup"
    original = the_original(files)
    content, name = original.read_bytes(), str(original.relative_to(files.root))
    backups.back_up(engine, files, folder)
    flip(original)
    done = backups.back_up(engine, files, folder)
    assert (done.damaged, done.sound) == ([name], False)
    for generation in backups.generations(folder):
        assert (generation.folder / name).read_bytes() == content
    # Without a good copy it is left out, and named.
    other = backups.back_up(engine, files, tmp_path / "another")
    assert other.damaged == [name]
    (generation,) = backups.generations(tmp_path / "another")
    assert name not in generation.about.files


def test_what_is_damaged_is_healed_from_a_backup(
    browserless: FlaskClient, engine: Engine, worked: dict, tmp_path: Path
) -> None:
    files, folder = store_of(browserless), tmp_path / "backup"
    original, before = the_original(files), files_of(files)
    backups.back_up(engine, files, folder)
    flip(original)
    (export,) = (files.root / "exports").iterdir()
    export.unlink()
    found = soundness.look_over(engine, files)
    assert len(found.problems) == 2
    assert len(list(soundness.heal(engine, files, folder, found))) == 2
    assert found.problems == []
    assert files_of(files) == before
    assert soundness.look_over(engine, files).problems == []


def test_a_changed_byte_in_the_backup_is_mended_or_refused(
    browserless: FlaskClient,
    engine: Engine,
    worked: dict,
    other: PrivateServer,
    elsewhere: tuple[Engine, FileStore],
    tmp_path: Path,
) -> None:
    files, folder = store_of(browserless), tmp_path / "backup"
    _, empty = elsewhere
    name = str(the_original(files).relative_to(files.root))
    backups.back_up(engine, files, folder)
    (first,) = backups.generations(folder)
    flip(first.folder / name)
    with pytest.raises(UnusableInput, match=f"not whole: {name}"):
        backups.restore(other.url, empty.root, folder)
    done = backups.back_up(engine, files, folder)  # the next one sees it
    assert done.mended == [f"{first.folder.name}/{name}"]
    assert (first.folder / name).read_bytes() == the_original(files).read_bytes()
    (newest, _) = backups.generations(folder)
    (newest.folder / name).unlink()
    back = backups.restore(other.url, empty.root, folder)  # from the generation before
    assert back.mended == [name]
    assert files_of(empty) == files_of(files)


def test_links_in_a_backup_are_not_followed(
    browserless: FlaskClient,
    engine: Engine,
    worked: dict,
    other: PrivateServer,
    elsewhere: tuple[Engine, FileStore],
    tmp_path: Path,
) -> None:
    files, folder = store_of(browserless), tmp_path / "backup"
    backups.back_up(engine, files, folder)
    (generation,) = backups.generations(folder)
    outside = tmp_path / "outside"
    (generation.folder / "originals").rename(outside)
    (generation.folder / "originals").symlink_to(outside)
    with pytest.raises(UnusableInput, match="not whole"):
        backups.restore(other.url, elsewhere[1].root, folder)
    assert files_of(elsewhere[1]) == {}
    (generation.folder / "originals").unlink()
    outside.rename(generation.folder / "originals")
    table = generation.table("pictures")
    table.rename(tmp_path / "pictures.jsonl")
    table.symlink_to(tmp_path / "pictures.jsonl")
    with pytest.raises(UnusableInput, match="a link to somewhere else"):
        backups.restore(other.url, elsewhere[1].root, folder)


def test_generations_are_thinned_out_by_days_and_weeks(
    browserless: FlaskClient, engine: Engine, worked: dict, tmp_path: Path
) -> None:
    files, folder = store_of(browserless), tmp_path / "backup"
    backups.back_up(engine, files, folder)
    (made,) = backups.generations(folder)
    stamps = [f"202611{day:02d}-{hour:02d}0000-000000" for day in range(1, 21) for hour in (9, 18)]
    for stamp in stamps:
        shutil.copytree(made.folder, folder / stamp)
    shutil.rmtree(made.folder)
    backups.back_up(engine, files, folder, retention=backups.Retention(daily=3, weekly=2))
    newest, *left = [one.folder.name for one in backups.generations(folder)]
    assert newest not in stamps
    # 2026-11-20 is a Friday: three last days, and the last of the week before.
    assert left == [
        "20261120-180000-000000",
        "20261119-180000-000000",
        "20261118-180000-000000",
        "20261115-180000-000000",
    ]


def test_a_backup_that_does_not_come_to_its_end_leaves_the_one_before(
    browserless: FlaskClient,
    engine: Engine,
    worked: dict,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """A full disk, in the middle of a file."""
    files, folder = store_of(browserless), tmp_path / "backup"
    backups.back_up(engine, files, folder)
    before = [one.folder.name for one in backups.generations(folder)]
    export = browserless.post(f"/api/pictures/{worked['id']}/exports", json={}).json
    finished(browserless, export)

    def full(source: Path, target: Path) -> None:
        Path(target).write_bytes(b"half")
        raise OSError(28, os.strerror(28))

    with monkeypatch.context() as patched:
        patched.setattr(shutil, "copyfile", full)
        with pytest.raises(UnusableInput, match=r"No space left.*before is whole"):
            backups.back_up(engine, files, folder)
    assert [one.folder.name for one in backups.generations(folder)] == before
    assert backups.back_up(engine, files, folder).copied == 1
    assert not list(folder.glob(".partial-*"))


def test_what_is_no_backup_or_not_whole_is_refused(
    browserless: FlaskClient,
    engine: Engine,
    worked: dict,
    other: PrivateServer,
    elsewhere: tuple[Engine, FileStore],
    tmp_path: Path,
) -> None:
    files, folder = store_of(browserless), tmp_path / "backup"
    _, empty = elsewhere
    with pytest.raises(UnusableInput, match="no finished backup"):
        backups.read_backup(tmp_path / "nowhere")
    with pytest.raises(UnusableInput, match="inside the data folder"):
        backups.back_up(engine, files, files.root / "backup")
    (tmp_path / "full").mkdir()
    (tmp_path / "full" / "thesis.txt").write_text("mine")
    with pytest.raises(UnusableInput, match="other things"):
        backups.back_up(engine, files, tmp_path / "full")
    backups.back_up(engine, files, folder)
    (generation,) = backups.generations(folder)
    path = generation.folder / "backup.json"
    about = json.loads(path.read_text())
    file = {"byte_size": 3, "sha256": "0" * 64}

    def refused(match: str) -> None:
        with pytest.raises(UnusableInput, match=match):
            backups.restore(other.url, empty.root, folder)
        assert files_of(empty) == {}

    for change, said in (
        ({"version": 3}, "newer version"),
        ({"version": "2"}, "not that of a backup"),
        ({"files": {"../../etc/passwd": file}}, "cannot belong to it"),
        ({"files": {"originals/../../x": file}}, "cannot belong to it"),
        ({"files": {"originals/00/gone": file}}, "missing or was changed"),
        ({"tables": {"users": 1}}, "changed or is gone"),
    ):
        path.write_text(json.dumps({**about, **change}))
        refused(said)
    path.write_text(json.dumps(about))
    table = generation.table("pictures")
    table.write_text(table.read_text().replace("horizon", "horizoff"))
    refused("table pictures was changed")


def test_a_backup_of_the_first_version_is_still_restored(
    browserless: FlaskClient,
    engine: Engine,
    worked: dict,
    other: PrivateServer,
    elsewhere: tuple[Engine, FileStore],
    tmp_path: Path,
) -> None:
    """One generation without hashes of its files, as it was written until schema 0008."""
    files, folder = store_of(browserless), tmp_path / "backup"
    backups.back_up(engine, files, folder)
    (made,) = backups.generations(folder)
    about = json.loads((made.folder / "backup.json").read_text())
    old = tmp_path / "old"
    made.folder.rename(old)
    (old / "database").rename(old / "database-20261128")
    sizes = {name: kept["byte_size"] for name, kept in about["files"].items()}
    about |= {"version": 1, "database": "database-20261128", "files": sizes}
    (old / "backup.json").write_text(json.dumps(about))
    there, empty = elsewhere
    assert backups.restore(other.url, empty.root, old).copied == 2
    assert rows_of(there) == rows_of(engine)
    assert files_of(empty) == files_of(files)
    done = backups.back_up(engine, files, old)  # and generations may stand beside it
    assert (done.copied, done.kept) == (0, 2)


def test_what_is_not_sound_is_found(browserless: FlaskClient, engine: Engine, worked: dict) -> None:
    files = store_of(browserless)
    original = the_original(files)
    (export,) = (files.root / "exports").iterdir()
    original.chmod(0o600)
    original.write_bytes(b"changed")
    export.rename(export.with_name("77.jpg"))
    with engine.begin() as connection:
        connection.execute(
            text("UPDATE ledger_entries SET recipe = JSON_SET(recipe, '$.ease', 'x') LIMIT 1")
        )
    found = soundness.look_over(engine, files)
    first, second, third = (problem.words for problem in found.problems)
    assert "was changed on the disk" in first
    assert second.startswith("entry ")
    assert "its file is gone" in third
    assert found.orphans == ["exports/77.jpg"]
