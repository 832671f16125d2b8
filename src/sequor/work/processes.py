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
import threading
import time
from collections.abc import Callable, Hashable, Iterator
from concurrent.futures import BrokenExecutor, CancelledError, Future
from concurrent.futures import TimeoutError as FutureTimeoutError
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from pebble import ProcessExpired, ProcessPool

from sequor.catalogues import know_all
from sequor.core.errors import Cancelled
from sequor.core.language import english, speaking
from sequor.work.engine import Ended, Job, Lane, LaneLoad, Load, Outcome, Task, WorkerDied
from sequor.work.turns import Busy, Waiting, next_turn, turns_of

log = logging.getLogger(__name__)

_GRACE_S = 3.0
"""A task that was told to stop and has not after that is stopped with its process."""
_TRIES = 2
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
    """The workers of a lane: how many, and how much they give way to others, 0 to 19."""

    workers: int
    niceness: int


CREWS = {
    Lane.HAND: Crew(1, 0),
    Lane.PREVIEW: Crew(3, 5),
    Lane.EXPORT: Crew(max(2, (os.cpu_count() or 1) // 2), 12),
    Lane.BACKGROUND: Crew(1, 19),
}
"""A task uses all cores where it can, so a few workers are enough: some tasks read and write while
others count."""


class ProcessEngine:
    """Processes on this machine; nothing is started before the first task.

    Parameters
    ----------
    budget_mb : float
        Tasks are begun as long as what they need together stays below.
    prepare : callable, with its arguments
        Called in every new worker first, with the worker's lane before the arguments.
    preload : str
        The module that the process which workers are forked off imports.
    """

    def __init__(
        self,
        budget_mb: float,
        prepare: tuple[Callable[..., None], tuple[object, ...]],
        preload: str,
    ) -> None:
        self._budget_mb = budget_mb
        context = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload([preload])
        self._slots = [
            _Slot(context, lane, crew.niceness, prepare)
            for lane, crew in CREWS.items()
            for _ in range(crew.workers)
        ]
        self._starting, self._started = threading.Lock(), False
        self._lock = threading.RLock()
        self._waiting: dict[Lane, list[_Run]] = {lane: [] for lane in Lane}
        self._running: list[_Run] = []
        self._wanted: dict[Hashable, _Run] = {}
        self._last_turns: dict[str, float] = {}
        self._numbers = 0
        self._stopped = False
        self._listeners: list[Callable[[Ended], None]] = []

    def start(self) -> None:
        """Prepare the process that workers are forked off; the first task does so otherwise."""
        with self._starting:
            if not self._started:
                self._slots[0].open()
                self._started = True

    def submit(self, task: Task) -> "ProcessJob":
        """Have a task done as soon as its turn comes."""
        try:
            self.start()
        except (BrokenExecutor, ProcessExpired, OSError, RuntimeError):
            # Whoever waits hears of it, should it be so still when the task's turn comes.
            log.exception("no worker could be prepared")
        with self._lock:
            if self._stopped:
                raise Cancelled
            run = self._shared_run(task)
            if run is None:
                self._numbers += 1
                run = _Run(task, self._numbers, time.monotonic())
                self._waiting[task.lane].append(run)
                if task.key is not None:
                    self._wanted[task.key] = run
            run.wanted_by += 1
            self._advance()
        return ProcessJob(self, run)

    def load(self) -> Load:
        """How much there is to do now."""
        with self._lock:
            now = time.monotonic()
            lanes = {
                lane: LaneLoad(
                    len(runs),
                    sum(run.task.lane == lane for run in self._running),
                    max((now - run.since_s for run in runs), default=0.0),
                )
                for lane, runs in self._waiting.items()
            }
            waiting = sum(lane.waiting for lane in lanes.values())
            memory_mb = sum(run.task.memory_mb for run in self._running)
            resident_mb = sum(_resident_mb(slot.pid) for slot in self._slots)
            running = len(self._running)
            return Load(waiting, running, memory_mb, self._budget_mb, resident_mb, lanes)

    def tell(self, listener: Callable[[Ended], None]) -> None:
        """Call a function whenever a task that had begun has ended."""
        self._listeners.append(listener)

    def stop(self) -> None:
        """Let go of everything at once; nothing more is accepted."""
        with self._lock:
            self._stopped = True
            runs = [*self._running, *(run for runs in self._waiting.values() for run in runs)]
            for waiting in self._waiting.values():
                waiting.clear()
        for slot in self._slots:
            slot.stop()
        for run in runs:
            run.end(error=Cancelled())

    def worker_pids(self) -> list[int]:
        """The processes that run tasks now, for tests that kill them."""
        with self._lock:
            return [slot.pid for slot in self._slots if slot.run and slot.pid]

    def _shared_run(self, task: Task) -> "_Run | None":
        """The run whose result a task shares; never one that gives way more than it does itself.

        What waits in a less urgent lane comes over; what runs there already is left to itself.
        """
        run = self._wanted.get(task.key) if task.key is not None else None
        if run is None or run.stopping:
            return None
        if run.task.lane > task.lane:
            if run not in self._waiting[run.task.lane]:
                return None
            self._waiting[run.task.lane].remove(run)
            run.task = task
            self._waiting[task.lane].append(run)
        return run

    def _advance(self) -> None:
        """Begin what can be begun."""
        now = time.monotonic()
        for lane in Lane:
            waiting = self._waiting[lane]
            free = [slot for slot in self._slots if slot.lane == lane and slot.run is None]
            while free and waiting:
                busy = Busy([r.task for r in self._running], self._last_turns, self._budget_mb)
                turn = next_turn([Waiting(r.task, r.since_s) for r in waiting], busy, now)
                if turn.place is None:
                    if turn.hold:
                        return
                    break
                run = waiting.pop(turn.place)
                # The worker that did the last task about this picture may still have it at hand.
                slot = max(free, key=lambda one: (one.about == run.task.about, one.started))
                free.remove(slot)
                self._begin(run, slot, now)

    def _begin(self, run: "_Run", slot: "_Slot", now: float) -> None:
        self._running.append(run)
        run.slot, run.tries, run.begun_s = slot, run.tries + 1, now
        for name in turns_of(run.task):
            self._last_turns[name] = now
        if len(self._last_turns) > 10_000:  # those that ask no more
            newest = sorted(self._last_turns.items(), key=lambda item: -item[1])[:1000]
            self._last_turns = dict(newest)
        try:
            slot.begin(run, lambda future: self._ended(run, slot, future))
        except Exception:  # no worker to be had: those that wait hear of it, and others go on
            log.exception("no worker could be started for %s", run.task.function.__name__)
            slot.run = run.slot = None
            self._running.remove(run)
            self._forget(run)
            run.end(error=WorkerDied())

    def _ended(self, run: "_Run", slot: "_Slot", future: "Future[Any]") -> None:
        """A task has ended, one way or another; called from the pool's threads."""
        value, error = _outcome(future)
        with self._lock:
            slot.run = run.slot = None
            if run in self._running:
                self._running.remove(run)
            if self._stopped:
                return
            if run.stopping:
                value, error = None, Cancelled()
            elif isinstance(error, WorkerDied) and not error.args and run.tries < _TRIES:
                log.warning("a worker died in %s; it is begun again", run.task.function.__name__)
                self._waiting[run.task.lane].insert(0, run)
                self._advance()
                return
            self._forget(run)
            self._advance()
        ended = Ended(
            run.task, _how(error), run.begun_s - run.since_s, time.monotonic() - run.begun_s
        )
        for listener in self._listeners:
            listener(ended)
        run.end(value, error)

    def let_go(self, run: "_Run") -> None:
        """One that wanted a result wants it no more."""
        with self._lock:
            run.wanted_by -= 1
            if run.wanted_by > 0 or run.done.done():
                return
            run.stopping = True
            self._forget(run)
            if run.slot is not None:
                slot = run.slot
                slot.ask_to_stop(run)
                timer = threading.Timer(_GRACE_S, slot.kill, (run,))
                timer.daemon = True
                timer.start()
                return
            waiting = self._waiting[run.task.lane]
            if run in waiting:
                waiting.remove(run)
        run.end(error=Cancelled())

    def _forget(self, run: "_Run") -> None:
        if self._wanted.get(run.task.key) is run:
            del self._wanted[run.task.key]


@dataclass(eq=False)
class _Run:
    """A task on its way."""

    task: Task
    number: int
    since_s: float
    begun_s: float = 0.0
    wanted_by: int = 0
    tries: int = 0
    stopping: bool = False
    slot: "_Slot | None" = None
    done: "Future[Any]" = field(default_factory=Future)

    def end(self, value: Any = None, error: BaseException | None = None) -> None:
        if self.done.done():
            return
        if error is not None:
            self.done.set_exception(error)
        else:
            self.done.set_result(value)


class ProcessJob:
    """One's own handle of a task that others may want too."""

    def __init__(self, engine: ProcessEngine, run: _Run) -> None:
        self._engine, self._run, self._gone = engine, run, False

    @property
    def running(self) -> bool:
        """Whether it has begun and has not ended."""
        return self._run.slot is not None

    @property
    def progress(self) -> float:
        """The share done."""
        slot = self._run.slot
        return slot.share if slot else float(self._run.done.done())

    def cancel(self) -> None:
        """Let go of it: it is stopped when nobody else wants its result."""
        if not self._gone:
            self._gone = True
            self._engine.let_go(self._run)

    def result(self, timeout_s: float | None = None) -> Any:
        """What the function returned, or raised; see `Job`."""
        try:
            return self._run.done.result(timeout_s)
        except FutureTimeoutError:
            raise TimeoutError from None

    def when_done(self, callback: Callable[[Job], None]) -> None:
        """Call a function when it has ended, whatever came of it."""
        self._run.done.add_done_callback(lambda _: callback(self))


class _Slot:
    """The place of one worker: a pool of a single process, which is replaced when it dies."""

    def __init__(
        self,
        context: Any,
        lane: Lane,
        niceness: int,
        prepare: tuple[Callable[..., None], tuple[object, ...]],
    ) -> None:
        self.lane, self.about, self.started = lane, "", False
        self.run: _Run | None = None
        self._context, self._niceness, self._prepare = context, niceness, prepare
        self._shared: Any = None
        self._pool: Any = None
        self._future: Any = None

    @property
    def share(self) -> float:
        return float(self._shared[_SHARE]) if self._shared is not None else 0.0

    @property
    def pid(self) -> int:
        return int(self._shared[2]) if self._shared is not None else 0

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
            initargs=(self._shared, self._niceness, function, (self.lane, *arguments)),
        )
        pool.schedule(os.getpid).result()
        return pool

    def begin(self, run: _Run, ended: Callable[["Future[Any]"], None]) -> None:
        self.open()
        self.run, self.about, self.started = run, run.task.about, True
        self._shared[_SHARE] = 0.0
        try:
            self._future = self._scheduled(run)
        except RuntimeError:  # the process that workers are forked off was killed
            self._pool = None
            self.open()
            self._future = self._scheduled(run)
        self._future.add_done_callback(ended)

    def _scheduled(self, run: _Run) -> Any:
        task = run.task
        arguments = (run.number, task.memory_mb, task.language, task.function, task.arguments)
        return self._pool.schedule(_do, args=arguments, timeout=task.limit_s)

    def ask_to_stop(self, run: _Run) -> None:
        self._shared[_STOP] = run.number

    def kill(self, run: _Run) -> None:
        """Stop a task with its process, if it is still that one."""
        if self.run is run and self._future is not None:
            self._future.cancel()

    def stop(self) -> None:
        if self._pool is not None:
            self._pool.stop()
            self._pool.join()


def _outcome(future: "Future[Any]") -> tuple[Any, BaseException | None]:
    try:
        return future.result(), None
    except CancelledError:
        return None, Cancelled()
    except (TimeoutError, FutureTimeoutError):
        return None, WorkerDied(english("it took too long"))
    except (ProcessExpired, BrokenExecutor):
        return None, WorkerDied()
    except BaseException as problem:
        return None, problem


# What follows runs in a worker.


def _how(error: BaseException | None) -> Outcome:
    """How a task ended, by what it raised."""
    if error is None:
        return "done"
    if isinstance(error, Cancelled):
        return "cancelled"
    return "died" if isinstance(error, WorkerDied) else "failed"


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
    os.umask(0o077)
    _own = shared
    shared[2] = os.getpid()
    know_all()
    prepare(*arguments)


def _do(
    number: int,
    memory_mb: float,
    spoken: str,
    function: Callable[..., Any],
    arguments: tuple[object, ...],
) -> Any:
    with _limited(memory_mb), speaking(spoken):
        return function(_Told(_own, number), *arguments)


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
