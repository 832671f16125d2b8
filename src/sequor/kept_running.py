"""Commands that are kept running until one says so: started again when they end before."""

import ctypes
import logging
import os
import signal
import subprocess
import threading
from collections.abc import Callable, Mapping, Sequence
from functools import partial

log = logging.getLogger(__name__)
_AGAIN_S = 1.0
_PR_SET_PDEATHSIG = 1  # prctl(2)


def keep_running(
    stopping: threading.Event,
    command: Sequence[str],
    more: Mapping[str, str] | None = None,
    cores: set[int] | None = None,
) -> threading.Thread:
    """Keep a command running; the thread ends when it was told to stop and the command has ended.

    Parameters
    ----------
    more : mapping, optional
        Of its environment, besides this process's own.
    cores : set of int, optional
        The cores that it may use.
    """
    begin = partial(
        subprocess.Popen,
        command,
        env={**os.environ, **(more or {})},
        start_new_session=True,
        preexec_fn=partial(_become, cores),
    )
    thread = threading.Thread(target=_keep, args=(stopping, begin), daemon=True)
    thread.start()
    return thread


def _keep(stopping: threading.Event, begin: Callable[[], "subprocess.Popen[bytes]"]) -> None:
    while not stopping.is_set():
        running = begin()
        while not stopping.wait(_AGAIN_S) and running.poll() is None:
            pass
        if running.poll() is None:
            running.terminate()
        status = running.wait()
        if not stopping.is_set():
            log.error("%s ended with %s; it is started again", running.args, status)


def _become(cores: set[int] | None) -> None:
    """In a new process: should the one who keeps it be killed, it ends as if it were told to."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)
    if cores:
        os.sched_setaffinity(0, cores)
