"""A piece of heavy work as a value, and the interface of what runs it."""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Any, Literal, Protocol

from sequor.core.language import language
from sequor.work.tracing import mark

LIMIT_S = 600.0
"""A piece of work that has not ended after ten minutes has gone wrong."""


class Lane(IntEnum):
    """Who waits for a piece of work, the most urgent first.

    The hand, a picture on the screen, a file, or nobody.
    """

    HAND = 0
    PREVIEW = 1
    EXPORT = 2
    BACKGROUND = 3

    @property
    def at_screen(self) -> bool:
        """Whether somebody waits for it, looking at a screen."""
        return self <= Lane.PREVIEW


@dataclass(frozen=True)
class Task:
    """What is to be done.

    Attributes
    ----------
    function : callable
        Of a module's top level; it is called with a `TaskControl` and the arguments, and returns
        what is wanted. All of these must be picklable.
    about, asker : str
        The picture it is about and the person or window that asked. Among those that wait none
        goes before the others.
    memory_mb : float
        What it needs at its peak.
    alone : str
        Tasks with the same word here run one after the other; an empty one says nothing.
    key : hashable, optional
        Of the result. While a task with the same key waits or runs in as urgent a lane, another one
        is not begun, and both get its result.
    limit_s : float
        Seconds after which it is stopped.
    originals : tuple of str
        The originals that it is made from, by hash, and from nothing else that this machine has
        alone: then a worker on another machine may do it.
    makes : tuple of str
        Files that it leaves, by their paths below the data folder.
    language : str
        In which it says what goes wrong: the one that is spoken where the task is made.
    trace : str
        Of what it is a part (`work.tracing`).
    """

    function: Callable[..., Any]
    arguments: tuple[object, ...]
    lane: Lane
    about: str = ""
    asker: str = ""
    memory_mb: float = 0.0
    alone: str = ""
    key: Hashable | None = None
    limit_s: float = LIMIT_S
    originals: tuple[str, ...] = ()
    makes: tuple[str, ...] = ()
    language: str = field(default_factory=language)
    trace: str = field(default_factory=mark)


class TaskControl(Protocol):
    """What the work tells the outside, and is told by it, while it runs."""

    def progress(self, share: float) -> None:
        """Say what share is done, 0 to 1."""

    def cancelled(self) -> bool:
        """Whether to stop, by raising `Cancelled`."""


class Job(Protocol):
    """A task that was submitted."""

    @property
    def running(self) -> bool:
        """Whether it has begun and has not ended."""

    @property
    def progress(self) -> float:
        """The share done."""

    def cancel(self) -> None:
        """Let go of it: it is stopped when nobody else wants its result."""

    def result(self, timeout_s: float | None = None) -> Any:
        """What the function returned, or raised.

        Raises
        ------
        TimeoutError
            When it has not ended by then.
        Cancelled
            When it was cancelled.
        WorkerDied
            When the process that did it ended, twice.
        """

    def when_begun(self, callback: Callable[[], None]) -> None:
        """Call a function when it is given to a worker for the first time, in any thread; it must
        not wait for anything.
        """

    def when_done(self, callback: Callable[["Job"], None]) -> None:
        """Call a function when it has ended, whatever came of it."""


@dataclass(frozen=True)
class LaneLoad:
    """What waits and runs in a lane, and for how many seconds what waits longest has waited."""

    waiting: int
    running: int
    oldest_s: float


@dataclass(frozen=True)
class Load:
    """How much there is to do, and in every lane.

    Attributes
    ----------
    resident_mb : float
        The memory that workers have, on whatever machine, as its system counts it.
    away : bool
        Whether those who are to do it are elsewhere, and none of them is there now.
    """

    waiting: int
    running: int
    memory_mb: float
    budget_mb: float
    resident_mb: float
    lanes: Mapping[Lane, LaneLoad]
    away: bool = False


Outcome = Literal["done", "failed", "cancelled", "died"]


@dataclass(frozen=True)
class Ended:
    """A task that came to an end: how, and the seconds that it waited and ran."""

    task: Task
    outcome: Outcome
    waited_s: float
    ran_s: float


class Engine(Protocol):
    """Runs tasks somewhere."""

    def start(self) -> None:
        """Be ready sooner; otherwise the first task waits for it."""

    def submit(self, task: Task) -> Job:
        """Have a task done as soon as its turn comes."""

    def load(self) -> Load:
        """How much there is to do now."""

    def hand_moves(self) -> None:
        """Something was turned a little further by a hand: what can wait waits for a moment."""

    def tell(self, listener: Callable[[Ended], None]) -> None:
        """Call a function whenever a task that had begun has ended."""

    def stop(self) -> None:
        """Let go of everything at once; nothing more is accepted."""


class WorkerDied(RuntimeError):
    """The process that did a task ended before the task did, or took too long."""


class Unreachable(WorkerDied):
    """Workers elsewhere, or where they get files from, cannot be reached at the moment; nothing is
    known against the task.
    """
