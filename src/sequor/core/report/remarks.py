"""What is said right after an edit: how a typed angle was taken, which lines found no edge."""

from sequor.core.advance import FewFitted, Remark
from sequor.core.edits.base import Understood
from sequor.core.language import tr, tr_plural
from sequor.core.names import named
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
        return tr_plural(
            "There is no clear edge under this line, so it is kept as drawn.",
            "There is no clear edge under these lines, so they are kept as drawn.",
            few.wanted,
        )
    return tr(
        "{found} of {wanted} lines were fitted, at {stations} places; under the "
        "others there is no clear edge.",
        found=few.found,
        wanted=few.wanted,
        stations=few.stations,
    )


def understood_words(axis: Axis, typed: TypedTilt) -> str:
    """What was understood of a typed angle, and what is done."""
    if not turning(typed.tilt_deg, 9):
        return tr("Not turned.") if axis == "roll" else tr("No {axis}.", axis=named(axis))
    default, either, other = (tr(one) for one in WAYS[axis])
    angle = axis_words(axis, typed.tilt_deg)
    said = tr("The camera pointed {angle}.", angle=angle)
    if axis == "roll":
        said = tr(
            "Tilted {angle} as shot, so {turned}.",
            angle=angle,
            turned=applied_words("roll", -typed.tilt_deg),
        )
    if typed.taken_from == "tilt":
        return tr(
            "{said} Taken in the direction the picture is tilted; "
            "write {either} for the other way.",
            said=said,
            either=either,
        )
    if typed.taken_from == "sign":
        return tr(
            "{said} The sign says so; write {either} to say it in words.", said=said, either=either
        )
    if typed.taken_from == "default":
        return tr(
            "{said} Taken as {default}; write {other} for the other way.",
            said=said,
            default=default,
            other=other,
        )
    return said
