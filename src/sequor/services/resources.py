"""What the services work with: where things are stored, what does the heavy work, and what is
kept in memory.
"""

import threading
from dataclasses import dataclass, field

from sequor.core.recipe import Edges, Recipe
from sequor.making.caches import ByteCache
from sequor.making.worker_cache import TaskResources
from sequor.services.moments import Moments
from sequor.services.servers import OneServer, Servers
from sequor.settings import Settings
from sequor.store.database import Database
from sequor.store.files import FileStore
from sequor.work.engine import Engine

_MB = 2**20
_RECIPE_BYTES, _READING_BYTES, _POINT_BYTES = 10_000, 1_700, 120
"""What a recipe takes in memory, and every reading and point of it (measured with tracemalloc: 9.8,
1.6 and 0.11 kB)."""
_FACTS_BYTES = 512
_EDGE_BYTES = 400
"""Of an edge that bending keeps straight: two points of two numbers."""
WAITERS = 64
"""Requests that may wait for heavy work at once; the server has more threads than that, so that
others are still answered."""
HAND_WAITERS = 16


def _recipe_bytes(recipe: Recipe) -> int:
    points = sum(len(reading.points) for reading in recipe.readings)
    lines = _READING_BYTES * len(recipe.readings) + _POINT_BYTES * points
    return _RECIPE_BYTES + lines + _EDGE_BYTES * len(recipe.bend.edges or ())


class Caches:
    """What the server keeps in memory; its workers keep pixels (`making.kept`)."""

    def __init__(self, budget_mb: float) -> None:
        self.images: ByteCache[bytes] = ByteCache(int(budget_mb * _MB), len)
        self.facts: ByteCache[object] = ByteCache(4 * _MB, lambda _: _FACTS_BYTES)
        self.edges: ByteCache[Edges] = ByteCache(4 * _MB, lambda edges: _EDGE_BYTES * len(edges))
        self.recipes: ByteCache[Recipe] = ByteCache(8 * _MB, _recipe_bytes)

    def forget(self) -> None:
        """Pictures were deleted for good: what is known of them goes."""
        self.facts.clear()
        self.recipes.clear()


@dataclass(frozen=True)
class Seats:
    """How many may wait for heavy work at once."""

    hand: threading.BoundedSemaphore = field(
        default_factory=lambda: threading.BoundedSemaphore(HAND_WAITERS)
    )
    others: threading.BoundedSemaphore = field(
        default_factory=lambda: threading.BoundedSemaphore(WAITERS)
    )


@dataclass(frozen=True)
class Resources:
    """Everything that the services share."""

    settings: Settings
    database: Database
    files: FileStore
    engine: Engine
    caches: Caches
    seats: Seats = field(default_factory=Seats)
    servers: Servers = field(default_factory=OneServer)
    moments: Moments = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "moments", Moments(self.database))

    @property
    def task_resources(self) -> TaskResources:
        """What a worker needs."""
        return TaskResources(self.files, self.settings.max_megapixels)
