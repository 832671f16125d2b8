"""What the services work with: where things are stored, and what is kept in memory."""

from dataclasses import dataclass, field

import numpy as np

from sequor.core.fill.plan import FillPlan
from sequor.core.pixels import Pixels
from sequor.core.recipe import PhotoFacts, Recipe
from sequor.core.render.rendering import Rendered
from sequor.pictures.decode import Picture as Decoded
from sequor.services.caches import ByteCache
from sequor.settings import Settings
from sequor.store.database import Sessions
from sequor.store.files import FileStore

_MB = 2**20
_RECIPE_BYTES = 8192
"""What a recipe takes in memory, roughly; they are small beside pixels."""


@dataclass(frozen=True)
class Original:
    """An original in memory, with its halved versions, for views far from full size."""

    picture: Decoded
    halves: list[Pixels] = field(default_factory=list)


class Caches:
    """What is kept in memory, each with its share of the budget."""

    def __init__(self, budget_mb: int) -> None:
        budget = budget_mb * _MB
        # Half of it for originals: the one on the bench is what everything is made from. Halved
        # versions add a third.
        self.originals: ByteCache[Original] = ByteCache(budget // 2, _original_bytes)
        self.rendered: ByteCache[Rendered] = ByteCache(budget // 4, lambda r: r.pixels.nbytes)
        self.plans: ByteCache[FillPlan] = ByteCache(budget // 8, _plan_bytes)
        self.proxies: ByteCache[Pixels] = ByteCache(budget // 16, lambda pixels: pixels.nbytes)
        self.images: ByteCache[bytes] = ByteCache(budget // 16, len)
        self.photos: ByteCache[PhotoFacts] = ByteCache(_MB, lambda _: 256)
        self.recipes: ByteCache[Recipe] = ByteCache(4 * _MB, lambda _: _RECIPE_BYTES)


@dataclass(frozen=True)
class Means:
    """Everything that the services share."""

    settings: Settings
    sessions: Sessions
    files: FileStore
    caches: Caches


def _original_bytes(original: Original) -> int:
    return original.picture.pixels.nbytes * 4 // 3


def _plan_bytes(plan: FillPlan) -> int:
    texture = plan.texture
    arrays = (plan.hole, plan.colours, plan.shift, texture.shift, texture.strength, texture.mean)
    return sum(int(np.asarray(array).nbytes) for array in arrays)
