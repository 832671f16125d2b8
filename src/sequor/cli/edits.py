"""From the options of the command line to edits, in the order of the job."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from sequor.core import edits as e
from sequor.core.errors import UnusableInput
from sequor.core.recipe import MAX_SIGMA_PX, MIN_SIGMA_PX, Kind, Point
from sequor.services.lenses import named_lens

_KINDS: tuple[Kind, ...] = ("level", "plumb", "horizon", "check", "trace")
Lines = list[tuple[Kind, tuple[Point, ...]]]


def in_order(words: list[str], given: dict[str, Any]) -> Lines:
    """The lines of all kinds in the order in which they were written and are numbered."""
    waiting = {kind: list(given[kind]) for kind in _KINDS}
    lines: Lines = []
    for word in words:
        name = word.partition("=")[0]
        for kind in _KINDS:
            if name == f"--{kind}" and waiting[kind]:
                lines.append((kind, waiting[kind].pop(0)))
    return lines


def edits_of(given: dict[str, Any], source: Path) -> Iterator[e.Edit]:
    """The edits that the options ask for: lens, readings, stance, frame, corners."""
    yield from lens_edits(given, source)
    zoom = _zoom(given["sigma"])
    for number, (kind, points) in enumerate(given["lines"], 1):
        yield e.DrawReading(id=str(number), kind=kind, points=points, zoom=zoom)
    for number, corners in enumerate(given["rectangle"], 1):
        yield e.PlaceRectangle(group=f"rectangle-{number}", corners=corners, zoom=zoom)
    yield from _stance(given)
    yield from _frame(given)
    yield from _corners(given)


def _zoom(sigma_px: float | None) -> float | None:
    """The zoom at which ends are placed as well as that."""
    if sigma_px is None:
        return None
    if not MIN_SIGMA_PX <= sigma_px <= MAX_SIGMA_PX:
        raise UnusableInput(
            f"A precision of {sigma_px:g} pixels is not between {MIN_SIGMA_PX:g} and "
            f"{MAX_SIGMA_PX:g}."
        )
    return 1 / sigma_px


def lens_edits(given: dict[str, Any], source: Path) -> Iterator[e.Edit]:
    """What is asked of the focal length and the lens."""
    if given["focal35"] is not None:
        yield e.SetFocal(focal35_mm=given["focal35"])
    asked = [name for name in ("bow", "lens", "keep_bow") if given[name]]
    if len(asked) > 1:
        named = " or by ".join(f"--{name.replace('_', '-')}" for name in asked)
        raise UnusableInput(f"The bow is given by {named}, not by both.")
    if given["bow"]:
        k1, k2 = given["bow"]
        yield e.SetRadial(k1=k1, k2=k2)
    elif given["lens"]:
        yield e.UseLens(name=named_lens(given["lens"], source))
    elif given["keep_bow"]:
        yield e.ChooseLensSource(source="none")


def _stance(given: dict[str, Any]) -> Iterator[e.Edit]:
    held: dict[str, float] = {}
    for axis, value in given["hold"]:
        if held.setdefault(axis, value) != value:
            raise UnusableInput(
                f"The {axis} cannot be held at {held[axis]:g} and at {value:g} degrees; "
                "name it once."
            )
    for axis, value in held.items():
        yield e.HoldAxis.model_validate({"axis": axis, "deg": value})
    for name, leave in (("leave_in", True), ("take_out", False)):
        for axis in given[name]:
            if axis in held or (leave and axis in given["take_out"]):
                raise UnusableInput(f"The {axis} can be held, left in or taken out; name one.")
            yield e.LeaveAxisIn(axis=axis, leave=leave)
    for axis, text in given["as_shot"]:
        yield e.TypeAngle.model_validate({"axis": axis, "text": text})
    for axis, value in given["trim"]:
        yield e.TurnBy.model_validate({"axis": axis, "deg": value})
    for name, part in (("ease", "perspective"), ("ease_roll", "roll")):
        if given[name] is not None:
            yield e.SetEase.model_validate({"part": part, "share": given[name]})
    if given["proportion"] is not None:
        yield e.SetProportion(proportion=given["proportion"])


def _frame(given: dict[str, Any]) -> Iterator[e.Edit]:
    if given["ratio"] is not None:
        yield e.ChooseRatio(ratio=given["ratio"])
    if given["print_size"] is not None:
        yield e.ChoosePrintSize(size=given["print_size"])
    if given["keep"]:
        yield e.KeepBox(corners=given["keep"])
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
    for corners in given["avoid"]:
        yield e.AvoidBox(corners=corners)
