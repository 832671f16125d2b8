"""Where the camera's stance is looked for: everywhere it can be, at once.

For every roll and lean of a grid each segment is plumb, or level in some direction, or neither. Of
a level one the direction is where its plane meets the plane of eye level; directions in which many
meet are those of walls. The horizon comes first and its vanishing points follow from it (Simon et
al., "A-contrario horizon-first vanishing point detection", ECCV 2018); nothing is drawn at random,
so that the same picture always gives the same.
"""

import math
from typing import Any

import numba as nb
import numpy as np

from sequor.core.camera import Matrix
from sequor.core.propose.segments import Segments

MOST_ROLL_DEG, MOST_LEAN_DEG = 25.0, 42.0
"""Beyond this nobody means to level what the picture shows."""
_ROLL_STEP, _LEAN_STEP = 1.0, 1.5
_BINS = 90
"""Directions of walls, over half a turn."""
_WALLS = 3
"""Directions that count."""
_USUAL_ROLL, _USUAL_LEAN = 4.0, 8.0
"""Degrees; the prior that chooses where the picture leaves it open."""
_STARTS = 8
_FACING_RAD = math.radians(8.0)
_APART = 3.0
"""Starts differ by so many steps at least."""


def starts(segments: Segments, focal_px: float) -> list[tuple[float, float, list[float]]]:
    """Rolls, leans and directions of walls, in radians, from which to refine; the likeliest
    first.
    """
    rolls = np.radians(np.arange(-MOST_ROLL_DEG, MOST_ROLL_DEG + 0.1, _ROLL_STEP))
    leans = np.radians(np.arange(-MOST_LEAN_DEG, MOST_LEAN_DEG + 0.1, _LEAN_STEP))
    weight = np.sqrt(segments.counts)
    score = np.zeros((len(rolls), len(leans)))
    walls = np.zeros((len(rolls), len(leans), _WALLS))
    tolerance = np.hypot(segments.sigma_rad, math.radians(0.6 * _ROLL_STEP))
    _score_all(
        rolls,
        leans,
        focal_px,
        segments.middle,
        segments.along,
        segments.normals(focal_px),
        weight,
        tolerance,
        score,
        walls,
    )
    usual = np.hypot(
        np.degrees(rolls)[:, None] / _USUAL_ROLL, np.degrees(leans)[None, :] / _USUAL_LEAN
    )
    likely = score - 0.5 * weight.mean() * usual**2
    found: list[tuple[float, float, list[float]]] = []
    places: list[tuple[int, int]] = []
    for place in np.argsort(-likely, axis=None, kind="stable"):
        at = divmod(int(place), len(leans))
        if any(math.dist(at, other) < _APART for other in places):
            continue
        places.append(at)
        found.append((float(rolls[at[0]]), float(leans[at[1]]), _facing(walls[at])))
        if len(found) == _STARTS:
            break
    # The usual stance is tried whatever else is more likely.
    level = int(np.argmin(np.abs(leans)))
    roll = int(np.argmax(likely[:, level]))
    if all(math.dist((roll, level), other) >= _APART for other in places):
        found.append((float(rolls[roll]), 0.0, _facing(walls[roll, level])))
    return found


def _facing(walls: Matrix) -> list[float]:
    """The directions of walls, with one square to the camera: of what lies at eye level no
    direction can be told.
    """
    found = [float(wall) for wall in walls if np.isfinite(wall)]
    if all(abs(wall - math.pi * round(wall / math.pi)) > _FACING_RAD for wall in found):
        found.append(0.0)
    return found


@nb.njit(cache=True, error_model="numpy", parallel=True)
def _score_all(
    rolls: Any,
    leans: Any,
    focal: float,
    middle: Any,
    along: Any,
    normal: Any,
    weight: Any,
    tolerance: Any,
    score: Any,
    walls: Any,
) -> None:
    """Fill in how much of the segments a roll and a lean explain, and the directions of walls."""
    count = len(weight)
    # Every roll is a row of its own: on how many cores makes no difference.
    for i in nb.prange(len(rolls)):
        votes = np.empty(_BINS)
        sz, cz = math.sin(rolls[i]), math.cos(rolls[i])
        for j in range(len(leans)):
            sx, cx = math.sin(leans[j]), math.cos(leans[j])
            upx, upy, upz = sz * cx, cz * cx, -sx
            # Right and ahead on the plane of eye level, at no swing.
            ax, ay = cz, -sz
            bx, by, bz = sx * sz, sx * cz, cx
            votes[:] = 0.0
            plumb = 0.0
            total = 0.0
            for n in range(count):
                x, y = middle[n, 0], middle[n, 1]
                tx, ty = focal * upx - upz * x, focal * upy - upz * y
                off = math.atan2(
                    abs(tx * along[n, 1] - ty * along[n, 0]),
                    abs(tx * along[n, 0] + ty * along[n, 1]),
                )
                near = off / (3 * tolerance[n])
                if near < 1:
                    plumb += weight[n] * (1 - near * near)
                    continue
                # Where the segment's plane meets that of eye level.
                dx = normal[n, 1] * upz - normal[n, 2] * upy
                dy = normal[n, 2] * upx - normal[n, 0] * upz
                dz = normal[n, 0] * upy - normal[n, 1] * upx
                right, ahead = dx * ax + dy * ay, dx * bx + dy * by + dz * bz
                size = math.hypot(right, ahead)
                if size < 1e-6:
                    continue
                direction = math.atan2(ahead, right)
                # How far the direction is off when the segment is off by its tolerance: the nearer
                # to eye level it lies, the farther.
                wide = tolerance[n] / max(size, 1e-3)
                if wide > 0.3:
                    continue
                centre = (direction / math.pi) % 1.0 * _BINS
                half = max(1.0, wide / math.pi * _BINS * 2)
                for k in range(math.floor(centre - half), math.ceil(centre + half) + 1):
                    far = abs(k + 0.5 - centre) / half
                    if far < 1:
                        votes[k % _BINS] += weight[n] * (1 - far) / half
                total += weight[n]
            mean = total / _BINS
            for k in range(_WALLS):
                best = int(np.argmax(votes))
                if votes[best] > 3 * mean and votes[best] > 0:
                    walls[i, j, k] = (best + 0.5) / _BINS * math.pi
                    plumb += votes[best] - 2 * mean
                    for m in range(best - 3, best + 4):
                        votes[m % _BINS] = 0.0
                else:
                    walls[i, j, k] = np.nan
            score[i, j] = plumb
