"""The recipe: a whole correction as one small immutable value.

Nothing but the photo and its recipe decides the result. A recipe serialises to JSON (see
docs/recipe.md) and carries a version, so that a correction can be reopened and changed months
later; one of an older version is brought up to date when it is read (`recipe_versions`).
"""

import math
import re
from typing import Annotated, Literal

from pydantic import FailFast, Field, field_validator, model_validator

from sequor.core.language import tr
from sequor.core.lens_choice import LensChoice
from sequor.core.photo import CameraLevel, PhotoFacts
from sequor.core.print_size import PrintSize
from sequor.core.ratio import parse_ratio
from sequor.core.recipe_versions import up_to_date
from sequor.core.value import Value
from sequor.core.white import (
    CHROMATICITY_PLACES,
    ILLUMINANTS,
    Chromaticity,
    Illuminant,
    LightX,
    LightY,
)

MAX_READINGS = 200
"""Far more than anybody draws; so that a recipe stays a small value."""

MAX_RUBBED_OUT = 400
"""Lines that were proposed and refused; the oldest of more are forgotten."""
MAX_COORDINATE = 1e6
"""Pixels: farther away from the picture than any screen shows."""
Coordinate = Annotated[float, Field(allow_inf_nan=False, ge=-MAX_COORDINATE, le=MAX_COORDINATE)]
Point = tuple[Coordinate, Coordinate]
Points = Annotated[tuple[Point, ...], FailFast()]
"""Of a list that is wrong only the first fault is told: a long one could have very many."""
Edges = tuple[tuple[Point, Point], ...]
"""Straight edges by their ends."""
Kind = Literal["level", "plumb", "horizon", "check", "trace", "set_out"]
Becomes = Literal["true", "straight", "angle", "stays"]
Direction = Literal["level", "plumb"]
TURNED_OVER: dict[Kind, Direction] = {"level": "plumb", "plumb": "level"}
"""What a straight line of a kind is when it is the other of the two in reality."""
MIN_POINTS_OF_TRACE, MAX_POINTS = 3, 64
MAX_WEIGHT = 100.0
MAX_NAME = 80
MIN_SIGMA_PX, MAX_SIGMA_PX = 0.02, 1000.0
_SMALLEST = 1e-9
"""Of what is divided by; nothing that is measured comes near."""
Axis = Literal["roll", "lean", "swing"]
AXES: tuple[Axis, ...] = ("roll", "lean", "swing")
MIN_FOCAL35_MM, MAX_FOCAL35_MM = 4.0, 5000.0
Focal35 = Annotated[float, Field(ge=MIN_FOCAL35_MM, le=MAX_FOCAL35_MM)]
FocalSource = Literal["stated", "file", "sensor", "camera", "assumed"]
GuideName = Literal["thirds", "fifths", "golden", "centre", "diagonals", "fine"]
AimMeets = Literal["crossing", "line"]
FillMethod = Literal["patches", "mirror", "colour", "transparent"]
Share = Annotated[float, Field(ge=0, le=1)]
FillStyle = Literal["sharp", "calm"]
MAX_ROLL_DEG, MAX_HELD_ROLL_DEG, MAX_TILT_DEG = 360.0, 180.0, 80.0
"""Trims of roll, held rolls, and lean or swing; beyond 80 degrees nothing of a picture is left."""
MIN_PROPORTION, MAX_PROPORTION = 0.5, 2.0
MAX_WANTED_DEG = 90.0
USUAL_MAX_STRETCH, LEAST_MAX_STRETCH, MOST_MAX_STRETCH = 1.6, 1.05, 2.5
"""Of bending: the limit that holds unless another is set, and how far that goes."""
MAX_EDGES = 120
"""Straight edges that a bending keeps straight; more of the longest make it slower, not better."""
MAX_BOXES = 40
MAX_DRAW = 500
MAX_MENDS = 60
MAX_STROKE_POINTS = 200
MIN_REACH_PX, MAX_REACH_PX = 0.5, 20_000.0
"""Half the width of a brush, in source pixels."""
MAX_AIR, MAX_MARGIN = 1.0, 0.5
"""Of the longer side of what is kept, and of the shorter one of the frame: more is another one."""
MAX_BY_EYE_DEG = 45.0
"""Of the deviation of what is judged by eye: choices farther apart say nothing."""
Side = Literal["left", "right", "top", "bottom"]
SIDES: tuple[Side, ...] = ("left", "right", "top", "bottom")
NATURAL_EASE = 0.94
"""A little of the perspective left in: a tall thing that is perfectly plumb seems to widen at its
top (common practice, no published source; the figure is ours)."""


class FittedTo(Value):
    """How a reading was fitted to an image edge.

    ``drawn`` are the points as they were drawn by hand, ``sigma_deg`` the standard deviation of
    the fitted angle, ``stations`` at how many places the edge was found, ``middle`` where the edge
    lies half-way between the ends, which tells its sag, ``choice`` how often another edge in reach
    was asked for.
    """

    drawn: Points = Field(min_length=2, max_length=MAX_POINTS)
    middle: Point | None = None
    sigma_deg: float = Field(ge=_SMALLEST, le=90)
    stations: int = Field(ge=2)
    choice: int = Field(default=0, ge=0, le=1000)


class Reading(Value):
    """A line in the picture, given by its two ends in source pixels.

    A trace by three or more points along it, a set-out line by two or more.

    A level or plumb one says how the camera stood, and so does a horizon, the line of eye level
    itself; a check is measured and reported but steers nothing; a trace follows something straight
    that looks bent and says how the lens bows, and can serve as level or plumb (``serves_as``) too;
    a set-out line says nothing of camera or lens, only what is to become of it by bending.
    ``becomes`` is that: what it stands for (``true``; of one that stands for neither it is to be
    straight), only ``straight``, at the ``angle`` ``wanted_deg`` from true, positive clockwise (of
    a set-out line from level), or it ``stays`` as the turn leaves it.
    ``sigma_px`` is the standard deviation with which each end was placed by hand, in source pixels:
    about one screen pixel divided by the zoom.
    ``fitted`` says how the ends came to lie on an image edge, or is None for a line left as it was
    drawn. One that is not ``active`` is kept but steers nothing; a ``hidden`` one is not drawn.
    Readings of one ``group`` are the sides of a rectangle and share its corners.
    A horizon of which ``camera`` says how the camera was held was not seen but told: its points
    follow from that (`readings.by_camera`), wherever they lie.
    """

    id: str = Field(min_length=1, max_length=40)
    kind: Kind
    points: Points = Field(min_length=2, max_length=MAX_POINTS)
    serves_as: Direction | None = None
    sigma_px: float = Field(default=1.0, ge=_SMALLEST, le=MAX_SIGMA_PX)
    weight: float = Field(default=1.0, ge=_SMALLEST, le=MAX_WEIGHT)
    name: str = Field(default="", max_length=MAX_NAME)
    fitted: FittedTo | None = None
    active: bool = True
    hidden: bool = False
    group: str | None = Field(default=None, max_length=40)
    camera: CameraLevel | None = None
    becomes: Becomes = "true"
    wanted_deg: float | None = Field(default=None, ge=-MAX_WANTED_DEG, le=MAX_WANTED_DEG)

    @model_validator(mode="after")
    def _wanted_angle(self) -> "Reading":
        if (self.becomes == "angle") != (self.wanted_deg is not None):
            raise ValueError(
                tr("a line that is to be at an angle needs that angle, and no other has one")
            )
        return self

    @model_validator(mode="after")
    def _told_by_the_camera(self) -> "Reading":
        if self.camera and (self.kind != "horizon" or self.fitted):
            raise ValueError(tr("what the camera tells is a horizon that no edge was fitted to"))
        return self

    @model_validator(mode="after")
    def _enough_points(self) -> "Reading":
        if self.kind == "trace" and len(self.points) < MIN_POINTS_OF_TRACE:
            raise ValueError(
                tr("a trace needs at least three points: two always lie on a straight line")
            )
        if self.kind not in ("trace", "set_out") and len(self.points) != 2:
            raise ValueError(tr("a reading of this kind has two ends"))
        return self

    @property
    def bends(self) -> bool:
        """Whether bending heeds it."""
        return self.active and self.kind != "check"

    @property
    def by_points(self) -> bool:
        """Whether it is given by points along it rather than by its two ends."""
        return self.kind == "trace" or len(self.points) > 2

    @property
    def ends(self) -> tuple[Point, Point]:
        """The first and the last point."""
        return self.points[0], self.points[-1]

    @property
    def direction(self) -> Direction | None:
        """What the reading stands for in reality, None when it stands for neither."""
        if self.kind == "level" or self.kind == "plumb":
            return self.kind
        if self.kind == "horizon":
            return "level"
        return self.serves_as if self.kind == "trace" else None

    @property
    def steers(self) -> bool:
        """Whether the reading takes part in finding the stance."""
        return self.active and self.direction is not None


class Trim(Value):
    """What the photographer adds by hand on top of what the readings say, in degrees.

    Of axes in ``stated`` it is more than that: the hand said how the camera stood, by typing it or
    where no reading told, and a reading that is taken later takes its place. A roll that was judged
    by eye has a standard deviation, ``by_eye_sigma_deg``.
    """

    roll_deg: float = Field(default=0.0, ge=-MAX_ROLL_DEG, le=MAX_ROLL_DEG)
    lean_deg: float = Field(default=0.0, ge=-MAX_TILT_DEG, le=MAX_TILT_DEG)
    swing_deg: float = Field(default=0.0, ge=-MAX_TILT_DEG, le=MAX_TILT_DEG)
    stated: Annotated[tuple[Axis, ...], FailFast()] = Field(default=(), max_length=3)
    by_eye_sigma_deg: float | None = Field(default=None, ge=_SMALLEST, le=MAX_BY_EYE_DEG)


class GivenWay(Value):
    """What a hand had stated, in degrees, until a reading took its place; 0 where nothing was."""

    roll_deg: float = Field(default=0.0, ge=-MAX_ROLL_DEG, le=MAX_ROLL_DEG)
    lean_deg: float = Field(default=0.0, ge=-MAX_TILT_DEG, le=MAX_TILT_DEG)
    swing_deg: float = Field(default=0.0, ge=-MAX_TILT_DEG, le=MAX_TILT_DEG)


class Hold(Value):
    """Axes that the readings do not move, each held at a value in degrees.

    None leaves an axis free.
    """

    roll_deg: float | None = Field(default=None, ge=-MAX_HELD_ROLL_DEG, le=MAX_HELD_ROLL_DEG)
    lean_deg: float | None = Field(default=None, ge=-MAX_TILT_DEG, le=MAX_TILT_DEG)
    swing_deg: float | None = Field(default=None, ge=-MAX_TILT_DEG, le=MAX_TILT_DEG)


class LeaveIn(Value):
    """Axes that are solved for and stay in the picture.

    None lets Sequor choose by the readings. An axis that is held is not left in. Where one that
    stays is not believed, it does not turn the picture either, unless ``turn_the_roll``, as in
    recipes before version 6.
    """

    roll: bool | None = None
    lean: bool | None = None
    swing: bool | None = None
    turn_the_roll: bool = False


class Ease(Value):
    """How much of the measured stance is taken out: 1 all of it, 0 nothing.

    What uprights converge by is the ``lean``, what level lines run together by the ``swing``.
    """

    roll: Share = 1.0
    lean: Share = 1.0
    swing: Share = 1.0


WhiteSource = Literal["camera", Illuminant, "spot"]


class WhiteChoice(Value):
    """The light that is to look neutral in a raw picture.

    What its ``camera`` chose, one of the usual lights, or the one under which a ``spot`` of the
    picture, in source pixels, is grey: its chromaticity is ``x``, ``y``. Other pictures are as they
    are, whatever it says.
    """

    source: WhiteSource = "camera"
    spot: Point | None = None
    x: LightX | None = None
    y: LightY | None = None

    @model_validator(mode="after")
    def _a_spot_has_its_colour(self) -> "WhiteChoice":
        for part in (self.spot, self.x, self.y):
            if (part is not None) != (self.source == "spot"):
                raise ValueError(
                    tr("a grey spot has a place and its chromaticity x, y; no other does")
                )
        return self

    @property
    def chromaticity(self) -> Chromaticity | None:
        """The light, to the places that are told; None for what the camera chose."""
        if self.source == "camera":
            return None
        if self.x is not None and self.y is not None:  # of a spot
            return round(self.x, CHROMATICITY_PLACES), round(self.y, CHROMATICITY_PLACES)
        return None if self.source == "spot" else ILLUMINANTS[self.source]


class Box(Value):
    """An upright box in source pixels, by two opposite corners."""

    left: Coordinate
    top: Coordinate
    right: Coordinate
    bottom: Coordinate

    @model_validator(mode="after")
    def _has_an_inside(self) -> "Box":
        if self.right - self.left < 1 or self.bottom - self.top < 1:
            raise ValueError(tr("a box needs a width and a height of at least one pixel"))
        return self

    def inside(self, width: int, height: int) -> "Box | None":
        """What of it lies in a picture; None when that is less than a pixel wide or high."""
        left, top = max(0.0, self.left), max(0.0, self.top)
        right, bottom = min(float(width), self.right), min(float(height), self.bottom)
        if right - left < 1 or bottom - top < 1:
            return None
        return Box(left=left, top=top, right=right, bottom=bottom)


class Aim(Value):
    """Where the frame is to lie beside being large.

    Either ``point``, in source pixels, meets a line or a crossing of the composition guide
    ``guide``, whichever leaves the largest frame; or the frame's middle lies midway between the two
    readings ``between``.
    """

    point: Point | None = None
    guide: GuideName = "thirds"
    meets: AimMeets = "crossing"
    between: tuple[str, str] | None = None

    @model_validator(mode="after")
    def _one_of_both(self) -> "Aim":
        if (self.point is None) == (self.between is None):
            raise ValueError(tr("an aim is a point, or the middle between two readings"))
        if self.between and self.between[0] == self.between[1]:
            raise ValueError(tr("the middle between two readings needs two different ones"))
        return self


class Placed(Value):
    """A frame that was moved or resized by hand.

    ``at``, in source pixels, is where the point of the frame lies that stays when the frame must
    shrink: ``anchor`` says which point that is, in shares of the frame from its top-left corner;
    (0.5, 0.5), its middle, for a frame that was moved as a whole. ``width`` and ``height`` are
    pixels of the corrected picture. ``past`` lets it lie beyond the valid picture as far as the
    fill allowance goes.
    """

    at: Point
    anchor: tuple[Share, Share] = (0.5, 0.5)
    width: float = Field(ge=1, le=1_000_000)
    height: float = Field(ge=1, le=1_000_000)
    past: bool = False


class FrameChoice(Value):
    """The shape of the frame, ``original``, ``free`` (the largest area) or ``W:H``, or a print
    size; and where it lies.

    The box to ``keep`` has ``air`` around it, as a share of its longer side, where there is room,
    and twice as much on the side that it ``looks`` to, on which the frame has the more of its room.
    With ``keep_measured`` it contains what readings were drawn on where that costs little; where
    that costs too much and ``foot_first``, as much of it from its foot as may be had for it.
    All round it a ``margin`` is added, as a share of its shorter side, as for a print that is
    wrapped about its panel; where the picture does not reach it is filled.
    """

    ratio: str = "original"
    print_size: PrintSize | None = None
    keep: Box | None = None
    air: float = Field(default=0.0, ge=0, le=MAX_AIR)
    looks: Side | None = None
    aim: Aim | None = None
    placed: Placed | None = None
    keep_measured: bool = True
    foot_first: bool = True
    margin: float = Field(default=0.0, ge=0, le=MAX_MARGIN)

    @property
    def turned_over(self) -> "FrameChoice":
        """The same shape with its sides changed; ``original`` and ``free`` have none to change."""
        width, separator, height = self.ratio.partition(":")
        size = self.print_size
        return self.changed(
            ratio=f"{height}:{width}" if separator else self.ratio,
            print_size=size and size.turned_over,
        )

    @field_validator("ratio")
    @classmethod
    def _known_ratio(cls, text: str) -> str:
        if text in ("original", "free"):
            return text
        parse_ratio(text)
        # Written in one way, so that one shape is not two.
        return re.sub(r"\s*[/x×:]\s*", ":", text.strip(), flags=re.IGNORECASE).replace(",", ".")


class FillCandidate(Value):
    """One of the fills that can be made from the surroundings.

    A ``sharp`` one takes every pixel from one patch of the picture as it is, which keeps grass
    grass; a ``calm`` one the mean of all patches over it, which is nearer to what was there pixel
    by pixel but looks washed out where there is texture. Another ``draw`` is another start.
    """

    style: FillStyle = "sharp"
    draw: int = Field(default=1, ge=1, le=MAX_DRAW)


FillCandidates = tuple[FillCandidate, FillCandidate, FillCandidate, FillCandidate]


class FillChoice(Value):
    """What becomes of the parts of the frame that the picture does not cover.

    ``allowance`` from 0, crop everything, to 1, keep everything: how much of the frame may be
    filled, as a share of what keeping everything would need. ``candidates`` are those chosen for
    each corner of the frame, clockwise from the top left; ``avoid`` are parts of the picture that
    nothing is copied from.
    """

    allowance: float = Field(default=0.0, ge=0, le=1)
    method: FillMethod = "patches"
    colour: str = Field(default="#ffffff", pattern="^#[0-9a-fA-F]{6}$")
    candidates: FillCandidates = (FillCandidate(),) * 4
    avoid: Annotated[tuple[Box, ...], FailFast()] = Field(default=(), max_length=MAX_BOXES)


class Stroke(Value):
    """What a brush went over: ``points`` along its middle, in source pixels; ``reach`` is half its
    width.
    """

    points: Annotated[Points, Field(min_length=1, max_length=MAX_STROKE_POINTS)]
    reach: float = Field(ge=MIN_REACH_PX, le=MAX_REACH_PX)


class Mend(Stroke):
    """A place that is made anew, by a stroke of a brush, beyond the picture too where a corner was
    filled.

    What lies under it is filled from around it as the ``candidate`` does it, or copied from where
    ``copied_from`` leads, source pixels right and down.
    """

    candidate: FillCandidate = FillCandidate()
    copied_from: Point | None = None


class BendChoice(Value):
    """How far the picture may bend where no turn of the camera sets everything right.

    ``lines`` is how much of what the turn leaves over of the readings is bent away, ``corners`` how
    much of the empty corners is closed, each from 0, nothing, to 1, all. Boxes in ``still`` and
    what was ``brushed`` do not bend, and the ``edges`` stay straight: those found in the picture,
    by their ends in source pixels, None until they were looked for. Nothing is stretched or
    squeezed more than ``max_stretch`` times; recipes before version 8 are not ``persistent`` and
    give up sooner.
    """

    lines: Share = 0.0
    corners: Share = 0.0
    still: Annotated[tuple[Box, ...], FailFast()] = Field(default=(), max_length=MAX_BOXES)
    brushed: Annotated[tuple[Stroke, ...], FailFast()] = Field(default=(), max_length=MAX_BOXES)
    edges: Edges | None = Field(default=None, max_length=MAX_EDGES)
    max_stretch: float = Field(default=USUAL_MAX_STRETCH, ge=LEAST_MAX_STRETCH, le=MOST_MAX_STRETCH)
    persistent: bool = True

    @property
    def bends(self) -> bool:
        """Whether anything is bent."""
        return self.lines > 0 or self.corners > 0


class Recipe(Value):
    """Everything that was decided about one picture.

    ``focal35_mm`` is a focal length stated by hand, in 35-mm terms; None takes the file's.
    ``proportion`` stretches the height against the width, for taste. ``true_shape`` marks a thing
    that is as high as it is wide in reality, a round or a square one, by the middles of its left,
    top, right and bottom side, in source pixels. ``mends`` are made in their order. ``rubbed_out``
    are lines that were proposed and refused, by their ends in source pixels: they are not proposed
    again.
    """

    version: Literal[8] = 8
    readings: Annotated[tuple[Reading, ...], FailFast()] = Field(
        default=(), max_length=MAX_READINGS
    )
    trim: Trim = Trim()
    given_way: GivenWay = GivenWay()
    hold: Hold = Hold()
    leave_in: LeaveIn = LeaveIn()
    ease: Ease = Ease()
    focal35_mm: Focal35 | None = None
    lens: LensChoice = LensChoice()
    white: WhiteChoice = WhiteChoice()
    proportion: float = Field(default=1.0, ge=MIN_PROPORTION, le=MAX_PROPORTION)
    true_shape: tuple[Point, Point, Point, Point] | None = None
    frame: FrameChoice = FrameChoice()
    fill: FillChoice = FillChoice()
    mends: Annotated[tuple[Mend, ...], FailFast()] = Field(default=(), max_length=MAX_MENDS)
    bend: BendChoice = BendChoice()
    rubbed_out: Annotated[tuple[tuple[Point, Point], ...], FailFast()] = Field(
        default=(), max_length=MAX_RUBBED_OUT
    )

    @property
    def framed(self) -> bool:
        """Whether anything was decided about the frame or its corners."""
        return self.frame_decided or self.fill.allowance > 0 or self.bend.corners > 0

    @property
    def fills(self) -> bool:
        """Whether what is shown may reach beyond the picture, and is filled there."""
        return self.fill.allowance > 0 or self.frame.margin > 0

    @property
    def frame_decided(self) -> bool:
        """Whether anything was decided about the frame; ``foot_first``, which older recipes were
        brought up to date with, says nothing of that.
        """
        return self.frame.changed(foot_first=True) != FrameChoice()

    @property
    def unmended(self) -> "Recipe":
        """The same with no place made anew."""
        return self.changed(mends=()) if self.mends else self

    @model_validator(mode="before")
    @classmethod
    def _up_to_date(cls, value: object) -> object:
        return up_to_date(value)

    @model_validator(mode="after")
    def _distinct_ids(self) -> "Recipe":
        ids = [reading.id for reading in self.readings]
        if len(set(ids)) != len(ids):
            raise ValueError(tr("two readings have the same id"))
        return self


def target_ratio(frame: FrameChoice, photo: PhotoFacts) -> float | None:
    """Width over height that the frame must have, or None for a free frame."""
    if frame.print_size:
        width, height = frame.print_size.pixels
        return width / height
    if frame.ratio == "free":
        return None
    if frame.ratio == "original":
        return photo.width / photo.height
    ratio = parse_ratio(frame.ratio)
    return ratio if math.isfinite(ratio) else None
