"""photo + recipe -> solution: pure, no pixels, milliseconds.

The solution holds everything that the screen draws and the export renders: how
the picture turns, where the valid picture and the frame lie, what every reading
says and what is left of it, what the frame costs, and notes in plain words.
"""

import math

import numpy as np

from sequor.core import notes
from sequor.core.angles import in_words
from sequor.core.camera import Matrix, Stance, apply_homography, homography, inverse
from sequor.core.frame import Rectangle, largest_free_rectangle, largest_rectangle, polygon_area, whole_pixels
from sequor.core.readings import check_reading, length_px, sigma_rad, tilt_rad
from sequor.core.recipe import Coordinate, Kind, PhotoFacts, Point, Reading, Recipe, Value, target_ratio


class SolvedStance(Value):
    """The correction in degrees; a positive roll turns the picture clockwise.

    ``roll_deg`` is what is applied: ``measured_roll_deg`` (from the readings, None
    without any) plus the trim. ``sigma_deg`` is the standard deviation of the
    measured roll, ``words`` what is done to the picture, and ``tilt_words`` how
    the picture was tilted as shot.
    """

    roll_deg: float
    lean_deg: float
    swing_deg: float
    measured_roll_deg: float | None
    sigma_deg: float | None
    words: str
    tilt_words: str


class SolvedReading(Value):
    """What one reading says. Angles are tilts from true in degrees, positive clockwise.

    ``angle_deg`` is measured in the picture as shot, ``residual_deg`` in the
    corrected one; ``sigma_deg`` is the standard deviation of the angle, and
    ``placed_words`` say how the line came to lie where it lies.
    """

    id: str
    number: int
    kind: Kind
    angle_deg: float
    sigma_deg: float
    residual_deg: float
    length_px: float
    words: str
    residual_words: str
    fitted: bool
    placed_words: str


class SolvedFrame(Value):
    """The frame in pixels of the uncropped corrected picture; its sides are whole pixels."""

    x: float
    y: float
    width: int
    height: int


class Size(Value):
    """A size in pixels."""

    width: Coordinate
    height: Coordinate


class Note(Value):
    """A plain sentence about the solution, and the readings that it is about."""

    text: str
    readings: tuple[str, ...] = ()


Row = tuple[Coordinate, Coordinate, Coordinate]


class Solution(Value):
    """The whole answer to a photo and a recipe.

    ``homography`` takes source pixels to pixels of the uncropped corrected
    picture, whose size is ``plane`` and whose origin is the top-left corner of
    the box around ``outline``, the corners of the valid picture. ``frame_source``
    are the frame's corners back in source pixels. ``kept_fraction`` is the share
    of the source's area that lies in the frame.
    """

    stance: SolvedStance
    homography: tuple[Row, Row, Row]
    plane: Size
    outline: tuple[Point, ...]
    frame: SolvedFrame
    frame_source: tuple[Point, ...]
    kept_fraction: float
    kept_words: str
    readings: tuple[SolvedReading, ...]
    notes: tuple[Note, ...]

    @property
    def matrix(self) -> Matrix:
        """The homography as an array, shape (3, 3)."""
        return np.array(self.homography)


def solve(photo: PhotoFacts, recipe: Recipe) -> Solution:
    """Work out the whole correction of a photo.

    Raises
    ------
    UnusableInput
        When a reading measures nothing or lies outside the picture, or when no
        frame fits.
    """
    for number, reading in enumerate(recipe.readings, 1):
        check_reading(reading, f"Reading {number}", photo)

    measured_rad, sigma = _measure_roll(recipe.readings)
    # Remainder, so that turns of more than half a circle come back as the short way round.
    roll_rad = math.remainder((measured_rad or 0.0) + math.radians(recipe.trim.roll_deg), 2 * math.pi)
    turned = homography(photo, Stance(roll_rad=roll_rad))

    source_corners = Rectangle(0, 0, photo.width, photo.height).corners
    outline = apply_homography(turned, source_corners)
    origin = outline.min(axis=0)
    h = np.array([[1, 0, -origin[0]], [0, 1, -origin[1]], [0, 0, 1]]) @ turned
    outline = outline - origin

    centre = apply_homography(h, np.array([[photo.width / 2, photo.height / 2]]))[0]
    preferred = (float(centre[0]), float(centre[1]))
    ratio = target_ratio(recipe.frame, photo)
    largest = largest_rectangle(outline, ratio, preferred) if ratio else largest_free_rectangle(outline, preferred)
    frame = whole_pixels(largest, ratio)
    frame_source = apply_homography(inverse(h), frame.corners)
    kept = min(1.0, polygon_area(frame_source) / (photo.width * photo.height))

    roll_deg = math.degrees(roll_rad)
    solved = tuple(_solve_reading(n, reading, h) for n, reading in enumerate(recipe.readings, 1))
    return Solution(
        stance=SolvedStance(
            roll_deg=roll_deg,
            lean_deg=0.0,
            swing_deg=0.0,
            measured_roll_deg=None if measured_rad is None else math.degrees(measured_rad),
            sigma_deg=None if sigma is None else math.degrees(sigma),
            words=notes.turn_words(roll_deg),
            tilt_words=in_words(-roll_deg),
        ),
        homography=_rows(h),
        plane=Size(width=float(np.ptp(outline[:, 0])), height=float(np.ptp(outline[:, 1]))),
        outline=_points(outline),
        frame=SolvedFrame(x=frame.x, y=frame.y, width=int(frame.width), height=int(frame.height)),
        frame_source=_points(frame_source),
        kept_fraction=kept,
        kept_words=notes.kept_words(kept),
        readings=solved,
        notes=tuple(Note(text=text, readings=ids) for text, ids in notes.about_readings(solved)),
    )


def _measure_roll(readings: tuple[Reading, ...]) -> tuple[float | None, float | None]:
    """Roll that corrects the readings and its standard deviation, in radians.

    The weighted mean of undirected angles: they are doubled, so that a line and
    the same line drawn backwards agree (Mardia & Jupp, *Directional Statistics*,
    section 1.3). Readings that disagree by more than their precision widen the deviation.
    """
    if not readings:
        return None, None
    tilts = np.array([tilt_rad(reading) for reading in readings])
    weights = np.array([reading.weight / sigma_rad(reading) ** 2 for reading in readings])
    mean = 0.5 * math.atan2(float(weights @ np.sin(2 * tilts)), float(weights @ np.cos(2 * tilts)))
    precision = np.array([sigma_rad(reading) for reading in readings])
    shares = weights / weights.sum()
    sigma = math.sqrt(float(np.sum((shares * precision) ** 2)))
    if len(readings) > 1:
        off = np.remainder(tilts - mean + math.pi / 2, math.pi) - math.pi / 2
        scatter = math.sqrt(float(np.sum(shares * off**2)) / (len(readings) - 1))
        sigma = max(sigma, scatter)
    return -mean, sigma


def _solve_reading(number: int, reading: Reading, h: Matrix) -> SolvedReading:
    angle_deg = math.degrees(tilt_rad(reading))
    residual_deg = math.degrees(tilt_rad(reading, h))
    return SolvedReading(
        id=reading.id,
        number=number,
        kind=reading.kind,
        angle_deg=angle_deg,
        sigma_deg=math.degrees(sigma_rad(reading)),
        residual_deg=residual_deg,
        length_px=length_px(reading),
        words=in_words(angle_deg),
        residual_words=in_words(residual_deg),
        fitted=reading.fitted is not None,
        placed_words=notes.placed_words(reading.fitted.stations if reading.fitted else None),
    )


def _rows(matrix: Matrix) -> tuple[Row, Row, Row]:
    a, b, c = ((float(row[0]), float(row[1]), float(row[2])) for row in matrix)
    return a, b, c


def _points(array: Matrix) -> tuple[Point, ...]:
    return tuple((float(x), float(y)) for x, y in array)
