"""How an installation was in the last hour: what is shown to those who look after it."""

import logging
import threading
from collections import deque
from math import ceil
from typing import NamedTuple

from sequor.services.resources import Resources

log = logging.getLogger(__name__)
EVERY_S, _MOST = 10.0, 360
LAST_DRAFTS, _SHARE = 1000, 0.95


class Moment(NamedTuple):
    """How it was at a moment: what 95 % of the last turns in the hand took, in milliseconds (None
    before the first), pieces of heavy work that wait and run, for how long the oldest has waited,
    the memory of workers, and what the disk has free.
    """

    hand_ms: float | None
    waiting: int
    running: int
    oldest_s: float
    workers_mb: float
    free_mb: float


class Trends:
    """The last hour, and how long turns in the hand took."""

    def __init__(self, resources: Resources) -> None:
        self._resources = resources
        self._drafts: deque[float] = deque(maxlen=LAST_DRAFTS)
        self._moments: deque[Moment] = deque(maxlen=_MOST)
        self._stopping = threading.Event()
        self._thread: threading.Thread | None = None

    def start(self) -> None:
        """Look every few seconds from here on; again does nothing."""
        if self._thread is None:
            self._thread = threading.Thread(target=self._go_on, daemon=True, name="trends")
            self._thread.start()

    def stop(self) -> None:
        """End."""
        self._stopping.set()

    def note_draft(self, took_s: float) -> None:
        """A turn in the hand was answered."""
        self._drafts.append(took_s)

    def hand_p95_s(self) -> float | None:
        """What 95 % of the last turns in the hand are not above."""
        kept = sorted(self._drafts)
        return kept[ceil(_SHARE * len(kept)) - 1] if kept else None

    def now(self) -> Moment:
        """How it is."""
        load, hand_s = self._resources.engine.load(), self.hand_p95_s()
        return Moment(
            hand_s and hand_s * 1000,
            load.waiting,
            load.running,
            max((lane.oldest_s for lane in load.lanes.values()), default=0.0),
            load.resident_mb,
            self._resources.files.space.free_mb,
        )

    def moments(self) -> list[Moment]:
        """How it was, the newest last, which is now."""
        return [*self._moments, self.now()]

    def look(self) -> None:
        """Keep how it is now."""
        self._moments.append(self.now())

    def _go_on(self) -> None:
        while not self._stopping.wait(EVERY_S):
            try:
                self.look()
            except Exception as problem:  # the disk is away, say
                log.info("how it is was not seen: %r", problem)
