"""Workers on other machines: what they do, and what becomes of it when one, or Redis, dies."""

import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest

from sequor.core.errors import Cancelled, UnusableInput
from sequor.work.dispatcher import Dispatcher
from sequor.work.engine import Job, Lane, Task, Unreachable, WorkerDied
from sequor.work.far.board import Board
from sequor.work.far.freight import WorkOutcome
from sequor.work.far.place import RESULT, WORK, FarPlace, number_of
from sequor.work.far.queues import celery_on, send
from sequor.work.far.signed import NotSigned, Seal
from tests.conftest import ROOT
from tests.redis_server import RedisServer, redis_server
from tests.waiting import PATIENCE_S, until
from tests.work import tasks
from tests.work.node import KEY, PlainFreight

PROGRAM, LEASE_S = "program-1", 3.0


class Machines:
    """A server's engine, and workers that join and are killed."""

    def __init__(self, redis: RedisServer) -> None:
        self.redis = redis
        self.board = Board(redis.url, PROGRAM, LEASE_S)
        self.place = FarPlace(self.board, redis.url, Seal(KEY), PlainFreight())
        self.engine = Dispatcher([self.place])
        self.engine.start()
        self._workers: list[subprocess.Popen[bytes]] = []

    def join(self, program: str = PROGRAM) -> subprocess.Popen[bytes]:
        """A worker comes, and is there when this returns."""
        before = len(self.board.workers())
        command = [sys.executable, "-m", "tests.work.node", self.redis.url, program, str(LEASE_S)]
        worker = subprocess.Popen(command, cwd=ROOT, start_new_session=True)
        self._workers.append(worker)
        until(lambda: len(self.board.workers()) > before)
        return worker

    def joined(self, count: int) -> None:
        """The server knows that so many are there."""
        until(lambda: len(self.place.workers) == count)

    def kill(self, worker: subprocess.Popen[bytes]) -> None:
        """A machine's power goes."""
        os.killpg(worker.pid, 9)
        worker.wait()

    def end(self) -> None:
        self.engine.stop()
        for worker in self._workers:
            if worker.poll() is None:
                self.kill(worker)

    def submit(
        self, function: Any, *arguments: object, lane: Lane = Lane.EXPORT, **how: Any
    ) -> Job:
        return self.engine.submit(Task(function, arguments, lane, originals=("any",), **how))


@contextmanager
def machines(folder: Path) -> Iterator[Machines]:
    with redis_server(folder) as redis:
        found = Machines(redis)
        try:
            yield found
        finally:
            found.end()


@pytest.fixture(scope="module")
def working(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Machines]:
    """With one worker, for what leaves it as it was."""
    with machines(tmp_path_factory.mktemp("redis")) as found:
        found.join()
        found.joined(1)
        yield found


def test_a_worker_elsewhere_does_it(working: Machines, tmp_path: Path) -> None:
    done = working.submit(tasks.note, tmp_path / "log", "a").result(PATIENCE_S)
    assert done == "a"
    assert (tmp_path / "log").read_text().split() == ["+a", "-a"]
    assert working.submit(tasks.pid).result(PATIENCE_S) != os.getpid()


def test_the_memory_of_workers_elsewhere_is_told(working: Machines) -> None:
    working.submit(tasks.pid).result(PATIENCE_S)
    until(lambda: working.engine.load().resident_mb > 10)  # an interpreter at least


def test_errors_come_back_as_they_are(working: Machines) -> None:
    with pytest.raises(UnusableInput, match="cannot be done"):
        working.submit(tasks.refuse).result(PATIENCE_S)
    with pytest.raises(OSError, match="a system's error"):
        working.submit(tasks.system_error).result(PATIENCE_S)


def test_how_far_it_is_is_told_and_it_can_be_called_off(working: Machines, tmp_path: Path) -> None:
    job = working.submit(tasks.until_told, tmp_path / "began")
    until(lambda: job.running and job.progress > 0.3)
    job.cancel()
    with pytest.raises(Cancelled):
        job.result(PATIENCE_S)
    # And its place is free again, with a worker that lives.
    assert working.submit(tasks.note, tmp_path / "log", "b").result(PATIENCE_S) == "b"


def test_the_same_is_done_once_whoever_asks(working: Machines, tmp_path: Path) -> None:
    log, other = tmp_path / "log", Dispatcher([_place(working)])
    try:
        mine = working.submit(tasks.note, log, "c", 1.0, key=("note", str(log)))
        until(log.exists)
        same = Task(
            *(tasks.note, (log, "c", 1.0), Lane.EXPORT),
            key=("note", str(log)),
            originals=("any",),
        )
        theirs = other.submit(same)  # another server's engine
        assert (mine.result(PATIENCE_S), theirs.result(PATIENCE_S)) == ("c", "c")
        assert other.submit(same).result(PATIENCE_S) == "c"  # its result stands for a while
        assert log.read_text().split() == ["+c", "-c"]
    finally:
        other.stop()


def test_the_hand_does_not_wait_for_files(working: Machines, tmp_path: Path) -> None:
    files = [working.submit(tasks.note, tmp_path / "log", "f", 0.5) for _ in range(8)]
    assert working.submit(tasks.pid, lane=Lane.HAND).result(PATIENCE_S)
    assert sum(job.progress < 1 for job in files) >= 6
    for job in files:
        job.cancel()


def test_a_picture_that_kills_its_worker_is_set_aside_after_two_deaths(
    working: Machines, tmp_path: Path
) -> None:
    tries = tmp_path / "tries"
    with pytest.raises(WorkerDied) as died:
        working.submit(tasks.die, tries, 99).result(PATIENCE_S)
    assert not isinstance(died.value, Unreachable)
    assert tries.read_text() == "xx"
    assert working.submit(tasks.die, tmp_path / "once", 1).result(PATIENCE_S) == "done"


def test_what_a_machine_had_in_hand_is_done_by_another_one_once(tmp_path: Path) -> None:
    (tmp_path / "redis").mkdir()
    with machines(tmp_path / "redis") as here:
        first = here.join()
        here.joined(1)
        log = tmp_path / "log"
        jobs = [here.submit(tasks.note, log, f"n{place}", 1.0) for place in range(6)]
        until(log.exists)
        here.kill(first)  # in the middle of one
        here.join()  # and another one joins
        assert [job.result(PATIENCE_S) for job in jobs] == [f"n{place}" for place in range(6)]
        ends = [line for line in log.read_text().split() if line.startswith("-")]
        assert sorted(ends) == [f"-n{place}" for place in range(6)]


def test_a_task_that_takes_two_machines_with_it_is_set_aside(tmp_path: Path) -> None:
    (tmp_path / "redis").mkdir()
    with machines(tmp_path / "redis") as here:
        began = tmp_path / "began"
        job = here.submit(tasks.deaf, began)
        for _ in range(2):
            began.unlink(missing_ok=True)
            worker = here.join()
            until(began.exists)
            here.kill(worker)
        with pytest.raises(WorkerDied) as died:
            job.result(PATIENCE_S)
        assert not isinstance(died.value, Unreachable)


def test_redis_may_die_and_even_forget(tmp_path: Path) -> None:
    (tmp_path / "redis").mkdir()
    with machines(tmp_path / "redis") as here:
        here.join()
        here.joined(1)
        log = tmp_path / "log"
        jobs = [here.submit(tasks.note, log, f"n{place}", 0.5) for place in range(6)]
        until(log.exists)
        here.redis.kill()
        with pytest.raises(Unreachable):  # who waits at a screen is told
            here.submit(tasks.pid, lane=Lane.HAND).result(PATIENCE_S)
        here.redis.start()
        assert jobs[0].result(PATIENCE_S) == "n0"
        here.redis.kill(forget=True)
        here.redis.start()
        assert [job.result(PATIENCE_S) for job in jobs] == [f"n{place}" for place in range(6)]
        here.joined(1)
        until(lambda: here.submit(tasks.pid, lane=Lane.HAND).result(PATIENCE_S))


def test_nobody_there_is_said_to_the_hand_and_waited_for_by_files(tmp_path: Path) -> None:
    (tmp_path / "redis").mkdir()
    with machines(tmp_path / "redis") as here:
        with pytest.raises(Unreachable, match="no worker"):
            here.submit(tasks.pid, lane=Lane.HAND).result(PATIENCE_S)
        job = here.submit(tasks.pid)
        here.join("program-2")  # another program's: it is not asked
        until(lambda: here.place._others)
        with pytest.raises(TimeoutError):
            job.result(1.0)
        assert here.place.workers == []
        here.join()
        assert job.result(PATIENCE_S)


def test_a_worker_of_another_program_is_refused_whatever_it_was_sent(working: Machines) -> None:
    board, other = working.board, Board(working.redis.url, "program-2", LEASE_S)
    attempt = board.post("number", Lane.EXPORT, b"work", keep_result=False)
    assert other.begin("number", attempt, "theirs") is None
    assert board.begin("number", attempt, "ours") == b"work"
    board.stop("number")


def test_only_the_newest_attempt_counts_and_only_once(working: Machines) -> None:
    board = working.board
    first = board.post("one", Lane.EXPORT, b"work", keep_result=False)
    assert board.begin("one", first, "slow") == b"work"
    assert board.begin("one", first, "another") is None  # it is taken
    assert board.post("one", Lane.EXPORT, b"work", keep_result=False) == 0  # and alive
    working.redis.client.hset("sequor:task:one", "until", 0)  # until it is not
    second = board.post("one", Lane.EXPORT, b"work", keep_result=False)
    assert second > first
    assert board.beat("one", first, 0.5) is True  # it hears that it is to stop
    assert board.end("one", first, b"late", True) is False
    assert board.begin("one", second, "quick") == b"work"
    assert board.end("one", second, b"result", True) is True
    assert board.end("one", second, b"again", True) is False
    assert board.result("one") == b"result"
    assert board.post("one", Lane.EXPORT, b"work", keep_result=True) == 0  # it stands


def test_what_did_not_go_well_stands_for_nobody(working: Machines) -> None:
    board = working.board
    first = board.post("bad", Lane.EXPORT, b"work", keep_result=True)
    board.begin("bad", first, "worker")
    assert board.end("bad", first, b"an error", False) is True
    assert board.post("bad", Lane.EXPORT, b"work", keep_result=True) == first + 1


def test_nothing_is_done_that_was_not_signed(working: Machines, tmp_path: Path) -> None:
    forged = Task(tasks.note, (tmp_path / "log", "forged"), Lane.EXPORT)
    app = celery_on(working.redis.url, PROGRAM, list(Lane))
    with_other_key = Seal("a key that somebody made up").sign(forged, f"{WORK} forged")
    for_another = Seal(KEY).sign(forged, f"{WORK} another")
    for name, work in (("forged", with_other_key), ("forged-2", for_another)):
        attempt = working.board.post(name, Lane.EXPORT, work, keep_result=False)
        send(app, PROGRAM, Lane.EXPORT, name, attempt)
        until(lambda name=name: working.board.look([name])[0].state == "running")
    assert working.submit(tasks.pid).result(PATIENCE_S)  # what came after it was done
    assert not (tmp_path / "log").exists()


def test_no_result_is_believed_that_was_not_signed(working: Machines, tmp_path: Path) -> None:
    place = working.place
    task = Task(tasks.deaf, (tmp_path / "began",), Lane.BACKGROUND, key="lied", originals=("a",))
    job = working.engine.submit(task)
    until((tmp_path / "began").exists)
    number = number_of(task, PROGRAM)
    lie = Seal("a key that somebody made up").sign(WorkOutcome("lie", None, {}), f"{RESULT} x")
    assert working.board.end(number, working.board.look([number])[0].attempt, lie, True)
    until(lambda: working.board.look([number])[0].attempt > 1)  # it is done again
    job.cancel()
    with pytest.raises(Cancelled):
        job.result(PATIENCE_S)
    assert place.workers


def test_a_seal_is_for_one_purpose_and_one_key() -> None:
    seal = Seal(KEY)
    signed = seal.sign({"a": 1}, "work 1")
    assert seal.open(signed, "work 1") == {"a": 1}
    for content, purpose, other in (
        (signed, "work 2", seal),
        (signed, "work 1", Seal(KEY + ".")),
        (signed[:-1] + b"x", "work 1", seal),
        (b"x" + signed, "work 1", seal),
        (b"", "work 1", seal),
    ):
        with pytest.raises(NotSigned):
            other.open(content, purpose)


def test_the_same_key_has_the_same_number_and_another_program_another() -> None:
    one = Task(tasks.pid, (), Lane.EXPORT, key=("a", 1))
    same = Task(tasks.pid, (), Lane.PREVIEW, key=("a", 1))
    assert number_of(one, "p") == number_of(same, "p")
    assert number_of(one, "p") != number_of(one, "q")
    assert number_of(one, "p") != number_of(Task(tasks.note, (), Lane.EXPORT, key=("a", 1)), "p")
    unnamed = Task(tasks.pid, (), Lane.EXPORT)
    assert number_of(unnamed, "p") != number_of(unnamed, "p")


def _place(working: Machines) -> FarPlace:
    board = Board(working.redis.url, PROGRAM, LEASE_S)
    return FarPlace(board, working.redis.url, Seal(KEY), PlainFreight())
