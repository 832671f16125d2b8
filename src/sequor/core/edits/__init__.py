"""Every change of a recipe, as a small value.

A caller (the browser, the command line, what a note offers) says what is to change by one of
these; `core.advance` makes the new recipe. Each has a name, ``do``, by which JSON tells them apart,
and owns its rule, its words in the ledger, how the next of its kind joins it, and what it needs
before it can be followed (`edits.base`).
"""

from typing import Annotated, get_args

from pydantic import Field

from sequor.core.edits.bending import (
    BendCorners,
    BendEverything,
    BendLines,
    BrushStill,
    KeepStill,
    LetReadingBecome,
    LimitBending,
    PointReading,
)
from sequor.core.edits.by_eye import JudgeByEye, PullCorner
from sequor.core.edits.corners import (
    AllowFill,
    AvoidBox,
    ChooseCandidate,
    ChooseColour,
    CopyEverything,
    FillWith,
    ShareCorners,
)
from sequor.core.edits.frame import (
    AimAt,
    AimBetween,
    BestFrame,
    ChangeAim,
    ChoosePrintSize,
    ChooseRatio,
    ClearAim,
    DragFrame,
    GiveAir,
    GiveMargin,
    KeepBox,
    KeepMeasured,
    LookTo,
    MoveAim,
    MoveKeepCorner,
    TurnShape,
)
from sequor.core.edits.lens import ChooseLensSource, SetFocal, SetRadial, UseLens
from sequor.core.edits.mending import MendFrom, MendOtherwise, MendPlace, RemoveMend
from sequor.core.edits.proposed import InkReadings, RubOut
from sequor.core.edits.readings import (
    DrawReading,
    FitEverything,
    FitReading,
    KeepAgreeing,
    LetTraceServe,
    MakeChecks,
    MovePoint,
    MoveReading,
    NameReading,
    NudgePoint,
    PlaceRectangle,
    PreferReading,
    ReadAs,
    ReadCamera,
    RemoveReading,
    ShowReading,
    SwitchReadings,
    UnfitReading,
    WeighReading,
)
from sequor.core.edits.stance import (
    AddStated,
    FreeAxis,
    GiveTrueShape,
    HoldAxis,
    LeaveAxisIn,
    MarkTrueShape,
    ResetTrim,
    ScaleEase,
    SetEase,
    SetProportion,
    TurnBy,
    TypeAngle,
)
from sequor.core.edits.white import ChooseWhite, PickGrey
from sequor.core.edits.whole import CarryOver, OpenRecipe, StartOver

Edit = Annotated[
    DrawReading
    | PlaceRectangle
    | MovePoint
    | MoveReading
    | NudgePoint
    | FitReading
    | FitEverything
    | UnfitReading
    | RemoveReading
    | SwitchReadings
    | PreferReading
    | KeepAgreeing
    | MakeChecks
    | ReadAs
    | ReadCamera
    | LetTraceServe
    | ShowReading
    | NameReading
    | WeighReading
    | InkReadings
    | RubOut
    | TurnBy
    | TypeAngle
    | ResetTrim
    | HoldAxis
    | FreeAxis
    | LeaveAxisIn
    | AddStated
    | SetEase
    | ScaleEase
    | SetProportion
    | MarkTrueShape
    | GiveTrueShape
    | JudgeByEye
    | PullCorner
    | SetFocal
    | ChooseLensSource
    | SetRadial
    | UseLens
    | ChooseWhite
    | PickGrey
    | ChooseRatio
    | ChoosePrintSize
    | TurnShape
    | KeepBox
    | KeepMeasured
    | MoveKeepCorner
    | GiveAir
    | GiveMargin
    | LookTo
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
    | MendPlace
    | MendOtherwise
    | MendFrom
    | RemoveMend
    | CopyEverything
    | ShareCorners
    | LetReadingBecome
    | PointReading
    | BendLines
    | BendCorners
    | LimitBending
    | KeepStill
    | BrushStill
    | BendEverything
    | OpenRecipe
    | StartOver
    | CarryOver,
    Field(discriminator="do"),
]
KINDS = get_args(get_args(Edit)[0])
"""The classes of all edits."""
