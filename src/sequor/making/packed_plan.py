"""A plan of a fill as it is kept: what says nothing is left out, so that several fit.

Nearly all of a plan lies outside its hole, where only the colours are ever looked at.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np

from sequor.core.fill.plan import FillPlan, Region
from sequor.core.fill.risk import Crossing
from sequor.core.fill.texture import Texture
from sequor.core.pixels import Mask


@dataclass(frozen=True, eq=False)
class PackedPlan:
    """A plan without what lies outside its hole, but for the colours; without a texture where that
    is copied nowhere.
    """

    hole: Mask
    mended: Mask
    colours: Any
    shift: Any
    texture: tuple[Any, Any, Any] | None
    regions: tuple[Region, ...]
    crossings: tuple[Crossing, ...]

    @classmethod
    def of(cls, plan: FillPlan) -> "PackedPlan":
        """A plan, packed."""
        hole, texture = plan.hole, plan.texture
        kept = None
        if texture.strength.any():
            kept = (texture.shift[hole], texture.strength[hole], texture.mean)
        return cls(
            hole, plan.mended, plan.colours, plan.shift[hole], kept, plan.regions, plan.crossings
        )

    @property
    def nbytes(self) -> int:
        """What it takes."""
        parts = (self.hole, self.mended, self.colours, self.shift, *(self.texture or ()))
        return sum(int(part.nbytes) for part in parts)

    def plan(self) -> FillPlan:
        """The plan; its arrays are its own where they are not kept as they are."""
        shape = self.hole.shape
        shift = np.zeros((*shape, 2), np.int32)
        shift[self.hole] = self.shift
        copied, strength = np.zeros((*shape, 2), np.int32), np.zeros(shape, np.float32)
        mean = self.colours
        if self.texture:
            copied[self.hole], strength[self.hole], mean = self.texture
        texture = Texture(copied, strength, mean)
        return FillPlan(
            self.hole, self.colours, shift, texture, self.regions, self.mended, self.crossings
        )
