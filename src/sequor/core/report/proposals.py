"""What is said of a proposal: what the picture shows, how sure that is, and why each line."""

from sequor.core.language import mark, mark_in, tr, tr_in, tr_plural
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
_NOTHING = mark("There is no line in this picture that tells how the camera stood.")
_DOUBTS = {
    "nothing": _NOTHING,
    "camera": mark("No line in this picture tells it."),
    "few": mark("Too few lines agree to be sure: draw one that should be level or plumb."),
    "unlike": mark(
        "The picture can be understood in two ways that do not agree: draw one "
        "line that should be level or plumb."
    ),
    "unsure": mark(
        "These lines do not tell it well enough: draw one that should be level or plumb."
    ),
    "no_lean": mark("The roll is told, the lean is not: there are too few upright lines."),
    "no_front": mark("Roll and lean are told; there is no front to set square."),
}
_WANTED = {
    "level": mark_in("wanted", "level"),
    "plumb": mark_in("wanted", "level and plumb"),
    "square": mark_in("wanted", "level, plumb and square"),
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
        return tr("cannot tell")
    sure = tr("sure to {sigma_deg:.1f}°", sigma_deg=max(0.1, round(roll.sigma_deg, 1)))
    if not turning(roll.deg, 1):
        return tr("level, {sure}", sure=sure)
    return tr("about {angle} off, {sure}", angle=in_words(-roll.deg, 1), sure=sure)


def reason_words(one: ProposedReading) -> str:
    """Why a line is proposed: ``long, sharp, 5 others agree``."""
    said = []
    if one.reading.camera:
        return tr("told by the camera, good to about a degree")
    if one.reading.kind == "trace":
        return tr("straight in reality, bent by the lens as {agree} others are", agree=one.agree)
    if one.reading.kind == "horizon":
        said.append(tr("the boundary of water or plain and sky, from side to side"))
    elif one.length_share >= _LONG:
        said.append(tr_in("line", "long"))
    elif one.length_share < _MIDDLING:
        said.append(tr_in("line", "short"))
    if one.sigma_deg <= _SHARP_DEG:
        said.append(tr_in("line", "sharp"))
    elif one.sigma_deg >= _SOFT_DEG:
        said.append(tr_in("line", "soft"))
    if one.reading.kind != "horizon":
        said.append(
            tr_plural("{count} other agrees", "{count} others agree", one.agree)
            if one.agree
            else tr("no other agrees")
        )
    return ", ".join(said)


def _pencil(one: ProposedReading) -> PencilWords:
    return PencilWords(
        id=one.reading.id,
        tilt=size_words(one.angle_deg),
        turning=turning(one.angle_deg),
        deviation=f"± {size_words(max(one.sigma_deg, LEAST_SIGMA_DEG))}",
        counts=tr("{percent:.0f} %", percent=one.share * 100) if one.share else "",
        reason=reason_words(one),
    )


def _summary(proposal: Proposal) -> str:
    if not proposal.readings:
        return tr(_NOTHING)
    kinds = [one.reading.kind for one in proposal.readings if one.reading.kind != "trace"]
    traces = len(proposal.readings) - len(kinds)
    lines = _counted(kinds.count("plumb"), kinds.count("level"))
    if proposal.doubt == "camera":
        lines = tr("The camera's own level")
    elif "horizon" in kinds:
        lines = tr("The horizon and {lines}", lines=lines) if lines else tr("The horizon")
    else:
        lines = lines[:1].upper() + lines[1:]
    if traces:
        lines = (
            tr("{lines}, and {traces} traces of the lens's bow", lines=lines, traces=traces)
            if kinds
            else tr("Traces of the bow")
        )
    told = [_told(axis, proposal.axis(axis)) for axis in AXES]
    found = "; ".join(part for part in told if part)
    said = f"{lines}: {found}." if found else f"{lines}."
    if proposal.doubt is not None:
        return f"{said} {tr(_DOUBTS[proposal.doubt])}"
    why = (
        tr(" The picture asks to be {wanted}.", wanted=tr_in("wanted", _WANTED[proposal.told]))
        if proposal.want == "any"
        else ""
    )
    return f"{said}{why}"


def _counted(plumb: int, level: int) -> str:
    """How many lines are proposed: ``2 plumb and 1 level lines``; empty for none."""
    if plumb and level:
        return tr("{plumb} plumb and {level} level lines", plumb=plumb, level=level)
    if plumb:
        return tr_plural("{count} plumb line", "{count} plumb lines", plumb)
    return tr_plural("{count} level line", "{count} level lines", level) if level else ""


_TOLD = {
    "roll": mark("tilted {angle} ± {sigma}"),
    "lean": mark("pointed {angle} ± {sigma}"),
    "swing": mark("turned {angle} ± {sigma}"),
}


def _told(axis: Axis, found: ProposedAxis) -> str:
    """What is told of an axis: ``tilted 1.33° clockwise ± 0.01°``."""
    if found.deg is None or found.sigma_deg is None:
        return ""
    angle = axis_words(axis, -found.deg if axis == "roll" else found.deg)
    told = tr(_TOLD[axis], angle=angle, sigma=size_words(max(found.sigma_deg, LEAST_SIGMA_DEG)))
    return told if found.sure else tr("perhaps {told}", told=told)
