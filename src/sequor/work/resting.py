"""Workers that stand still while something is in a hand.

Niceness decides who goes first when two want the same core at the same moment, and no more: what
gives way still takes memory bandwidth and caches, and Linux may share the processor between
sessions before it looks at niceness at all (sched(7), "The autogroup feature"), so that a browser
draws beside it at half the pace. While a hand moves, what can wait therefore waits.
"""

import os
import signal
import threading
import time
from collections.abc import Callable, Iterable
from contextlib import suppress

_STILL_S = 0.3
"""So long after its last move a hand is taken to have stopped."""
_LOOK_S = 0.05
_MOST_S, _WORK_S = 5.0, 1.0
"""A sixth of the time is theirs, whatever happens."""


class Resting:
    """Stops processes of this machine when a hand moves, and lets them go on when it has stopped.

    Parameters
    ----------
    groups : callable
        The process groups that are to stand still, as they are at the moment.
    most_s, work_s : float
        Where some hand moves all the time, they stand still for so many seconds and then work for
        so many.
    """

    def __init__(
        self,
        groups: Callable[[], Iterable[int]],
        most_s: float = _MOST_S,
        work_s: float = _WORK_S,
    ) -> None:
        self._groups, self._most_s, self._work_s = groups, most_s, work_s
        self._moved_s = 0.0
        self._moves, self._ending = threading.Event(), threading.Event()
        self._thread = threading.Thread(target=self._go_on, daemon=True, name="resting")

    def start(self) -> None:
        """Heed hands from here on."""
        self._thread.start()

    def hand_moves(self) -> None:
        """Something was turned a little further by a hand."""
        self._moved_s = time.monotonic()
        self._moves.set()

    def stop(self) -> None:
        """Let all of them go on, and end."""
        self._ending.set()
        self._moves.set()
        if self._thread.is_alive():
            self._thread.join()

    def _go_on(self) -> None:
        while not self._ending.is_set():
            self._moves.wait()
            self._moves.clear()
            if self._rest():
                self._ending.wait(self._work_s)

    def _rest(self) -> bool:
        """Have them stand still until the hand has stopped; whether it moves on for too long."""
        ends_s = time.monotonic() + self._most_s
        resting: set[int] = set()
        try:
            while not self._ending.is_set():
                now = time.monotonic()
                if now >= ends_s:
                    return True
                if now - self._moved_s > _STILL_S:
                    return False
                begun = {group for group in self._groups() if group > 1} - resting
                resting |= begun
                _signal(begun, signal.SIGSTOP)
                self._ending.wait(_LOOK_S)
            return False
        finally:
            _signal(resting, signal.SIGCONT)


def _signal(groups: Iterable[int], number: signal.Signals) -> None:
    for group in groups:
        with suppress(ProcessLookupError):  # it has ended in between
            os.killpg(group, number)
