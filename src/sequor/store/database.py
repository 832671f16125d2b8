"""The connection to MariaDB: reading, writing so that it is known what was kept, migrating.

The server may die and come back at any moment. What meets that waits a little for it; a write
leaves a receipt in its own transaction, so that afterwards it can be told whether it was kept.
"""

import secrets
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import datetime
from pathlib import Path
from typing import TypeVar

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from alembic.util.exc import CommandError
from sqlalchemy import Engine, create_engine, delete, exc, inspect, text
from sqlalchemy.orm import Session, sessionmaker

from sequor.core.language import mark, tr
from sequor.store import deeds
from sequor.store.failures import Clash, DatabaseAway, DatabaseProblem, DiskFull, Refused
from sequor.store.models import Receipt, StoredAnswer, now
from sequor.store.seen import watch_over
from sequor.store.space import Space

Sessions = sessionmaker[Session]
Result = TypeVar("Result")

PATIENCE_S = 8.0
"""So long a request waits for a database that is being started again; the supervisor needs about
two seconds."""
_TRIES = 4
_LOOK_S = 0.1
_MOST_INSIDE, _SEAT_S = 72, 2.0
"""So many requests work with the database, or wait for it, at once, fewer than the server has
threads (`web.door`): while it hangs others are still answered."""
_POOL, _CONNECT_S, _ANSWER_S = 20, 3, 60
"""Connections that are kept, and seconds in which the database must take one, and go on with an
answer. The private one that hangs is killed long before that (`mariadb.HUNG_S`)."""
UPGRADE_WAIT_S = 300
"""So long an upgrade of the tables waits for another one."""
# Numbers of MariaDB's errors (its documentation, "MariaDB error codes").
_LOST = {2002, 2003, 2006, 2013, 2055, 1053, 1077, 1079, 1927}
_BUSY = {1205, 1213}  # lock wait timeout, deadlock
_FULL = {1021, 1114}  # disk full, table full
_SYSTEM_ERROR, _NO_SPACE = (3, 1026, 1030), "28"
"""Errors that quote the system's own: 28 is ENOSPC."""


class Database:
    """Reading and writing, with what is done when the server dies in between.

    Parameters
    ----------
    engine : Engine
    space : Space
        Asked before every write.
    """

    def __init__(self, engine: Engine, space: Space, patience_s: float = PATIENCE_S) -> None:
        self._engine, self._space, self._patience_s = engine, space, patience_s
        self._sessions = sessions(engine)
        self._given_up = threading.Event()
        self._seats = threading.BoundedSemaphore(_MOST_INSIDE)
        self._counting, self._inside = threading.Lock(), 0
        self.latest = ""
        """Names the last change that this program kept."""

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session to read with; waits a little for a database that is away.

        Raises
        ------
        DatabaseAway
        """
        with self._session() as session:
            try:
                self._connect(session)
                yield session
            except exc.DBAPIError as problem:
                if _number(problem) in _LOST:
                    raise DatabaseAway(tr(_AWAY)) from problem
                raise Refused(str(problem)) from problem

    def write(self, change: Callable[[Session], Result], small: bool = False) -> Result:
        """Do a change in a transaction, and tell for certain whether it was kept.

        Parameters
        ----------
        change : callable
            Gets a session; may be called again when nothing of it was kept.
        small : bool
            For what hardly needs space and must go on when the disk is full, such as an undo.

        Raises
        ------
        DatabaseAway
            When the database died and did not come back in time.
        Clash, Refused
            When it refuses the change; nothing was changed.
        DiskFull
            When there is no room for it; nothing was changed.
        """
        if not small:
            self._space.require_for_entries()
        for again in range(_TRIES):
            token = secrets.token_hex(16)
            committing = False
            with self._session() as session:
                try:
                    self._connect(session)
                    result = change(session)
                    deeds.note_present(session)
                    session.add(Receipt(token=token, made_at=now()))
                    session.flush()
                    committing = True
                    session.commit()
                    self.latest = token
                    deeds.present_is_kept()
                    return result
                except exc.DBAPIError as problem:
                    number = _number(problem)
                    if _is_full(problem, number):
                        raise DiskFull(
                            tr(
                                "The disk is full: {free_mb:,.0f} MB free, nothing was changed. "
                                "Free some space; Sequor goes on by itself.",
                                free_mb=self._space.free_mb,
                            )
                        ) from problem
                    if isinstance(problem, exc.IntegrityError):
                        raise Clash(str(problem)) from problem
                    if number not in _LOST | _BUSY:
                        raise Refused(str(problem)) from problem
                    failed = problem
            if number in _LOST and committing and self._was_committed(token):
                deeds.present_is_kept()
                return result
            if again == _TRIES - 1:
                raise DatabaseAway(tr(_AWAY)) from failed
        raise AssertionError

    def answers(self) -> bool:
        """Whether the database answers now."""
        try:
            with self._engine.connect():
                return True
        except exc.DBAPIError:
            return False

    @property
    def waiting(self) -> int:
        """How many wait for the database, or work with it, now."""
        return self._inside

    def give_up(self) -> None:
        """Wait no more for a database that is away: the application stops."""
        self._given_up.set()

    def forget(self, before: datetime) -> None:
        """Let receipts go, and answers that were kept for requests that come again."""

        def change(session: Session) -> None:
            for kind in (Receipt, StoredAnswer):
                session.execute(delete(kind).where(kind.made_at < before))

        self.write(change, small=True)

    def _was_committed(self, token: str) -> bool:
        """Whether a transaction was committed before the server died."""
        try:
            with self._session() as session:
                self._connect(session)
                return session.get(Receipt, token) is not None
        except (exc.DBAPIError, DatabaseAway) as problem:
            raise DatabaseAway(
                tr(
                    "The database stopped while this was being kept and is not back yet. "
                    "Whether it was kept will be seen as soon as it is; reload the page then."
                )
            ) from problem

    @contextmanager
    def _session(self) -> Iterator[Session]:
        if not self._seats.acquire(timeout=_SEAT_S):
            raise DatabaseAway(tr(_AWAY))
        session = self._sessions()
        with self._counting:
            self._inside += 1
        try:
            yield session
        finally:
            try:
                session.close()
            except exc.DBAPIError:  # its server has died: there is nothing to roll back
                session.invalidate()
            with self._counting:
                self._inside -= 1
            self._seats.release()

    def _connect(self, session: Session) -> None:
        """Take a connection; waits for a server that is away."""
        deadline = time.monotonic() + self._patience_s
        while True:
            try:
                session.connection()
                return
            except exc.DBAPIError as problem:
                session.rollback()
                if _number(problem) not in _LOST:
                    raise
                if time.monotonic() > deadline or self._given_up.wait(_LOOK_S):
                    raise DatabaseAway(tr(_AWAY)) from problem


_AWAY = mark(
    "The database does not answer; nothing was changed. The page goes on by itself as soon "
    "as it is back."
)


def connect(url: str, pool: int = _POOL, answer_s: int = _ANSWER_S) -> Engine:
    """An engine for a MariaDB URL; connections are checked before use.

    Since the server may have been restarted.

    Parameters
    ----------
    pool : int
        Connections that are kept; four times as many more are made while they are wanted.
    answer_s : int
        Seconds in which the database must go on with an answer.
    """
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_size=pool,
        max_overflow=4 * pool,
        isolation_level="READ COMMITTED",
        connect_args={
            "connect_timeout": _CONNECT_S,
            "read_timeout": answer_s,
            "write_timeout": answer_s,
            "local_infile": False,
        },
    )


def sessions(engine: Engine) -> Sessions:
    """A factory of sessions whose objects stay readable after a commit, and which leave out what
    who acts does not see.
    """
    made = sessionmaker(engine, expire_on_commit=False)
    watch_over(made)
    return made


def migrate(url: str, revision: str = "head") -> None:
    """Bring the tables up to date, from wherever they are: an upgrade that was interrupted is
    completed. Two at a time take turns.

    Raises
    ------
    DatabaseProblem
        When a newer program made them, or another one upgrades them for too long.
    """
    config = _migrations()
    config.attributes["wait_s"] = UPGRADE_WAIT_S
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    try:
        command.upgrade(config, revision)
    except CommandError as problem:
        if "locate revision" not in str(problem):
            raise
        raise DatabaseProblem(
            tr(
                "the data were last used by a newer version of Sequor, which this one "
                "cannot read; start that one, or another data folder with SEQUOR_DATA."
            )
        ) from problem


def require_current(engine: Engine, patience_s: float = PATIENCE_S) -> None:
    """Make sure that a database that others look after answers, soon, and that its tables are those
    of this program.

    Raises
    ------
    DatabaseProblem
        When it is not so.
    """
    deadline = time.monotonic() + patience_s
    while True:
        try:
            with engine.connect() as connection:
                found = MigrationContext.configure(connection).get_current_revision()
            break
        except exc.DBAPIError as problem:
            if _number(problem) not in _LOST or time.monotonic() > deadline:
                raise DatabaseProblem(
                    tr(
                        "the database of SEQUOR_DATABASE does not let Sequor in: {why}.",
                        why=problem.orig,
                    )
                ) from problem
            time.sleep(_LOOK_S)
    if found != ScriptDirectory.from_config(_migrations()).get_current_head():
        raise DatabaseProblem(
            tr(
                "the tables of SEQUOR_DATABASE are not those of this version of Sequor; "
                "make a backup, and bring them up to date with bin/sequor migrate."
            )
        )


def is_empty(url: str) -> bool:
    """Whether a database has no tables."""
    engine = connect(url, pool=1)
    try:
        return not inspect(engine).get_table_names()
    finally:
        engine.dispose()


def clear(url: str) -> None:
    """Take all tables out of a database."""
    engine = connect(url, pool=1)
    try:
        with engine.begin() as connection:
            connection.execute(text("SET FOREIGN_KEY_CHECKS = 0"))
            for name in inspect(connection).get_table_names():
                connection.execute(text(f"DROP TABLE `{name}`"))
    finally:
        engine.dispose()


def _migrations() -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    return config


def _number(problem: exc.DBAPIError) -> int:
    """MariaDB's number of an error, 0 where it has none."""
    arguments = getattr(problem.orig, "args", ())
    found = arguments[0] if arguments else 0
    if problem.connection_invalidated and found not in _LOST:
        return 2013
    return found if isinstance(found, int) else 0


def _is_full(problem: exc.DBAPIError, number: int) -> bool:
    return number in _FULL or (number in _SYSTEM_ERROR and _NO_SPACE in str(problem.orig))
