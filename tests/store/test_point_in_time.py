"""A database that others look after, brought back to a moment by its own binary log, as
docs/serving.md says it.
"""

import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from sqlalchemy import make_url, text

from sequor.settings import Settings
from sequor.store.database import clear, connect, is_empty, migrate
from sequor.store.mariadb import PrivateServer, free_port
from sequor.web.app import create_app
from sequor.work.dispatcher import Dispatcher
from tests.conftest import horizon_picture, know
from tests.installed import put_into
from tests.pictures.test_reading_files import as_png
from tests.waiting import until
from tests.web.conftest import keep, send, turn

KEEPER = "keeper"


class Theirs:
    """Somebody's MariaDB, which writes a binary log."""

    def __init__(self, folder: Path) -> None:
        # The account and its password come with what is installed once.
        server = PrivateServer(put_into(folder), free_port())
        with server:
            self.url = server.url
        self._data, self._keeper = folder / "data", folder / "keeper.sql"
        # Who looks after it is not who Sequor is there.
        self._keeper.write_text(
            f"CREATE USER IF NOT EXISTS {KEEPER}@'127.0.0.1' IDENTIFIED BY '{KEEPER}';\n"
            f"GRANT ALL ON *.* TO {KEEPER}@'127.0.0.1';\n"
        )
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        self._process = subprocess.Popen(
            ["mariadbd", "--no-defaults", f"--datadir={self._data}", "--user=root"]
            + ["--bind-address=127.0.0.1", f"--port={self.port}", "--socket=socket"]
            + ["--log-bin=binlog", "--binlog-format=ROW", "--server-id=1"]
            + ["--log-bin-trust-function-creators=1", f"--init-file={self._keeper}"]
            + ["--innodb-buffer-pool-size=64M", "--skip-name-resolve"],
            stderr=subprocess.DEVNULL,
        )
        until(lambda: self._answers())

    @property
    def port(self) -> int:
        return make_url(self.url).port

    def _answers(self) -> bool:
        engine = connect(self.url)
        try:
            with engine.connect() as connection:
                return connection.scalar(text("SELECT 1")) == 1
        except Exception:
            return False
        finally:
            engine.dispose()

    def stop(self) -> None:
        self._process.terminate()
        self._process.wait(60)

    def run(self, tool: str, *arguments: str, given: bytes | None = None) -> bytes:
        """One of MariaDB's own tools."""
        return subprocess.run(
            [tool, "--no-defaults", "--host=127.0.0.1", f"--port={self.port}"]
            + [f"--user={KEEPER}", f"--password={KEEPER}", *arguments],
            input=given,
            check=True,
            capture_output=True,
        ).stdout

    @property
    def database(self) -> str:
        return make_url(self.url).database

    def log(self, *more: str) -> bytes:
        """What the binary log holds, as statements."""
        logs = sorted(path for path in self._data.glob("binlog.0*"))
        return subprocess.run(
            ["mariadb-binlog", "--no-defaults", f"--database={self.database}", *more, *logs],
            check=True,
            capture_output=True,
        ).stdout


@pytest.fixture
def theirs(tmp_path: Path) -> Iterator[Theirs]:
    found = Theirs(tmp_path / "theirs")
    found.start()
    yield found
    found.stop()


def test_what_was_committed_after_the_dump_comes_back_from_the_log(
    theirs: Theirs, workers: Dispatcher, settings: Settings
) -> None:
    migrate(theirs.url)
    engine = connect(theirs.url)
    app = create_app(settings, workers, engine)
    with app.test_client() as client:
        know(client, settings)
        set_id = client.post("/api/sets", json={"name": "Quay"}).json["id"]
        content = as_png(horizon_picture(2.0, 300, 200))
        picture = send(client, set_id, "quay.png", content).json["picture"]["id"]
        # The dump of the night, with where the log stood.
        dump = theirs.run(
            "mariadb-dump", "--single-transaction", "--master-data=2", "--routines", "--triggers",
            theirs.database,
        )  # fmt: skip
        state = client.get(f"/api/pictures/{picture}").json
        for deg in (0.5, 0.25):
            state = keep(client, state, turn(deg)).json
        client.post("/api/sets", json={"name": "After the dump"})
        with engine.begin() as connection:
            rows = connection.execute(text("SELECT * FROM ledger_entries ORDER BY id")).all()
    app.extensions["sequor"].exports.stop()
    stop = theirs.run("mariadb", "--batch", "--skip-column-names", "-e", "SHOW MASTER STATUS")
    with engine.begin() as connection:  # somebody's slip
        connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
        connection.execute(text("DELETE FROM ledger_entries"))
    # Back: the dump, then the log from there to just before the slip.
    line = next(line for line in dump.decode().splitlines() if "MASTER_LOG_FILE" in line)
    start = line.partition("MASTER_LOG_POS=")[2].rstrip(";")
    replayed = theirs.log(
        f"--start-position={start}", f"--stop-position={stop.split()[1].decode()}"
    )
    engine.dispose()
    clear(theirs.url)
    assert is_empty(theirs.url)
    theirs.run("mariadb", theirs.database, given=dump)
    theirs.run("mariadb", theirs.database, given=replayed)
    engine = connect(theirs.url)
    with engine.begin() as connection:
        back = connection.execute(text("SELECT * FROM ledger_entries ORDER BY id")).all()
        names = set(connection.scalars(text("SELECT name FROM picture_sets")))
    assert back == rows
    assert len(back) == 3
    assert names == {"Quay", "After the dump"}
    # And Sequor goes on with it.
    app = create_app(settings, workers, engine)
    with app.test_client() as client:
        know(client, settings)
        assert client.get(f"/api/pictures/{picture}").json["entry_id"] == state["entry_id"]
        assert keep(client, state, turn(0.1)).status_code == 201
    app.extensions["sequor"].exports.stop()
    engine.dispose()
