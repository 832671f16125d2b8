"""What people write on the command line, as the values it stands for."""

import math
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any, get_args

import click
from pydantic import ValidationError

from sequor.core.language import mark, tr
from sequor.core.least_harm import HarmWeights, Weight
from sequor.core.print_size import PrintSize
from sequor.core.recipe import AXES, MAX_WANTED_DEG, MIN_POINTS_OF_TRACE, FillCandidate, Point
from sequor.core.render.size import OutputSize
from sequor.core.white import ILLUMINANTS


class Written(click.ParamType[Any]):
    """Values of one form: a function makes them of the text, or gives None; an error shows how."""

    def __init__(self, name: str, make: Callable[[str], Any], error: str) -> None:
        self.name = name
        self._make = make
        self._error = error

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Any:
        """The value that a text stands for."""
        if not isinstance(value, str):
            return value
        try:
            found = self._make(value.strip())
        except ValidationError as problem:
            self.fail(problem.errors()[0]["msg"].removeprefix("Value error, "), param, ctx)
        except ValueError:
            found = None
        if found is None:
            error = tr(self._error, lights=", ".join(("camera", *ILLUMINANTS)))
            self.fail(tr("“{value}” is {error}", value=value, error=error), param, ctx)
        return found


def _points(text: str) -> tuple[Point, ...]:
    numbers = [float(part) for part in text.split(",")]
    if len(numbers) % 2:
        raise ValueError(text)
    return tuple(zip(numbers[::2], numbers[1::2], strict=True))


def _exactly(count: int) -> Callable[[str], tuple[Point, ...] | None]:
    def make(text: str) -> tuple[Point, ...] | None:
        points = _points(text)
        return points if len(points) == count else None

    return make


def _trace(text: str) -> tuple[Point, ...] | None:
    points = _points(text)
    return points if len(points) >= MIN_POINTS_OF_TRACE else None


def _box(text: str) -> tuple[Point, ...] | None:
    box = _exactly(2)(text)
    return box if box and all(math.isfinite(v) for point in box for v in point) else None


def _bow(text: str) -> tuple[float, float] | None:
    numbers = [float(part) for part in text.split(",")]
    if not 1 <= len(numbers) <= 2 or not all(map(math.isfinite, numbers)):
        return None
    return numbers[0], numbers[1] if len(numbers) > 1 else 0.0


def _held(text: str) -> tuple[str, float] | None:
    axis, _, value = text.partition("=")
    degrees = float(value) if value else 0.0
    return (axis, degrees) if axis in AXES and math.isfinite(degrees) else None


def _trimmed(text: str) -> tuple[str, float] | None:
    return _held(text) if "=" in text else None


def _turned(text: str) -> tuple[str, str] | None:
    axis, separator, value = text.partition("=")
    return (axis, value) if separator and axis in AXES else None


def _margin(text: str) -> dict[str, float] | None:
    """A share in per cent, or a length in the unit of the print size."""
    match = re.fullmatch(r"(\d+(?:\.\d+)?)(%?)", text)
    if not match:
        return None
    value, percent = float(match[1]), bool(match[2])
    return {"margin": value / 100} if percent else {"length": value}


def _print_size(text: str) -> PrintSize | None:
    match = re.fullmatch(r"([\d.]+)x([\d.]+)(in|cm)(?:@([\d.]+))?", text)
    if not match:
        return None
    width, height, unit, ppi = match.groups()
    return PrintSize.model_validate(
        {"width": float(width), "height": float(height), "unit": unit, "ppi": float(ppi or 300)}
    )


def _size(text: str) -> OutputSize | None:
    if text == "full":
        return OutputSize()
    match = re.fullmatch(r"(\d+)(?:x(\d+))?", text)
    if match and match[2]:
        return OutputSize(kind="pixels", width=int(match[1]), height=int(match[2]))
    return OutputSize(kind="long_edge", pixels=int(match[1])) if match else None


def _candidate(text: str) -> FillCandidate | None:
    style, _, draw = text.partition(".")
    if style not in ("sharp", "calm"):
        return None
    return FillCandidate.model_validate({"style": style, "draw": int(draw or 1)})


def _mend(text: str) -> tuple[Point, float, Point | None] | None:
    """The middle of a dab, half its width, and what its middle is copied from."""
    dab, separator, source = text.partition(":")
    *place, reach = dab.split(",")
    middles, sources = _exactly(1)(",".join(place)), _exactly(1)(source) if separator else None
    if not middles or (separator and not sources):
        return None
    return middles[0], float(reach), sources[0] if sources else None


def _aim(text: str) -> tuple[Point, str | None, str | None] | None:
    place, *rest = text.split(":")
    points = _exactly(1)(place)
    guide, meets = (*rest, None, None)[:2]
    return (points[0], guide, meets) if points and len(rest) <= 2 else None


def _between(text: str) -> tuple[str, str] | None:
    first, separator, second = text.partition(",")
    return (first.strip(), second.strip()) if separator else None


def _line_at(text: str) -> tuple[float, tuple[Point, ...]] | None:
    angle, separator, ends = text.partition(":")
    points = _exactly(2)(ends) if separator else None
    degrees = float(angle)
    return (degrees, points) if points and abs(degrees) <= MAX_WANTED_DEG else None


def _straight(text: str) -> tuple[Point, ...] | None:
    points = _points(text)
    return points if len(points) >= 2 else None


def _weights(text: str) -> HarmWeights | None:
    if text == "usual":
        return HarmWeights()
    parts = [part.partition("=") for part in text.split(",")]
    given: dict[str, Any] = {
        name.replace("-", "_"): weight for name, equals, weight in parts if equals
    }
    foot = ("foot", "", "") in parts
    known = set(given) <= {"lost", "bent", "made_up"}
    if not (given or foot) or not known or not set(given.values()) <= set(get_args(Weight)):
        return None
    return HarmWeights.model_validate({**given, "keep_foot": foot})


def _white(text: str) -> str | Point | None:
    if text == "camera" or text in ILLUMINANTS:
        return text
    points = _exactly(1)(text)
    return points[0] if points else None


LINE = Written("line", _exactly(2), mark("not a line; write X1,Y1,X2,Y2 in source pixels."))
TRACE = Written(
    "trace", _trace, mark("not a trace; write X1,Y1,X2,Y2,X3,Y3 with at least three points.")
)
LINE_AT = Written(
    "line",
    _line_at,
    mark("not a line at an angle; write DEG:X1,Y1,X2,Y2 with an angle from level of -90 to 90."),
)
STRAIGHT = Written(
    "line", _straight, mark("not a line; write X1,Y1,X2,Y2 and more points if it is bent.")
)
RECTANGLE = Written(
    "rectangle", _exactly(4), mark("not a rectangle; write its four corners X1,Y1,...,X4,Y4.")
)
MEND = Written(
    "mend",
    _mend,
    mark("not a mend; write X,Y,REACH in source pixels, with :X,Y of the place to copy if wanted."),
)
BOX = Written(
    "box",
    _box,
    mark("not a box; write X1,Y1,X2,Y2 in source pixels, at least a pixel wide and high."),
)
BOW = Written("bow", _bow, mark("not a bow; write K1 or K1,K2."))
HOLD = Written(
    "hold",
    _held,
    mark("not an axis to hold; write roll, lean or swing, with =DEG for another value than 0."),
)
TRIM = Written(
    "trim", _trimmed, mark("not an axis to turn; write roll=DEG, lean=DEG or swing=DEG.")
)
TYPED = Written(
    "angle", _turned, mark("not an angle as shot; write roll=1.33cw, lean=12up or the like.")
)
PRINT = Written("print", _print_size, mark("not a print size; write 10x8in or 29.7x21cm@300."))
MARGIN = Written(
    "margin",
    _margin,
    mark("not a margin; write 8%, or a length such as 4 in the unit of the print size."),
)
SIZE = Written("size", _size, mark("not a size; write full, 2048 or 3000x2000."))
CANDIDATE = Written("candidate", _candidate, mark("not a candidate; write sharp, calm or sharp.2."))
AIM = Written(
    "aim", _aim, mark("not an aim; write X,Y with :GUIDE and :line or :crossing if wanted.")
)
BETWEEN = Written("between", _between, mark("not two readings; write their numbers such as 1,2."))
FILE = click.Path(path_type=Path)
WEIGHTS = Written(
    "weights",
    _weights,
    mark(
        "not weights; write usual, or lost=, bent= or made-up= with little, usual, much or never, "
        "and foot if wanted, with commas."
    ),
)
WHITE = Written(
    "light",
    _white,
    mark("no light; write {lights}, or X,Y of something grey in reality."),
)
