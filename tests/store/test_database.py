"""Writes meet a dying database: kept, or clearly refused. A dead one comes back by itself."""

import os
import pwd
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import func, select, text

from sequor.store.database import Database, connect, migrate
from sequor.store.failures import DatabaseAway, DiskFull
from sequor.store.mariadb import ACCOUNT, PrivateServer, free_port
from sequor.store.models import PictureSet
from sequor.store.space import Space
from tests.installed import put_into
from tests.waiting import PATIENCE_S, until


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[PrivateServer]:
    with PrivateServer(put_into(tmp_path_factory.mktemp("dying")), free_port()) as running:
        migrate(running.url)
        yield running


@pytest.fixture
def database(server: PrivateServer) -> Iterator[Database]:
    engine = connect(server.url)
    yield Database(engine, Space(server.directory, 0), patience_s=PATIENCE_S)
    engine.dispose()


def kill(server: PrivateServer) -> None:
    os.kill(server.pid, signal.SIGKILL)


def count(database: Database, name: str) -> int:
    query = select(func.count()).select_from(PictureSet).where(PictureSet.name == name)
    with database.reading() as session:
        return session.scalar(query) or 0


def test_a_killed_server_is_started_again(server: PrivateServer, database: Database) -> None:
    killed = server.pid
    kill(server)
    start = time.monotonic()
    database.write(lambda s: s.add(PictureSet(name="after the kill")))
    assert server.pid not in (0, killed)
    assert count(database, "after the kill") == 1
    assert time.monotonic() - start < 15
    # The supervisor says so as soon as it has looked, which may be after the first that waited.
    until(lambda: server.state == "up")


@pytest.mark.parametrize("moment", ["before the commit", "at the commit", "after the commit"])
def test_a_write_that_meets_the_kill_is_kept_exactly_once(
    server: PrivateServer, database: Database, moment: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    from sqlalchemy.orm import Session

    name, plain, struck = f"kept {moment}", Session.commit, threading.Event()

    def commit(self: Session) -> None:
        if struck.is_set():
            return plain(self)
        struck.set()
        if moment == "after the commit":
            plain(self)
        kill(server)
        # The answer of the server never comes.
        self.execute(text("SELECT SLEEP(5)"))
        return plain(self)

    def change(session: Session) -> None:
        session.add(PictureSet(name=name))
        session.flush()
        if moment == "before the commit" and not struck.is_set():
            struck.set()
            kill(server)
            session.execute(text("SELECT SLEEP(5)"))

    monkeypatch.setattr(Session, "commit", commit)
    database.write(change)
    assert struck.is_set()
    assert count(database, name) == 1


def test_what_does_not_come_back_in_time_is_refused_and_not_kept(
    server: PrivateServer, monkeypatch: pytest.MonkeyPatch
) -> None:
    engine = connect(f"mysql+pymysql://sequor:x@127.0.0.1:{free_port()}/sequor")
    away = Database(engine, Space(server.directory, 0), patience_s=0.2)
    with pytest.raises(DatabaseAway, match="nothing was changed"):
        away.write(lambda session: None)
    with pytest.raises(DatabaseAway), away.reading():
        pass


def test_a_server_that_dies_again_and_again_is_given_up(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    import sequor.store.mariadb as mariadb

    monkeypatch.setattr(mariadb, "_BACKOFF_S", 0.01)
    monkeypatch.setattr(mariadb, "_MOST_RESTARTS", 2)
    with PrivateServer(put_into(tmp_path / "db"), free_port()) as mortal:

        def down() -> bool:
            if mortal.state != "down" and mortal.pid:
                kill(mortal)
            return mortal.state == "down"

        until(down)
        assert "stopped 2 times" in mortal.why


def test_a_server_that_hangs_is_said_to_and_started_again(
    server: PrivateServer, database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    import sequor.store.mariadb as mariadb

    monkeypatch.setattr(mariadb, "HUNG_S", 4.0)
    hung = server.pid
    os.kill(hung, signal.SIGSTOP)
    said: list[str] = []
    kept = threading.Thread(
        target=lambda: database.write(lambda s: s.add(PictureSet(name="after the hang")))
    )
    kept.start()

    def started_again() -> bool:
        if server.state == "hung":
            said.append(server.why)
        return server.pid != hung

    until(started_again)
    kept.join(PATIENCE_S)
    assert "has not answered for" in said[0]
    assert "after 4 s it is started again" in said[0]
    assert count(database, "after the hang") == 1


def test_while_it_hangs_others_are_still_answered(
    server: PrivateServer, monkeypatch: pytest.MonkeyPatch
) -> None:
    """More requests than may wait for the database are put off, so that health finds a thread."""
    from sequor.store import database as module

    monkeypatch.setattr(module, "_MOST_INSIDE", 2)
    monkeypatch.setattr(module, "_SEAT_S", 0.1)
    engine = connect(server.url)
    few = Database(engine, Space(server.directory, 0))
    with few.reading(), few.reading():
        assert few.waiting == 2
        with pytest.raises(DatabaseAway, match="nothing was changed"), few.reading():
            pass
    assert few.waiting == 0
    engine.dispose()


def test_it_reads_and_writes_no_files_of_the_machine(database: Database) -> None:
    with database.reading() as session:
        shown = dict(session.execute(text("SHOW VARIABLES")).all())
    assert shown["local_infile"] == "OFF"
    assert shown["secure_file_priv"].endswith("/temporary/")


@pytest.mark.skipif(os.geteuid() != 0, reason="only root's server runs as somebody else")
def test_roots_server_is_not_root_and_ends_with_who_started_it() -> None:
    try:
        account = pwd.getpwnam(ACCOUNT)
    except KeyError:
        pytest.skip("bin/test makes this account")
    folder = Path(tempfile.mkdtemp(dir="/tmp"))
    folder.chmod(0o711)
    # As the server has it, whose folder of temporary files is closed to everybody else.
    (folder / "temporary").mkdir(mode=0o700)
    theirs = {**os.environ, "TMPDIR": str(folder / "temporary")}
    script = (
        "import sys, time\n"
        "from pathlib import Path\n"
        "from sequor.store.mariadb import PrivateServer, free_port\n"
        "server = PrivateServer(Path(sys.argv[1]) / 'db', free_port())\n"
        "server.start()\n"
        "print(server.pid, flush=True)\n"
        "time.sleep(60)\n"
    )
    starter = subprocess.Popen(
        [sys.executable, "-c", script, str(folder)], stdout=subprocess.PIPE, text=True, env=theirs
    )
    try:
        assert starter.stdout
        pid = int(starter.stdout.readline())
        assert Path(f"/proc/{pid}").stat().st_uid == account.pw_uid
        owners = {path.stat().st_uid for path in (folder / "db" / "data").iterdir()}
        assert owners == {account.pw_uid}
        starter.kill()
        starter.wait()
        until(lambda: not Path(f"/proc/{pid}").exists())
    finally:
        starter.kill()
        shutil.rmtree(folder, ignore_errors=True)


def test_no_entry_is_written_on_a_full_disk_but_undoing_goes_on(
    server: PrivateServer, monkeypatch: pytest.MonkeyPatch
) -> None:
    engine = connect(server.url)
    full = Database(engine, Space(server.directory, 1e9))
    with pytest.raises(DiskFull, match=r"The disk is full: [\d,]+ MB free, nothing was changed"):
        full.write(lambda session: None)
    assert full.write(lambda session: 7, small=True) == 7
    engine.dispose()


def test_nothing_of_it_is_left_outside_its_folder(server: PrivateServer) -> None:
    """No password and no socket in a folder that others can read."""
    assert not list(server.directory.glob("grants*"))
    assert server.directory.stat().st_mode & 0o077 == 0
    command = Path(f"/proc/{server.pid}/cmdline").read_bytes().decode().split("\0")
    named = [part for part in command if "/" in part and part.startswith("--")]
    assert all(str(server.directory) in part for part in named)
    assert server.url.split(":")[2].split("@")[0] not in " ".join(command)
