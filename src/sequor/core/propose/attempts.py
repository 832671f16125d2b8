"""Readings by one explanation of the picture: its lines, fitted on the original, that agree."""

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from typing import NamedTuple

import numpy as np

from sequor.core.camera import Matrix, focal_px_of
from sequor.core.edges.fitting import REACH_SIGMAS, Expected, fitted
from sequor.core.lens.distortion import Distortion
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.propose.belonging import Belonging, refined
from sequor.core.propose.lines import SeenLine, best_spread, lines_of, off_stance
from sequor.core.propose.pencil import drawn, read_already
from sequor.core.propose.search import starts
from sequor.core.propose.segments import END_PX, Segments
from sequor.core.propose.small import Small
from sequor.core.readings.reading import sigma_rad, undistorted_reading
from sequor.core.recipe import Kind, LeaveIn, Reading, Recipe
from sequor.core.stance.orientation import Measured, measure_stance

_MOST = 6
"""Lines of a kind that are proposed: more say the same once more, and nobody reads them all."""
_BESIDE_SHARE = 0.012
"""Of the diagonal: two lines nearer to each other say little more than one."""
_REACH = 2.5
"""How far the edge on the original may lie from a segment, in pixels of the small picture."""
_PLAUSIBLE, _MOST_PLAUSIBLE = 12.0, 3
"""Another stance is plausible if it is less likely by no more than this (in the logarithm), and so
many are followed."""
_SIMPLER, _LESS_RAD = 4.0, math.radians(2.0)
"""Of stances that are as likely as that one with clearly less lean is preferred."""
ALIKE_RAD = np.radians([0.15, 0.8, 1.2])
"""Two stances agree on an axis within this, besides their deviations."""
_FACING_DEG = 60.0
"""A wall that is turned away by more cannot be set square."""
_LIKELY = 0.75
"""A line that is less likely what it is taken for is not proposed."""
_LEAST_SHARE = 0.028
"""Of the picture's longer side: a shorter line is not proposed."""


class View(NamedTuple):
    """What a picture is looked at through."""

    pixels: Pixels
    photo: PhotoFacts
    recipe: Recipe
    small: Small
    traces: tuple[Reading, ...]
    distortion: Distortion
    focal35_mm: float
    focal_known: bool

    @property
    def focal_px(self) -> float:
        """The focal length in source pixels."""
        return focal_px_of(self.focal35_mm, self.photo)

    @property
    def end_px(self) -> float:
        """How well the ends of segments are known, in source pixels."""
        return END_PX * self.small.times

    @property
    def beside_px(self) -> float:
        """How far an edge on the original, or the same line found again, may lie from a segment."""
        return _REACH * self.small.times


@dataclass(frozen=True)
class Attempt:
    """Readings by one explanation of the picture, and what they say together.

    Attributes
    ----------
    readings, lines : tuple
        The readings, and the lines that they were fitted to.
    measured : Measured
        The stance, with the readings that were there before.
    likelihood : float
        Of the explanation, in the logarithm.
    scatter_rad : ndarray, shape (N,)
        How far the like of each reading scatter in this picture.
    agreeing : float
        The share of the fitted lines that agreed in the end.
    """

    readings: tuple[Reading, ...]
    lines: tuple[SeenLine, ...]
    measured: Measured
    likelihood: float
    scatter_rad: Matrix
    agreeing: float = 1.0

    @property
    def angles(self) -> Matrix:
        """Roll, lean and swing."""
        stance = self.measured.stance
        return np.array([stance.roll_rad, stance.lean_rad, stance.swing_rad])

    @property
    def without_one(self) -> Matrix:
        """How much roll, lean and swing change at most when any one line is left out."""
        most: Matrix = np.abs(self.measured.without - self.angles).max(axis=0)
        return most

    def deviations(self, focal_px: float) -> Matrix:
        """Deviations of roll, lean and swing, shape (3,); infinite where nothing is measured.

        Where the lines of a picture scatter more than they are sharp, chance has chosen among them.
        """
        slopes = self.slopes(focal_px)
        sharp = np.array([sigma_rad(reading) for reading in self.readings])
        scattered = np.hypot(sharp, self.scatter_rad)
        wide, narrow = (
            np.diagonal(np.linalg.inv(slopes.T @ (slopes / s[:, None] ** 2) + np.eye(3) * 1e-3))
            for s in (scattered, sharp)
        )
        found = np.hypot(self.measured.sigma_rad, np.sqrt(np.maximum(wide - narrow, 0.0)))
        deviations: Matrix = np.where(self.measured.determined, found, np.inf)
        return deviations

    def slopes(self, focal_px: float) -> Matrix:
        """How the angles of the lines change with roll, lean and swing, shape (N, 3)."""
        roll, lean, swing = (float(angle) for angle in self.angles)
        return off_stance(self.lines, (roll, lean, swing), focal_px)[1]


def attempts_of(view: View, segments: Segments) -> list[Attempt]:
    """Readings by every plausible explanation, the likeliest first."""
    if segments.count < 2:
        return []
    tried = [refined(segments, view.focal_px, start) for start in starts(segments, view.focal_px)]
    tried.sort(key=lambda found: -found.likelihood)
    plausible: list[Belonging] = []
    for found in tried:
        likely = found.likelihood >= tried[0].likelihood - _PLAUSIBLE
        if likely and all(_apart(found, other) for other in plausible):
            plausible.append(found)
    best = plausible[0]
    for found in plausible[1:]:
        simpler = abs(found.lean_rad) < abs(best.lean_rad) - _LESS_RAD
        if simpler and found.likelihood >= plausible[0].likelihood - _SIMPLER:
            best = found
    plausible = [best, *(found for found in plausible if found is not best)]
    made = [_attempt(view, segments, found) for found in plausible[:_MOST_PLAUSIBLE]]
    return [attempt for attempt in made if attempt is not None]


def _apart(one: Belonging, other: Belonging) -> bool:
    return bool(
        abs(one.roll_rad - other.roll_rad) > ALIKE_RAD[0] / 2
        or abs(one.lean_rad - other.lean_rad) > ALIKE_RAD[1] / 2
    )


def _attempt(view: View, segments: Segments, found: Belonging) -> Attempt | None:
    """The lines by one explanation, fitted on the original, those that agree."""
    facing = [
        wall for wall, swing in enumerate(found.walls_rad) if abs(swing) < math.radians(_FACING_DEG)
    ]
    wall = facing[0] if facing else None
    swing = found.walls_rad[wall] if wall is not None else 0.0
    stance = (found.roll_rad, found.lean_rad, swing)
    least = _LEAST_SHARE * max(view.photo.width, view.photo.height)
    lines = lines_of(segments, found, wall, view.small.times)
    lines = [line for line in lines if line.length >= least and line.chance >= _LIKELY]
    if lines:
        there = read_already(np.array([line.seen for line in lines]), view.recipe, view.beside_px)
        lines = [line for line, known in zip(lines, there, strict=True) if not known]
    beside = _BESIDE_SHARE * math.hypot(view.photo.width, view.photo.height)
    chosen = best_spread(lines, stance, view.focal_px, view.end_px, beside, _MOST)
    expected = _expected(view, chosen, stance)
    with ThreadPoolExecutor(2) as threads:
        kinds, seen = [line.kind for line in chosen], [line.seen for line in chosen]
        fits = list(threads.map(partial(fitted_reading, view), kinds, seen, expected))
    pairs = [
        (reading, line) for reading, line in zip(fits, chosen, strict=True) if reading is not None
    ]
    tried = len(pairs)
    while pairs:
        readings = tuple(reading for reading, _ in pairs)
        measured = measured_by(view, readings)
        own = len(measured.off_rad) - len(pairs)
        wrong = {place - own for place in (*measured.outliers, *measured.suspects)}
        if not wrong & set(range(len(pairs))):
            lines_left = tuple(line for _, line in pairs)
            like = [0 if line.kind == "plumb" or wall is None else 1 + wall for line in lines_left]
            scatter, agreeing = found.scatter_rad[like], len(pairs) / tried
            return Attempt(readings, lines_left, measured, found.likelihood, scatter, agreeing)
        pairs = [pair for place, pair in enumerate(pairs) if place not in wrong]
    return None


def _expected(
    view: View, lines: list[SeenLine], stance: tuple[float, float, float]
) -> list[Expected]:
    """The angles that lines have by a stance, and how well that is known before they are fitted."""
    if not lines:
        return []
    off = off_stance(lines, stance, view.focal_px)[0]
    return [
        Expected(
            math.atan2(*(line.ends[1] - line.ends[0])[::-1]) - float(wrong),
            max(math.radians(0.3), 2 * view.end_px / line.length),
        )
        for line, wrong in zip(lines, off, strict=True)
    ]


def fitted_reading(
    view: View, kind: Kind, seen: Matrix, expected: Expected | None = None
) -> Reading | None:
    """A line as shot, shape (2, 2), as a reading fitted to the edge near it on the original; None
    where there is none.
    """
    inside = np.clip(seen, 0, [view.photo.width, view.photo.height])
    line = drawn(kind, inside, view.beside_px / REACH_SIGMAS)
    return fitted(line, view.pixels, view.distortion, expected)


def measured_by(view: View, readings: tuple[Reading, ...]) -> Measured:
    """The stance by the readings that are there and some more, as those of a front."""
    own = [reading for reading in view.recipe.readings if reading.steers]
    lines = tuple(undistorted_reading(reading, view.distortion) for reading in (*own, *readings))
    return measure_stance(
        view.photo,
        lines,
        view.focal35_mm,
        view.recipe.hold,
        view.focal_known,
        LeaveIn(swing=False),
    )
