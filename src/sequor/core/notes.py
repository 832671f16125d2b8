"""Plain words: what was done, what it costs, and which readings do not agree."""

from collections.abc import Iterator, Sequence
from itertools import combinations
from typing import Protocol

from sequor.core.angles import in_words

SHORT_SIGMA_DEG = 0.5
DISAGREE_SIGMAS = 3.0
DISAGREE_DEG = 0.1


class MeasuredReading(Protocol):
    """What the notes need to know about a reading."""

    @property
    def id(self) -> str: ...  # noqa: D102
    @property
    def number(self) -> int: ...  # noqa: D102
    @property
    def angle_deg(self) -> float: ...  # noqa: D102
    @property
    def sigma_deg(self) -> float: ...  # noqa: D102


def turn_words(roll_deg: float) -> str:
    """What is done to the picture: ``turned 1.33° anticlockwise``, or ``not turned``."""
    words = in_words(roll_deg)
    return f"turned {words}" if "clockwise" in words else "not turned"


def kept_words(fraction: float) -> str:
    """What the frame costs: ``keeps 93.4 % of the picture``."""
    if fraction > 1 - 1e-9:
        return "keeps all of the picture"
    return f"keeps {min(fraction * 100, 99.9):.1f} % of the picture"


def placed_words(stations: int | None) -> str:
    """How a reading was placed: ``by hand``, or ``fitted at 212 places``."""
    return "by hand" if stations is None else f"fitted at {stations} places"


def fit_words(stations: int | None) -> str:
    """What came of fitting a line to the picture."""
    if stations is None:
        return "There is no clear edge under this line, so it is kept as it was drawn."
    return f"Fitted to the edge at {stations} places."


def about_readings(readings: Sequence[MeasuredReading]) -> Iterator[tuple[str, tuple[str, ...]]]:
    """Sentences about the readings, each with the ids of those it is about."""
    for reading in readings:
        if reading.sigma_deg > SHORT_SIGMA_DEG:
            yield (
                f"Reading {reading.number} is short: its angle is only good to {reading.sigma_deg:.1f}°. "
                "A longer line along the same edge says more.",
                (reading.id,),
            )
    worst = max(combinations(readings, 2), key=lambda pair: _apart_deg(*pair), default=None)
    if worst is None:
        return
    first, second = worst
    apart = _apart_deg(first, second)
    noise = (first.sigma_deg**2 + second.sigma_deg**2) ** 0.5
    if apart > max(DISAGREE_DEG, DISAGREE_SIGMAS * noise):
        yield (
            f"Readings {first.number} and {second.number} disagree by {apart:.2f}°, more than their precision explains. "
            "A line that runs away from the camera is tilted by perspective: the farther line is the better level.",
            (first.id, second.id),
        )


def _apart_deg(first: MeasuredReading, second: MeasuredReading) -> float:
    apart = abs(first.angle_deg - second.angle_deg) % 180
    return min(apart, 180 - apart)
