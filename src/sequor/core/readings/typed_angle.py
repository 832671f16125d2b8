"""Angles as people write them.

Inside the core a tilt is a number of degrees, positive when the thing is turned clockwise on
screen. People never see that sign: they may type an angle without having to work out which way the
correction goes.
"""

import math
import re
from dataclasses import dataclass
from typing import Literal

from sequor.core.errors import UnusableInput
from sequor.core.language import in_all, mark, tr

TakenFrom = Literal["words", "sign", "tilt", "default"]
MAX_TYPED_DEG = 180.0
"""Half a turn: a tilt of more is a tilt the other way."""

# What people write for either direction of each axis, first the positive one; what is marked is
# understood in every language that has it in its catalogue.
_DIRECTIONS: dict[str, tuple[tuple[str, ...], tuple[str, ...]]] = {
    "roll": (
        (mark("cw"), mark("clockwise"), mark("right"), "↻"),
        (mark("acw"), mark("anticlockwise"), mark("left"), "↺", "ccw", "counterclockwise"),
    ),
    "lean": ((mark("up"), "upward", "upwards"), (mark("down"), "downward", "downwards")),
    "swing": ((mark("right"), "rightward", "rightwards"), (mark("left"), "leftward", "leftwards")),
}
_ADVICE = {
    "roll": mark("write cw for clockwise or acw for anticlockwise"),
    "lean": mark("write up or down, as the camera pointed"),
    "swing": mark("write left or right, as the camera pointed"),
}
_TYPED = re.compile(
    r"""^\s*(?P<sign>[+\-−])?\s*
        (?P<degrees>\d+(?:[.,]\d*)?|[.,]\d+)\s*(?:°|deg(?:rees?)?)?\s*
        (?:(?P<minutes>\d+(?:[.,]\d*)?)\s*(?:'|′|min(?:utes?)?)\s*)?
        (?:(?P<seconds>\d+(?:[.,]\d*)?)\s*(?:"|″|''|s(?:ec(?:onds?)?)?)\s*)?
        (?P<direction>[↻↺]|[^\W\d_][^\d]*?)?\s*$""",
    re.VERBOSE | re.IGNORECASE,
)


@dataclass(frozen=True)
class TypedTilt:
    """A tilt that a person typed.

    Attributes
    ----------
    tilt_deg : float
        Tilt of the picture in degrees, positive clockwise.
    taken_from : {"words", "sign", "tilt", "default"}
        What settled the direction: words in the text, its sign, the tilt the
        picture is already known to have, or the default (clockwise).
    """

    tilt_deg: float
    taken_from: TakenFrom


def parse_tilt(
    text: str, known_tilt_deg: float = 0.0, axis: Literal["roll", "lean", "swing"] = "roll"
) -> TypedTilt:
    """Read a typed tilt such as ``1.33``, ``-1.33``, ``1.33 cw`` or ``1°20'``.

    Words (cw, acw, clockwise, left ...) settle the direction, and so does a sign: plus means
    clockwise, up, right. A bare number is taken in the direction in which the picture is already
    known to be tilted, so that typing a measured angle can never double the tilt.

    Parameters
    ----------
    text : str
        What was typed: decimal degrees, or degrees with minutes and seconds.
    known_tilt_deg : float
        Tilt measured so far in degrees, positive clockwise; 0 when unknown.
    axis : {"roll", "lean", "swing"}
        Which words are directions: clockwise ones, up and down, or left and right; the
        first of each is positive (for swing: right).

    Raises
    ------
    UnusableInput
        When the text is not an angle or exceeds 180 degrees.
    """
    match = _TYPED.match(text)
    if match is None:
        raise UnusableInput(
            tr(
                "“{text}” is not an angle; write it like 1.33, 1.33 cw or 1°20'.",
                text=text.strip(),
            )
        )

    def number(name: str) -> float:
        return float((match[name] or "0").replace(",", "."))

    if number("minutes") >= 60 or number("seconds") >= 60:
        raise UnusableInput(
            tr(
                "“{text}” has more than 59 minutes or seconds; write 1°20' for one and a "
                "third degrees.",
                text=text.strip(),
            )
        )
    size = number("degrees") + number("minutes") / 60 + number("seconds") / 3600
    if size > MAX_TYPED_DEG:
        raise UnusableInput(
            tr(
                "{size:g}° is more than half a turn; a tilt lies between 0 and 180 degrees.",
                size=size,
            )
        )

    word = (match["direction"] or "").lower().replace("-", "")
    sense = _sense_of(word, axis)
    if sense:
        return TypedTilt(sense * size, "words")
    if word:
        raise UnusableInput(
            tr("“{word}” is not a direction; {advice}.", word=word, advice=tr(_ADVICE[axis]))
        )
    if match["sign"]:
        return TypedTilt(size if match["sign"] == "+" else -size, "sign")
    if known_tilt_deg:
        return TypedTilt(math.copysign(size, known_tilt_deg), "tilt")
    return TypedTilt(size, "default")


def _sense_of(word: str, axis: str) -> int:
    """1 for a word that means the positive direction of an axis, -1 for the other, 0 for none."""
    for sense, words in zip((1, -1), _DIRECTIONS[axis], strict=True):
        if word and (word in words or any(word in _alike(one) for one in words)):
            return sense
    return 0


def _alike(message: str) -> set[str]:
    return {said.lower().replace("-", "") for said in in_all(message)}
