"""By how much a camera's own level is off, told by pictures of it in which lines tell the roll."""

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

FEWEST = 5
"""Pictures from which on a constant can be told from chance."""
LEAST_DEG = 0.15
"""A level that is off by less is as good as any."""
_LEAST_SIGMA_DEG = 0.1
"""No level in a camera is better: they say whole or tenth degrees (common practice, no published
source)."""
_SURE = 3.0
"""An offset counts that is so many times its own deviation."""
_NORMAL = 1.4826
"""The deviation of normally distributed numbers in their median absolute deviation."""


class CameraOffset(NamedTuple):
    """What pictures say of a camera's level: by how much it is off, with the deviation of what is
    left without that; ``constant`` where that is more than chance.
    """

    pictures: int
    offset_deg: float
    sigma_deg: float
    constant: bool


def offset_of(differences_deg: Sequence[float]) -> CameraOffset | None:
    """What the rolls by lines less those by the camera say together; None of too few of them.

    The median, and the deviation by the median absolute deviation, so that a few pictures in which
    a line misled do not count (Huber & Ronchetti, *Robust Statistics*, 2009, section 5.1).
    """
    if len(differences_deg) < FEWEST:
        return None
    values = np.array(differences_deg)
    middle = float(np.median(values))
    scatter = _NORMAL * float(np.median(np.abs(values - middle)))
    sigma = max(scatter, _LEAST_SIGMA_DEG)
    sure = abs(middle) > _SURE * sigma / math.sqrt(len(values)) and abs(middle) >= LEAST_DEG
    return CameraOffset(len(values), middle, sigma, sure)
