"""Having heavy work done, and what is said when it is not."""

import logging
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from sequor.core.errors import Cancelled, UnusableInput
from sequor.core.language import tr
from sequor.core.retelling import retold
from sequor.making.worker_cache import OriginalLost
from sequor.services.originals import mark_lost
from sequor.services.resources import Resources
from sequor.work.engine import Job, Lane, Task, Unreachable, WorkerDied

log = logging.getLogger(__name__)
Waits = Callable[[], bool]
"""Whether nobody waits for what is being made any more."""
_LOOK_S = 0.05
"""So often it is asked whether somebody still waits."""


class TooBusy(Exception):
    """More is asked for at once than can be waited for; nothing was begun."""

    def __init__(self) -> None:
        super().__init__(
            tr("Sequor has more to do at the moment than it can take on; ask again in a second.")
        )


class Stopping(Exception):
    """The application is being stopped; nothing came of it."""

    def __init__(self) -> None:
        super().__init__(
            tr("Sequor is being stopped; nothing was changed. Ask again when it is there again.")
        )


class WorkersAway(Exception):
    """What does the heavy work, on other machines, cannot be reached; nothing was begun."""

    def __init__(self) -> None:
        super().__init__(
            tr(
                "The workers that do this cannot be reached at the moment; nothing was changed. "
                "Ask again in a few seconds."
            )
        )


class GivenUp(UnusableInput):
    """Nobody waits for it any more."""

    def __init__(self) -> None:
        super().__init__(
            tr(
                "The picture was changed, or its window closed, while this was being made; "
                "it was given up."
            )
        )


def run_task(resources: Resources, task: Task, nobody_waits: Waits | None = None) -> Any:
    """Have a task done and wait for what it returns.

    Parameters
    ----------
    task : Task
        Its function is one of `making`, and gets the resources of a task before its arguments.
    nobody_waits : callable, optional
        Asked while it is waited for.

    Raises
    ------
    TooBusy
        When too many wait already.
    Stopping
        When the application is being stopped.
    WorkersAway
        When those who do it cannot be reached.
    GivenUp
        When nobody waits for it any more.
    UnusableInput
        When it cannot be done.
    """
    task = replace(task, arguments=(resources.task_resources, *task.arguments))
    seats = resources.seats.hand if task.lane is Lane.HAND else resources.seats.others
    if not seats.acquire(blocking=False):
        raise TooBusy
    try:
        return _awaited(resources, resources.engine.submit(task), nobody_waits)
    except Cancelled:  # nobody called it off: the engine lets go of everything
        raise Stopping from None
    finally:
        seats.release()


def in_words(resources: Resources, problem: BaseException, what: str) -> str:
    """Why a task was not done, in a sentence; damage of an original is noted.

    Parameters
    ----------
    what : str
        What was being done, such as “The export”.
    """
    if isinstance(problem, OriginalLost):
        mark_lost(resources, problem.sha256, problem.how)
    if isinstance(problem, UnusableInput):
        return str(problem)
    if isinstance(problem, MemoryError | WorkerDied):
        log.error("%s: %s", what, problem or "the worker died")
        reason = f" ({retold(str(problem))})" if str(problem) else ""
        return tr(
            "{what} was stopped twice before it was done{reason}: from outside, or "
            "because there was not enough memory. Close other programs and try again; "
            "the picture and its recipe are kept.",
            what=what,
            reason=reason,
        )
    log.error("%s failed", what, exc_info=problem)
    return tr(
        "{what} failed for a reason that is in the log; the picture and its recipe are kept.",
        what=what,
    )


def _awaited(resources: Resources, job: Job, nobody_waits: Waits | None) -> Any:
    try:
        while True:
            try:
                return job.result(_LOOK_S if nobody_waits else None)
            except TimeoutError:
                if nobody_waits and nobody_waits():
                    job.cancel()
                    raise GivenUp from None
    except OriginalLost as problem:
        raise UnusableInput(in_words(resources, problem, "")) from problem
    except Unreachable as problem:
        log.warning("workers were not reached: %s", problem)
        raise WorkersAway from problem
    except (MemoryError, WorkerDied) as problem:
        raise UnusableInput(in_words(resources, problem, "This")) from problem
