"""What the frame cannot do, and what would help: notes about the box to keep and the aim."""

import math
from collections.abc import Callable, Iterator
from dataclasses import replace

from sequor.core.edits import AllowFill, BestFrame, ChangeAim, ChooseRatio, Edit, ScaleEase
from sequor.core.frame.outline import Outline
from sequor.core.frame.placing import Found, Wanted, allowance_to_keep, best_frame
from sequor.core.frame.rectangle import Rectangle
from sequor.core.notes import AimIsDear, AimIsMissed, KeepIsCut, KeepIsCutByHand, Note
from sequor.core.ratio import USUAL_RATIOS, parse_ratio

EasedFraming = Callable[[float], tuple[Outline, Wanted]]
"""The outline, and what is wanted in it, with only a share of the correction taken out."""
_DEAR = 1.25
"""A choice is dear where a near one keeps so many times as much (common practice, no published
source; the figure is ours)."""
_PERCENT = 100
"""Allowance and ease are offered in the steps of their controls."""


def about_frame(
    outline: Outline,
    wanted: Wanted,
    framed: Found,
    frame: Rectangle,
    by_hand: bool,
    ratio: str,
    eased: EasedFraming,
) -> Iterator[Note]:
    """Notes about a frame.

    Parameters
    ----------
    outline, wanted : Outline, Wanted
        Where the frame lies, and what is asked of it.
    framed : Found
        The best frame.
    frame : Rectangle
        The one that holds; ``by_hand`` when it was placed so.
    ratio : str
        The ratio as the recipe has it.
    eased : callable
        The same with only a share of the correction taken out.
    """
    if wanted.keep and by_hand and not frame.contains(wanted.keep):
        yield KeepIsCutByHand(offers=(BestFrame(),))
    elif wanted.keep and not framed.keeps:
        offers = tuple(_helps(outline, wanted, ratio, eased))
        yield KeepIsCut(allowance=wanted.allowance, offers=offers)
    if wanted.aim and not framed.meets and not by_hand:
        yield AimIsMissed(aim="between" if wanted.aim.between else wanted.aim.meets)


def about_dear_aim(
    outline: Outline, wanted: Wanted, framed: Found, kept: Callable[[Rectangle], float]
) -> Iterator[Note]:
    """A crossing where a line of the same guide would keep much more; ``kept`` says how much of the
    picture a frame keeps.
    """
    if wanted.aim is None or wanted.aim.meets != "crossing" or wanted.aim.between:
        return
    if not (framed.meets and framed.keeps):
        return
    by_line = best_frame(
        outline, replace(wanted, aim=wanted.aim.model_copy(update={"meets": "line"}))
    )
    dear, cheap = kept(framed.frame), kept(by_line.frame)
    if by_line.meets and by_line.keeps and cheap > _DEAR * dear:
        offers = (ChangeAim(meets="line"),)
        yield AimIsDear(guide=wanted.aim.guide, kept=dear, by_line=cheap, offers=offers)


def _helps(outline: Outline, wanted: Wanted, ratio: str, eased: EasedFraming) -> Iterator[Edit]:
    """What would let the frame contain the box."""
    assert wanted.keep is not None
    other = _ratio_that_keeps(outline, wanted, ratio)
    if other:
        yield ChooseRatio(ratio=other)
    if wanted.ratio:
        allowance = allowance_to_keep(outline, wanted.ratio, wanted.keep)
        if allowance is not None and allowance > wanted.allowance:
            # Rounded up to a whole step of the control, and half a step more to be sure of it.
            enough = math.ceil(allowance * _PERCENT + 0.5) / _PERCENT
            yield AllowFill(allowance=min(1.0, enough))
    ease = _ease_that_keeps(eased)
    if ease is not None and ease < 1:
        yield ScaleEase(share=ease)


def _ratio_that_keeps(outline: Outline, wanted: Wanted, present: str) -> str | None:
    """Of the usual ratios whose frame contains the box, the one most like the present one."""
    now = wanted.ratio or 1.0
    for text in sorted(USUAL_RATIOS, key=lambda text: abs(math.log(parse_ratio(text) / now))):
        trial = replace(wanted, ratio=parse_ratio(text), aim=None)
        if text != present and best_frame(outline, trial).keeps:
            return text
    return None


def _ease_that_keeps(eased: EasedFraming) -> float | None:
    """The largest share of the correction whose frame contains the box, in whole per cent."""

    def keeps(share: float) -> bool:
        outline, wanted = eased(share)
        return best_frame(outline, replace(wanted, aim=None)).keeps

    if not keeps(0.0):
        return None
    low, high = 0, _PERCENT
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if keeps(middle / _PERCENT) else (low, middle)
    return low / _PERCENT
