"""Notes: what there is to be said about a solution, as codes with their facts.

Each kind is a class with a ``code``; ``readings`` are the ids of those it is about, ``offers`` the
edits that would help. `report.sentences` puts them into words, and nothing else does.
"""

from typing import Annotated, Literal

from pydantic import Field

from sequor.core.edits import Edit
from sequor.core.recipe import Axis, Direction, FocalSource, GuideName
from sequor.core.value import Value

Id = str


class NoteBase(Value):
    """What all notes have."""

    readings: tuple[Id, ...] = ()
    offers: tuple[Edit, ...] = ()


class TracesSayTooLittle(NoteBase):
    """The traces do not determine the radial distortion, so none is taken out."""

    code: Literal["traces_say_too_little"] = "traces_say_too_little"


class DecentringOpen(NoteBase):
    """The traces ask for a lens that is not quite centred, but reach too little of the border."""

    code: Literal["decentring_open"] = "decentring_open"


class TraceStaysBent(NoteBase):
    """A trace bends although the distortion is taken out; ``alone`` when it is the only one."""

    code: Literal["trace_stays_bent"] = "trace_stays_bent"
    sag_px: float
    alone: bool


class OddOneOut(NoteBase):
    """One reading contradicts all others, which agree; ``farther`` is a better level, if any."""

    code: Literal["odd_one_out"] = "odd_one_out"
    off_deg: float
    sigma_deg: float
    direction: Direction
    farther: Id | None


class Outcome(Value):
    """What the other readings say when one is taken for wrong; None of an axis that they do not
    tell.
    """

    without: Id
    roll_deg: float
    lean_deg: float | None
    swing_deg: float | None


class Contradiction(NoteBase):
    """Readings contradict each other and nothing says which is right.

    ``better`` is a level that lies farther away than ``worse``; ``all_plumb`` when all are plumb;
    ``outcomes`` what the stance is without each.
    """

    code: Literal["contradiction"] = "contradiction"
    apart_deg: float
    better: Id | None
    worse: Id | None
    all_plumb: bool
    outcomes: tuple[Outcome, ...] = ()


class OneMayBeWrong(NoteBase):
    """The readings agree, yet one of them being wrong is not ruled out, and would turn the picture
    by much: ``outcomes`` says to what.
    """

    code: Literal["one_may_be_wrong"] = "one_may_be_wrong"
    outcomes: tuple[Outcome, ...]


class RollOutsideReadings(NoteBase):
    """The picture is taken to be tilted by less, or more, than any of its lines shows: it rests on
    how they converge. ``least_deg`` and ``most_deg`` are the tilts of the lines; ``outcomes`` what
    the stance is without each of those without which it lies among them. ``taken_deg`` is the tilt
    that is taken out instead, where convergence is not believed.
    """

    code: Literal["roll_outside_readings"] = "roll_outside_readings"
    tilt_deg: float
    taken_deg: float | None = None
    least_deg: float
    most_deg: float
    outcomes: tuple[Outcome, ...] = ()


class LiesOnItsSide(NoteBase):
    """Turned by so much that the other way up is as near: a line has no head."""

    code: Literal["lies_on_its_side"] = "lies_on_its_side"
    roll_deg: float


class SeveralDoNotFit(NoteBase):
    """Several readings do not fit the others and count for little."""

    code: Literal["several_do_not_fit"] = "several_do_not_fit"


class SwingRestsOnNear(NoteBase):
    """A near reading, the first one, alone asks for a large swing; the second lies farther away."""

    code: Literal["swing_rests_on_near"] = "swing_rests_on_near"
    swing_deg: float
    apart_deg: float


class ShortReading(NoteBase):
    """A reading's angle is only known roughly; ``decides`` is an axis that rests on it alone."""

    code: Literal["short_reading"] = "short_reading"
    sigma_deg: float
    decides: Axis | None


class SameLineTwice(NoteBase):
    """Two readings lie on nearly the same line."""

    code: Literal["same_line_twice"] = "same_line_twice"


class PlumbMayLean(NoteBase):
    """The one plumb line stands away from the middle: a lean of ``lean_deg`` would make the roll
    ``off_deg`` wrong.
    """

    code: Literal["plumb_may_lean"] = "plumb_may_lean"
    lean_deg: float
    off_deg: float


class LevelRunsAway(NoteBase):
    """The roll rests on a level line of unknown direction, ``below_deg`` from eye level: one that
    runs ``direction_deg`` away from square to the camera is ``off_deg`` off.
    """

    code: Literal["level_runs_away"] = "level_runs_away"
    below_deg: float
    direction_deg: float
    off_deg: float


class AxisStaysOpen(NoteBase):
    """Readings that would tell an axis do not: they are too short, or too near to each other."""

    code: Literal["axis_stays_open"] = "axis_stays_open"
    axis: Axis


class HeldAgainstReadings(NoteBase):
    """A held axis that the readings would move to ``free_deg``."""

    code: Literal["held_against_readings"] = "held_against_readings"
    axis: Literal["lean", "swing"]
    held_deg: float
    free_deg: float


class Limited(NoteBase):
    """Less lean and swing are taken out than wanted, for no side to be stretched too far."""

    code: Literal["limited"] = "limited"
    wanted_lean_deg: float
    wanted_swing_deg: float
    lean_deg: float
    swing_deg: float
    stretch: float


class FocalContradicted(NoteBase):
    """The readings fit another focal length than the one of the file, or the one stated."""

    code: Literal["focal_contradicted"] = "focal_contradicted"
    source: FocalSource
    focal35_mm: float
    estimate35_mm: float
    estimate_sigma_mm: float


class HangsOnFocal(Value):
    """What an axis is for a short lens and for a long one."""

    axis: Literal["lean", "swing"]
    short_mm: float
    short_deg: float
    long_mm: float
    long_deg: float


class FocalAssumed(NoteBase):
    """A focal length is only assumed, and proportions depend on it: height against width may be off
    by the share ``proportions_off``. ``misfit`` when the readings agree for another one only.
    ``hangs`` is the axis that hangs on it most, with what it is for the shorter and the longer of
    two usual lenses.
    """

    code: Literal["focal_assumed"] = "focal_assumed"
    focal35_mm: float
    estimate35_mm: float | None
    estimate_sigma_mm: float | None
    proportions_off: float
    misfit: bool
    hangs: HangsOnFocal | None = None


class Met(Value):
    """How much of what is wanted of a reading is met by bending, 0 to 1, and how far it is off."""

    reading: Id
    share: float
    left_deg: float


class BendingContradicts(NoteBase):
    """Lines want what cannot all be true at once; ``met`` says how much of each is."""

    code: Literal["bending_contradicts"] = "bending_contradicts"
    met: tuple[Met, ...]


class BendingLimited(NoteBase):
    """Only a share of the bending that was asked is done, for nothing to be stretched too far."""

    code: Literal["bending_limited"] = "bending_limited"
    share: float
    limit: float


class KeepIsCut(NoteBase):
    """No frame of this shape can contain the box to keep with the present fill allowance."""

    code: Literal["keep_is_cut"] = "keep_is_cut"
    allowance: float


class KeepIsCutByHand(NoteBase):
    """The frame was placed by hand so that it cuts the box to keep."""

    code: Literal["keep_is_cut_by_hand"] = "keep_is_cut_by_hand"


class AimIsMissed(NoteBase):
    """No frame meets the aim."""

    code: Literal["aim_is_missed"] = "aim_is_missed"
    aim: Literal["crossing", "line", "between"]


class AimIsDear(NoteBase):
    """A crossing of the guide costs much of the picture that a line of it would keep: the shares
    that are kept with each.
    """

    code: Literal["aim_is_dear"] = "aim_is_dear"
    guide: GuideName
    kept: float
    by_line: float


class HandGaveWay(NoteBase):
    """What a hand had stated of an axis has given way to a reading; ``deg`` as it was applied."""

    code: Literal["hand_gave_way"] = "hand_gave_way"
    axis: Axis
    deg: float


class CameraTells(NoteBase):
    """No line is drawn yet, and the file says how the camera was held."""

    code: Literal["camera_tells"] = "camera_tells"
    roll_deg: float
    lean_deg: float | None


Note = Annotated[
    TracesSayTooLittle
    | DecentringOpen
    | TraceStaysBent
    | OddOneOut
    | Contradiction
    | OneMayBeWrong
    | RollOutsideReadings
    | LiesOnItsSide
    | HandGaveWay
    | SeveralDoNotFit
    | SwingRestsOnNear
    | ShortReading
    | SameLineTwice
    | LevelRunsAway
    | PlumbMayLean
    | AxisStaysOpen
    | HeldAgainstReadings
    | Limited
    | FocalContradicted
    | FocalAssumed
    | BendingContradicts
    | BendingLimited
    | KeepIsCut
    | KeepIsCutByHand
    | AimIsMissed
    | AimIsDear
    | CameraTells,
    Field(discriminator="code"),
]
