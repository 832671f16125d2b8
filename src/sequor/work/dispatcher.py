"""Tasks by lanes: what waits, what runs, whose result is shared, what is begun again.

Where a task runs is a place's own business: processes of this machine (`processes`), or workers on
any machine (`far`). A place has slots, each does one task at a time.
"""

import logging
import threading
import time
from collections.abc import Callable, Hashable, Sequence
from concurrent.futures import CancelledError, Future
from concurrent.futures import TimeoutError as FutureTimeoutError
from dataclasses import dataclass, field
from typing import Any, Protocol

from sequor.core.errors import Cancelled
from sequor.core.language import english
from sequor.work.engine import (
    Ended,
    Job,
    Lane,
    LaneLoad,
    Load,
    Outcome,
    Task,
    Unreachable,
    WorkerDied,
)
from sequor.work.turns import Busy, Waiting, next_turn, turns_of

log = logging.getLogger(__name__)

GRACE_S = 3.0
"""A task that was told to stop and has not after that is stopped with its process."""
_TRIES = 2
_AGAIN_S = 2.0
_MOST_TURNS, _KEPT_TURNS = 10_000, 1000


class Slot(Protocol):
    """Where one task is done at a time."""

    lane: Lane
    run: "Run | None"
    about: str
    """What its last task was about: it may still have that at hand."""
    used: bool

    @property
    def share(self) -> float:
        """The share done of what it does."""

    @property
    def working(self) -> bool:
        """Whether what it does has begun: a worker elsewhere may not have come to it yet."""

    def begin(self, run: "Run", ended: Callable[["Future[Any]"], None]) -> None:
        """Begin a task; ``ended`` is called when it has come to an end, in any thread."""

    def ask_to_stop(self, run: "Run") -> None:
        """Tell a task to stop, if it is still that one."""

    def kill(self, run: "Run") -> None:
        """Stop a task whatever it does, if it is still that one."""


class WorkPlace(Protocol):
    """Where tasks run."""

    def takes(self, task: Task) -> bool:
        """Whether a task may run there."""

    @property
    def slots(self) -> Sequence[Slot]:
        """Those that there are now."""

    @property
    def budget_mb(self) -> float:
        """Tasks are begun as long as what they need together stays below."""

    @property
    def resident_mb(self) -> float:
        """The memory that its workers have, as their systems count it."""

    @property
    def away(self) -> bool:
        """Whether nobody is there who would do anything."""

    def start(self, dispatcher: "Dispatcher") -> None:
        """Be ready; the dispatcher is to `advance` whenever there are more slots."""

    def hand_moves(self) -> None:
        """Something was turned a little further by a hand: what can wait is to wait."""

    def stop(self) -> None:
        """End."""


class Dispatcher:
    """An engine over places; nothing is started before the first task.

    Parameters
    ----------
    places : sequence of WorkPlace
        A task goes to the first one that takes it.
    tries : int
        So often a task is begun whose worker dies.
    """

    def __init__(self, places: Sequence[WorkPlace], tries: int = _TRIES) -> None:
        self._places, self._tries = places, tries
        self._starting, self._started = threading.Lock(), False
        self.lock = threading.RLock()
        """Held by who changes what places have."""
        self._waiting: dict[Lane, list[Run]] = {lane: [] for lane in Lane}
        self._running: list[Run] = []
        self._wanted: dict[Hashable, Run] = {}
        self._last_turns: dict[str, float] = {}
        self._numbers = 0
        self._stopped = False
        self._listeners: list[Callable[[Ended], None]] = []

    def start(self) -> None:
        """Have the places ready; the first task does so otherwise."""
        with self._starting:
            if not self._started:
                for place in self._places:
                    place.start(self)
                self._started = True

    def submit(self, task: Task) -> "DispatchedJob":
        """Have a task done as soon as its turn comes."""
        try:
            self.start()
        except (WorkerDied, OSError, RuntimeError):
            # Whoever waits hears of it, should it be so still when the task's turn comes.
            log.exception("no worker could be prepared")
        with self.lock:
            if self._stopped:
                raise Cancelled
            run = self._shared_run(task)
            if run is None:
                self._numbers += 1
                run = Run(task, self._numbers, time.monotonic())
                self._waiting[task.lane].append(run)
                if task.key is not None:
                    self._wanted[task.key] = run
            run.wanted_by += 1
            self.advance()
        return DispatchedJob(self, run)

    def load(self) -> Load:
        """How much there is to do now."""
        with self.lock:
            now = time.monotonic()
            lanes = {
                lane: LaneLoad(
                    len(runs),
                    sum(run.task.lane == lane for run in self._running),
                    max((now - run.since_s for run in runs), default=0.0),
                )
                for lane, runs in self._waiting.items()
            }
            return Load(
                sum(lane.waiting for lane in lanes.values()),
                len(self._running),
                sum(run.task.memory_mb for run in self._running),
                sum(place.budget_mb for place in self._places),
                sum(place.resident_mb for place in self._places),
                lanes,
                any(place.away for place in self._places),
            )

    def hand_moves(self) -> None:
        """Something was turned a little further by a hand: what can wait waits for a moment."""
        for place in self._places:
            place.hand_moves()

    def tell(self, listener: Callable[[Ended], None]) -> None:
        """Call a function whenever a task that had begun has ended."""
        self._listeners.append(listener)

    def stop(self) -> None:
        """Let go of everything at once; nothing more is accepted."""
        with self.lock:
            self._stopped = True
            runs = [*self._running, *(run for runs in self._waiting.values() for run in runs)]
            for waiting in self._waiting.values():
                waiting.clear()
        for place in self._places:
            place.stop()
        for run in runs:
            run.end(error=Cancelled())

    def advance(self) -> None:
        """Begin what can be begun."""
        with self.lock:
            for place in self._places:
                for lane in Lane:
                    if self._advance(place, lane):
                        break

    def _advance(self, place: WorkPlace, lane: Lane) -> bool:
        """Begin what a place can do of a lane; whether less urgent lanes have to wait."""
        now, waiting = time.monotonic(), self._waiting[lane]
        free = [slot for slot in place.slots if slot.lane == lane and slot.run is None]
        while free:
            able = [run for run in waiting if self._place_of(run.task) is place]
            if not able:
                return False
            running = [r.task for r in self._running if self._place_of(r.task) is place]
            busy = Busy(running, self._last_turns, place.budget_mb)
            turn = next_turn([Waiting(r.task, r.since_s) for r in able], busy, now)
            if turn.place is None:
                return turn.hold
            run = able[turn.place]
            waiting.remove(run)
            # The worker that did the last task about this picture may still have it at hand.
            slot = max(free, key=lambda one: (one.about == run.task.about, one.used))
            free.remove(slot)
            self._begin(run, slot, now)
        return False

    def _place_of(self, task: Task) -> WorkPlace:
        return next(place for place in self._places if place.takes(task))

    def _shared_run(self, task: Task) -> "Run | None":
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

    def _begin(self, run: "Run", slot: Slot, now: float) -> None:
        self._running.append(run)
        run.slot, run.tries, run.begun_s = slot, run.tries + 1, now
        for name in turns_of(run.task):
            self._last_turns[name] = now
        if len(self._last_turns) > _MOST_TURNS:  # those that ask no more
            newest = sorted(self._last_turns.items(), key=lambda item: -item[1])[:_KEPT_TURNS]
            self._last_turns = dict(newest)
        try:
            slot.begin(run, lambda future: self._ended(run, slot, future))
            if not run.begun.done():
                run.begun.set_result(None)
        except Exception as problem:  # no worker to be had: those that wait hear of it
            known = isinstance(problem, Unreachable)
            if not known:
                log.exception("no worker could be started for %s", run.task.function.__name__)
            slot.run = run.slot = None
            self._running.remove(run)
            self._forget(run)
            run.end(error=problem if known else WorkerDied())

    def _ended(self, run: "Run", slot: Slot, future: "Future[Any]") -> None:
        """A task has ended, one way or another; called from a place's threads."""
        value, error = _outcome(future)
        with self.lock:
            slot.run = run.slot = None
            if run in self._running:
                self._running.remove(run)
            if self._stopped:
                return
            if run.stopping:
                value, error = None, Cancelled()
            elif self._is_begun_again(run, error):
                return
            self._forget(run)
            self.advance()
        ended = Ended(
            run.task, _how(error), run.begun_s - run.since_s, time.monotonic() - run.begun_s
        )
        for listener in self._listeners:
            listener(ended)
        run.end(value, error)

    def _is_begun_again(self, run: "Run", error: BaseException | None) -> bool:
        """Have a task done once more where it was not the task's own fault, as far as is known."""
        if isinstance(error, Unreachable) and not run.task.lane.at_screen:
            run.tries -= 1
            timer = threading.Timer(_AGAIN_S, self._wait_again, (run,))
            timer.daemon = True
            timer.start()
            return True
        unknown = isinstance(error, WorkerDied) and not error.args
        if unknown and run.tries < self._tries:
            log.warning("a worker died in %s; it is begun again", run.task.function.__name__)
            self._wait_again(run)
            return True
        return False

    def _wait_again(self, run: "Run") -> None:
        with self.lock:
            if self._stopped or run.stopping:
                run.end(error=Cancelled())
                return
            self._waiting[run.task.lane].insert(0, run)
            self.advance()

    def let_go(self, run: "Run") -> None:
        """One that wanted a result wants it no more."""
        with self.lock:
            run.wanted_by -= 1
            if run.wanted_by > 0 or run.done.done():
                return
            run.stopping = True
            self._forget(run)
            if run.slot is not None:
                slot = run.slot
                slot.ask_to_stop(run)
                timer = threading.Timer(GRACE_S, slot.kill, (run,))
                timer.daemon = True
                timer.start()
                return
            waiting = self._waiting[run.task.lane]
            if run in waiting:
                waiting.remove(run)
        run.end(error=Cancelled())

    def _forget(self, run: "Run") -> None:
        if self._wanted.get(run.task.key) is run:
            del self._wanted[run.task.key]


@dataclass(eq=False)
class Run:
    """A task on its way."""

    task: Task
    number: int
    since_s: float
    begun_s: float = 0.0
    wanted_by: int = 0
    tries: int = 0
    stopping: bool = False
    slot: Slot | None = None
    begun: "Future[None]" = field(default_factory=Future)
    done: "Future[Any]" = field(default_factory=Future)

    def end(self, value: Any = None, error: BaseException | None = None) -> None:
        """What came of it."""
        if self.done.done():
            return
        if error is not None:
            self.done.set_exception(error)
        else:
            self.done.set_result(value)


class DispatchedJob:
    """One's own handle of a task that others may want too."""

    def __init__(self, engine: Dispatcher, run: Run) -> None:
        self._engine, self._run, self._gone = engine, run, False

    @property
    def running(self) -> bool:
        """Whether it has begun and has not ended."""
        slot = self._run.slot
        return slot is not None and slot.working

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

    def when_begun(self, callback: Callable[[], None]) -> None:
        """Call a function when it is given to a worker for the first time."""
        self._run.begun.add_done_callback(lambda _: callback())

    def when_done(self, callback: Callable[[Job], None]) -> None:
        """Call a function when it has ended, whatever came of it."""
        self._run.done.add_done_callback(lambda _: callback(self))


def _outcome(future: "Future[Any]") -> tuple[Any, BaseException | None]:
    try:
        return future.result(), None
    except CancelledError:
        return None, Cancelled()
    except (TimeoutError, FutureTimeoutError):
        return None, WorkerDied(english("it took too long"))
    except BaseException as problem:
        return None, problem


def _how(error: BaseException | None) -> Outcome:
    """How a task ended, by what it raised."""
    if error is None:
        return "done"
    if isinstance(error, Cancelled):
        return "cancelled"
    return "died" if isinstance(error, WorkerDied) else "failed"
