"""Straight edges in a picture, which a bending keeps straight."""

import numpy as np

from sequor.core.pixels import Pixels
from sequor.core.propose.segments import detected
from sequor.core.propose.small import made_small
from sequor.core.recipe import MAX_EDGES, Edges

_LEAST_PX = 40.0
"""In the small picture: shorter ones hardly show how they bend."""


def straight_edges(pixels: Pixels) -> Edges:
    """The longest straight edges of a picture by their ends in source pixels, the longest first.

    Parameters
    ----------
    pixels : ndarray, shape (height, width, channels), uint8 or uint16
        The upright original.
    """
    small = made_small(pixels)
    found = detected(small.grey)
    length = np.hypot(*(found[:, 1] - found[:, 0]).T)
    order = np.argsort(-length, kind="stable")[:MAX_EDGES]
    kept = found[order[length[order] >= _LEAST_PX]] * small.times
    height, width = pixels.shape[:2]
    inside = np.round(np.clip(kept, 0, [width, height]), 2)
    return tuple(((a[0], a[1]), (b[0], b[1])) for a, b in inside.tolist())
