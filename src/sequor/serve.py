"""The server as a whole: the private database, the migrations, the demo data, the application.

`supervise` starts it, and again when it ends before it was told to.
"""

import ctypes
import itertools
import logging
import os
import signal
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import cast

from sqlalchemy import Engine

from sequor.core.errors import Cancelled, UnusableInput
from sequor.making.warm_up import compile_all, compiled_before
from sequor.services.curating import tidy_regularly
from sequor.services.demo import load_demo
from sequor.services.engine import engine_for
from sequor.services.housekeeping import clean_depot, tidy
from sequor.services.originals import verify
from sequor.settings import Settings
from sequor.starting import parse, set_up_log, settings_here
from sequor.store.claim import claim
from sequor.store.database import connect, migrate, require_current
from sequor.store.failures import DatabaseProblem, DiskFull
from sequor.store.files import FileStore
from sequor.store.mariadb import PrivateServer, port_is_free
from sequor.store.people import any_owner, mark_served
from sequor.web.app import create_app
from sequor.web.context import Context
from sequor.web.door import serve_with
from sequor.web.key import PARAMETER, key_of

log = logging.getLogger(__name__)
_LOOK_S = 5.0
_KEEP_HOUSE_EVERY = 720
"""Looks between two times that house is kept: an hour."""
_VERIFY_EVERY = 24
"""Times that house is kept between two readings of all originals."""
_AGAIN_S = 1.0
_WAIT_FOR_DATABASE_S = 60.0
"""A database that others look after may be started at the same time."""
_STOPS = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
_PR_SET_PDEATHSIG = 1  # prctl(2)


class _Stop(SystemExit):
    """Raised in the main thread by a signal that asks to stop."""


def main() -> None:
    """Start, serve until Ctrl+C or a termination signal, stop cleanly."""
    chosen = parse(sys.argv[1:])
    if chosen.watched_by is not None:
        # Should the one who watches be killed, this ends too.
        ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)
        if os.getppid() != chosen.watched_by:
            sys.exit("Sequor cannot start: who started it has ended already")
    try:
        settings = settings_here()
        set_up_log(settings)
        serve(settings, with_demo=not chosen.empty)
    except (UnusableInput, DatabaseProblem, ValueError) as problem:
        sys.exit(f"Sequor cannot start: {problem}")


def serve(settings: Settings, with_demo: bool) -> None:
    """Run the application until it is told to stop."""
    claimed = None if settings.may_be_several else claim(settings.data)
    if not port_is_free(settings.port):
        raise UnusableInput(
            f"port {settings.port} on 127.0.0.1 is taken (is Sequor running already?); set "
            "SEQUOR_PORT to a free one."
        )

    def stop(*_: object) -> None:
        # Once: Ctrl+C comes from the terminal and from who watches this, a moment apart.
        _ignore_signals()
        if claimed:
            claimed.ending()
        raise _Stop

    for number in _STOPS:
        signal.signal(number, stop)
    # Nobody else on the machine may read what is written from here on.
    os.umask(0o077)
    files = FileStore(settings.data, settings.reserve_mb)
    _put_temporary_files(files.temporary)
    database = None
    if settings.database_url is None:
        database = PrivateServer(settings.data / "mariadb", settings.db_port, settings.reserve_mb)
    engine = engine_for(settings)
    context: Context | None = None
    try:
        app = create_app(settings, engine, _tables(settings, database), database)
        context = cast(Context, app.extensions["sequor"])
        _let_others_in(context)
        demo = settings.demo if with_demo else None
        context.resources.servers.start()
        if not context.resources.servers.several:
            _put_in_order(context, demo)
        work = threading.Thread(target=_work, args=(context, demo), daemon=True, name="warm-up")
        work.start()
        server = serve_with(app, settings, context.resources.files.space)
        key = key_of(settings.data, settings.port)
        address = f"http://127.0.0.1:{settings.port}/?{PARAMETER}={key.text}"
        print(f"Sequor is ready: {address}  (Ctrl+C stops it)", flush=True)
        try:
            server.run()
        finally:
            server.close()
    except _Stop:
        pass
    finally:
        _ignore_signals()
        if context:
            context.hub.stop()
            context.trends.stop()
            context.resources.database.give_up()
            context.reader.stop()
            context.references.stop()
            context.exports.stop()
            context.resources.servers.stop()
        engine.stop()
        if database:
            database.stop()


def _let_others_in(context: Context) -> None:
    """Write down whether there are accounts; others are served only if an owner has one."""
    resources = context.resources
    with resources.database.reading() as session:
        owner = any_owner(session)
    if owner:
        mark_served(resources.files.root)
    elif resources.settings.for_others:
        raise UnusableInput(
            f"SEQUOR_BIND is {resources.settings.bind}, where others reach it, and nobody has an "
            "account: make an owner's first with bin/sequor user add NAME --role owner."
        )


def _tables(settings: Settings, own: PrivateServer | None) -> Engine:
    """What speaks to the tables, which are those of this program: of the private server, which is
    started, or of a database that others look after.
    """
    given = settings.database_url
    if own is not None:
        own.start()
        given = own.url
        migrate(given)
    assert given is not None
    tables = connect(given, settings.database_pool, settings.database_answer_s)
    if own is None:
        require_current(tables, _WAIT_FOR_DATABASE_S)
    return tables


def _ignore_signals() -> None:
    for number in _STOPS:
        signal.signal(number, signal.SIG_IGN)


def _put_temporary_files(folder: Path) -> None:
    """Libraries put their temporary files where there is a limit, and where they are cleaned up.

    This process names the folder by a handle of it: a socket's path, such as that of the process
    that workers are forked off, may have about a hundred characters only.
    """
    os.environ["TMPDIR"] = str(folder)
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    tempfile.tempdir = f"/proc/self/fd/{handle}"


def _put_in_order(context: Context, demo: Path | None) -> None:
    """Clean up after whatever ended the run before, and load the demo pictures."""
    tidy(context.resources)
    if demo:
        try:
            load_demo(context.resources, demo)
        except DiskFull as problem:
            log.error("the demo pictures were not loaded: %s", problem)


def _work(context: Context, demo: Path | None) -> None:
    """Have workers ready before anybody waits for one; then, if it is this server that keeps house,
    go on with what a stop interrupted, and read originals now and then.
    """
    if not compiled_before():
        compile_all()
    servers = context.resources.servers
    context.trends.start()
    if not _until_done(context.resources.engine.start):
        return
    while not servers.wait_for_house(_AGAIN_S):
        pass
    if servers.several and not _until_done(partial(_put_in_order, context, demo)):
        return
    for start in (context.exports.start, context.reader.start, context.references.start):
        if not _until_done(start):
            return
    for again in itertools.count():
        if again % _KEEP_HOUSE_EVERY == 0:
            _keep_house(context, again // _KEEP_HOUSE_EVERY)
        if servers.deposed:
            # Who watches starts it again, to stand by.
            os.kill(os.getpid(), signal.SIGTERM)
            return
        time.sleep(_LOOK_S)


def _until_done(function: Callable[[], None]) -> bool:
    """Do something, again should a worker or the database die; False when the server stops."""
    while True:
        try:
            function()
            return True
        except Cancelled:
            return False
        except Exception as problem:
            log.warning("the start does not go on yet: %r", problem)
            time.sleep(_AGAIN_S)


def _keep_house(context: Context, hour: int) -> None:
    try:
        tidy_regularly(context.resources)
        clean_depot(context.resources)
        if hour % _VERIFY_EVERY == 0:
            verify(context.resources)
    except Exception as problem:  # another time; or the server is being stopped
        log.info("the house was not kept: %r", problem)
