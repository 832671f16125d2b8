"""Composition guides: lines laid over the frame, in shares of its width and height from its top-
left corner.

They are aids, not rules. The golden section divides a side so that the smaller part is to the
larger as the larger is to the whole: at 1 / phi and 1 - 1 / phi, with phi = (1 + sqrt 5) / 2.
"""

import math
from collections.abc import Callable

from sequor.core.language import mark
from sequor.core.recipe import GuideName, Point

PHI = (1 + math.sqrt(5)) / 2
NAMES: dict[GuideName, str] = {
    "thirds": mark("Thirds"),
    "fifths": mark("Fifths"),
    "golden": mark("Golden section"),
    "centre": mark("Centre lines"),
    "diagonals": mark("Diagonals"),
    "fine": mark("Fine grid"),
}
_AT: dict[GuideName, tuple[float, ...]] = {
    "thirds": (1 / 3, 2 / 3),
    "fifths": (0.2, 0.4, 0.6, 0.8),
    "golden": (1 - 1 / PHI, 1 / PHI),
    "centre": (0.5,),
    "diagonals": (),
    "fine": tuple(i / 12 for i in range(1, 12)),
}
Along = Callable[[float], Point]
"""A line of a guide: the place at a share of its length."""


def guide_lines(guide: GuideName) -> tuple[tuple[Point, Point], ...]:
    """The ends of every line of a guide."""
    return tuple((along(0.0), along(1.0)) for along in lines_along(guide))


def crossings(guide: GuideName) -> tuple[Point, ...]:
    """Where the lines of a guide cross each other."""
    return (
        ((0.5, 0.5),)
        if guide == "diagonals"
        else tuple((x, y) for y in _AT[guide] for x in _AT[guide])
    )


def lines_along(guide: GuideName) -> tuple[Along, ...]:
    """The lines of a guide, each as the place at a share of its length."""
    if guide == "diagonals":
        return (lambda t: (t, t), lambda t: (t, 1 - t))
    return tuple(_upright(at) for at in _AT[guide]) + tuple(_lying(at) for at in _AT[guide])


def _upright(x: float) -> Along:
    return lambda t: (x, t)


def _lying(y: float) -> Along:
    return lambda t: (t, y)
