"""Readings by one explanation of the picture: its lines, fitted on the original, that agree."""

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from sequor.core.camera import Matrix
from sequor.core.lens.distortion import Distortion
from sequor.core.measure.edges import Expected, Fit, fit_edge
from sequor.core.measure.orientation import Measured, measure_stance
from sequor.core.measure.readings import sigma_rad, undistorted_reading
from sequor.core.pixels import Pixels
from sequor.core.propose.belonging import Belonging, refined
from sequor.core.propose.lines import Line, angle_towards, best_spread, lines_of, slope_of
from sequor.core.propose.search import starts
from sequor.core.propose.segments import END_PX, Segments
from sequor.core.propose.skyline import Skyline
from sequor.core.propose.small import Small
from sequor.core.recipe import (
    MAX_SIGMA_PX,
    MIN_SIGMA_PX,
    FittedTo,
    LeaveIn,
    PhotoFacts,
    Point,
    Reading,
    Recipe,
)

_MOST = 6
"""Lines of a kind that are proposed: more say the same once more, and nobody reads them all."""
_BESIDE_SHARE = 0.012
"""Of the diagonal: two lines nearer to each other say little more than one."""
REACH = 2.5
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
    focal_px: float

    @property
    def end_px(self) -> float:
        """How well the ends of segments are known, in source pixels."""
        return END_PX * self.small.times


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
    lines: tuple[Line, ...]
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
        return np.array([slope_of(line, (roll, lean, swing), focal_px) for line in self.lines])


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
    lines = [
        line
        for line in lines
        if line.length >= least and line.chance >= _LIKELY and not _is_read(view, line)
    ]
    beside = _BESIDE_SHARE * math.hypot(view.photo.width, view.photo.height)
    chosen = best_spread(lines, stance, view.focal_px, view.end_px, beside, _MOST)
    with ThreadPoolExecutor(2) as threads:
        fits = list(threads.map(lambda line: _fitted(view, line, stance), chosen))
    pairs = [
        (reading, line) for reading, line in zip(fits, chosen, strict=True) if reading is not None
    ]
    fitted = len(pairs)
    while pairs:
        readings = tuple(reading for reading, _ in pairs)
        measured = measured_by(view, readings)
        own = len(measured.off_rad) - len(pairs)
        wrong = {place - own for place in (*measured.outliers, *measured.suspects)}
        if not wrong & set(range(len(pairs))):
            lines_left = tuple(line for _, line in pairs)
            return Attempt(
                readings,
                lines_left,
                measured,
                found.likelihood,
                found.scatter_rad[
                    [0 if line.kind == "plumb" or wall is None else 1 + wall for line in lines_left]
                ],
                len(pairs) / fitted,
            )
        pairs = [pair for place, pair in enumerate(pairs) if place not in wrong]
    return None


def _fitted(view: View, line: Line, stance: tuple[float, float, float]) -> Reading | None:
    """A line as a reading fitted to the edge on the original."""
    size = [view.photo.width, view.photo.height]
    first, last = ((float(x), float(y)) for x, y in np.clip(line.seen, 0, size))
    angle = angle_towards(line, np.array(stance), view.focal_px)
    expected = Expected(angle, max(math.radians(0.3), 2 * view.end_px / line.length))
    return fitted_reading(view, line.kind, (first, last), REACH * view.small.times, expected)


def fitted_reading(
    view: View,
    kind: str,
    drawn: tuple[Point, Point],
    reach_px: float,
    expected: Expected | None = None,
) -> Reading | None:
    """A line as a reading fitted to the edge near it; None where there is none."""
    fit = fit_edge(view.pixels, drawn, view.distortion, max(reach_px, 4.0), 0, expected)
    if fit is None:
        return None
    return as_reading(view, kind, drawn, fit.points, fit, fit.middle)


def as_reading(
    view: View,
    kind: str,
    drawn: tuple[Point, Point],
    points: tuple[Point, Point],
    found: Fit | Skyline,
    middle: Point | None = None,
) -> Reading:
    """What was found on an edge, as a fitted reading, named by where it lies."""
    places = ",".join(f"{round(v)}" for point in points for v in point)
    return Reading.model_validate(
        {
            "id": f"{kind[0]}{places}"[:40],
            "kind": kind,
            "points": points,
            "sigma_px": float(np.clip(view.end_px, MIN_SIGMA_PX, MAX_SIGMA_PX)),
            "fitted": FittedTo(
                drawn=drawn,
                sigma_deg=math.degrees(found.sigma_rad),
                stations=found.stations,
                middle=middle,
            ),
        }
    )


def measured_by(view: View, readings: tuple[Reading, ...]) -> Measured:
    """The stance by the readings that are there and some more, as those of a front."""
    own = [reading for reading in view.recipe.readings if reading.steers]
    lines = tuple(undistorted_reading(reading, view.distortion) for reading in (*own, *readings))
    return measure_stance(
        view.photo, lines, view.focal35_mm, view.recipe.hold, True, LeaveIn(swing=False)
    )


def without_rubbed(segments: Segments, recipe: Recipe, view: View) -> Segments:
    """The segments without those that were rubbed out."""
    keep = np.ones(segments.count, dtype=bool)
    for line in recipe.rubbed_out:
        keep &= ~along(segments.seen, np.array(line), REACH * view.small.times)
    return segments.taken(keep)


def is_rubbed_out(reading: Reading, recipe: Recipe, times: float) -> bool:
    """Whether a line like this was refused."""
    ends = np.array([reading.ends])
    return any(along(ends, np.array(line), REACH * times)[0] for line in recipe.rubbed_out)


def _is_read(view: View, line: Line) -> bool:
    """Whether there is a reading along a line already."""
    return any(
        bool(along(line.seen[None], np.array(reading.ends), REACH * view.small.times)[0])
        for reading in view.recipe.readings
    )


def along(ends: Matrix, line: Matrix, beside: float) -> NDArray[np.bool_]:
    """Which segments, shape (N, 2, 2), lie on a line, shape (2, 2), at least by half."""
    length = math.dist(*line)
    if not length:
        return np.zeros(len(ends), dtype=bool)
    unit = (line[1] - line[0]) / length
    away = np.abs((ends - line[0]) @ [-unit[1], unit[0]]).max(axis=1)
    places = np.sort((ends - line[0]) @ unit, axis=1)
    shared = np.minimum(places[:, 1], length) - np.maximum(places[:, 0], 0)
    whole = np.maximum(places[:, 1] - places[:, 0], 1e-9)
    found: NDArray[np.bool_] = (away < beside) & (shared > 0.5 * np.minimum(whole, length))
    return found
