"""Words for what fills the corners: where it stands out, and how much it is to be doubted."""

from sequor.core.fill.judge import Flaw, FlawKind, Judgement
from sequor.core.language import mark, tr, tr_plural

_FLAWS: dict[FlawKind, str] = {
    "foreign": mark("{place}: a piece is unlike what surrounds it."),
    "seam": mark("{place}: the seam shows."),
    "weak": mark("{place}: smoother than the picture beside it."),
    "edge": mark("{place}: an edge of the picture ends at the seam."),
    "repeat": mark("{place}: the same piece stands there twice."),
}


MOST_TOLD = 6
"""So many places that stand out are told one by one, the plainest first."""


def flaw_words(flaw: Flaw) -> str:
    """A place of a fill that stands out, its middle in shares of the frame."""
    return tr(_FLAWS[flaw.kind], place=_place_words(flaw.x, flaw.y))


def _place_words(x: float, y: float) -> str:
    third = (min(2, int(3 * y)), min(2, int(3 * x)))
    return {
        (0, 0): tr("Top left"),
        (0, 1): tr("Top"),
        (0, 2): tr("Top right"),
        (1, 0): tr("Left"),
        (1, 1): tr("Middle"),
        (1, 2): tr("Right"),
        (2, 0): tr("Bottom left"),
        (2, 1): tr("Bottom"),
        (2, 2): tr("Bottom right"),
    }[third]


def doubt_words(judged: Judgement) -> str:
    """How good a fill is, in a line."""
    doubt = tr(
        "Doubt {percent} %: how unlike what was really there the fill may be.",
        percent=round(100 * judged.doubt),
    )
    if not judged.flaws:
        return tr("{doubt} No place of it stands out.", doubt=doubt)
    count = tr_plural(
        "{doubt} {count} place stands out.",
        "{doubt} {count} places stand out.",
        len(judged.flaws),
        doubt=doubt,
    )
    if len(judged.flaws) <= MOST_TOLD:
        return count
    return tr("{count} The {told} plainest are shown.", count=count, told=MOST_TOLD)
