"""What goes along with a task, and comes back: files, and values that are a machine's own."""

from collections.abc import Mapping
from typing import NamedTuple, Protocol

from sequor.work.engine import Task


class WorkOutcome(NamedTuple):
    """What a worker says of a task: its value or error, and the files that it left, by their paths
    below the data folder, each by its hash.
    """

    value: object
    error: BaseException | None
    files: Mapping[str, str]


class Freight(Protocol):
    """The sender's side. Every method may raise OSError: files cannot be sent or fetched now."""

    def send(self, task: Task) -> Task:
        """A task that says the same anywhere, with what it needs where workers find it."""

    def receive(self, task: Task, outcome: WorkOutcome) -> WorkOutcome:
        """What came of a task, with its files in their places."""


class Workshop(Protocol):
    """The worker's side."""

    def unpack(self, task: Task) -> Task:
        """A task as this machine does it."""

    def leave(self, task: Task) -> Mapping[str, str]:
        """Leave the files that it made where the sender finds them; raises OSError."""
