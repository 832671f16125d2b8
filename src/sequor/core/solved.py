"""The numbers of a solution: stance, lens, bending, frame, cost, and what every reading says."""

from functools import cached_property
from typing import Annotated

import numpy as np
from pydantic import Field
from pydantic.json_schema import SkipJsonSchema

from sequor.core.lens.distortion import Distortion
from sequor.core.lens_choice import FoundLensSource
from sequor.core.photo import Coefficients
from sequor.core.recipe import Axis, Becomes, Coordinate, Direction, FocalSource, Kind, Point
from sequor.core.value import Value
from sequor.core.warp.bending import Bending
from sequor.core.warp.map import Warp

Row = tuple[Coordinate, Coordinate, Coordinate]


class SolvedAxis(Value):
    """One axis of the correction, in degrees.

    ``applied_deg`` is what is taken out of the picture, after easing and limiting; ``measured_deg``
    what the readings say or the axis is held at, None when nothing measures it; ``as_shot_deg`` the
    measured value with the trim; ``sigma_deg`` its standard deviation. ``trimmed`` says that
    something was added by hand, ``left_in`` that the axis is measured and stays in the picture,
    ``decided`` that this, or that it does not, was decided by hand, and ``checked`` that a wrong
    reading would show before it moved the axis by much.
    """

    applied_deg: float
    measured_deg: float | None
    as_shot_deg: float
    sigma_deg: float | None
    held: bool
    trimmed: bool
    left_in: bool
    decided: bool
    checked: bool


class SolvedStance(Value):
    """The correction about the three axes; a positive roll turns the picture clockwise.

    ``limited`` says that less lean and swing are taken out than wanted, for safety, ``front`` that
    the readings are taken for those of a front rather than of a landscape.
    """

    roll: SolvedAxis
    lean: SolvedAxis
    swing: SolvedAxis
    limited: bool
    front: bool

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
    source: FocalSource
    estimate35_mm: float | None
    estimate_sigma_mm: float | None


class SolvedLens(Value):
    """The distortion that is taken out, for radii in units of ``unit_px`` about ``centre``.

    ``polynomial`` are c1 to c6 of the radial part (`lens.distortion`); k1 is c2, k2 is c4 and k3 is
    c6; ``tangential`` are p1 and p2. ``sigma`` are the deviations of what traces determine, by its
    name (`lens.plumb_line`), ``traces`` how many count. ``corner_shift`` is how far a corner moves
    outwards, in units of half the diagonal, ``box`` the undistorted picture's own box, x, y, width,
    height, in source pixels, ``border`` its border.
    """

    source: FoundLensSource
    polynomial: Coefficients
    tangential: tuple[float, float]
    centre: Point
    unit_px: float
    sigma: dict[str, float]
    traces: int
    corner_shift: float
    box: tuple[Coordinate, Coordinate, Coordinate, Coordinate]
    border: tuple[Point, ...]
    name: str


class SolvedMesh(Value):
    """The mesh of a bending (`warp.bending`): where it begins, the side of its cells, how many rows
    and columns of coefficients it has, and these row by row, x and y in turns, in pixels.
    """

    left: Coordinate
    top: Coordinate
    cell: Coordinate
    rows: int
    columns: int
    shift: tuple[float, ...]


class SolvedGrid(Value):
    """Where a grid over the turned picture comes to lie, to draw the picture by.

    It begins at ``left``, ``top`` and has ``rows`` and ``columns`` of places ``step`` pixels apart;
    ``places`` are where they lie in the uncropped corrected picture, row by row, x and y in turns,
    to a tenth of a pixel. Every so many, ``coarse``, begins a cell of the mesh, and ``growth``
    is by how much the areas of these grow, row by row.
    """

    left: Coordinate
    top: Coordinate
    step: Coordinate
    rows: int
    columns: int
    places: tuple[float, ...]
    coarse: int
    growth: tuple[float, ...]


class SolvedBend(Value):
    """How the picture bends.

    ``lines`` and ``corners`` are the shares that are bent away and closed, ``share`` how much of
    what was asked that is, less than 1 where more would stretch too far. Where there is picture
    ``max_stretch`` is the most by which anything is stretched or squeezed, ``max_turn_deg`` the
    most by which it is turned, ``min_jacobian`` and ``max_jacobian`` how much areas shrink and
    grow, and ``bent_share`` the share of the picture where an eye could see it.
    ``closes_fraction`` is the share of the frame that keeping everything would have left empty
    and that is closed. ``grid`` is for drawing; the ``mesh`` itself stays here.
    """

    lines: float
    corners: float
    share: float
    max_stretch: float
    limit: float
    max_turn_deg: float
    min_jacobian: float
    max_jacobian: float
    bent_share: float
    closes_fraction: float
    grid: SolvedGrid
    mesh: SkipJsonSchema[Annotated[SolvedMesh, Field(exclude=True)]]


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

    ``fill_fraction`` is the share of the frame that the picture does not cover and that will be
    filled, ``keep_all_fraction`` the same for the frame of this ratio that keeps the whole picture.
    ``print_scale`` says, for a print size, how many of its pixels there are for one of the frame.
    """

    lost: SolvedSides
    fill_fraction: float
    keep_all_fraction: float
    print_scale: float | None


class Size(Value):
    """A size in pixels."""

    width: Coordinate
    height: Coordinate


class SolvedReading(Value):
    """What one reading says. Angles are tilts from true in degrees, positive clockwise.

    ``angle_deg`` is measured in the picture as shot, ``residual_deg`` in the corrected one, from
    the direction in ``reads_as``; ``sigma_deg`` is the standard deviation of the angle, ``worth``
    the same from 0 (says little) to 1, ``off_deg`` how far the reading is off what all others say
    together. ``disagrees`` when what is left over is more than its precision explains.
    ``stays_bent`` when a line that is straight in reality is seen to bend as corrected;
    ``sag_before_px`` and ``sag_px`` are how far a trace or a fitted line bends from its chord, as
    shot and corrected. ``wanted_deg`` is the tilt that it is to have by bending, None where its
    direction is left to itself, and ``left_deg`` how far off that it still is.
    ``hand_points`` can be taken in hand, ``points`` are all its points, in source pixels;
    ``undistorted_hand_points`` and ``undistorted_points`` are the same freed of distortion,
    ``corrected_hand_points`` and ``corrected_points`` in pixels of the uncropped corrected picture,
    the latter as the line is drawn there: by many where the picture bends. ``along`` are places
    along it from end to end, in source pixels, evenly spaced, where the lens bows.
    """

    id: str
    number: int
    kind: Kind
    active: bool
    reads_as: Direction
    bend_only: bool
    angle_deg: float
    sigma_deg: float
    worth: float
    residual_deg: float
    off_deg: float | None
    outlier: bool
    disagrees: bool
    stays_bent: bool
    becomes: Becomes
    wanted_deg: float | None
    left_deg: float | None
    length_px: float
    stations: int | None
    sag_before_px: float | None
    sag_px: float | None
    points: tuple[Point, ...]
    hand_points: tuple[Point, ...]
    undistorted_points: tuple[Point, ...]
    undistorted_hand_points: tuple[Point, ...]
    corrected_points: tuple[Point, ...]
    corrected_hand_points: tuple[Point, ...]
    along: tuple[Point, ...]

    @property
    def fitted(self) -> bool:
        """Whether it was fitted to an image edge."""
        return self.stations is not None


class SolvedShape(Value):
    """A thing that is as high as it is wide in reality: how many times as wide as high it is as
    corrected, and the proportion with which it would be what it is.
    """

    times_as_wide: float
    true_proportion: float


class MarkedStroke(Value):
    """A stroke of a brush where it is drawn: points along its middle, half its width, and from
    where to where it is copied.
    """

    points: tuple[Point, ...]
    reach: float
    copied: tuple[Point, Point] | None = None


class Marks(Value):
    """What belongs to the frame and is drawn on the picture, in pixels of the uncropped corrected
    one.

    The box to keep and the boxes to avoid, and those that do not bend, by places along their sides,
    clockwise from the top left corner, what was brushed so as not to bend, the corners of the box
    to keep, the point that is aimed at, and the middles of the sides of a thing whose shape is
    known; the strokes that are made anew; and the corners of the picture.
    """

    vertices: tuple[Point, ...]

    keep: tuple[Point, ...] = ()
    keep_vertices: tuple[Point, ...] = ()
    aim: Point | None = None
    avoid: tuple[tuple[Point, ...], ...] = ()
    still: tuple[tuple[Point, ...], ...] = ()
    brushed: tuple[MarkedStroke, ...] = ()
    true_shape: tuple[Point, ...] = ()
    mends: tuple[MarkedStroke, ...] = ()


class NextLine(Value):
    """A line that would tell most if it were drawn next.

    Its ``points`` are undistorted pixels, ``corrected_points`` where it is drawn.

    ``axis`` is what it makes surer, from one deviation to another; None where it tells which of the
    readings is wrong.
    """

    kind: Direction
    points: tuple[Point, Point]
    corrected_points: tuple[Point, ...] = ()
    axis: Axis | None
    from_deg: float | None
    to_deg: float | None


class Solved(Value):
    """The answer to a photo and a recipe, in numbers.

    ``lens`` takes source pixels to the undistorted picture, ``homography`` those to pixels of the
    turned one, and ``bend`` those to pixels of the uncropped corrected picture, whose size is
    ``plane`` and whose origin is the top-left corner of the box around ``outline``, the border of
    the valid picture. ``frame_source`` are the frame's corners back in source pixels, and the
    ``face`` is the frame without its margin. ``kept_fraction`` is the share of the source's area
    that lies in the frame; ``best`` says whether the frame is the best one rather than one placed
    by hand, and ``kept_measured`` whether it is smaller than the largest to contain what was
    measured. ``mended_fraction`` is the share of the frame under strokes that are made anew.
    """

    stance: SolvedStance
    focal: SolvedFocal
    lens: SolvedLens
    bend: SolvedBend | None
    homography: tuple[Row, Row, Row]
    plane: Size
    outline: tuple[Point, ...]
    frame: SolvedFrame
    face: SolvedFrame
    best: bool
    kept_measured: bool
    frame_source: tuple[Point, ...]
    kept_fraction: float
    mended_fraction: float
    cost: SolvedCost
    marks: Marks
    shape: SolvedShape | None
    readings: tuple[SolvedReading, ...]
    next_line: NextLine | None

    @property
    def made_up(self) -> bool:
        """Whether anything in the frame is not the picture's own."""
        return self.cost.fill_fraction > 0 or self.mended_fraction > 0

    @cached_property
    def warp(self) -> Warp:
        """The map from the picture as shot to the corrected one."""
        lens = self.lens
        distortion = Distortion(lens.polynomial, lens.centre, lens.unit_px, lens.tangential)
        return Warp(np.array(self.homography), distortion, self._bending())

    def _bending(self) -> Bending | None:
        if self.bend is None:
            return None
        mesh = self.bend.mesh
        shift = np.array(mesh.shift).reshape(mesh.rows, mesh.columns, 2)
        return Bending(mesh.left, mesh.top, mesh.cell, shift)
