"""Tasks for the tests of the engine; they run in workers."""

import os
import signal
import time
from pathlib import Path

from sequor.core.errors import Cancelled, UnusableInput
from sequor.work.engine import TaskControl


def prepare(lane: object) -> None:
    pass


def die_at_first(lane: object, mark: Path) -> None:
    """A preparation during which the worker and the process it was forked off are killed."""
    if not mark.exists():
        mark.touch()
        os.kill(os.getppid(), signal.SIGKILL)
        os.kill(os.getpid(), signal.SIGKILL)


def pid(control: TaskControl) -> int:
    return os.getpid()


def niceness(control: TaskControl) -> int:
    return os.nice(0)


def beat(control: TaskControl) -> None:
    """Run until told to stop, and tell every hundredth of a second that one goes on."""
    for step in range(1, 10**6):
        control.progress(step / 10**6)
        if control.cancelled():
            raise Cancelled
        time.sleep(0.01)


def note(control: TaskControl, log: Path, word: str, seconds: float = 0.0) -> str:
    """Write down when a task begins and ends."""
    with log.open("a") as file:
        file.write(f"+{word}\n")
    time.sleep(seconds)
    with log.open("a") as file:
        file.write(f"-{word}\n")
    return word


def until_told(control: TaskControl, began: Path) -> None:
    """Run until told to stop, and tell how far it is."""
    began.touch()
    for step in range(10**6):
        control.progress(min(0.5, step / 10))
        if control.cancelled():
            raise Cancelled
        time.sleep(0.01)


def deaf(control: TaskControl, began: Path) -> None:
    """Run for long whatever it is told."""
    began.touch()
    time.sleep(600)


def die(control: TaskControl, tries: Path, times: int) -> str:
    """End the process so many times, as the kernel does when memory runs out."""
    with tries.open("a") as file:
        file.write("x")
    if len(tries.read_text()) <= times:
        os.kill(os.getpid(), 9)
    return "done"


def refuse(control: TaskControl) -> None:
    raise UnusableInput("This cannot be done.")


def system_error(control: TaskControl) -> None:
    raise OSError("a system's error without a number")


def greedy(control: TaskControl, megabytes: int) -> int:
    """Take memory, and give it back."""
    taken = bytearray(megabytes * 2**20)
    return len(taken) // 2**20
