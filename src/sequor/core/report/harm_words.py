"""Words for the mixture of cropping, bending and filling that does the least harm, and why."""

from sequor.core.corner_ways import Way
from sequor.core.language import mark, number, tr
from sequor.core.least_harm import Harm, LeastHarm
from sequor.core.value import Value

_LEAST = 0.05
"""Points of harm that are not spoken of."""
_PLAIN: dict[Way, str] = {
    "crop": mark("cropping all {points}"),
    "bend": mark("bending all {points}"),
    "fill": mark("filling all {points}"),
}


class HarmWords(Value):
    """What harm the mixture does, and what the plain ways would do."""

    harm: str
    beside: str


def harm_words(found: LeastHarm) -> HarmWords:
    """Why a mixture is the best."""
    best = found.best
    plain = [
        tr(_PLAIN[way], points=number(mixture.harm.total, ".1f"))
        for way, mixture in found.plain
        if mixture.edit != best.edit
    ]
    beside = [tr("Of {compared} mixtures the least", compared=found.compared), *plain]
    if not found.sure:
        beside[0] = tr("Of {compared} mixtures probably the least", compared=found.compared)
    return HarmWords(harm=_harm(best.harm), beside=f"{', '.join(beside)}.")


def _harm(harm: Harm) -> str:
    parts = [
        tr(text, points=number(points, ".1f"))
        for text, points in (
            (mark("{points} for what is lost"), harm.lost),
            (mark("{points} for what is bent"), harm.bent),
            (mark("{points} for what is made up"), harm.made_up),
        )
        if points >= _LEAST
    ]
    if not parts:
        return tr("No harm.")
    total = number(harm.total, ".1f")
    return tr("Harm {total}: {parts}.", total=total, parts=", ".join(parts))
