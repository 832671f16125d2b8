"""A worker for the tests of work on other machines: python -m tests.work.node URL PROGRAM LEASE_S.

Its tasks are those of `tests.work.tasks`; nothing goes along with them.
"""

import sys
from collections.abc import Mapping
from dataclasses import replace

from sequor.work.dispatcher import Dispatcher
from sequor.work.engine import Lane, Task
from sequor.work.far.board import Board
from sequor.work.far.freight import WorkOutcome
from sequor.work.far.signed import Seal
from sequor.work.far.worker import Node
from sequor.work.processes import Crew, Processes
from tests.work import tasks

KEY = "the key of the tests' installation"
CREWS = {Lane.HAND: 1, Lane.EXPORT: 1, Lane.BACKGROUND: 1}


class PlainFreight:
    """Nothing goes along, and nothing comes back."""

    def send(self, task: Task) -> Task:
        return replace(task, key=None)

    def receive(self, task: Task, outcome: WorkOutcome) -> WorkOutcome:
        return outcome


class PlainWorkshop:
    def unpack(self, task: Task) -> Task:
        return task

    def leave(self, task: Task) -> Mapping[str, str]:
        return {}


def main() -> None:
    url, program, lease_s = sys.argv[1:]
    crews = {lane: Crew(count, 0) for lane, count in CREWS.items()}
    engine = Dispatcher([Processes(1000, (tasks.prepare, ()), "tests.work.tasks", crews)], tries=1)
    board = Board(url, program, float(lease_s))
    Node(board, Seal(KEY), PlainWorkshop(), engine, CREWS).run(url)


if __name__ == "__main__":
    main()
