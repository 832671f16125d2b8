"""A straight line through where an edge was seen, and how far its direction can be trusted.

The robust weights are Tukey's. The deviation is that of what is left over, of neighbours that are
off alike, and of parts of the line that wander together, as on wood, stone and water.
"""

import math

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix

_TUKEY = 4.685
"""Tukey's biweight in units of the scatter, for 95 % efficiency on normal errors (textbook)."""
_BLOCKS = 8
"""Parts of a line whose means tell how far it is not straight."""


def robust_line(
    where: Matrix, positions: Matrix, strengths: Matrix
) -> tuple[tuple[float, float], float, NDArray[np.bool_]] | None:
    """Offset and slope through the stations by Tukey's weights; the slope's deviation, which
    stations hold.

    Where the edge is strong a station says more of where it lies, up to four times the usual.
    """
    design = np.column_stack([np.ones_like(where), where])
    usual = float(np.median(strengths))
    counts = np.clip(strengths / usual if usual > 0 else 1.0, 0.25, 2.0) ** 2
    weights = counts.copy()
    line: Matrix = np.zeros(2)
    scatter = 0.0
    for _ in range(20):
        weighted = design * weights[:, None]
        normal_matrix = weighted.T @ design
        if np.linalg.cond(normal_matrix) > 1e8:
            return None
        line = np.asarray(np.linalg.solve(normal_matrix, weighted.T @ positions), dtype=np.float64)
        off = positions - design @ line
        scatter = max(1.4826 * float(np.median(np.abs(off))), 0.01)
        biweight = np.clip(1 - (off / (_TUKEY * scatter)) ** 2, 0, None) ** 2
        weights = counts * biweight
    kept = biweight > 0.1
    off = positions - design @ line
    spread = float(np.sqrt(np.average(off**2, weights=weights)))
    # Neighbouring errors are alike (texture, compression), so the stations count for fewer than
    # there are.
    alike = correlation(off[kept])
    fine = np.linalg.inv((design * biweight[:, None]).T @ design) * max(spread, 0.01) ** 2 * alike
    sigma = max(math.sqrt(float(fine[1, 1])), _by_blocks(where[kept], off[kept]))
    return (float(line[0]), float(line[1])), sigma, kept


def _by_blocks(where: Matrix, off: Matrix) -> float:
    """The slope's deviation from the means of parts of the line, which wander together."""
    blocks = [block for block in np.array_split(np.arange(len(where)), _BLOCKS) if len(block)]
    if len(blocks) < 4:
        return 0.0
    at, means = (np.array([values[block].mean() for block in blocks]) for values in (where, off))
    spread = float(((at - at.mean()) ** 2).sum())
    return math.sqrt(float((means**2).sum()) / (len(blocks) - 2) / spread) if spread else 0.0


def correlation(off: Matrix) -> float:
    """By how much the variance of a mean grows because neighbouring errors are alike (Bartlett's
    sum over the first lags).
    """
    if len(off) < 12 or not off.std():
        return 1.0
    centred = off - off.mean()
    lags = range(1, min(20, len(off) // 4))
    found = [float(centred[lag:] @ centred[:-lag] / (centred @ centred)) for lag in lags]
    total = 1.0
    for value in found:
        if value < 0.1:
            break
        total += 2 * value
    return total
