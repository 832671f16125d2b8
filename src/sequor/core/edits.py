"""Every change of a recipe, as a small value.

A caller (the browser, the command line, what a note offers) says what is to change by one of
these; `editing.apply` makes the new recipe. Each has a name, ``do``, by which JSON tells them
apart.
"""

from typing import Annotated, Literal

from pydantic import FailFast, Field

from sequor.core.recipe import (
    LEAST_MAX_STRETCH,
    MAX_NAME,
    MAX_POINTS,
    MAX_PROPORTION,
    MAX_RADIAL,
    MAX_WANTED_DEG,
    MAX_WEIGHT,
    MIN_PROPORTION,
    MOST_MAX_STRETCH,
    AimMeets,
    Axis,
    Becomes,
    Coordinate,
    Direction,
    FillCandidate,
    FillMethod,
    Focal35,
    GuideName,
    Kind,
    LeaveIn,
    Point,
    Points,
    Polynomial,
    PrintSize,
    Reading,
    Recipe,
    Share,
    Value,
)

Id = Annotated[str, Field(min_length=1, max_length=40)]
Ids = Annotated[tuple[Id, ...], FailFast(), Field(min_length=1, max_length=200)]
Zoom = Annotated[float, Field(ge=1e-4, le=1e6)]
"""Screen pixels for a source pixel, at which something was placed by hand."""


class OnPicture(Value):
    """Base of edits with points on the picture, in source pixels.

    Points that a hand placed on a screen are brought inside the picture. ``seen`` says what was
    shown there: the picture ``as_shot``, or ``undistorted``, in whose pixels the points then are;
    they are taken back through the lens of the recipe that is changed.
    """

    seen: Literal["as_shot", "undistorted"] | None = None


class DrawReading(OnPicture):
    """A line that was drawn; with ``fit`` it is fitted to the image edge under it.

    Without a ``zoom`` its points are true to a pixel.
    """

    do: Literal["draw_reading"] = "draw_reading"
    id: Id
    kind: Kind
    points: Points = Field(min_length=2, max_length=MAX_POINTS)
    zoom: Zoom | None = None
    fit: bool = False


class PlaceRectangle(OnPicture):
    """The four corners, in any order, of something rectangular that faces the camera."""

    do: Literal["place_rectangle"] = "place_rectangle"
    group: Annotated[str, Field(min_length=1, max_length=30)]
    corners: tuple[Point, Point, Point, Point]
    zoom: Zoom | None = None
    fit: bool = False


class MovePoint(OnPicture):
    """A point of a reading moved to a place, with the end of the next side that is the same corner.

    Placed by key (no ``zoom``) it is true to a pixel or better. With ``refit`` a reading that was
    fitted to an edge is fitted again.
    """

    do: Literal["move_point"] = "move_point"
    id: Id
    point: int = Field(ge=0, lt=MAX_POINTS)
    to: Point
    zoom: Zoom | None = None
    refit: bool = False


class NudgePoint(Value):
    """A point of a reading moved by some source pixels."""

    do: Literal["nudge_point"] = "nudge_point"
    id: Id
    point: int = Field(ge=0, lt=MAX_POINTS)
    by: Point


class FitReading(Value):
    """Fit a reading, with the sides it is linked to, to the edges under them; with ``another`` to
    the next edge in reach.
    """

    do: Literal["fit_reading"] = "fit_reading"
    id: Id
    another: bool = False


class UnfitReading(Value):
    """A fitted reading, with the sides it is linked to, as it was drawn."""

    do: Literal["unfit_reading"] = "unfit_reading"
    id: Id


class RemoveReading(Value):
    """Delete a reading."""

    do: Literal["remove_reading"] = "remove_reading"
    id: Id


class SwitchReadings(Value):
    """Switch readings off, so that they are kept but steer nothing, or on."""

    do: Literal["switch_readings"] = "switch_readings"
    ids: Ids
    active: bool


class InkReadings(Value):
    """Readings that were proposed, taken as they stand; those that are there already stay as they
    are.

    With ``leave_in`` the axes stay in the picture, or are taken out, as it was wanted.
    """

    do: Literal["ink_readings"] = "ink_readings"
    readings: Annotated[tuple[Reading, ...], FailFast(), Field(min_length=1, max_length=60)]
    leave_in: LeaveIn | None = None


class RubOut(Value):
    """A line that was proposed, by its ends, refused: it is not proposed again."""

    do: Literal["rub_out"] = "rub_out"
    points: tuple[Point, Point]


class PreferReading(Value):
    """Trust one reading over others, which are switched off."""

    do: Literal["prefer_reading"] = "prefer_reading"
    id: Id
    over: Ids


class MakeChecks(Value):
    """Let readings be measured and reported, but steer nothing."""

    do: Literal["make_checks"] = "make_checks"
    ids: Ids


class ReadAs(Value):
    """Let a reading with two ends stand for something else."""

    do: Literal["read_as"] = "read_as"
    id: Id
    kind: Literal["level", "plumb", "horizon", "check", "set_out"]


class KeepAgreeing(Value):
    """Switch readings off, the worst first, until all that steer agree with each other."""

    do: Literal["keep_agreeing"] = "keep_agreeing"


class ShowReading(Value):
    """Draw a reading on the picture, or not."""

    do: Literal["show_reading"] = "show_reading"
    id: Id
    shown: bool


class NameReading(Value):
    """A name of its own for a reading."""

    do: Literal["name_reading"] = "name_reading"
    id: Id
    name: str = Field(max_length=MAX_NAME)


class WeighReading(Value):
    """Count a reading more or less."""

    do: Literal["weigh_reading"] = "weigh_reading"
    id: Id
    weight: float = Field(ge=1e-9, le=MAX_WEIGHT)


class LetTraceServe(Value):
    """Let a trace count as level or plumb too, or as neither."""

    do: Literal["let_trace_serve"] = "let_trace_serve"
    id: Id
    serves_as: Direction | None


class LetReadingBecome(Value):
    """What is to become of a reading by bending; at an ``angle`` without one, as it is now."""

    do: Literal["let_reading_become"] = "let_reading_become"
    id: Id
    becomes: Becomes
    wanted_deg: float | None = Field(default=None, ge=-MAX_WANTED_DEG, le=MAX_WANTED_DEG)


class PointReading(Value):
    """The angle that a reading is to have, by where its first (0) or last (1) end is to point, in
    pixels of the uncropped corrected picture.
    """

    do: Literal["point_reading"] = "point_reading"
    id: Id
    end: Literal[0, 1]
    to: Point


class TurnBy(Value):
    """Turn by hand about an axis, on top of what holds; a positive roll is clockwise."""

    do: Literal["turn_by"] = "turn_by"
    axis: Axis
    deg: float = Field(ge=-720, le=720)


class TypeAngle(Value):
    """An angle of the picture as shot, as a person writes it: ``1.33 cw``, ``1°20'``, ``12 up``."""

    do: Literal["type_angle"] = "type_angle"
    axis: Axis = "roll"
    text: str = Field(max_length=40)


class ResetTrim(Value):
    """Back to what the readings say of an axis."""

    do: Literal["reset_trim"] = "reset_trim"
    axis: Axis


class HoldAxis(Value):
    """Hold an axis at a value whatever the readings say; None holds it where it is.

    What was added by hand is in that value, so the axis's trim goes to zero.
    """

    do: Literal["hold_axis"] = "hold_axis"
    axis: Axis
    deg: Coordinate | None = None


class FreeAxis(Value):
    """Let the readings move an axis again, with nothing added by hand."""

    do: Literal["free_axis"] = "free_axis"
    axis: Axis


class LeaveAxisIn(Value):
    """Leave a measured axis in the picture, or take it out; None lets Sequor choose.

    Of an axis that is left in, what was added by hand goes too; one that is held is let go.
    """

    do: Literal["leave_axis_in"] = "leave_axis_in"
    axis: Axis
    leave: bool | None = True


class SetEase(Value):
    """How much of the measured roll, or of lean and swing together, is taken out."""

    do: Literal["set_ease"] = "set_ease"
    part: Literal["roll", "perspective"]
    share: Share


class ScaleEase(Value):
    """Take out only a share of what is taken out now, of all three axes."""

    do: Literal["scale_ease"] = "scale_ease"
    share: Share


class SetFocal(Value):
    """A focal length in 35-mm terms; None takes the file's."""

    do: Literal["set_focal"] = "set_focal"
    focal35_mm: Focal35 | None


class ChooseLensSource(Value):
    """How the radial distortion is found; by hand goes on from what is there."""

    do: Literal["choose_lens_source"] = "choose_lens_source"
    source: Literal["none", "traces", "hand"]


class SetRadial(Value):
    """Coefficients of the radial distortion by hand; None leaves one as it is."""

    do: Literal["set_radial"] = "set_radial"
    k1: float | None = Field(default=None, ge=-MAX_RADIAL, le=MAX_RADIAL)
    k2: float | None = Field(default=None, ge=-MAX_RADIAL, le=MAX_RADIAL)


class UseLens(Value):
    """The radial distortion of a lens of the open database.

    The core knows no database: whoever asks has the ``polynomial`` looked up first (see
    `services.editing`).
    """

    do: Literal["use_lens"] = "use_lens"
    name: str = Field(min_length=1, max_length=200)
    polynomial: Polynomial | None = None


class SetProportion(Value):
    """Height against width, for taste."""

    do: Literal["set_proportion"] = "set_proportion"
    proportion: float = Field(ge=MIN_PROPORTION, le=MAX_PROPORTION)


class ChooseRatio(Value):
    """The shape of the frame: ``original``, ``free`` or ``W:H``; a print size gives way to it."""

    do: Literal["choose_ratio"] = "choose_ratio"
    ratio: str = Field(max_length=40)


class ChoosePrintSize(Value):
    """A print size for the frame, or none."""

    do: Literal["choose_print_size"] = "choose_print_size"
    size: PrintSize | None


class TurnShape(Value):
    """Turn the frame's shape, or its print size, from lying to upright and back."""

    do: Literal["turn_shape"] = "turn_shape"


class KeepBox(OnPicture):
    """A box that the frame must contain, by two opposite corners; None for nothing to keep."""

    do: Literal["keep_box"] = "keep_box"
    corners: tuple[Point, Point] | None


class KeepMeasured(Value):
    """Let the frame contain what readings were drawn on where that costs little, or not."""

    do: Literal["keep_measured"] = "keep_measured"
    keep: bool


class MoveKeepCorner(OnPicture):
    """Move the top-left or the bottom-right corner of the box to keep."""

    do: Literal["move_keep_corner"] = "move_keep_corner"
    corner: Literal["top_left", "bottom_right"]
    to: Point


class AimAt(OnPicture):
    """A point that a composition guide is to meet, on a guide of one's own when none is set yet."""

    do: Literal["aim_at"] = "aim_at"
    point: Point
    guide: GuideName | None = None


class MoveAim(OnPicture):
    """Move the point that is aimed at."""

    do: Literal["move_aim"] = "move_aim"
    to: Point


class ChangeAim(Value):
    """Another guide for the aim, or a line instead of a crossing of it."""

    do: Literal["change_aim"] = "change_aim"
    guide: GuideName | None = None
    meets: AimMeets | None = None


class AimBetween(Value):
    """Let the frame's middle lie midway between two readings."""

    do: Literal["aim_between"] = "aim_between"
    between: tuple[Id, Id]


class ClearAim(Value):
    """Aim at nothing."""

    do: Literal["clear_aim"] = "clear_aim"


class DragFrame(Value):
    """Move the frame, or an edge or a corner of it, by some pixels of the corrected picture.

    ``handle`` says which: (0, 0) the whole frame, (-1, 0) its left edge, (1, 1) its bottom right
    corner. ``past`` lets it go beyond the picture as far as the fill allowance does; None leaves
    that as it is.
    """

    do: Literal["drag_frame"] = "drag_frame"
    handle: tuple[Literal[-1, 0, 1], Literal[-1, 0, 1]]
    by: Point
    past: bool | None = None


class BestFrame(Value):
    """Back from a frame placed by hand to the best one."""

    do: Literal["best_frame"] = "best_frame"


class AllowFill(Value):
    """How much of the frame may be filled."""

    do: Literal["allow_fill"] = "allow_fill"
    allowance: Share


class FillWith(Value):
    """How the parts of the frame that the picture does not cover are filled."""

    do: Literal["fill_with"] = "fill_with"
    method: FillMethod


class ChooseColour(Value):
    """The colour of what is filled with one."""

    do: Literal["choose_colour"] = "choose_colour"
    colour: str = Field(pattern="^#[0-9a-fA-F]{6}$")


class ChooseCandidate(Value):
    """A candidate for one corner of the frame, 0 to 3 clockwise from the top left, or for all."""

    do: Literal["choose_candidate"] = "choose_candidate"
    corner: int | None = Field(default=None, ge=0, le=3)
    candidate: FillCandidate


class AvoidBox(OnPicture):
    """A box, by two opposite corners, that nothing is copied from."""

    do: Literal["avoid_box"] = "avoid_box"
    corners: tuple[Point, Point]


class CopyEverything(Value):
    """Let everything be copied again."""

    do: Literal["copy_everything"] = "copy_everything"


class BendLines(Value):
    """How much of what the turn leaves over of readings is bent away."""

    do: Literal["bend_lines"] = "bend_lines"
    share: Share


class BendCorners(Value):
    """How much of the empty corners is closed by bending."""

    do: Literal["bend_corners"] = "bend_corners"
    share: Share


class ShareCorners(Value):
    """Of the empty corners how much is closed by bending, and how much of the rest may be filled;
    what is left is cropped.
    """

    do: Literal["share_corners"] = "share_corners"
    bend: Share
    fill: Share


class LimitBending(Value):
    """The most by which anything may be stretched or squeezed."""

    do: Literal["limit_bending"] = "limit_bending"
    max_stretch: float = Field(ge=LEAST_MAX_STRETCH, le=MOST_MAX_STRETCH)


class KeepStill(OnPicture):
    """A box, by two opposite corners, that does not bend."""

    do: Literal["keep_still"] = "keep_still"
    corners: tuple[Point, Point]


class BendEverything(Value):
    """Let everything bend again."""

    do: Literal["bend_everything"] = "bend_everything"


class OpenRecipe(Value):
    """Everything as a recipe has it that was saved before, of this picture or another one."""

    do: Literal["open_recipe"] = "open_recipe"
    recipe: Recipe


Edit = Annotated[
    DrawReading
    | PlaceRectangle
    | MovePoint
    | NudgePoint
    | FitReading
    | UnfitReading
    | RemoveReading
    | SwitchReadings
    | PreferReading
    | MakeChecks
    | InkReadings
    | RubOut
    | ReadAs
    | KeepAgreeing
    | ShowReading
    | NameReading
    | WeighReading
    | LetTraceServe
    | TurnBy
    | TypeAngle
    | ResetTrim
    | HoldAxis
    | FreeAxis
    | LeaveAxisIn
    | SetEase
    | ScaleEase
    | SetFocal
    | ChooseLensSource
    | SetRadial
    | UseLens
    | SetProportion
    | ChooseRatio
    | ChoosePrintSize
    | TurnShape
    | KeepBox
    | KeepMeasured
    | MoveKeepCorner
    | AimAt
    | MoveAim
    | ChangeAim
    | AimBetween
    | ClearAim
    | DragFrame
    | BestFrame
    | AllowFill
    | FillWith
    | ChooseColour
    | ChooseCandidate
    | AvoidBox
    | CopyEverything
    | LetReadingBecome
    | PointReading
    | BendLines
    | BendCorners
    | ShareCorners
    | LimitBending
    | KeepStill
    | BendEverything
    | OpenRecipe,
    Field(discriminator="do"),
]
