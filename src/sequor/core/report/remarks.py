"""What is said right after an edit: how a typed angle was taken, which lines found no edge."""

from sequor.core.advance import FewFitted, Remark
from sequor.core.edits.base import Understood
from sequor.core.readings.typed_angle import TypedTilt
from sequor.core.recipe import Axis
from sequor.core.report.words import WAYS, applied_words, axis_words, turning


def remark_words(remark: Remark | None) -> str:
    """A sentence about it; empty where there is nothing to say."""
    if isinstance(remark, Understood):
        return understood_words(remark.axis, remark.typed)
    return few_fitted_words(remark) if remark else ""


def few_fitted_words(few: FewFitted) -> str:
    """That some lines, or all, found no edge."""
    if not few.found:
        kept = "this line, so it is" if few.wanted == 1 else "these lines, so they are"
        return f"There is no clear edge under {kept} kept as drawn."
    return (
        f"{few.found} of {few.wanted} lines were fitted, at {few.stations} places; "
        "under the others there is no clear edge."
    )


def understood_words(axis: Axis, typed: TypedTilt) -> str:
    """What was understood of a typed angle, and what is done."""
    if not turning(typed.tilt_deg, 9):
        return "Not turned." if axis == "roll" else f"No {axis}."
    default, either, other = WAYS[axis]
    angle = axis_words(axis, typed.tilt_deg)
    said = f"The camera pointed {angle}."
    if axis == "roll":
        said = f"Tilted {angle} as shot, so {applied_words('roll', -typed.tilt_deg)}."
    if typed.taken_from == "tilt":
        tilted = "Taken in the direction the picture is tilted"
        return f"{said} {tilted}; write {either} for the other way."
    if typed.taken_from == "sign":
        return f"{said} The sign says so; write {either} to say it in words."
    if typed.taken_from == "default":
        return f"{said} Taken as {default}; write {other} for the other way."
    return said
