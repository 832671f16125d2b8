"""Everything that `bin/start` runs: the private database, the migrations, the demo data.

The server.
"""

import argparse
import logging
import signal
import sys
import threading
from pathlib import Path
from typing import cast

import waitress

from sequor.core.errors import UnusableInput
from sequor.services.demo import load_demo
from sequor.services.warm_up import warm_up
from sequor.settings import Settings, settings_from_environment
from sequor.store.database import connect, migrate
from sequor.store.mariadb import DatabaseProblem, PrivateServer, port_is_free
from sequor.web.app import create_app
from sequor.web.context import Context

log = logging.getLogger(__name__)
_THREADS = 8


class _Stop(SystemExit):
    """Raised in the main thread by a signal that asks to stop."""


def main() -> None:
    """Start, serve until Ctrl+C or a termination signal, stop cleanly."""
    parser = argparse.ArgumentParser(prog="bin/start", description="Start Sequor on this machine.")
    parser.add_argument(
        "--empty", action="store_true", help="start without loading the demo pictures"
    )
    chosen = parser.parse_args()
    try:
        settings = settings_from_environment(Path(__file__).parents[2])
        logging.basicConfig(
            level=settings.log_level,
            format="%(asctime)s %(levelname)s %(name)s: %(message)s",
            stream=sys.stderr,
        )
        for chatty in ("alembic", "pyvips"):
            logging.getLogger(chatty).setLevel(logging.WARNING)
        serve(settings, with_demo=not chosen.empty)
    except (UnusableInput, DatabaseProblem, ValueError) as problem:
        sys.exit(f"Sequor cannot start: {problem}")


def serve(settings: Settings, with_demo: bool) -> None:
    """Run the application until it is told to stop."""
    if not port_is_free(settings.port):
        raise UnusableInput(
            f"port {settings.port} on 127.0.0.1 is taken (is Sequor running already?); set "
            "SEQUOR_PORT to a free one."
        )

    def stop(*_: object) -> None:
        raise _Stop

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, stop)
    database = PrivateServer(settings.data / "mariadb", settings.db_port)
    context: Context | None = None
    try:
        database.start()
        migrate(database.url)
        app = create_app(settings, connect(database.url))
        context = cast(Context, app.extensions["sequor"])
        if with_demo and settings.demo:
            load_demo(context.means, settings.demo)
        context.exports.resume()
        threading.Thread(target=warm_up, daemon=True, name="warm-up").start()
        server = waitress.create_server(
            app,
            host="127.0.0.1",
            port=settings.port,
            threads=_THREADS,
            max_request_body_size=settings.max_upload_mb * 2**20 + 2**20,
            ident=None,
            # Lets a request see that its client has gone, so that a fill can be given up.
            channel_request_lookahead=1,
        )
        print(f"Sequor is ready: http://127.0.0.1:{settings.port}/  (Ctrl+C stops it)", flush=True)
        server.run()
    except _Stop:
        pass
    finally:
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, signal.SIG_IGN)
        if context:
            context.exports.stop()
        database.stop()


if __name__ == "__main__":
    main()
