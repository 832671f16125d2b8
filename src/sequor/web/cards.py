"""Sets, and cards of the contact sheet, from what the store knows of them."""

from sequor.core.language import mark, tr
from sequor.core.report.proposals import brief_words
from sequor.core.report.words import perspective_words, turn_words
from sequor.making.worker_cache import Developed
from sequor.services.sets import SetLine
from sequor.store.sheet import Card
from sequor.web.common_bodies import SetSummary
from sequor.web.images import corrected_address, original_address
from sequor.web.sets_bodies import CardState, PictureSummary

_STATES: dict[CardState, str] = {
    "new": mark("not measured"),
    "measured": mark("measured"),
    "framed": mark("framed"),
    "exported": mark("exported"),
}
_LOST, _AWAY = mark("file lost: add it again"), mark("file gone from its folder")
_CHANGED = mark("changed since its export")


def summary(card: Card) -> PictureSummary:
    """A picture as the contact sheet shows it."""
    told = card.told
    state = _state(card)
    return PictureSummary(
        id=card.id,
        name=card.name,
        version=card.version,
        version_name=card.version_name,
        group=card.sha256[:16],
        added_at=card.added_at,
        taken_at=card.taken_at,
        width=card.width,
        height=card.height,
        entry_id=card.entry_id,
        roll_deg=card.roll_deg,
        tilt_deg=_tilt(card),
        turn_words=turn_words(card.roll_deg),
        perspective_words=perspective_words(card.lean_deg, card.swing_deg),
        kept_fraction=card.kept_fraction,
        state=state,
        state_words=_state_words(card, state),
        lost=card.damaged,
        opened=card.opened_from is not None,
        taken_damaged=card.taken_damaged,
        told_words=brief_words(told) if told else "",
        told="unread" if told is None else "sure" if told.sure else "unsure",
        thumbnail=f"{corrected_address(card.sha256, card.recipe_hash)}/thumbnail.jpg",
        original=original_address(Developed(card.sha256)),
    )


def _state(card: Card) -> CardState:
    if card.exported:
        return "exported"
    if card.framed:
        return "framed"
    return "measured" if card.decided else "new"


def _state_words(card: Card, state: CardState) -> str:
    if card.damaged:
        return tr(_AWAY if card.opened_from else _LOST)
    return tr(_CHANGED if card.exported and not card.exported_so else _STATES[state])


def _tilt(card: Card) -> float:
    """How far a picture is off, to sort by: as it was set right, or as it tells itself."""
    if card.decided:
        return abs(card.roll_deg)
    told = card.told
    return abs(told.deg) if told is not None and told.sure and told.deg is not None else 0.0


def summary_of(line: SetLine) -> SetSummary:
    """A set as lists show it."""
    found, count = line
    return SetSummary(id=found.id, name=found.name, description=found.description, pictures=count)
