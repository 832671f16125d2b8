"""``bin/sequor worker``: takes work from servers on any machine, by Celery on Redis.

Two processes, each with workers of its own: one for what somebody waits for at a screen, one for
files and reading. Should one of them end before it was told to, it is started again.
"""

import logging
import os
import signal
import sys
import threading

import click

from sequor.cli.said import run_alone
from sequor.core.errors import UnusableInput
from sequor.core.language import mark
from sequor.kept_running import keep_running
from sequor.making.warm_up import compile_all, compiled_before
from sequor.services.engine import FAR, NEAR, node_for, redis_of
from sequor.settings import Settings
from sequor.starting import set_up_log, settings_here

log = logging.getLogger(__name__)
_LANES = {"near": NEAR, "far": FAR}


@click.command(
    help=mark(
        "Take work from servers, by the Redis of SEQUOR_REDIS.\n\n"
        "Originals come from SEQUOR_DEPOT; SEQUOR_WORK_KEY is that of the servers. Ctrl+C brings "
        "what is being done to its end first."
    )
)
@click.option("--lanes", type=click.Choice([*_LANES]), hidden=True)
def main(lanes: str | None) -> None:
    """Work until told to stop."""
    settings = settings_here()
    set_up_log(settings)
    os.umask(0o077)
    try:
        if lanes is None:
            node_for(settings, NEAR)  # what is not set is said at once
            _watch()
        else:
            _work(settings, lanes)
    except UnusableInput as problem:
        raise click.ClickException(str(problem)) from problem


def _work(settings: Settings, lanes: str) -> None:
    node = node_for(settings, _LANES[lanes])
    log.info("worker %s takes work (%s)", node.name, lanes)
    node.run(redis_of(settings))


def _watch() -> None:
    """Have both processes until told to stop."""
    if not compiled_before():
        compile_all()
    stopping = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda *_: stopping.set())
    kept = [
        keep_running(stopping, [sys.executable, "-m", "sequor.worker", "--lanes", lanes])
        for lanes in _LANES
    ]
    for thread in kept:
        thread.join()


if __name__ == "__main__":
    run_alone(main)
