"""Where the camera's stance is looked for: everywhere it can be, at once.

For every roll and lean of a grid each segment is plumb, or level in some direction, or neither. Of
a level one the direction is where its plane meets the plane of eye level; directions in which many
meet are those of walls. The horizon comes first and its vanishing points follow from it (Simon et
al., "A-contrario horizon-first vanishing point detection", ECCV 2018); nothing is drawn at random,
so that the same picture always gives the same.
"""

import math
import os
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numba as nb
import numpy as np

from sequor.core.camera import Matrix
from sequor.core.propose.segments import Segments
from sequor.core.stance.sights import plane_normals

MOST_ROLL_DEG, MOST_LEAN_DEG = 25.0, 42.0
"""Beyond this nobody means to level what the picture shows."""
_ROLL_STEP, _LEAN_STEP = 1.0, 1.5
"""Degrees from one trial to the next (set by hand; no trial is recorded)."""
_BINS = 90
"""Directions of walls, over half a turn."""
_WALLS = 3
"""Directions that count."""
_STANDS_OUT, _BESIDE = 1.5, 3
"""A wall has so many times twice the mean of the votes; those so near to it are its own."""
_WIDEST_RAD = 0.3
"""A segment whose direction is known no better says nothing of it."""
_STRIP_ROLLS = 8
"""Rolls that a thread looks at."""
USUAL_DEG = (4.0, 8.0)
"""Deviations of roll and lean that a camera usually has: they choose where the picture leaves it
open."""
_STARTS = 8
"""So many of the likeliest are refined."""
_FACING_RAD = math.radians(8.0)
"""Where no wall is nearer to square-on, one that is square-on is tried as well."""
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
    normals = plane_normals(segments.middle, segments.along, focal_px)

    def strip(first: int) -> None:
        part = slice(first, first + _STRIP_ROLLS)
        _score(
            rolls[part],
            leans,
            focal_px,
            segments.middle,
            segments.along,
            normals,
            weight,
            tolerance,
            score[part],
            walls[part],
        )

    # Every roll is a row of its own: on how many cores makes no difference.
    with ThreadPoolExecutor(os.cpu_count()) as threads:
        list(threads.map(strip, range(0, len(rolls), _STRIP_ROLLS)))
    usual = np.hypot(
        *np.meshgrid(rolls, leans, indexing="ij") / np.radians(USUAL_DEG)[:, None, None]
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


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _score(
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
    votes = np.empty(_BINS)
    for i in range(len(rolls)):
        sz, cz = math.sin(rolls[i]), math.cos(rolls[i])
        for j in range(len(leans)):
            sx, cx = math.sin(leans[j]), math.cos(leans[j])
            # Down, ahead on the plane of eye level, and right on it, at no swing.
            up, ahead = (sz * cx, cz * cx, -sx), (sx * sz, sx * cz, cx)
            votes[:] = 0.0
            plumb, voted = 0.0, 0.0
            for n in range(len(weight)):
                x, y = middle[n, 0], middle[n, 1]
                tx, ty = focal * up[0] - up[2] * x, focal * up[1] - up[2] * y
                off = math.atan2(
                    abs(tx * along[n, 1] - ty * along[n, 0]),
                    abs(tx * along[n, 0] + ty * along[n, 1]),
                )
                near = off / (3 * tolerance[n])
                if near < 1:
                    plumb += weight[n] * (1 - near * near)
                else:
                    voted += _vote(votes, normal[n], up, ahead, cz, -sz, weight[n], tolerance[n])
            score[i, j] = plumb + _most_voted(votes, 2 * voted / _BINS, walls[i, j])


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _vote(
    votes: Any,
    normal: Any,
    up: Any,
    ahead: Any,
    right_x: float,
    right_y: float,
    weight: float,
    tolerance: float,
) -> float:
    """Vote for the direction in which a segment is level; how much it voted."""
    # Where the segment's plane meets that of eye level.
    dx = normal[1] * up[2] - normal[2] * up[1]
    dy = normal[2] * up[0] - normal[0] * up[2]
    dz = normal[0] * up[1] - normal[1] * up[0]
    right, forward = dx * right_x + dy * right_y, dx * ahead[0] + dy * ahead[1] + dz * ahead[2]
    size = math.hypot(right, forward)
    # How far the direction is off when the segment is off by its tolerance: the nearer to eye level
    # it lies, the farther.
    wide = tolerance / max(size, 1e-6)
    if wide > _WIDEST_RAD:
        return 0.0
    centre = (math.atan2(forward, right) / math.pi) % 1.0 * _BINS
    half = max(1.0, wide / math.pi * _BINS * 2)
    for k in range(math.floor(centre - half), math.ceil(centre + half) + 1):
        far = abs(k + 0.5 - centre) / half
        if far < 1:
            votes[k % _BINS] += weight * (1 - far) / half
    return weight


@nb.njit(nogil=True, cache=True, error_model="numpy")
def _most_voted(votes: Any, usual: float, walls: Any) -> float:
    """Fill in the directions with most votes, and say how many more these are than usual."""
    found = 0.0
    walls[:] = np.nan
    for k in range(_WALLS):
        best = int(np.argmax(votes))
        if votes[best] <= _STANDS_OUT * usual or votes[best] <= 0:
            break
        walls[k] = (best + 0.5) / _BINS * math.pi
        found += votes[best] - usual
        for m in range(best - _BESIDE, best + _BESIDE + 1):
            votes[m % _BINS] = 0.0
    return found
