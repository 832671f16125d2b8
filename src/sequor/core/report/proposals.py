"""What is said of a proposal: what the picture shows, how sure that is, and why each line."""

from sequor.core.propose.proposal import Proposal, ProposedAxis, ProposedReading
from sequor.core.recipe import AXES, Axis
from sequor.core.report.words import (
    LEAST_SIGMA_DEG,
    Turning,
    axis_words,
    in_words,
    size_words,
    turning,
)
from sequor.core.value import Value

_LONG, _MIDDLING = 0.3, 0.12
"""Shares of the diagonal."""
_SHARP_DEG, _SOFT_DEG = 0.03, 0.25
_NOTHING = "There is no line in this picture that tells how the camera stood."
_DOUBTS = {
    "nothing": _NOTHING,
    "camera": "No line in this picture tells it.",
    "few": "Too few lines agree to be sure: draw one that should be level or plumb.",
    "unlike": "The picture can be understood in two ways that do not agree: draw one line that "
    "should be level or plumb.",
    "unsure": "These lines do not tell it well enough: draw one that should be level or plumb.",
    "no_lean": "The roll is told, the lean is not: there are too few upright lines.",
    "no_front": "Roll and lean are told; there is no front to set square.",
}
_WANTED = {
    "level": "level",
    "plumb": "level and plumb",
    "square": "level, plumb and square",
}


class PencilWords(Value):
    """One reading in pencil: its tilt, how sure that is, and why it is proposed."""

    id: str
    tilt: str
    turning: Turning
    deviation: str
    counts: str
    reason: str


class ProposalWords(Value):
    """A proposal in words: in a sentence or two, briefly for a card, and line by line."""

    summary: str
    brief: str
    readings: tuple[PencilWords, ...]


def proposal_words(proposal: Proposal) -> ProposalWords:
    """Put a proposal into words."""
    return ProposalWords(
        summary=_summary(proposal),
        brief=brief_words(proposal.roll),
        readings=tuple(_pencil(one) for one in proposal.readings),
    )


def brief_words(roll: ProposedAxis) -> str:
    """For a card: ``about 1.3° clockwise off, sure to 0.1°``, or ``cannot tell``."""
    if not roll.sure or roll.deg is None or roll.sigma_deg is None:
        return "cannot tell"
    sure = f"sure to {max(0.1, round(roll.sigma_deg, 1)):.1f}°"
    if not turning(roll.deg, 1):
        return f"level, {sure}"
    return f"about {in_words(-roll.deg, 1)} off, {sure}"


def reason_words(one: ProposedReading) -> str:
    """Why a line is proposed: ``long, sharp, 5 others agree``."""
    said = []
    if one.reading.camera:
        return "told by the camera, good to about a degree"
    if one.reading.kind == "trace":
        return f"straight in reality, bent by the lens as {one.agree} others are"
    if one.reading.kind == "horizon":
        said.append("the boundary of water or plain and sky, from side to side")
    elif one.length_share >= _LONG:
        said.append("long")
    elif one.length_share < _MIDDLING:
        said.append("short")
    if one.sigma_deg <= _SHARP_DEG:
        said.append("sharp")
    elif one.sigma_deg >= _SOFT_DEG:
        said.append("soft")
    if one.reading.kind != "horizon":
        agree = "no other agrees" if not one.agree else f"{one.agree} others agree"
        said.append("1 other agrees" if one.agree == 1 else agree)
    return ", ".join(said)


def _pencil(one: ProposedReading) -> PencilWords:
    return PencilWords(
        id=one.reading.id,
        tilt=size_words(one.angle_deg),
        turning=turning(one.angle_deg),
        deviation=f"± {max(one.sigma_deg, LEAST_SIGMA_DEG):.2f}°",
        counts=f"{one.share * 100:.0f} %" if one.share else "",
        reason=reason_words(one),
    )


def _summary(proposal: Proposal) -> str:
    if not proposal.readings:
        return _NOTHING
    kinds = [one.reading.kind for one in proposal.readings if one.reading.kind != "trace"]
    traces = len(proposal.readings) - len(kinds)
    counted = [
        f"{kinds.count(kind)} {word}"
        for kind, word in (("plumb", "plumb"), ("level", "level"))
        if kind in kinds
    ]
    lines = f"{' and '.join(counted)} {'line' if len(kinds) == 1 else 'lines'}"
    if proposal.doubt == "camera":
        lines = "The camera's own level"
    elif "horizon" in kinds:
        lines = f"The horizon{f' and {lines}' if counted else ''}"
    else:
        lines = lines[0].upper() + lines[1:]
    if traces:
        lines = f"{lines}, and {traces} traces of the lens's bow" if kinds else "Traces of the bow"
    told = [_told(axis, proposal.axis(axis)) for axis in AXES]
    found = "; ".join(part for part in told if part)
    said = f"{lines}: {found}." if found else f"{lines}."
    if proposal.doubt is not None:
        return f"{said} {_DOUBTS[proposal.doubt]}"
    why = f" The picture asks to be {_WANTED[proposal.told]}." if proposal.want == "any" else ""
    return f"{said}{why}"


def _told(axis: Axis, found: ProposedAxis) -> str:
    """What is told of an axis: ``tilted 1.33° clockwise ± 0.01°``."""
    if found.deg is None or found.sigma_deg is None:
        return ""
    angle = axis_words(axis, -found.deg if axis == "roll" else found.deg)
    verb = {"roll": "tilted", "lean": "pointed", "swing": "turned"}[axis]
    perhaps = "" if found.sure else "perhaps "
    return f"{perhaps}{verb} {angle} ± {max(found.sigma_deg, LEAST_SIGMA_DEG):.2f}°"
