"""What there is to choose from, with the names that a screen gives it, and how far values may go.

Lists, limits and defaults stand where the rule is; here they only get their words.
"""

from collections.abc import Mapping
from typing import Any, get_args

from sequor.core.edits import KINDS
from sequor.core.edits.base import Joins
from sequor.core.edits.by_eye import BY_EYE_ROUNDS_DEG
from sequor.core.edits.readings import LineKind
from sequor.core.frame.composition import NAMES, guide_lines
from sequor.core.language import ENGLISH, language, mark, tr
from sequor.core.least_harm import HarmWeights, Weight
from sequor.core.lens_choice import MAX_RADIAL, LensSource
from sequor.core.names import CORNERS, named
from sequor.core.print_size import PrintSize, PrintUnit
from sequor.core.recipe import (
    LEAST_MAX_STRETCH,
    MAX_AIR,
    MAX_FOCAL35_MM,
    MAX_NAME,
    MAX_POINTS,
    MAX_STROKE_POINTS,
    MAX_TILT_DEG,
    MAX_WANTED_DEG,
    MAX_WEIGHT,
    MIN_FOCAL35_MM,
    MIN_POINTS_OF_TRACE,
    MOST_MAX_STRETCH,
    NATURAL_EASE,
    TURNED_OVER,
    USUAL_MAX_STRETCH,
    AimMeets,
    Axis,
    Becomes,
    Direction,
    FillCandidate,
    FillMethod,
    GuideName,
    Kind,
    Point,
    Side,
    WhiteSource,
)
from sequor.core.render.size import SizeKind
from sequor.core.value import Value


class Option(Value):
    """A choice: what is sent, what it is called, and what it means."""

    value: str
    label: str
    hint: str = ""


class Range(Value):
    """How far a value may go."""

    low: float
    high: float


class GuideShape(Value):
    """A composition guide: its lines by their ends, in shares of the frame."""

    guide: GuideName
    name: str
    lines: tuple[tuple[Point, Point], ...]


class MeetsOption(Value):
    """What of a guide a point may meet, and what it is called."""

    value: AimMeets
    label: str


class SideOption(Value):
    """A side that what is kept may look to, and what it is called."""

    value: Side
    label: str


class KindOption(Value):
    """What a line can be read as, and what it is called."""

    value: LineKind
    label: str


class CandidateOption(Value):
    """A candidate for a fill, and what it is called."""

    candidate: FillCandidate
    label: str


class WeightOption(Value):
    """How much something may count in weighing harm, and what that is called."""

    value: Weight
    label: str


class AxisOption(Value):
    """An axis: its name, its ways from negative to positive, how far its vial may show."""

    axis: Axis
    name: str
    ways: tuple[str, str]
    vial_deg: tuple[float, ...]
    limit_deg: float


class Options(Value):
    """Everything that can be chosen on the bench.

    ``joins`` says of kinds of edits, by their names, how one joins the one before it;
    ``turned_over`` what a line of a kind is when it is the other of level and plumb.
    """

    axes: tuple[AxisOption, ...]
    ratios: tuple[Option, ...]
    lens_sources: tuple[Option, ...]
    lights: tuple[Option, ...]
    fill_methods: tuple[Option, ...]
    candidates: tuple[CandidateOption, ...]
    weights: tuple[WeightOption, ...]
    usual_weights: HarmWeights
    guides: tuple[GuideShape, ...]
    corners: tuple[str, str, str, str]
    sizes: tuple[Option, ...]
    aim_meets: tuple[MeetsOption, ...]
    print_units: tuple[PrintUnit, ...]
    print_start: PrintSize
    serves_as: tuple[Direction, ...]
    natural_ease: float
    by_eye_rounds_deg: tuple[tuple[float, ...], ...]
    most_air: float
    most_stroke_points: int
    sides: tuple[SideOption, ...]
    focal35_mm: Range
    radial: Range
    radial_slider: Range
    radial_step: float
    proportion_slider: Range
    proportion_step: float
    weight: Range
    becomes: tuple[Option, ...]
    wanted_deg: Range
    max_stretch: Range
    stretch_shown: Range
    name_length: int
    joins: dict[str, Joins]
    turned_over: dict[Kind, Direction]
    read_as: tuple[KindOption, ...]
    trace_points: Range
    nudge_deg: float


RATIOS = (
    Option(value="original", label=mark("As shot"), hint=mark("The shape of the picture as shot")),
    Option(value="3:2", label="3:2"),
    Option(value="4:3", label="4:3"),
    Option(value="5:4", label="5:4", hint=mark("5:4, as 10 × 8 in")),
    Option(value="7:5", label="7:5", hint=mark("7:5, as 7 × 5 in")),
    Option(value="1:1", label="1:1", hint=mark("Square")),
    Option(value="16:9", label="16:9"),
    Option(
        value="1.41421:1",
        label=mark("A sheet"),
        hint=mark("1 to the square root of 2, as A4 (ISO 216)"),
    ),
    Option(value="free", label=mark("Free"), hint=mark("Whatever shape has the largest area")),
)
_AXES = (
    AxisOption(
        axis="roll",
        name=mark("Roll"),
        ways=(mark("anticlockwise"), mark("clockwise")),
        vial_deg=(5, 15, 45, 180),
        limit_deg=180,
    ),
    AxisOption(
        axis="lean",
        name=mark("Lean"),
        ways=(mark("down"), mark("up")),
        vial_deg=(10, 30, MAX_TILT_DEG),
        limit_deg=MAX_TILT_DEG,
    ),
    AxisOption(
        axis="swing",
        name=mark("Swing"),
        ways=("left", "right"),
        vial_deg=(10, 30, MAX_TILT_DEG),
        limit_deg=MAX_TILT_DEG,
    ),
)
_LENS_SOURCES: dict[LensSource, str] = {
    "traces": mark("From traces"),
    "hand": mark("By hand"),
    "database": mark("From the lens database"),
    "none": mark("Leave the bow in"),
}
_WHITES: dict[WhiteSource, str] = {
    "camera": mark("As the camera chose"),
    "daylight": mark("Daylight"),
    "cloud": mark("Clouds"),
    "shade": mark("Open shade"),
    "lamp": mark("Incandescent lamps"),
    "spot": mark("A grey spot"),
}
_FILL_METHODS: dict[FillMethod, str] = {
    "patches": mark("From the surroundings"),
    "mirror": mark("By mirroring"),
    "colour": mark("With a colour"),
    "transparent": mark("Leave them transparent"),
}
_WEIGHTS: dict[Weight, str] = {
    "little": mark("a little"),
    "usual": mark("as usual"),
    "much": mark("much"),
    "never": mark("never"),
}
_BECOMES: dict[Becomes, str] = {
    "true": mark("what it is"),
    "straight": mark("only straight"),
    "angle": mark("at an angle"),
    "stays": mark("as it is now"),
}
_READ_AS: dict[LineKind, str] = {
    "level": mark("level"),
    "plumb": mark("plumb"),
    "horizon": mark("the horizon itself"),
    "check": mark("really sloping"),
    "set_out": mark("only set out"),
}
_SIDES: dict[Side, str] = {
    "left": mark("left"),
    "right": mark("right"),
    "top": mark("up"),
    "bottom": mark("down"),
}
_AIM_MEETS: dict[AimMeets, str] = {"crossing": mark("a crossing"), "line": mark("a line")}
_SIZES: dict[SizeKind, str] = {
    "full": mark("Full size"),
    "long_edge": mark("Longer side in pixels"),
    "pixels": mark("Exact pixels"),
    "print": mark("Print size"),
}
CANDIDATES = (
    FillCandidate(style="sharp", draw=1),
    FillCandidate(style="calm", draw=1),
    FillCandidate(style="sharp", draw=2),
    FillCandidate(style="calm", draw=2),
)
"""The four that are offered side by side."""
RADIAL_SLIDER = 0.14
"""As far as k1 goes on its slider: beyond that lenses are fisheyes, and it is typed."""


def options() -> Options:
    """All choices of the bench."""
    return Options(
        axes=tuple(_said_axis(axis) for axis in _AXES),
        ratios=tuple(
            one.model_copy(update={"label": tr(one.label), "hint": tr(one.hint)}) for one in RATIOS
        ),
        lens_sources=_named(_LENS_SOURCES),
        lights=_named(_WHITES),
        fill_methods=_named(_FILL_METHODS),
        candidates=tuple(
            CandidateOption(candidate=one, label=_candidate_name(one)) for one in CANDIDATES
        ),
        weights=tuple(WeightOption(value=v, label=tr(name)) for v, name in _WEIGHTS.items()),
        usual_weights=HarmWeights(),
        guides=tuple(
            GuideShape(guide=guide, name=tr(name), lines=guide_lines(guide))
            for guide, name in NAMES.items()
        ),
        corners=corner_names(),
        sizes=_named(_SIZES),
        aim_meets=tuple(MeetsOption(value=v, label=tr(name)) for v, name in _AIM_MEETS.items()),
        print_units=get_args(PrintUnit),
        print_start=_print_start(),
        serves_as=get_args(Direction),
        natural_ease=NATURAL_EASE,
        by_eye_rounds_deg=BY_EYE_ROUNDS_DEG,
        most_air=MAX_AIR,
        most_stroke_points=MAX_STROKE_POINTS,
        sides=tuple(SideOption(value=side, label=tr(name)) for side, name in _SIDES.items()),
        focal35_mm=Range(low=MIN_FOCAL35_MM, high=MAX_FOCAL35_MM),
        radial=Range(low=-MAX_RADIAL, high=MAX_RADIAL),
        radial_slider=Range(low=-RADIAL_SLIDER, high=RADIAL_SLIDER),
        radial_step=0.001,
        proportion_slider=Range(low=0.8, high=1.2),
        proportion_step=0.005,
        weight=Range(low=0.01, high=MAX_WEIGHT),
        becomes=_named(_BECOMES),
        wanted_deg=Range(low=-MAX_WANTED_DEG, high=MAX_WANTED_DEG),
        max_stretch=Range(low=LEAST_MAX_STRETCH, high=MOST_MAX_STRETCH),
        stretch_shown=Range(low=1 / USUAL_MAX_STRETCH, high=USUAL_MAX_STRETCH),
        name_length=MAX_NAME,
        turned_over=TURNED_OVER,
        read_as=tuple(KindOption(value=kind, label=tr(name)) for kind, name in _READ_AS.items()),
        joins={
            kind.model_fields["do"].default: kind.joins for kind in KINDS if kind.joins is not None
        },
        trace_points=Range(low=MIN_POINTS_OF_TRACE, high=MAX_POINTS),
        nudge_deg=0.1,
    )


def corner_names() -> tuple[str, str, str, str]:
    """What the corners are called, clockwise from the top left."""
    a, b, c, d = (named(corner) for corner in CORNERS)
    return a, b, c, d


def _said_axis(axis: AxisOption) -> AxisOption:
    negative, positive = axis.ways
    ways = (tr(negative), tr(positive))
    return axis.model_copy(update={"name": tr(axis.name), "ways": ways})


def _candidate_name(candidate: FillCandidate) -> str:
    style = named(candidate.style)
    return style if candidate.draw == 1 else tr("{style}, another draw", style=style)


def _print_start() -> PrintSize:
    """The same paper: in inches where English is spoken, else as it is sold in centimetres (common
    practice, no published source).
    """
    if language() == ENGLISH:
        return PrintSize(width=10, height=8)
    return PrintSize(width=25, height=20, unit="cm")


def _named(names: Mapping[Any, str]) -> tuple[Option, ...]:
    return tuple(Option(value=value, label=tr(label)) for value, label in names.items())
