"""The solution: the whole answer to a photo and a recipe, as immutable values."""

from typing import Literal

import numpy as np

from sequor.core.bow import Bow
from sequor.core.camera import Matrix
from sequor.core.recipe import NATURAL_EASE, Axis, Coordinate, Direction, Kind, Point, Value

Row = tuple[Coordinate, Coordinate, Coordinate]


class SolvedAxis(Value):
    """One axis of the correction, in degrees.

    ``applied_deg`` is what is taken out of the picture, after easing and limiting;
    ``measured_deg`` what the readings say or the axis is held at, None when nothing measures it;
    ``as_shot_deg`` the measured value with the trim. ``words`` say what is done, ``as_shot_words``
    how the camera stood, ``sigma_words`` how sure that is.
    """

    applied_deg: float
    measured_deg: float | None
    as_shot_deg: float
    sigma_deg: float | None
    held: bool
    words: str
    as_shot_words: str
    sigma_words: str


class SolvedStance(Value):
    """The correction about the three axes; a positive roll turns the picture clockwise.

    ``limited`` says that less lean and swing are taken out than wanted, for safety;
    ``natural_ease`` is the ease at which a tall thing looks natural.
    """

    roll: SolvedAxis
    lean: SolvedAxis
    swing: SolvedAxis
    limited: bool
    natural_ease: float = NATURAL_EASE

    @property
    def roll_deg(self) -> float:
        """The roll that is applied."""
        return self.roll.applied_deg

    @property
    def lean_deg(self) -> float:
        """The lean that is applied."""
        return self.lean.applied_deg

    @property
    def swing_deg(self) -> float:
        """The swing that is applied."""
        return self.swing.applied_deg

    def axis(self, name: Axis) -> SolvedAxis:
        """One of the three."""
        return {"roll": self.roll, "lean": self.lean, "swing": self.swing}[name]


class SolvedFocal(Value):
    """The focal length that was used, in 35-mm terms, and what the readings say of it."""

    focal35_mm: float
    source: Literal["stated", "file", "assumed"]
    estimate35_mm: float | None
    estimate_sigma_mm: float | None


class SolvedBow(Value):
    """The bow of the lens that is taken out, for radii in units of half the diagonal ``unit_px`` about ``centre``.

    ``polynomial`` are c1 to c4 of ``r_d = r (1 + c1 r + c2 r^2 + c3 r^3 + c4 r^4)``; k1 is c2 and k2 is c4. ``sigma`` are
    the deviations of k1 and k2 where traces determine them. ``box`` is the straight picture's own box, x, y, width, height,
    in source pixels; ``words`` say what kind of bow it is and how far it moves the corners.
    """

    source: Literal["none", "traces", "hand", "database"]
    polynomial: tuple[Coordinate, Coordinate, Coordinate, Coordinate]
    centre: Point
    unit_px: float
    sigma: tuple[Coordinate | None, Coordinate | None]
    box: tuple[Coordinate, Coordinate, Coordinate, Coordinate]
    lens: str
    words: str


class SolvedFrame(Value):
    """The frame in pixels of the uncropped corrected picture; its sides are whole pixels."""

    x: float
    y: float
    width: int
    height: int


class SolvedSides(Value):
    """Shares of the picture as shot that lie beyond each side of the frame."""

    left: float
    top: float
    right: float
    bottom: float


class SolvedCost(Value):
    """What the frame costs.

    ``fill_fraction`` is the share of the frame that the picture does not cover and that will be filled,
    ``keep_all_fraction`` the same for the frame of this ratio that keeps the whole picture. ``print_words`` say, for a print size,
    how many pixels it has and by how much the picture is enlarged or reduced.
    """

    lost: SolvedSides
    lost_words: str
    fill_fraction: float
    fill_words: str
    keep_all_fraction: float
    print_words: str


class Size(Value):
    """A size in pixels."""

    width: Coordinate
    height: Coordinate


class Action(Value):
    """Something that a note offers to do: switch readings off or on, hold or free an axis, take a focal length, another
    ratio, fill allowance or ease, or go back to the best frame."""

    label: str
    do: Literal[
        "switch_off",
        "switch_on",
        "make_check",
        "hold",
        "free",
        "use_focal",
        "best_agreeing",
        "ratio",
        "allow",
        "ease",
        "best_frame",
    ]
    readings: tuple[str, ...] = ()
    axis: Axis | None = None
    value: Coordinate | None = None
    ratio: str | None = None


class Note(Value):
    """A plain sentence about the solution, the readings that it is about, and what can be done."""

    text: str
    readings: tuple[str, ...] = ()
    actions: tuple[Action, ...] = ()


class SolvedReading(Value):
    """What one reading says. Angles are tilts from true in degrees, positive clockwise.

    ``angle_deg`` is measured in the picture as shot, ``residual_deg`` in the corrected one, from
    the direction in ``reads_as``; ``sigma_deg`` is the standard deviation of the angle, ``worth`` the
    same from 0 (says little) to 1, ``off_deg`` how far the reading is off what all others say together, and
    ``placed_words`` how the line came to lie where it lies. ``sag_before_px`` and ``sag_px`` are how far a trace
    or a fitted line bends from its chord, as shot and corrected.
    """

    id: str
    number: int
    kind: Kind
    reads_as: Direction
    angle_deg: float
    sigma_deg: float
    worth: float
    residual_deg: float
    off_deg: float | None
    outlier: bool
    length_px: float
    words: str
    residual_words: str
    fitted: bool
    placed_words: str
    sag_before_px: float | None
    sag_px: float | None


class Solution(Value):
    """The whole answer to a photo and a recipe.

    ``bow`` takes source pixels to the straight picture, and ``homography`` those to pixels of the uncropped corrected
    picture, whose size is ``plane`` and whose origin is the top-left corner of
    the box around ``outline``, the corners of the valid picture. ``frame_source``
    are the frame's corners back in source pixels. ``kept_fraction`` is the share
    of the source's area that lies in the frame; ``best`` says whether the frame is the best one rather than one placed by hand.
    """

    stance: SolvedStance
    focal: SolvedFocal
    bow: SolvedBow
    homography: tuple[Row, Row, Row]
    plane: Size
    outline: tuple[Point, ...]
    frame: SolvedFrame
    best: bool
    frame_source: tuple[Point, ...]
    kept_fraction: float
    kept_words: str
    cost: SolvedCost
    readings: tuple[SolvedReading, ...]
    notes: tuple[Note, ...]

    @property
    def lens(self) -> Bow:
        """The bow that is taken out."""
        return Bow(self.bow.polynomial, self.bow.centre, self.bow.unit_px)

    @property
    def matrix(self) -> Matrix:
        """The homography as an array, shape (3, 3)."""
        return np.array(self.homography)
