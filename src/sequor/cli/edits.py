"""From the options of the command line to edits, in the order of the job."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sequor.core import edits as e
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.recipe import MAX_SIGMA_PX, MIN_SIGMA_PX, Kind, Point
from sequor.services.lenses import named_lens

_KINDS: Mapping[str, Kind] = {
    "level": "level",
    "plumb": "plumb",
    "horizon": "horizon",
    "check": "check",
    "trace": "trace",
    "straight": "set_out",
    "line_at": "set_out",
}
"""The options for lines, and the kinds of reading that they make."""


@dataclass(frozen=True)
class DrawnLine:
    """A line by its points; a set-out line with the angle from level that it is to have, if any."""

    kind: Kind
    points: tuple[Point, ...]
    wanted_deg: float | None = None


def in_order(words: list[str], given: dict[str, Any]) -> list[DrawnLine]:
    """The lines of all kinds in the order in which they were written and are numbered."""
    waiting = {option: list(given[option]) for option in _KINDS}
    lines = []
    for word in words:
        name = word.partition("=")[0].removeprefix("--").replace("-", "_")
        if word.startswith("--") and waiting.get(name):
            found = waiting[name].pop(0)
            deg, points = found if name == "line_at" else (None, found)
            lines.append(DrawnLine(_KINDS[name], points, deg))
    return lines


def edits_of(given: dict[str, Any], source: Path) -> Iterator[e.Edit]:
    """The edits that the options ask for: lens, readings, stance, frame, corners."""
    yield from lens_edits(given, source)
    yield from _white(given)
    zoom = _zoom(given["sigma"])
    if given["camera_level"]:
        yield e.ReadCamera()
    for number, line in enumerate(given["lines"], 1):
        yield e.DrawReading(id=str(number), kind=line.kind, points=line.points, zoom=zoom)
    for number, vertices in enumerate(given["rectangle"], 1):
        yield e.PlaceRectangle(group=f"rectangle-{number}", vertices=vertices, zoom=zoom)
    yield from _stance(given)
    yield from _frame(given)
    yield from _corners(given)
    yield from _bending(given)


def _bending(given: dict[str, Any]) -> Iterator[e.Edit]:
    """What is asked of lines and corners by bending; lines that are set out bend whole unless an
    amount is given.
    """
    for number, line in enumerate(given["lines"], 1):
        if line.kind == "set_out":
            becomes = "straight" if line.wanted_deg is None else "angle"
            asked = {"id": str(number), "becomes": becomes, "wanted_deg": line.wanted_deg}
            yield e.LetReadingBecome.model_validate(asked)
    if given["bend_lines"] is not None:
        yield e.BendLines(share=given["bend_lines"])
    if given["bend_corners"] is not None:
        yield e.BendCorners(share=given["bend_corners"])
    if given["max_stretch"] is not None:
        yield e.LimitBending(max_stretch=given["max_stretch"])
    for opposite in given["still"]:
        yield e.KeepStill(opposite=opposite)


def _zoom(sigma_px: float | None) -> float | None:
    """The zoom at which ends are placed as well as that."""
    if sigma_px is None:
        return None
    if not MIN_SIGMA_PX <= sigma_px <= MAX_SIGMA_PX:
        raise UnusableInput(
            tr(
                "A precision of {sigma_px:g} pixels is not between {min_sigma_px:g} and "
                "{max_sigma_px:g}.",
                sigma_px=sigma_px,
                min_sigma_px=MIN_SIGMA_PX,
                max_sigma_px=MAX_SIGMA_PX,
            )
        )
    return 1 / sigma_px


def lens_edits(given: dict[str, Any], source: Path) -> Iterator[e.Edit]:
    """What is asked of the focal length and the lens."""
    if given["focal35"] is not None:
        yield e.SetFocal(focal35_mm=given["focal35"])
    asked = [name for name in ("bow", "lens", "keep_bow") if given[name]]
    if len(asked) > 1:
        named = tr(" or by ").join(f"--{name.replace('_', '-')}" for name in asked)
        raise UnusableInput(tr("The bow is given by {named}, not by both.", named=named))
    if given["bow"]:
        k1, k2 = given["bow"]
        yield e.SetRadial(k1=k1, k2=k2)
    elif given["lens"]:
        yield e.UseLens(name=named_lens(given["lens"], source))
    elif given["keep_bow"]:
        yield e.ChooseLensSource(source="none")


def _white(given: dict[str, Any]) -> Iterator[e.Edit]:
    """What is asked of the light that a raw picture is developed for."""
    white = given["white"]
    if isinstance(white, str):
        yield e.ChooseWhite.model_validate({"source": white})
    elif white is not None:
        yield e.PickGrey(point=white)


def _holds(given: dict[str, Any]) -> Iterator[e.Edit]:
    """What is asked of axes whatever the readings say: held, left in, taken out."""
    held: dict[str, float] = {}
    for axis, value in given["hold"]:
        if held.setdefault(axis, value) != value:
            raise UnusableInput(
                tr(
                    "The {axis} cannot be held at {held:g} and at {value:g} degrees; name it once.",
                    axis=axis,
                    held=held[axis],
                    value=value,
                )
            )
    for axis, value in held.items():
        yield e.HoldAxis.model_validate({"axis": axis, "deg": value})
    for name, leave in (("leave_in", True), ("take_out", False)):
        for axis in given[name]:
            if axis in held or (leave and axis in given["take_out"]):
                raise UnusableInput(
                    tr("The {axis} can be held, left in or taken out; name one.", axis=axis)
                )
            yield e.LeaveAxisIn(axis=axis, leave=leave)


_EASES = {
    "ease": "perspective",
    "ease_lean": "lean",
    "ease_swing": "swing",
    "ease_roll": "roll",
}


def _stance(given: dict[str, Any]) -> Iterator[e.Edit]:
    yield from _holds(given)
    for axis, text in given["as_shot"]:
        yield e.TypeAngle.model_validate({"axis": axis, "text": text})
    for axis, value in given["trim"]:
        yield e.TurnBy.model_validate({"axis": axis, "deg": value})
    for name, part in _EASES.items():
        if given[name] is not None:
            yield e.SetEase.model_validate({"part": part, "share": given[name]})
    if given["proportion"] is not None:
        yield e.SetProportion(proportion=given["proportion"])


def _shape(given: dict[str, Any]) -> Iterator[e.Edit]:
    """What is asked of the frame's shape and of what is added round it."""
    if given["ratio"] is not None:
        yield e.ChooseRatio(ratio=given["ratio"])
    if given["print_size"] is not None:
        yield e.ChoosePrintSize(size=given["print_size"])
    if given["margin"]:
        yield e.GiveMargin.model_validate(given["margin"])


def _frame(given: dict[str, Any]) -> Iterator[e.Edit]:
    """What is asked of the frame: its shape, what it keeps, what it is composed by."""
    yield from _shape(given)
    if given["keep"]:
        yield e.KeepBox(opposite=given["keep"])
    if given["air"] is not None:
        yield e.GiveAir(air=given["air"])
    if given["looks"]:
        yield e.LookTo(side=given["looks"])
    if given["cut_measured"]:
        yield e.KeepMeasured(keep=False)
    if given["aim"]:
        point, guide, meets = given["aim"]
        yield e.AimAt.model_validate({"point": point, "guide": guide})
        if meets:
            yield e.ChangeAim.model_validate({"meets": meets})
    if given["between"]:
        yield e.AimBetween(between=given["between"])


def _corners(given: dict[str, Any]) -> Iterator[e.Edit]:
    if given["allow"] is not None:
        yield e.AllowFill(allowance=given["allow"])
    if given["fill"]:
        yield e.FillWith(method=given["fill"])
    if given["colour"]:
        yield e.ChooseColour(colour=given["colour"])
    if given["candidate"]:
        yield e.ChooseCandidate(candidate=given["candidate"])
    for opposite in given["avoid"]:
        yield e.AvoidBox(opposite=opposite)
    for point, reach, source in given["mend"]:
        yield e.MendPlace(points=(point,), reach=reach)
        if source:
            yield e.MendFrom(place=source)
