"""A worker on any machine: takes numbers from the queues, does the tasks with its own processes."""

import logging
import os
import socket
import threading
import uuid
import warnings
from collections.abc import Mapping
from typing import Any

from celery import Celery
from celery.exceptions import SecurityWarning
from celery.signals import worker_ready
from celery.worker import WorkController

from sequor.work.dispatcher import Dispatcher
from sequor.work.engine import Job, Lane, Task, Unreachable
from sequor.work.far.board import BEAT_S, Board, WorkerSeen
from sequor.work.far.freight import WorkOutcome, Workshop
from sequor.work.far.place import AWAY, RESULT, WORK
from sequor.work.far.queues import TASK, celery_on
from sequor.work.far.signed import NotSigned, Seal

log = logging.getLogger(__name__)
_SAYS_S = 2.0
_LOOK_S = 0.02
_TRIES = 20
"""Times that a result is offered to a Redis that does not answer, a beat apart."""


class Node:
    """What takes tasks of some lanes on this machine.

    Parameters
    ----------
    engine : Dispatcher
        What does them here.
    crews : mapping
        How many tasks of each lane it does at once.
    """

    def __init__(
        self,
        board: Board,
        seal: Seal,
        workshop: Workshop,
        engine: Dispatcher,
        crews: Mapping[Lane, int],
    ) -> None:
        self._board, self._seal, self._workshop, self._engine = board, seal, workshop, engine
        self._crews = crews
        self.name = f"{socket.gethostname()}-{os.getpid()}-{uuid.uuid4().hex[:6]}"
        self._stopping = threading.Event()

    def run(self, address: str) -> None:
        """Work until a signal asks to stop; what is being done is brought to its end then."""
        app = celery_on(address, self._board.program, list(self._crews))
        self._register(app)
        self._engine.start()
        saying = threading.Thread(target=self._say, daemon=True, name="worker")
        saying.start()
        worker_ready.connect(_look_often, weak=False)
        # In a container there may be no other account; what a worker unpickles is signed.
        warnings.simplefilter("ignore", SecurityWarning)
        # One more a lane than is done at once, so that the next one is here already; no more, or
        # one worker would hold what another one could do. What nobody waits for takes their places.
        waited_for = {lane: crew for lane, crew in self._crews.items() if lane < Lane.BACKGROUND}
        places = max(1, sum(waited_for.values()) + len(waited_for))
        controller: WorkController = app.Worker(
            hostname=f"{self.name}@sequor",
            pool="threads",
            concurrency=places,
            loglevel="WARNING",
            without_gossip=True,
            without_mingle=True,
            without_heartbeat=True,
            quiet=True,
        )
        try:
            controller.start()
        finally:
            self._stopping.set()
            saying.join()
            self._engine.stop()

    def _register(self, app: Celery) -> None:
        @app.task(name=TASK, acks_late=True, ignore_result=True)  # type: ignore[untyped-decorator]
        def work(number: str, attempt: int) -> None:
            self.do(number, attempt)

    def do(self, number: str, attempt: int) -> bool:
        """Do a task, if that attempt of it is to be done; whether what came of it counts."""
        try:
            work = self._board.begin(number, attempt, self.name)
        except AWAY as problem:  # its lease, if it got one, runs out
            log.warning("a task was not begun: %r", problem)
            return False
        if work is None:
            return False
        try:
            task: Task = self._seal.open(work, f"{WORK} {number}")
        except NotSigned:
            log.error("a task was not signed by the server of this installation; it is not done")
            return False
        outcome = self._outcome(task, number, attempt)
        content = self._signed(outcome, number)
        for _ in range(_TRIES):
            try:
                return self._board.end(number, attempt, content, outcome.error is None)
            except AWAY as problem:
                log.warning("what came of a task cannot be said yet: %r", problem)
                self._stopping.wait(BEAT_S)
        return False

    def _signed(self, outcome: WorkOutcome, number: str) -> bytes:
        try:
            return self._seal.sign(outcome, f"{RESULT} {number}")
        except Exception as problem:  # an error that cannot be sent
            log.exception("what came of a task cannot be sent as it is")
            said = WorkOutcome(None, RuntimeError(repr(problem)), {})
            return self._seal.sign(said, f"{RESULT} {number}")

    def _outcome(self, task: Task, number: str, attempt: int) -> WorkOutcome:
        """What comes of a task; how often it may kill a process is the sender's to count."""
        try:
            job = self._engine.submit(self._workshop.unpack(task))
            value = self._awaited(job, number, attempt)
        except BaseException as problem:
            return WorkOutcome(None, problem, {})
        try:
            return WorkOutcome(value, None, self._workshop.leave(task))
        except OSError as problem:
            return WorkOutcome(None, Unreachable(f"a file cannot be sent back: {problem}"), {})

    def _awaited(self, job: Job, number: str, attempt: int) -> Any:
        """The value of a task, while its lease is renewed; it is let go when nobody wants it."""
        done = threading.Event()
        job.when_done(lambda _: done.set())
        while not done.wait(BEAT_S):
            try:
                if self._board.beat(number, attempt, job.progress):
                    job.cancel()
            except AWAY as problem:  # it may be there again before the lease runs out
                log.info("a lease was not renewed: %r", problem)
        return job.result(0)

    def _say(self) -> None:
        """Say that this worker is there, until it ends."""
        lanes = {lane.name.lower(): crew for lane, crew in self._crews.items()}
        while not self._stopping.is_set():
            load = self._engine.load()
            seen = WorkerSeen(
                self.name, self._board.program, lanes, load.budget_mb, load.resident_mb
            )
            try:
                self._board.here(seen)
            except AWAY as problem:
                log.warning("Redis does not answer: %r", problem)
            self._stopping.wait(_SAYS_S)
        try:
            self._board.gone(self.name)
        except AWAY:
            log.info("Redis was not told that this worker ends")


def _look_often(sender: Any, **_: object) -> None:
    """Let Celery's loop see at once that a thread is free again: it sleeps for a second otherwise,
    as a thread's end is no event to it (60 exports by two workers took 83 s, and 22 to 26 s so).
    """
    if sender.hub is not None:
        sender.hub.call_repeatedly(_LOOK_S, lambda: None)
