"""A private MariaDB server: its own data directory, loopback only, its own port.

It runs as the person who starts it, from Debian's ``mariadb-server-core`` package,
which brings no system-wide server; started by root it runs as an account of its own, where there is
one that can reach its folder. Should it die, or hang, it is started again.
"""

import logging
import os
import pwd
import secrets
import shutil
import signal
import socket
import stat
import subprocess
import threading
import time
from pathlib import Path
from types import TracebackType
from typing import Any, Literal

import pymysql

from sequor.core.language import english, tr
from sequor.store.failures import DatabaseProblem
from sequor.store.space import Ballast, Space

log = logging.getLogger(__name__)

_START_SECONDS = 60
_STOP_SECONDS = 30
_LOOK_S = 0.2
_BACKOFF_S, _LONGEST_BACKOFF_S = 0.5, 30.0
_MOST_RESTARTS, _WITHIN_S = 6, 300.0
"""A server that dies more often than that within five minutes is not started again."""
_BALLAST_EVERY_S = 2.0
ACCOUNT = "sequor-db"
"""Whom the server runs as when root starts it (made by bin/lib/setup.sh)."""
_PING_S, _PING_EVERY_S = 2.0, 1.0
HUNG_S = 10.0
"""A server that lives and has not answered for so long is killed and started again; it needs less
than a second for a checkpoint on a busy disk."""
State = Literal["up", "hung", "starting", "down"]


class PrivateServer:
    """A MariaDB server below a directory.

    Starts on entering the context and stops on leaving it.

    Attributes
    ----------
    state : str
        ``up``, ``hung``, ``starting`` (again), or ``down`` for good; ``why`` says why it is not up.
    """

    def __init__(self, directory: Path, port: int, reserve_mb: float = 0.0) -> None:
        self.directory = directory
        self.port = port
        self.state: State = "down"
        self.why = ""
        self._reserve_mb = reserve_mb
        self.ballast = directory / "ballast"
        self._process: subprocess.Popen[bytes] | None = None
        self._stopping = threading.Event()
        self._supervisor: threading.Thread | None = None
        self._heart = _Heart()

    @property
    def url(self) -> str:
        """The SQLAlchemy URL of the application's database.

        What does not leave the machine is not encrypted: a context for that costs 30 ms a
        connection.
        """
        login = f"sequor:{self._password()}@127.0.0.1:{self.port}"
        return f"mysql+pymysql://{login}/sequor?charset=utf8mb4&ssl_disabled=true"

    @property
    def pid(self) -> int:
        """The server's process, 0 when there is none."""
        return self._process.pid if self._process and self._process.poll() is None else 0

    def __enter__(self) -> "PrivateServer":
        self.start()
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.stop()

    def start(self) -> None:
        """Set the data directory up if it is new, start the server and wait until it answers."""
        self.directory.mkdir(parents=True, exist_ok=True)
        self.directory.chmod(0o700)
        space = Space(self.directory, self._reserve_mb, self.ballast)
        ballast = Ballast(self.ballast, space)
        ballast.watch()
        self._await_previous()
        if not port_is_free(self.port):
            raise DatabaseProblem(
                tr(
                    "Port {port} on 127.0.0.1, meant for the database, is taken; set "
                    "SEQUOR_DB_PORT to a free one.",
                    port=self.port,
                )
            )
        self._stopping.clear()
        try:
            if not (self._data / "mysql").is_dir():
                self._install()
            self._launch()
        except DatabaseProblem as problem:
            raise DatabaseProblem(self._with_space(str(problem), space)) from problem
        self.state = "up"
        self._heart.forget()
        self._supervisor = threading.Thread(
            target=self._supervise, args=(ballast,), daemon=True, name="database-supervisor"
        )
        self._supervisor.start()

    def stop(self) -> None:
        """Stop the server cleanly."""
        self._stopping.set()
        if self._supervisor:
            self._supervisor.join()
            self._supervisor = None
        self._end()
        self.state = "down"

    @property
    def _data(self) -> Path:
        return self.directory / "data"

    @property
    def _log(self) -> Path:
        return self.directory / "mariadb.log"

    def _launch(self) -> None:
        daemon = shutil.which("mariadbd", path="/usr/sbin:/usr/bin:/usr/local/sbin:/usr/local/bin")
        if daemon is None:
            raise DatabaseProblem(
                tr("MariaDB is not installed: the Debian package mariadb-server-core is missing.")
            )
        grants = self.directory / "grants.sql"
        account = self._account()
        try:
            temporary = self._temporary()
            grants.unlink(missing_ok=True)
            grants.touch(mode=0o600)
            grants.write_text(self._grants())
            self._give(account)
            with self._log.open("ab") as output:
                self._process = subprocess.Popen(
                    [
                        # Should this process be killed, the server is told to stop too.
                        *("setpriv", "--pdeathsig", "TERM", *_becoming(account)),
                        daemon,
                        "--no-defaults",
                        f"--datadir={self._data}",
                        f"--user={account.pw_name}",
                        "--bind-address=127.0.0.1",
                        f"--port={self.port}",
                        # A socket's path may have about a hundred characters only: these lie in
                        # the data directory, where the server runs.
                        "--socket=socket",
                        "--pid-file=pid",
                        f"--tmpdir={temporary}",
                        f"--init-file={grants}",
                        "--skip-name-resolve",
                        "--character-set-server=utf8mb4",
                        "--collation-server=utf8mb4_bin",
                        "--innodb-buffer-pool-size=64M",
                        "--innodb-log-file-size=32M",
                        "--max-connections=200",
                        "--performance-schema=OFF",
                        # No statement reads or writes files of the machine.
                        "--local-infile=OFF",
                        f"--secure-file-priv={temporary}",
                        "--default-time-zone=+00:00",
                    ],
                    stdout=output,
                    stderr=output,
                    stdin=subprocess.DEVNULL,
                    # Ctrl+C stops the application first, which then stops this server
                    start_new_session=True,
                )
            self._wait()
        except OSError as problem:
            raise DatabaseProblem(
                tr("MariaDB could not be started: {strerror}.", strerror=problem.strerror)
            ) from problem
        finally:
            grants.unlink(missing_ok=True)

    def _end(self) -> None:
        if self._process and self._process.poll() is None:
            self._process.send_signal(signal.SIGTERM)
            try:
                self._process.wait(_STOP_SECONDS)
            except subprocess.TimeoutExpired:
                self._process.kill()
                self._process.wait()
        self._process = None

    def _supervise(self, ballast: Ballast) -> None:
        """Start the server again when it has died, later each time, and not for ever."""
        restarts: list[float] = []
        looked_s = 0.0
        while not self._stopping.wait(_LOOK_S):
            if time.monotonic() - looked_s > _BALLAST_EVERY_S:
                ballast.watch()
                looked_s = time.monotonic()
            if self._process is not None and self._process.poll() is None:
                if not self._hangs():
                    continue
                log.error("the database has not answered for %.0f s; it is killed", HUNG_S)
                self._process.kill()
                self._process.wait()
            self.state, self.why = (
                "starting",
                english("the database stopped and is being started again"),
            )
            now = time.monotonic()
            restarts = [then for then in restarts if now - then < _WITHIN_S]
            if len(restarts) >= _MOST_RESTARTS:
                self.state = "down"
                self.why = english(
                    "the database stopped {most_restarts} times in a few minutes and is not "
                    "started any more; the reason is at the end of {log}",
                    most_restarts=_MOST_RESTARTS,
                    log=self._log,
                )
                log.error("%s", self.why)
                return
            log.error("the database stopped; it is started again")
            if restarts:
                backoff = min(_LONGEST_BACKOFF_S, _BACKOFF_S * 2 ** (len(restarts) - 1))
                if self._stopping.wait(backoff):
                    return
            restarts.append(now)
            ballast.watch()
            try:
                self._launch()
            except DatabaseProblem as problem:
                self.why = str(problem)
                log.error("%s", problem)
                self._end()
                continue
            self._heart.forget()
            self.state, self.why = "up", ""

    def _hangs(self) -> bool:
        """Whether the living server has not answered for too long; says so before."""
        silent_s = self._heart.silent_s(self._login())
        if silent_s <= _PING_S:
            self.state, self.why = "up", ""
            return False
        self.state = "hung"
        self.why = english(
            "the database has not answered for {silent_s:.0f} s; after {hung_s:.0f} s "
            "it is started again",
            silent_s=silent_s,
            hung_s=HUNG_S,
        )
        return silent_s > HUNG_S

    def _account(self) -> pwd.struct_passwd:
        """Whom the server runs as: whoever runs this, but not root where that can be helped."""
        own = pwd.getpwuid(os.geteuid())
        if own.pw_uid != 0:
            return own
        try:
            account = pwd.getpwnam(ACCOUNT)
        except KeyError:
            log.warning("there is no account %s: the database runs as root", ACCOUNT)
            return own
        self.directory.mkdir(parents=True, exist_ok=True, mode=0o700)
        if all(above.stat().st_mode & stat.S_IXOTH for above in self.directory.resolve().parents):
            return account
        log.warning("%s cannot reach its folder: the database runs as root", ACCOUNT)
        return own

    def _give(self, account: pwd.struct_passwd) -> None:
        """Let everything of the server belong to the account that it runs as."""
        for path in (self.directory, *self.directory.rglob("*")):
            if path.lstat().st_uid != account.pw_uid:
                os.chown(path, account.pw_uid, account.pw_gid, follow_symlinks=False)

    def _login(self) -> dict[str, Any]:
        return {
            "host": "127.0.0.1",
            "port": self.port,
            "user": "sequor",
            "password": self._password(),
            "database": "sequor",
            "ssl_disabled": True,
        }

    def _await_previous(self) -> None:
        """Let a server that a killed program left behind come to its end."""
        try:
            pid = int((self._data / "pid").read_text())
            command = Path(f"/proc/{pid}/cmdline").read_bytes().split(b"\0")
        except (OSError, ValueError):
            return
        if f"--datadir={self._data}".encode() not in command:
            return
        deadline = time.monotonic() + _STOP_SECONDS
        try:
            os.kill(pid, signal.SIGTERM)
            while time.monotonic() < deadline:
                os.kill(pid, 0)
                time.sleep(_LOOK_S / 4)
            os.kill(pid, signal.SIGKILL)
        except ProcessLookupError:
            pass

    def _install(self) -> None:
        # Under another name until it is whole: an interrupted one is begun anew. Several servers
        # set up at once can take each other's resources for a moment, so it is tried twice.
        partial = self._data.with_suffix(".partial")
        account, temporary = self._account(), self._temporary()
        self._give(account)
        for _ in range(2):
            shutil.rmtree(partial, ignore_errors=True)
            result = subprocess.run(
                [
                    "mariadb-install-db",
                    "--no-defaults",
                    f"--user={account.pw_name}",
                    f"--datadir={partial}",
                    "--auth-root-authentication-method=normal",
                    "--skip-test-db",
                ],
                capture_output=True,
                text=True,
                # That of whoever runs this may be closed to the account.
                env={**os.environ, "TMPDIR": str(temporary)},
            )
            if not result.returncode:
                break
        if result.returncode:
            shutil.rmtree(partial, ignore_errors=True)
            said = (result.stderr.strip() or result.stdout.strip()).splitlines()
            raise DatabaseProblem(
                tr(
                    "MariaDB could not set up its data directory: {value}",
                    value=said[-1] if said else "no reason",
                )
            )
        partial.rename(self._data)

    def _temporary(self) -> Path:
        """An empty folder for temporary files of the server's own; it is to be given to it."""
        folder = self.directory / "temporary"
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(mode=0o700, parents=True)
        return folder

    def _grants(self) -> str:
        return (
            "CREATE DATABASE IF NOT EXISTS sequor CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;\n"
            f"CREATE OR REPLACE USER sequor@'127.0.0.1' IDENTIFIED BY '{self._password()}';\n"
            "GRANT ALL ON sequor.* TO sequor@'127.0.0.1';\n"
            "DELETE FROM mysql.global_priv WHERE User IN ('root', '');\n"
            "FLUSH PRIVILEGES;\n"
        )

    def _password(self) -> str:
        path = self.directory / "password"
        if not path.exists():
            self.directory.mkdir(parents=True, exist_ok=True)
            partial = path.with_suffix(".partial")
            partial.unlink(missing_ok=True)
            partial.touch(mode=0o600)
            partial.write_text(secrets.token_urlsafe(24))
            partial.rename(path)
        return path.read_text()

    def _wait(self) -> None:
        deadline = time.monotonic() + _START_SECONDS
        while time.monotonic() < deadline:
            assert self._process is not None
            if self._process.poll() is not None:
                raise DatabaseProblem(
                    tr("MariaDB stopped at once; the reason is at the end of {log}.", log=self._log)
                )
            try:
                pymysql.connect(**self._login(), read_timeout=_PING_S).close()
                return
            except pymysql.Error:
                if self._stopping.wait(_LOOK_S / 4):
                    break
        self._end()
        raise DatabaseProblem(
            tr(
                "MariaDB did not answer within {start_seconds} seconds; see {log}.",
                start_seconds=_START_SECONDS,
                log=self._log,
            )
        )

    @staticmethod
    def _with_space(problem: str, space: Space) -> str:
        """Why it could not start, with the full disk named when that is the reason."""
        if space.takes_entries:
            return problem
        return tr(
            "{problem} The disk is full: {free_mb:,.0f} MB free on the disk of "
            "{folder}; nothing is lost. Free some space and start again.",
            problem=problem,
            free_mb=space.free_mb,
            folder=space.folder,
        )


def _becoming(account: pwd.struct_passwd) -> tuple[str, ...]:
    """What setpriv is told so that a program runs as an account."""
    if account.pw_uid == os.geteuid():
        return ()
    return f"--reuid={account.pw_uid}", f"--regid={account.pw_gid}", "--clear-groups"


class _Heart:
    """Listens whether a server answers, on a connection of its own."""

    def __init__(self) -> None:
        self._connection: Any = None
        self._heard_s = self._asked_s = time.monotonic()

    def silent_s(self, login: dict[str, Any]) -> float:
        """Seconds since the server answered last; asks now and then, and waits a little for it."""
        now = time.monotonic()
        if now - self._asked_s < _PING_EVERY_S:
            return now - self._heard_s
        try:
            if self._connection is None:
                self._connection = pymysql.connect(
                    **login, connect_timeout=int(_PING_S), read_timeout=_PING_S
                )
            self._connection.ping(reconnect=False)
            self._heard_s = time.monotonic()
        except (pymysql.Error, OSError):
            self._connection = None
        self._asked_s = time.monotonic()
        return self._asked_s - self._heard_s

    def forget(self) -> None:
        """Another server was started."""
        self._connection = None
        self._heard_s = self._asked_s = time.monotonic()


def port_is_free(port: int) -> bool:
    """Whether nothing listens on a loopback port."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def free_port() -> int:
    """A loopback port that nothing listens on now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
