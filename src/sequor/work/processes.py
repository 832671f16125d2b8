"""Work in processes of this machine, by lanes: the engine that ships with Sequor.

Each lane has workers of its own, and the system gives those of an urgent lane the processor first
(their niceness), so that no number of exports slows a hand down. A worker is a process that is
forked off a prepared one, does one task at a time and goes on to the next; should it die, another
takes its place and the task is begun once more.
"""

import ctypes
import logging
import multiprocessing
import os
import resource
import signal
import time
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import BrokenExecutor, CancelledError, Future
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pebble import ProcessExpired, ProcessPool

from sequor.catalogues import know_all
from sequor.core.language import speaking
from sequor.work.dispatcher import Dispatcher, Run
from sequor.work.engine import Lane, Task, WorkerDied
from sequor.work.resting import Resting
from sequor.work.tracing import traced

log = logging.getLogger(__name__)

_AGAIN_S = (0.05, 0.2, 0.5, 1.0)
"""Pauses before a worker that could not be started is tried again."""
_STOP, _SHARE = 0, 1
"""Places in the memory that a worker shares with the engine: the number of the task that is to
stop, and the share done of the one that runs."""
_PR_SET_PDEATHSIG = 1  # prctl(2)
_SLACK, _OWN_MB = 1.5, 1536
"""Address space that a task gets: what it said it needs, half as much again, and what threads and
libraries reserve without using it."""


@dataclass(frozen=True)
class Crew:
    """The workers of a lane: how many, how much they give way to others, 0 to 19, and whether they
    stand still while something is in a hand.
    """

    workers: int
    niceness: int
    rests: bool = False


CREWS = {
    Lane.HAND: Crew(1, 0),
    Lane.PREVIEW: Crew(3, 5),
    Lane.EXPORT: Crew(max(2, (os.cpu_count() or 1) // 2), 12, rests=True),
    Lane.BACKGROUND: Crew(1, 19, rests=True),
}
"""A task uses all cores where it can, so a few workers are enough: some tasks read and write while
others count."""


class Processes:
    """Processes on this machine; nothing is started before the first task.

    Parameters
    ----------
    budget_mb : float
        Tasks are begun as long as what they need together stays below.
    prepare : callable, with its arguments
        Called in every new worker first, with the worker's lane before the arguments.
    preload : str
        The module that the process which workers are forked off imports.
    crews : mapping, optional
        The workers of each lane.
    """

    away = False

    def __init__(
        self,
        budget_mb: float,
        prepare: tuple[Callable[..., None], tuple[object, ...]],
        preload: str,
        crews: Mapping[Lane, Crew] = CREWS,
    ) -> None:
        self.budget_mb = budget_mb
        context = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload([preload])
        self.slots = [
            _Slot(context, lane, crew, prepare)
            for lane, crew in crews.items()
            for _ in range(crew.workers)
        ]
        self._resting = Resting(lambda: (slot.resting_group for slot in self.slots))

    @property
    def resident_mb(self) -> float:
        """The memory that the workers have, as the system counts it."""
        return sum(slot.resident_mb for slot in self.slots)

    def takes(self, task: Task) -> bool:
        """Whether there are workers for a task: all but what travels do where there is no other
        place before this one.
        """
        return True

    def start(self, dispatcher: Dispatcher) -> None:
        """Prepare the process that workers are forked off, and heed hands."""
        self.slots[0].open()
        self._resting.start()

    def hand_moves(self) -> None:
        """What can wait stands still for a moment."""
        self._resting.hand_moves()

    def stop(self) -> None:
        """End all of them at once."""
        self._resting.stop()
        for slot in self.slots:
            slot.stop()


class _Slot:
    """The place of one worker: a pool of a single process, which is replaced when it dies."""

    def __init__(
        self,
        context: Any,
        lane: Lane,
        crew: Crew,
        prepare: tuple[Callable[..., None], tuple[object, ...]],
    ) -> None:
        self.lane, self.about, self.used = lane, "", False
        self.run: Run | None = None
        self._context, self._crew, self._prepare = context, crew, prepare
        self._shared: Any = None
        self._pool: Any = None
        self._future: Any = None

    @property
    def share(self) -> float:
        return float(self._shared[_SHARE]) if self._shared is not None else 0.0

    @property
    def pid(self) -> int:
        return int(self._shared[2]) if self._shared is not None else 0

    @property
    def resting_group(self) -> int:
        """The process group that stands still while something is in a hand; 0 for none. A worker
        that is just being made is let alone: the engine waits for it.
        """
        future = self._future
        at_work = future is not None and not future.done()
        return self.pid if self._crew.rests and at_work else 0

    @property
    def working(self) -> bool:
        return self.run is not None

    @property
    def resident_mb(self) -> float:
        return _resident_mb(self.pid)

    def open(self) -> None:
        """Have a worker ready; the first one of all takes as long as its preparation.

        Once more when that fails, and again: the process that workers are forked off may have been
        killed, and another one is not there at once.
        """
        if self._pool is not None:
            return
        for wait_s in _AGAIN_S:
            try:
                self._pool = self._opened()
                return
            except (BrokenExecutor, ProcessExpired, OSError, RuntimeError) as problem:
                log.warning("a worker could not be started (%r); once more", problem)
                time.sleep(wait_s)
        self._pool = self._opened()

    def _opened(self) -> Any:
        function, arguments = self._prepare
        self._shared = self._context.RawArray(ctypes.c_double, 3)
        pool = ProcessPool(
            max_workers=1,
            context=self._context,
            initializer=_become_worker,
            initargs=(self._shared, self._crew.niceness, function, (self.lane, *arguments)),
        )
        pool.schedule(os.getpid).result()
        return pool

    def begin(self, run: Run, ended: Callable[["Future[Any]"], None]) -> None:
        self.open()
        self.run, self.about, self.used = run, run.task.about, True
        self._shared[_SHARE] = 0.0
        try:
            self._future = self._scheduled(run)
        except RuntimeError:  # the process that workers are forked off was killed
            self._pool = None
            self.open()
            self._future = self._scheduled(run)
        self._future.add_done_callback(lambda future: ended(_with_known_ends(future)))

    def _scheduled(self, run: Run) -> Any:
        task = run.task
        return self._pool.schedule(_do, args=(run.number, task), timeout=task.limit_s)

    def ask_to_stop(self, run: Run) -> None:
        self._shared[_STOP] = run.number

    def kill(self, run: Run) -> None:
        """Stop a task with its process, if it is still that one."""
        if self.run is run and self._future is not None:
            self._future.cancel()

    def stop(self) -> None:
        if self._pool is not None:
            self._pool.stop()
            self._pool.join()


def _with_known_ends(future: "Future[Any]") -> "Future[Any]":
    """What came of a task, with a death of its process said in the engine's own words."""
    try:
        problem = future.exception()
    except CancelledError:
        return future
    if not isinstance(problem, ProcessExpired | BrokenExecutor):
        return future
    ended: Future[Any] = Future()
    ended.set_exception(WorkerDied())
    return ended


# What follows runs in a worker.


def _resident_mb(pid: int) -> float:
    """The memory that a process has in the machine's, proc(5); 0 of one that is no more."""
    try:
        pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
    except (OSError, IndexError):
        return 0.0
    return pages * os.sysconf("SC_PAGE_SIZE") / 2**20


class _Told:
    """What a task tells and is told, through memory that is shared with the engine."""

    def __init__(self, shared: Any, number: int) -> None:
        self._shared, self._number = shared, number

    def progress(self, share: float) -> None:
        self._shared[_SHARE] = share

    def cancelled(self) -> bool:
        return bool(self._shared[_STOP] == self._number)


_own: Any = None


def _become_worker(
    shared: Any, niceness: int, prepare: Callable[..., None], arguments: tuple[object, ...]
) -> None:
    global _own
    # Ctrl+C is the server's business; should that be killed, its workers end too.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    os.nice(niceness)
    os.setpgid(0, 0)  # with the programs that it starts
    os.umask(0o077)
    _own = shared
    shared[2] = os.getpid()
    know_all()
    prepare(*arguments)


def _do(number: int, task: Task) -> Any:
    with (
        _limited(task.memory_mb),
        speaking(task.language),
        traced(task.function.__name__, task.trace, lane=task.lane.name.lower(), about=task.about),
    ):
        return task.function(_Told(_own, number), *task.arguments)


@contextmanager
def _limited(memory_mb: float) -> Iterator[None]:
    """Let the process have little more memory than its task said that it needs: what goes wrong
    ends with this task, and not with the machine.
    """
    used = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    _, hard = resource.getrlimit(resource.RLIMIT_AS)
    most = used + int((memory_mb * _SLACK + _OWN_MB) * 2**20)
    resource.setrlimit(resource.RLIMIT_AS, (most, hard))
    try:
        yield
    finally:
        resource.setrlimit(resource.RLIMIT_AS, (hard, hard))
