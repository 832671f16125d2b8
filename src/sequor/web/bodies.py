"""Bodies of requests, measured before they are parsed: small input must not cost much.

The size is limited at the door already (`door`); here it is once more, for whatever server stands
in front, with the depth and the number of values, which the parser's cost goes by.
"""

import re

import numpy as np

from sequor.core.language import tr

MOST_DEEP = 32
"""Levels; a recipe has 5."""
MOST_VALUES = 50_000
"""More than 200 traces of 64 points have, the most that a recipe takes."""
_STRINGS = re.compile(rb'"(?:[^"\\]|\\.)*"?', re.DOTALL)
_UP, _DOWN = np.zeros(256, np.int32), np.zeros(256, np.int32)
_UP[[ord("["), ord("{")]] = 1
_DOWN[[ord("]"), ord("}")]] = 1


def fault_of(body: bytes, most_bytes: int) -> str | None:
    """What is wrong with the JSON text of a request, before it is parsed; None when nothing is."""
    if len(body) > most_bytes:
        return tr(
            "it is larger than the {most_bytes:,} kB that may be sent",
            most_bytes=most_bytes // 1024,
        )
    outside = np.frombuffer(_STRINGS.sub(b"0", body), np.uint8)
    depth = np.cumsum(_UP[outside] - _DOWN[outside]).max(initial=0)
    if depth > MOST_DEEP:
        return tr("it is nested more than {most_deep} levels deep", most_deep=MOST_DEEP)
    if (outside == ord(",")).sum() >= MOST_VALUES:
        return tr("it holds more than {most_values:,} values", most_values=MOST_VALUES)
    return None
