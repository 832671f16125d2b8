"""A database that others look after: `SEQUOR_DATABASE`."""

import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest
from click.testing import CliRunner
from sqlalchemy import text

from sequor.core.errors import UnusableInput
from sequor.settings import Settings, settings_from_environment
from sequor.store.database import clear, connect, is_empty, migrate, require_current
from sequor.store.failures import DatabaseProblem
from sequor.store.mariadb import PrivateServer, free_port, port_is_free
from sequor.upkeep.command import upkeep
from tests.conftest import ROOT, horizon_picture
from tests.installed import in_memory, put_into
from tests.pictures.test_reading_files import as_png
from tests.running import Application
from tests.waiting import until


@pytest.fixture(scope="module")
def server() -> Iterator[PrivateServer]:
    """Somebody's MariaDB."""
    with in_memory() as folder, PrivateServer(put_into(folder), free_port()) as running:
        yield running


@pytest.fixture
def url(server: PrivateServer) -> str:
    """Of an empty database of theirs."""
    clear(server.url)
    assert is_empty(server.url)
    return server.url


def run(command: str, url: str, data: Path, *more: str) -> subprocess.Popen[str]:
    environment = {**os.environ, "SEQUOR_DATABASE": url, "SEQUOR_DATA": str(data)}
    return subprocess.Popen(
        [sys.executable, "-m", "sequor.upkeep", command, *more],
        cwd=ROOT,
        env=environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    )


def test_tables_are_brought_up_to_date_by_a_command_and_two_take_turns(
    url: str, tmp_path: Path
) -> None:
    engine = connect(url)
    try:
        with pytest.raises(DatabaseProblem, match="bin/sequor migrate"):
            require_current(engine)
        both = [run("migrate", url, tmp_path) for _ in range(2)]
        for one in both:
            said, problem = one.communicate()
            assert one.returncode == 0, problem
            assert "those of this version" in said
        require_current(engine)
        with engine.begin() as connection:
            connection.execute(text("UPDATE alembic_version SET version_num = '0001'"))
        with pytest.raises(DatabaseProblem, match="not those of this version"):
            require_current(engine)
    finally:
        engine.dispose()


def test_the_upgrade_waits_for_another_one(url: str, monkeypatch: pytest.MonkeyPatch) -> None:
    engine = connect(url)
    with engine.connect() as holds:
        assert holds.scalar(text("SELECT GET_LOCK(CONCAT('sequor ', DATABASE()), 0)")) == 1
        monkeypatch.setattr("sequor.store.database.UPGRADE_WAIT_S", 0)
        with pytest.raises(DatabaseProblem, match="another program"):
            migrate(url)
        assert is_empty(url)
    engine.dispose()
    migrate(url)
    assert not is_empty(url)


def test_sequor_works_with_it_and_comes_back_to_it(
    url: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    migrate(url)
    application = Application(tmp_path / "var", "--empty")
    application.environment["SEQUOR_DATABASE"] = url
    application.start()
    content = as_png(horizon_picture(1.0))
    try:
        _, made = application.post("/api/sets", {"name": "Theirs"})
        assert application.upload(made["id"], "a.png", content)[0] == 201
        assert port_is_free(int(application.environment["SEQUOR_DB_PORT"]))
    finally:
        assert application.stop() == 0

    # A backup of it goes into an empty one only, and is whole there.
    def told(*words: str) -> str:
        result = CliRunner().invoke(upkeep, list(words))
        return result.output if result.exit_code == 0 else repr(result.exception)

    monkeypatch.setenv("SEQUOR_DATABASE", url)
    monkeypatch.setenv("SEQUOR_DATA", str(tmp_path / "var"))
    assert "files copied" in told("backup", str(tmp_path / "backup"))
    monkeypatch.setenv("SEQUOR_DATA", str(tmp_path / "again"))
    assert "nothing is overwritten" in told("restore", str(tmp_path / "backup"))
    clear(url)
    assert "were put back" in told("restore", str(tmp_path / "backup"))
    assert "0 not sound" in told("verify")
    application.data = tmp_path / "again"
    application.environment["SEQUOR_DATA"] = str(application.data)
    application.start()
    try:
        _, sets = application.send("GET", "/api/sets")
        assert [one["name"] for one in sets["sets"]] == ["Theirs"]
        assert application.send("GET", "/api/health")[1]["ready"]
    finally:
        application.stop()


def test_it_does_not_start_on_tables_of_another_version(url: str, tmp_path: Path) -> None:
    environment = {**os.environ, "SEQUOR_DATABASE": url, "SEQUOR_DATA": str(tmp_path / "var")}
    environment["SEQUOR_PORT"] = str(free_port())
    command = [sys.executable, "-m", "sequor", "--empty"]
    run = subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, text=True)
    assert run.returncode == 1
    assert "bring them up to date with bin/sequor migrate" in run.stderr
    assert is_empty(url)


def test_while_it_is_away_nothing_is_lost(tmp_path: Path) -> None:
    theirs = PrivateServer(put_into(tmp_path / "mortal"), free_port())
    theirs.start()
    try:
        migrate(theirs.url)
        application = Application(tmp_path / "var", "--empty")
        application.environment["SEQUOR_DATABASE"] = theirs.url
        application.start()
        try:
            assert application.post("/api/sets", {"name": "Before"})[0] == 201
            theirs.stop()
            status, health = application.send("GET", "/api/health")
            assert (status, health["ready"]) == (503, False)
            theirs = PrivateServer(
                tmp_path / "mortal", int(theirs.url.rsplit(":")[-1].split("/")[0])
            )
            theirs.start()
            until(lambda: application.send("GET", "/api/health")[0] == 200)
            _, sets = application.send("GET", "/api/sets")
            assert [one["name"] for one in sets["sets"]] == ["Before"]
        finally:
            application.stop()
    finally:
        theirs.stop()


@pytest.mark.parametrize(
    "given", ["sqlite:///x.db", "mysql+pymysql://u:s3cret@h", "postgresql://u:s3cret@h/d", "s3cret"]
)
def test_an_address_that_is_none_is_refused_without_its_password(
    given: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("SEQUOR_DATABASE", given)
    with pytest.raises(UnusableInput, match="SEQUOR_DATABASE is “…”") as found:
        settings_from_environment(ROOT)
    assert "s3cret" not in str(found.value)


def test_a_password_is_in_no_log_of_the_settings() -> None:
    settings = Settings(database="mysql+pymysql://u:s3cret@h/d")
    assert "s3cret" not in repr(settings)
    assert settings.database_url == "mysql+pymysql://u:s3cret@h/d"
    assert Settings(database="").database_url is None


def test_who_is_not_let_in_is_told_why(server: PrivateServer) -> None:
    wrong = server.url.replace("sequor:", "sequor:wrong")
    engine = connect(wrong)
    with pytest.raises(DatabaseProblem, match=r"does not let Sequor in: .*Access denied"):
        require_current(engine)
    engine.dispose()
