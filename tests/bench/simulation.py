"""A studio's queue, simulated (SimPy): python -m tests.bench.simulation prints the tables of
docs/scaling.md from the service times that were measured.

Workers share their cores: a lane's tasks that are done at once take longer together. What waits is
begun in the order of the lanes, the most urgent first, as `work.turns` does it.
"""

from collections.abc import Generator
from dataclasses import dataclass
from typing import Any

import numpy as np
import simpy

HAND_S, EXPORT_S = 0.017, 3.5
"""Seconds of one core: a tile for the hand, an export of 24 megapixels (measured: docs/scaling.md).
"""
_COUNT = 4000
_WARM = 0.1
"""The first share of what is simulated is left out: the queue is empty at the beginning."""


@dataclass(frozen=True)
class Studio:
    """Workers of one core each, and how long their work takes alone.

    Attributes
    ----------
    at_once : int
        Exports that a worker does at the same time.
    """

    workers: int
    at_once: int = 2
    hand_s: float = HAND_S
    export_s: float = EXPORT_S


@dataclass(frozen=True)
class Waits:
    """Seconds from asking to having it: the median, and what 95 % are not above."""

    median_s: float
    high_s: float


@dataclass(frozen=True)
class Simulated:
    """The waits of exports, and of the hand beside them."""

    exports: Waits
    hand: Waits


class _Core:
    """A core that gives exports equal shares, and the hand what it wants at once: a worker's
    processes of urgent lanes go before others by their niceness (sched(7): a weight of about 1 to
    15 between 0 and 12).
    """

    hand_weight, export_weight, slice_s = 15.0, 1.0, 0.02

    def __init__(self, world: simpy.Environment) -> None:
        self.world, self.sharing = world, 0.0

    def work(self, seconds: float, weight: float) -> Generator[Any, Any, None]:
        """Take so many seconds of the core, shared with who else works."""
        self.sharing += weight
        while seconds > 0:
            took = min(self.slice_s, seconds * self.sharing / weight)
            yield self.world.timeout(took)
            seconds -= took * weight / self.sharing
        self.sharing -= weight


def waits_of(studio: Studio, load: float, seed: int = 1, hands_per_s: float = 2.0) -> Simulated:
    """How long exports and the hand wait when exports come at random moments (Poisson).

    Parameters
    ----------
    load : float
        What is asked for, as a share of what the workers can do; below 1.
    """
    world, chance = simpy.Environment(), np.random.default_rng(seed)
    cores = [_Core(world) for _ in range(studio.workers)]
    places = simpy.Store(world)
    places.items = [core for _ in range(studio.at_once) for core in cores]
    hands = simpy.Store(world)
    hands.items = list(cores)
    exports: list[float] = []
    moves: list[float] = []

    def one(store: simpy.Store, seconds: float, weight: float, took: list[float]) -> Any:
        begun = world.now
        core = yield store.get()
        yield world.process(core.work(seconds, weight))
        yield store.put(core)
        took.append(world.now - begun)

    def come(rate: float, count: int, *how: Any) -> Any:
        for _ in range(count):
            yield world.timeout(chance.exponential(1 / rate))
            world.process(one(*how))

    rate = load * studio.workers / studio.export_s
    of_exports = (places, studio.export_s, _Core.export_weight, exports)
    of_hands = (hands, studio.hand_s, _Core.hand_weight, moves)
    last = world.process(come(rate, _COUNT, *of_exports))
    world.process(come(hands_per_s * studio.workers, _COUNT, *of_hands))
    world.run(until=last)
    return Simulated(_waits(exports), _waits(moves))


def _waits(took: list[float]) -> Waits:
    kept = took[int(len(took) * _WARM) :]
    return Waits(float(np.median(kept)), float(np.percentile(kept, 95)))


def main() -> None:
    """Print the tables."""
    print("| workers | load | export, median | export, 95 % | hand, median | hand, 95 % |")
    print("|---|---|---|---|---|---|")
    for workers in (1, 2, 10, 100):
        for load in (0.5, 0.8, 0.95):
            found = waits_of(Studio(workers), load)
            exports, hand = found.exports, found.hand
            print(
                f"| {workers} | {load:.0%} | {exports.median_s:.1f} s | {exports.high_s:.1f} s | "
                f"{hand.median_s * 1000:.0f} ms | {hand.high_s * 1000:.0f} ms |"
            )


if __name__ == "__main__":
    main()
