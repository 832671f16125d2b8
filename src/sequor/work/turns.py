"""Whose turn it is: which of the tasks that wait in a lane is begun next.

A pure rule: nothing goes before others because it asked more often.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sequor.work.engine import Lane, Task

PATIENCE_S = 10.0
"""A task that does not fit into the memory is passed over for so long; then others wait for it."""


@dataclass(frozen=True)
class Waiting:
    """A task in a lane, and since when it waits, in seconds of some clock."""

    task: Task
    since_s: float


@dataclass(frozen=True)
class Busy:
    """What runs now, in all lanes, and when each asker and each picture had its last turn."""

    running: Sequence[Task]
    last_turns: Mapping[str, float]
    budget_mb: float

    @property
    def memory_mb(self) -> float:
        """What the running tasks need."""
        return sum(task.memory_mb for task in self.running)

    def fits(self, task: Task) -> bool:
        """Whether there is memory for a task; the only one always fits, and the hand's do."""
        if not self.running or task.lane is Lane.HAND:
            return True
        return self.memory_mb + task.memory_mb <= self.budget_mb


@dataclass(frozen=True)
class Turn:
    """The place of the task that is next, if any, and whether less urgent ones have to wait."""

    place: int | None
    hold: bool = False


def next_turn(waiting: Sequence[Waiting], busy: Busy, now_s: float) -> Turn:
    """Choose among the tasks of one lane.

    1. Tasks whose `alone` runs already are left out.
    2. The others are put in order: by how many of their asker's tasks run, by when that asker had
       its last turn, by the same for their picture, and by how long they wait.
    3. The first for which there is memory is next. One that has been passed over for too long is
       waited for.
    """
    alone = {task.alone for task in busy.running if task.alone}

    def order(place: int) -> tuple[float, ...]:
        task = waiting[place].task
        asker, about = _named("asker", task.asker), _named("about", task.about)
        return (
            sum(other.asker == task.asker for other in busy.running),
            busy.last_turns.get(asker, 0.0),
            sum(other.about == task.about for other in busy.running),
            busy.last_turns.get(about, 0.0),
            waiting[place].since_s,
            place,
        )

    able = [place for place, one in enumerate(waiting) if one.task.alone not in alone]
    for place in sorted(able, key=order):
        if busy.fits(waiting[place].task):
            return Turn(place)
        if now_s - waiting[place].since_s > PATIENCE_S:
            return Turn(None, hold=True)
    return Turn(None)


def turns_of(task: Task) -> tuple[str, str]:
    """The names under which the last turns of a task's asker and picture are kept."""
    return _named("asker", task.asker), _named("about", task.about)


def _named(kind: str, name: str) -> str:
    return f"{kind} {name}"
