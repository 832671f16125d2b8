"""What a bending cannot do, and what would help: notes."""

from collections.abc import Callable, Iterator

from sequor.core.bend.limits import Bent
from sequor.core.edits import LetReadingBecome, LimitBending
from sequor.core.notes import BendingContradicts, BendingLimited, Met, Note
from sequor.core.recipe import BendChoice
from sequor.core.solved import SolvedReading

UnbentDeg = Callable[[], dict[str, float]]
_OFF_DEG = 0.05
"""Of what is wanted: less than this is met for every eye."""
_WIDER = 2.0
"""The limit that is offered: what is stretched twice is seen to be, and still looks like itself."""
_WHOLE = 0.995
"""A share from which on it is said to be all (set by hand)."""


def about_bending(
    asked: BendChoice, bent: Bent, readings: tuple[SolvedReading, ...], unbent_deg: UnbentDeg
) -> Iterator[Note]:
    """Notes about a bending.

    Parameters
    ----------
    readings : tuple of SolvedReading
        As they come out.
    unbent_deg : callable
        By how much those that bend would be off what is wanted without bending, by their ids.
    """
    if bent.share < _WHOLE:
        wider = (LimitBending(max_stretch=_WIDER),) if asked.max_stretch < _WIDER else ()
        yield BendingLimited(share=bent.share, limit=asked.max_stretch, offers=wider)
        return
    if asked.lines < 1:
        return
    before_deg = unbent_deg()
    met = tuple(
        Met(
            reading=one.id,
            share=max(0.0, 1 - abs(one.left_deg) / max(abs(before_deg[one.id]), _OFF_DEG)),
            left_deg=one.left_deg,
        )
        for one in readings
        if one.left_deg is not None and one.id in before_deg and abs(one.left_deg) > _OFF_DEG
    )
    if met:
        ids = tuple(one.reading for one in met)
        offers = tuple(LetReadingBecome(id=name, becomes="stays") for name in ids[:2])
        yield BendingContradicts(met=met, readings=ids, offers=offers)
