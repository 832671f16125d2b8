"""The board in Redis: what is known of every task on its way, for all servers and workers.

A task is *waiting*, *running* under a lease, or *ended*. It has attempts, of which the newest
counts: whoever does an older one is told so and can say nothing any more. Every change is one
script, which Redis runs whole or not at all.
"""

import json
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from typing import Literal, NamedTuple, cast

from sequor.work.engine import Lane
from sequor.work.far.scripts import BEAT, BEGIN, END, POST, STOP
from sequor.work.far.talking import client_of

LEASE_S = 15.0
"""A worker that says nothing for so long is dead."""
BEAT_S = 1.0
_RESULT_S = 900
"""A result is on the board for so long; one that was not fetched by then is made again."""
_TASK_S = 24 * 3600
_SEEN_S = 10
"""A worker that was not heard of for so long is not there."""

State = Literal["waiting", "running", "ended"]


class Seen(NamedTuple):
    """What is known of a task; `left_s` are the seconds that its lease still runs, or, while it
    waits, since when it does, negative.
    """

    state: State
    attempt: int
    share: float
    left_s: float
    worker: str


@dataclass(frozen=True)
class WorkerSeen:
    """A worker that is there: which program it runs, how many tasks of each lane it does at once,
    the memory it may use for them, and the memory that its processes have.
    """

    name: str
    program: str
    lanes: dict[str, int]
    budget_mb: float
    resident_mb: float = 0.0

    def serves(self, lane: Lane) -> int:
        """How many tasks of a lane it does at once."""
        return self.lanes.get(lane.name.lower(), 0)


class Board:
    """The board of an installation; raises redis.RedisError where Redis does not answer.

    Parameters
    ----------
    address : str
        ``redis://host:port/number``.
    program : str
        Which program this is: another one's tasks are not for it.
    lease_s : float
        Seconds after which a worker that says nothing is dead.
    """

    def __init__(self, address: str, program: str, lease_s: float = LEASE_S) -> None:
        self.program, self._lease_s = program, lease_s
        self._redis = client_of(address)
        script = self._redis.register_script
        self._begin, self._beat, self._end = script(BEGIN), script(BEAT), script(END)
        self._post, self._stop = script(POST), script(STOP)

    def post(self, number: str, lane: Lane, work: bytes, keep_result: bool) -> int:
        """Write a task down; the attempt that is to be sent, or 0 where nothing is: it runs, or has
        a result that ``keep_result`` lets stand.
        """
        arguments = (lane.name.lower(), self.program, work, _TASK_S, int(keep_result))
        keys = [_task(number), _work(number), _result(number)]
        return int(self._post(keys, arguments))

    def begin(self, number: str, attempt: int, worker: str) -> bytes | None:
        """Take a task; what is to be done, or None: it is done by another, or not to be done."""
        arguments = (attempt, worker, self._lease_s, self.program)
        if int(self._begin([_task(number)], arguments)) != 1:
            return None
        found: bytes | None = self._redis.get(_work(number))
        return found

    def beat(self, number: str, attempt: int, share: float) -> bool:
        """Renew the lease; whether the task is to be stopped."""
        return bool(int(self._beat([_task(number)], (attempt, self._lease_s, f"{share:.4f}"))))

    def end(self, number: str, attempt: int, result: bytes, good: bool) -> bool:
        """Say what came of a task; whether that counts. Only what is good stands for those who ask
        for the same later.
        """
        keys = [_task(number), _result(number), _work(number), _ENDED]
        return bool(int(self._end(keys, (attempt, result, _RESULT_S, number, int(good)))))

    def stop(self, number: str) -> bool:
        """Have a task stopped; whether it had not begun, and is gone."""
        return bool(int(self._stop([_task(number), _work(number)])))

    def result(self, number: str) -> bytes | None:
        """What came of a task."""
        found: bytes | None = self._redis.get(_result(number))
        return found

    def look(self, numbers: Sequence[str]) -> list[Seen | None]:
        """What is known of tasks; None of those that the board does not have."""
        pipe = self._redis.pipeline(transaction=False)
        for number in numbers:
            pipe.hmget(_task(number), ["state", "attempt", "share", "until", "since", "worker"])
        pipe.time()
        *found, (seconds, micros) = pipe.execute()
        return [_seen(fields, seconds + micros / 1e6) for fields in found]

    def here(self, worker: WorkerSeen) -> None:
        """A worker says that it is there."""
        seconds, _ = self._time()
        said = json.dumps({"at": seconds, "worker": asdict(worker)})
        self._redis.hset(_WORKERS, worker.name, said)

    def gone(self, worker: str) -> None:
        """A worker says that it leaves."""
        self._redis.hdel(_WORKERS, worker)

    def workers(self) -> list[WorkerSeen]:
        """Those that are there, of whatever program."""
        found = self._redis.hgetall(_WORKERS)
        seconds, _ = self._time()
        seen = {name: json.loads(said) for name, said in sorted(found.items())}
        gone = [name for name, one in seen.items() if one["at"] < seconds - _SEEN_S]
        if gone:
            self._redis.hdel(_WORKERS, *gone)
        return [WorkerSeen(**one["worker"]) for name, one in seen.items() if name not in gone]

    def _time(self) -> tuple[int, int]:
        """Redis's own clock, by which all machines go: seconds and microseconds."""
        seconds, micros = self._redis.time()
        return seconds, micros

    def hear(self, ended: Callable[[str], None], stopped: Callable[[], bool]) -> None:
        """Tell a function of every task that ends, until told to stop."""
        with self._redis.pubsub(ignore_subscribe_messages=True) as listening:
            listening.subscribe(_ENDED)
            while not stopped():
                message = listening.get_message(timeout=1.0)
                if message:
                    ended(message["data"].decode())


_WORKERS, _ENDED = "sequor:workers", "sequor:ended"


def _task(number: str) -> str:
    return f"sequor:task:{number}"


def _work(number: str) -> str:
    return f"sequor:work:{number}"


def _result(number: str) -> str:
    return f"sequor:result:{number}"


def _seen(fields: Sequence[bytes | None], now_s: float) -> Seen | None:
    state, attempt, share, until, since, worker = (
        one.decode() if one is not None else None for one in fields
    )
    if state is None:
        return None
    left_s = float((since if state == "waiting" else until) or 0) - now_s
    return Seen(cast(State, state), int(attempt or 0), float(share or 0), left_s, worker or "")
