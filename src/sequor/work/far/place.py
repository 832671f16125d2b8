"""Where tasks go that travel: as many slots as the workers that are there have, and a few more, so
that none of them waits for the next message.
"""

import hashlib
import logging
import threading
import uuid
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import replace
from typing import Any

import redis
from kombu.exceptions import OperationalError

from sequor.core.errors import Cancelled
from sequor.work.dispatcher import Dispatcher, Run
from sequor.work.engine import Lane, Task, Unreachable, WorkerDied
from sequor.work.far.board import Board, Seen, WorkerSeen
from sequor.work.far.freight import Freight, WorkOutcome
from sequor.work.far.queues import celery_on, send
from sequor.work.far.signed import NotSigned, Seal

log = logging.getLogger(__name__)

AWAY = (redis.RedisError, OperationalError, OSError)
"""Redis, or where files go, does not answer now."""
_LOOK_S = 1.0
_UNTAKEN_S = 20.0
"""A slot stands for a worker that is free: what none took for so long got lost on its way."""
_MORE = 1
"""Tasks a lane that are on their way to each worker besides those that it does."""
_HANDS = 8
"""Threads that send and fetch."""
WORK, RESULT = "work", "result"
"""What signed bytes are good for."""


def number_of(task: Task, program: str) -> str:
    """By what a task is known on the board: the same for the same key, whoever sends it."""
    if task.key is None:
        return uuid.uuid4().hex
    told = f"{program} {task.function.__module__}.{task.function.__qualname__} {task.key!r}"
    return hashlib.sha256(told.encode()).hexdigest()


class FarPlace:
    """Workers on any machine; see the package.

    Parameters
    ----------
    address : str
        Of Redis.
    seal : Seal
        What signs.
    freight : Freight
        What goes along.
    """

    def __init__(self, board: Board, address: str, seal: Seal, freight: Freight) -> None:
        self.board, self.seal, self.freight = board, seal, freight
        self.slots: list[FarSlot] = []
        self.budget_mb = 1.0
        self.workers: list[WorkerSeen] = []
        self._others: set[str] = set()
        self._celery = celery_on(address, board.program, list(Lane))
        self._hands = ThreadPoolExecutor(_HANDS, thread_name_prefix="far")
        self._stopping = threading.Event()
        self._dispatcher: Dispatcher | None = None
        self._fit([])

    @property
    def away(self) -> bool:
        """Whether no worker of this program is there."""
        return not self.workers

    @property
    def resident_mb(self) -> float:
        """The memory that the workers have, as they said last."""
        return sum(worker.resident_mb for worker in self.workers)

    def takes(self, task: Task) -> bool:
        """What needs nothing that this machine has alone."""
        return bool(task.originals)

    def start(self, dispatcher: Dispatcher) -> None:
        """Look after what is on its way from here on; again does nothing."""
        if self._dispatcher is not None:
            return
        self._dispatcher = dispatcher
        for name, function in (("far-look", self._look_on), ("far-news", self._hear)):
            threading.Thread(target=function, daemon=True, name=name).start()

    def hand_moves(self) -> None:
        """What is done on other machines slows no hand down; workers on the server's own are not
        told yet.
        """

    def stop(self) -> None:
        """What is on its way goes on: it is found again at the next start."""
        self._stopping.set()
        self._hands.shutdown(wait=False, cancel_futures=True)

    def send(self, flight: "Flight") -> None:
        """Have a task on its way; in a thread of its own, since files may have to go first."""
        self._hands.submit(self._send, flight)

    def call_off(self, flight: "Flight") -> None:
        """Have a task stopped, wherever it is; Redis may take its time."""
        self._hands.submit(self._call_off, flight)

    def _call_off(self, flight: "Flight") -> None:
        with suppress(*AWAY):
            if self.board.stop(flight.number):
                flight.land(error=Cancelled())

    def _send(self, flight: "Flight") -> None:
        try:
            sent = self.freight.send(replace(flight.run.task, key=None))
            flight.work = self.seal.sign(sent, f"{WORK} {flight.number}")
            self._post(flight, keep_result=flight.run.tries == 1)
            flight.posted = True
            self._look()  # it may have ended already
        except AWAY as problem:
            flight.land(error=Unreachable(str(problem)))
        except Exception as problem:
            log.exception("a task could not be sent")
            flight.land(error=problem)

    def _post(self, flight: "Flight", keep_result: bool) -> None:
        lane = flight.run.task.lane
        attempt = self.board.post(flight.number, lane, flight.work, keep_result)
        if attempt:
            send(self._celery, self.board.program, lane, flight.number, attempt)

    def _look_on(self) -> None:
        while not self._stopping.wait(_LOOK_S):
            try:
                self._fit(self.board.workers())
                self._look()
            except AWAY as problem:
                self._nobody_answers(problem)
            except Exception:
                log.exception("what is on its way was not looked at")

    def _in_flight(self) -> list["Flight"]:
        """What was posted and has not ended."""
        flights = [slot.flight for slot in list(self.slots)]
        return [flight for flight in flights if flight is not None and flight.posted]

    def _nobody_answers(self, problem: BaseException) -> None:
        """Redis does not answer: who waits at a screen is told so; files wait with their slots."""
        for flight in self._in_flight():
            if flight.run.task.lane.at_screen:
                flight.land(error=Unreachable(str(problem)))

    def _hear(self) -> None:
        """Hear at once of what has ended."""
        while not self._stopping.is_set():
            with suppress(*AWAY):
                self.board.hear(self._has_ended, self._stopping.is_set)
            self._stopping.wait(_LOOK_S)

    def _has_ended(self, number: str) -> None:
        for flight in self._in_flight():
            if flight.number == number and not self._stopping.is_set():
                self._hands.submit(self._fetch, flight)

    def _look(self) -> None:
        """See how far everything is."""
        flights = self._in_flight()
        found = self.board.look([flight.number for flight in flights])
        for flight, seen in zip(flights, found, strict=True):
            self._see(flight, seen)

    def _see(self, flight: "Flight", seen: Seen | None) -> None:
        if seen is None:  # Redis was emptied, or another server that asked for the same let it go
            lost = Unreachable("a task got lost on its way")
            # Who looks at a screen has it done once more at once, and only once.
            flight.land(error=WorkerDied() if flight.run.task.lane.at_screen else lost)
            return
        flight.share, flight.working = seen.share, seen.state == "running"
        if seen.state == "ended":
            self._hands.submit(self._fetch, flight)
        elif seen.state == "running" and seen.left_s < 0:
            log.warning("worker %s was not heard of any more", seen.worker)
            flight.land(error=WorkerDied())
        elif seen.state == "waiting" and seen.left_s < -_UNTAKEN_S and self.workers:
            log.warning("a task got lost on its way; it is sent again")
            self._post(flight, keep_result=True)

    def _fetch(self, flight: "Flight") -> None:
        """Take what came of a task."""
        if not flight.take():
            return
        try:
            content = self.board.result(flight.number)
            if content is None:
                raise Unreachable("what came of a task got lost on its way")
            outcome: WorkOutcome = self.seal.open(content, f"{RESULT} {flight.number}")
            if isinstance(outcome.error, Cancelled):  # another one called it off, and this joined
                raise WorkerDied
            outcome = self.freight.receive(flight.run.task, outcome)
        except NotSigned:
            log.error("what came of a task was not signed by a worker of this installation")
            flight.land(error=WorkerDied())
        except AWAY as problem:
            flight.land(error=Unreachable(str(problem)))
        except BaseException as problem:
            flight.land(error=problem)
        else:
            flight.land(outcome.value, outcome.error)

    def _fit(self, workers: list[WorkerSeen]) -> None:
        """Know who is there, and have slots for them."""
        mine = [one for one in workers if one.program == self.board.program]
        for name in {one.name for one in workers} - {one.name for one in mine} - self._others:
            log.warning("worker %s runs another program and gets no tasks", name)
            self._others.add(name)
        self.workers = mine
        self.budget_mb = max(1.0, sum(one.budget_mb for one in mine))
        if self._dispatcher is None:
            self._fit_slots()
        else:
            with self._dispatcher.lock:
                if self._fit_slots():
                    self._dispatcher.advance()

    def _fit_slots(self) -> bool:
        """Have as many slots as the workers that are there ask for, one a lane at least: what is
        sent is there for the first that joins. Whether there are more than before.
        """
        more = False
        for lane in Lane:
            serving = [one for one in self.workers if one.serves(lane)]
            wanted = max(1, sum(one.serves(lane) for one in serving) + _MORE * len(serving))
            have = [slot for slot in self.slots if slot.lane == lane]
            for slot in [slot for slot in have if slot.run is None][: max(0, len(have) - wanted)]:
                self.slots.remove(slot)
            for _ in range(wanted - len(have)):
                self.slots.append(FarSlot(self, lane))
                more = True
        return more


class FarSlot:
    """One task that is on its way, or done by a worker elsewhere."""

    def __init__(self, place: FarPlace, lane: Lane) -> None:
        self.lane, self.about, self.used = lane, "", False
        self.run: Run | None = None
        self.flight: Flight | None = None
        self._place = place

    @property
    def share(self) -> float:
        """The share done of what it does."""
        return self.flight.share if self.flight else 0.0

    @property
    def working(self) -> bool:
        """Whether a worker has begun what it does."""
        return self.flight is not None and self.flight.working

    def begin(self, run: Run, ended: Callable[["Future[Any]"], None]) -> None:
        """Begin a task."""
        if run.task.lane.at_screen and self._place.away:
            raise Unreachable("no worker of this program is there")
        number = number_of(run.task, self._place.board.program)
        self.run, self.about, self.used = run, run.task.about, True
        self.flight = Flight(run, number, ended)
        self._place.send(self.flight)

    def ask_to_stop(self, run: Run) -> None:
        """Tell a task to stop, if it is still that one."""
        if self.run is run and self.flight is not None:
            self._place.call_off(self.flight)

    def kill(self, run: Run) -> None:
        """Nobody waits for it any more; its worker hears of that at its next beat."""
        if self.run is run and self.flight is not None:
            self.flight.land(error=Cancelled())


class Flight:
    """A task from being sent until something comes of it; begun again, it is another one.

    Attributes
    ----------
    posted : bool
        Whether it is on the board.
    """

    def __init__(self, run: Run, number: str, ended: Callable[["Future[Any]"], None]) -> None:
        self.run, self.number, self.work = run, number, b""
        self.share, self.working, self.posted = 0.0, False, False
        self._ended = ended
        self._lock = threading.Lock()
        self._taken = self._landed = False

    def take(self) -> bool:
        """Have what came of it for oneself: it may be heard of and seen at once."""
        with self._lock:
            if self._taken or self._landed:
                return False
            self._taken = True
            return True

    def land(self, value: object = None, error: BaseException | None = None) -> None:
        """It has come to an end; only the first one counts."""
        with self._lock:
            if self._landed:
                return
            self._landed, self.posted = True, False
        future: Future[Any] = Future()
        if error is None:
            future.set_result(value)
        else:
            future.set_exception(error)
        self._ended(future)
