"""Workers: their results, errors and deaths, calling off, and whose turn it is."""

import os
import signal
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from sequor.core.errors import Cancelled, UnusableInput
from sequor.work.dispatcher import Dispatcher
from sequor.work.engine import Ended, Job, Lane, LaneLoad, Task, WorkerDied
from sequor.work.processes import CREWS, Processes
from sequor.work.resting import Resting
from tests.waiting import PATIENCE_S, until
from tests.work import tasks


class ProcessEngine(Dispatcher):
    """Workers of this machine alone."""

    def __init__(self, budget_mb: float, prepare: Any, preload: str) -> None:
        self._own = Processes(budget_mb, prepare, preload)
        super().__init__([self._own])

    def worker_pids(self) -> list[int]:
        """The processes that run tasks now."""
        return [slot.pid for slot in self._own.slots if slot.run and slot.pid]


@pytest.fixture(scope="module")
def engine() -> Iterator[ProcessEngine]:
    engine = ProcessEngine(1000, (tasks.prepare, ()), "tests.work.tasks")
    yield engine
    engine.stop()


def test_work_is_done_elsewhere_and_gives_way(engine: ProcessEngine) -> None:
    found = {lane: engine.submit(Task(tasks.pid, (), lane)).result(PATIENCE_S) for lane in Lane}
    assert os.getpid() not in found.values()
    assert len(set(found.values())) == len(Lane)  # every lane has workers of its own
    nice = [engine.submit(Task(tasks.niceness, (), lane)).result(PATIENCE_S) for lane in Lane]
    assert nice == sorted(nice)
    assert nice[0] == os.nice(0)
    assert nice[-1] == 19


def test_what_can_wait_stands_still_while_a_hand_moves(engine: ProcessEngine) -> None:
    lanes = (Lane.PREVIEW, Lane.EXPORT, Lane.BACKGROUND)
    jobs = {lane: engine.submit(Task(tasks.beat, (), lane)) for lane in lanes}
    until(lambda: all(job.progress for job in jobs.values()))
    engine.hand_moves()
    until(lambda: not beats(jobs[Lane.EXPORT]))
    assert not beats(jobs[Lane.BACKGROUND])
    assert beats(jobs[Lane.PREVIEW])  # somebody waits for that, and looks at it
    until(lambda: beats(jobs[Lane.EXPORT]))  # the hand has stopped
    until(lambda: beats(jobs[Lane.BACKGROUND]))
    for job in jobs.values():
        job.cancel()
    until(lambda: not any(job.running for job in jobs.values()))


def beats(job: Job) -> bool:
    """Whether a task goes on: it tells so every hundredth of a second."""
    before = job.progress
    time.sleep(0.1)
    return job.progress != before


def test_a_hand_that_never_stops_leaves_some_time_to_what_waits() -> None:
    worker = subprocess.Popen(["sleep", "60"], process_group=0)
    resting, seen = Resting(lambda: [worker.pid], most_s=1.0, work_s=0.2), []
    resting.start()
    try:
        ends_s = time.monotonic() + 2.4
        while time.monotonic() < ends_s:
            resting.hand_moves()
            seen.append(stands(worker.pid))
            time.sleep(0.01)
    finally:
        resting.stop()
    assert not stands(worker.pid)
    worker.kill()
    worker.wait()
    assert seen[len(seen) // 8]
    assert 0.75 < sum(seen) / len(seen) < 0.9  # five of six


def stands(pid: int) -> bool:
    """Whether a process is stopped, proc(5)."""
    return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] == "T"


def test_what_stands_still_ends_with_its_engine(tmp_path: Path) -> None:
    engine = ProcessEngine(1000, (tasks.prepare, ()), "tests.work.tasks")
    job = engine.submit(Task(tasks.beat, (), Lane.EXPORT))
    until(lambda: job.progress)
    (pid,) = engine.worker_pids()
    engine.hand_moves()
    until(lambda: stands(pid))
    engine.stop()
    assert not Path(f"/proc/{pid}").exists()


def test_what_waits_and_runs_is_told_by_lane_and_what_ended(tmp_path: Path) -> None:
    engine = ProcessEngine(1000, (tasks.prepare, ()), "tests.work.tasks")
    told: list[Ended] = []
    engine.tell(told.append)
    lane = Lane.BACKGROUND  # of one worker
    try:
        holds = engine.submit(Task(tasks.until_told, (tmp_path / "began",), lane))
        until((tmp_path / "began").exists)
        waits = [engine.submit(Task(tasks.pid, (), lane)) for _ in range(2)]
        load = engine.load()
        assert (load.lanes[lane].running, load.lanes[lane].waiting) == (1, 2)
        assert load.lanes[Lane.HAND] == LaneLoad(0, 0, 0.0)
        assert 0 < load.lanes[lane].oldest_s < PATIENCE_S
        assert load.resident_mb > 10  # an interpreter at least
        holds.cancel()
        for job in waits:
            job.result(PATIENCE_S)
        with pytest.raises(UnusableInput):
            engine.submit(Task(tasks.refuse, (), lane)).result(PATIENCE_S)
        assert [(one.task.function.__name__, one.outcome) for one in told] == [
            ("until_told", "cancelled"),
            ("pid", "done"),
            ("pid", "done"),
            ("refuse", "failed"),
        ]
        assert all(one.ran_s > 0 and one.waited_s >= 0 for one in told)
        assert told[2].waited_s > told[1].waited_s > 0
        assert engine.load().lanes[lane] == LaneLoad(0, 0, 0.0)
    finally:
        engine.stop()


def test_errors_come_back_as_they_are(engine: ProcessEngine) -> None:
    with pytest.raises(UnusableInput, match="cannot be done"):
        engine.submit(Task(tasks.refuse, (), Lane.PREVIEW)).result(PATIENCE_S)
    with pytest.raises(OSError, match="without a number"):
        engine.submit(Task(tasks.system_error, (), Lane.PREVIEW)).result(PATIENCE_S)


def test_a_worker_that_dies_is_replaced_and_its_task_begun_again(
    engine: ProcessEngine, tmp_path: Path
) -> None:
    once = Task(tasks.die, (tmp_path / "once", 1), Lane.EXPORT)
    assert engine.submit(once).result(PATIENCE_S) == "done"
    always = Task(tasks.die, (tmp_path / "always", 99), Lane.EXPORT)
    with pytest.raises(WorkerDied):
        engine.submit(always).result(PATIENCE_S)
    assert (tmp_path / "always").read_text() == "xx"
    assert engine.submit(Task(tasks.pid, (), Lane.EXPORT)).result(PATIENCE_S)


def test_a_worker_killed_from_outside(engine: ProcessEngine, tmp_path: Path) -> None:
    log = tmp_path / "log"
    job = engine.submit(Task(tasks.note, (log, "a", 1.0), Lane.EXPORT))
    until(log.exists)
    for pid in engine.worker_pids():
        os.kill(pid, signal.SIGKILL)
    assert job.result(PATIENCE_S) == "a"
    assert log.read_text() == "+a\n+a\n-a\n"


def test_calling_off_stops_what_runs_and_what_waits(engine: ProcessEngine, tmp_path: Path) -> None:
    lane = Lane.BACKGROUND  # of one worker
    running = engine.submit(Task(tasks.until_told, (tmp_path / "began",), lane))
    waiting = engine.submit(Task(tasks.pid, (), lane))
    until(lambda: running.progress == 0.5)
    assert running.running
    assert not waiting.running
    waiting.cancel()
    with pytest.raises(Cancelled):
        waiting.result(PATIENCE_S)
    with pytest.raises(TimeoutError):
        running.result(0.05)
    running.cancel()
    with pytest.raises(Cancelled):
        running.result(PATIENCE_S)


def test_what_does_not_listen_is_stopped_with_its_process(
    engine: ProcessEngine, tmp_path: Path
) -> None:
    job = engine.submit(Task(tasks.deaf, (tmp_path / "deaf",), Lane.BACKGROUND))
    until((tmp_path / "deaf").exists)
    job.cancel()
    with pytest.raises(Cancelled):
        job.result(PATIENCE_S)
    assert engine.submit(Task(tasks.pid, (), Lane.BACKGROUND)).result(PATIENCE_S)


def test_what_takes_too_long_is_stopped(engine: ProcessEngine, tmp_path: Path) -> None:
    task = Task(tasks.deaf, (tmp_path / "long",), Lane.BACKGROUND, limit_s=0.5)
    with pytest.raises(WorkerDied, match="too long"):
        engine.submit(task).result(PATIENCE_S)


def test_the_same_result_is_made_once_and_called_off_by_all(
    engine: ProcessEngine, tmp_path: Path
) -> None:
    log = tmp_path / "log"
    task = Task(tasks.note, (log, "same", 0.3), Lane.PREVIEW, key="same")
    jobs = [engine.submit(task) for _ in range(5)]
    jobs[0].cancel()  # the others still want it
    assert [job.result(PATIENCE_S) for job in jobs[1:]] == ["same"] * 4
    assert log.read_text() == "+same\n-same\n"
    assert engine.submit(task).result(PATIENCE_S) == "same"  # and is made again later
    assert log.read_text().count("+") == 2


def test_who_waits_more_urgently_is_not_held_up_by_who_asked_first(
    engine: ProcessEngine, tmp_path: Path
) -> None:
    log, lane = tmp_path / "log", Lane.BACKGROUND
    holds = engine.submit(Task(tasks.until_told, (tmp_path / "began",), lane, key="runs"))
    later = engine.submit(Task(tasks.note, (log, "waits"), lane, key="waits"))
    until(lambda: holds.running)
    # What waits comes over, and both get it; what runs is made once more.
    sooner = engine.submit(Task(tasks.note, (log, "waits"), Lane.HAND, key="waits"))
    assert (sooner.result(PATIENCE_S), later.result(PATIENCE_S)) == ("waits", "waits")
    assert log.read_text() == "+waits\n-waits\n"
    anew = engine.submit(Task(tasks.niceness, (), Lane.HAND, key="runs"))
    assert anew.result(PATIENCE_S) == os.nice(0)
    assert holds.running
    holds.cancel()
    until(lambda: not holds.running)  # or it is counted in what the next test looks at


def test_what_is_to_run_alone_does(engine: ProcessEngine, tmp_path: Path) -> None:
    log = tmp_path / "log"
    jobs = [
        engine.submit(Task(tasks.note, (log, str(n), 0.05), Lane.PREVIEW, alone="x"))
        for n in range(4)
    ]
    for job in jobs:
        job.result(PATIENCE_S)
    assert log.read_text() == "".join(f"+{n}\n-{n}\n" for n in range(4))


def test_the_memory_decides_how_many_run(engine: ProcessEngine, tmp_path: Path) -> None:
    log = tmp_path / "log"
    jobs = [
        engine.submit(Task(tasks.note, (log, str(n), 0.1), Lane.PREVIEW, memory_mb=600))
        for n in range(3)
    ]
    assert engine.load().memory_mb == 600
    assert (engine.load().running, engine.load().waiting) == (1, 2)
    for job in jobs:
        job.result(PATIENCE_S)
    assert [line[0] for line in log.read_text().split()] == ["+", "-"] * 3
    huge = Task(tasks.pid, (), Lane.PREVIEW, memory_mb=10**6)
    assert engine.submit(huge).result(PATIENCE_S)  # nothing else runs, so it is tried


def test_others_do_not_wait_behind_many_of_one_picture(
    engine: ProcessEngine, tmp_path: Path
) -> None:
    log, lane = tmp_path / "log", Lane.EXPORT
    many = [
        engine.submit(Task(tasks.note, (log, f"m{n}", 0.2), lane, about="m", alone="m"))
        for n in range(10)
    ]
    other = engine.submit(Task(tasks.note, (log, "other"), lane, about="o", alone="o"))
    assert CREWS[lane].workers >= 2
    other.result(PATIENCE_S)
    assert sum(job.running or job.progress == 1 for job in many) <= 2
    for job in many:
        job.cancel()


def test_stopping_lets_go_of_everything(tmp_path: Path) -> None:
    engine = ProcessEngine(1000, (tasks.prepare, ()), "tests.work.tasks")
    job = engine.submit(Task(tasks.deaf, (tmp_path / "began",), Lane.EXPORT))
    until((tmp_path / "began").exists)
    (worker,) = engine.worker_pids()
    start = time.monotonic()
    engine.stop()
    assert time.monotonic() - start < 10
    with pytest.raises(Cancelled):
        job.result(PATIENCE_S)
    with pytest.raises(Cancelled):
        engine.submit(Task(tasks.pid, (), Lane.EXPORT))
    until(lambda: not Path(f"/proc/{worker}").exists())


def test_the_process_that_workers_are_forked_off_is_killed(
    engine: ProcessEngine, tmp_path: Path
) -> None:
    """It is started anew, and tasks that wait or run meanwhile are still done."""
    log = tmp_path / "log"
    running = engine.submit(Task(tasks.note, (log, "a", 0.5), Lane.EXPORT))
    until(log.exists)
    (pid,) = {_parent(pid) for pid in engine.worker_pids()}
    os.kill(pid, signal.SIGKILL)
    assert running.result(PATIENCE_S) == "a"
    for lane in Lane:
        assert engine.submit(Task(tasks.pid, (), lane)).result(PATIENCE_S)


def test_they_are_killed_while_the_first_worker_is_prepared(tmp_path: Path) -> None:
    prepare = (tasks.die_at_first, (tmp_path / "mark",))
    engine = ProcessEngine(1000, prepare, "tests.work.tasks")
    try:
        assert engine.submit(Task(tasks.pid, (), Lane.EXPORT)).result(PATIENCE_S)
    finally:
        engine.stop()
    assert (tmp_path / "mark").exists()


def _parent(pid: int) -> int:
    return int(Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[1])
