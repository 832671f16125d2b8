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
from sequor.store.database import migrate
from sequor.store.files import FileStore
from sequor.store.mariadb import PrivateServer, free_port
from sequor.store.models import Base
from tests.web.conftest import finished, keep, level_line, turn


@pytest.fixture(scope="module")
def other(tmp_path_factory: pytest.TempPathFactory) -> Iterator[PrivateServer]:
    """An empty machine's database."""
    with PrivateServer(tmp_path_factory.mktemp("other"), free_port()) as running:
        yield running


@pytest.fixture
def elsewhere(other: PrivateServer, tmp_path: Path) -> Iterator[tuple[Engine, FileStore]]:
    engine = create_engine(other.url)
    with engine.begin() as connection:
        connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
        for (table,) in connection.execute(text("SHOW TABLES")).all():
            connection.execute(text(f"DROP TABLE {table}"))
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
            if table.name != "receipts"
        }


def files_of(store: FileStore) -> dict[str, bytes]:
    return {
        str(path.relative_to(store.root)): path.read_bytes()
        for folder in ("originals", "exports")
        for path in (store.root / folder).rglob("*")
        if path.is_file()
    }


def store_of(client: FlaskClient) -> FileStore:
    return client.application.extensions["sequor"].means.files


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


def test_a_second_backup_copies_what_is_new(
    browserless: FlaskClient, engine: Engine, worked: dict, tmp_path: Path
) -> None:
    files, folder = store_of(browserless), tmp_path / "backup"
    backups.back_up(engine, files, folder)
    before = {path: path.stat().st_mtime_ns for path in (folder / "originals").rglob("*")}
    keep(browserless, worked, turn(0.1))
    again = backups.back_up(engine, files, folder)
    assert (again.copied, again.kept) == (0, 2)
    assert {path: path.stat().st_mtime_ns for path in (folder / "originals").rglob("*")} == before
    assert len(list(folder.glob("database-*"))) == 1
    about = backups.read_backup(folder)
    assert about.tables["ledger_entries"] == 6


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
    before = backups.read_backup(folder)
    export = browserless.post(f"/api/pictures/{worked['id']}/exports", json={}).json
    finished(browserless, export)

    def full(source: Path, target: Path) -> None:
        Path(target).write_bytes(b"half")
        raise OSError(28, os.strerror(28))

    with monkeypatch.context() as patched:
        patched.setattr(shutil, "copyfile", full)
        with pytest.raises(UnusableInput, match=r"No space left.*before is whole"):
            backups.back_up(engine, files, folder)
    assert backups.read_backup(folder) == before
    assert not list(folder.rglob(".partial-*"))
    assert backups.back_up(engine, files, folder).copied == 1


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
    about = json.loads((folder / "backup.json").read_text())

    def refused(match: str) -> None:
        with pytest.raises(UnusableInput, match=match):
            backups.restore(other.url, empty.root, folder)
        assert files_of(empty) == {}

    for change, said in (
        ({"version": 2}, "newer version"),
        ({"files": {"../../etc/passwd": 3}}, "cannot belong to it"),
        ({"files": {"originals/../../x": 3}}, "cannot belong to it"),
        ({"files": {"originals/00/gone": 3}}, "missing or cut off"),
        ({"database": "../x"}, "not that of a backup"),
    ):
        (folder / "backup.json").write_text(json.dumps({**about, **change}))
        refused(said)
    (folder / "backup.json").write_text(json.dumps(about))
    (table,) = folder.glob("database-*/pictures.jsonl")
    table.write_text(table.read_text().replace("horizon", "horizoff"))
    refused("table pictures was changed")


def test_what_is_not_sound_is_found(browserless: FlaskClient, engine: Engine, worked: dict) -> None:
    files = store_of(browserless)
    (original,) = [p for p in (files.root / "originals").rglob("*") if p.is_file()]
    (export,) = (files.root / "exports").iterdir()
    original.chmod(0o600)
    original.write_bytes(b"changed")
    export.rename(export.with_name("77.jpg"))
    with engine.begin() as connection:
        connection.execute(
            text("UPDATE ledger_entries SET recipe = JSON_SET(recipe, '$.ease', 'x') LIMIT 1")
        )
    found = soundness.look_over(engine, files)
    assert len(found.problems) == 3
    assert "was changed on the disk" in found.problems[0]
    assert found.problems[1].startswith("entry ")
    assert "its file is gone" in found.problems[2]
    assert found.orphans == ["exports/77.jpg"]
