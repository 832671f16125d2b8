"""What axes, kinds of readings, sides and other values with fixed names are called in sentences."""

from sequor.core.language import mark, tr

_NAMES = (
    (mark("roll"), mark("lean"), mark("swing")),
    (mark("level"), mark("plumb"), mark("horizon"), mark("check"), mark("trace")),
    (mark("left"), mark("right"), mark("top"), mark("bottom")),
    (mark("top left"), mark("top right"), mark("bottom right"), mark("bottom left")),
    (mark("sharp"), mark("calm")),
    (mark("patches"), mark("mirror"), mark("colour"), mark("transparent")),
    (mark("camera"), mark("daylight"), mark("cloud"), mark("shade"), mark("lamp")),
    (mark("cm"), mark("in")),
    (mark("clockwise"), mark("anticlockwise"), mark("up"), mark("down")),
)
"""Each is called what it is; here they stand for the catalogues."""
CORNERS = _NAMES[3]


def named(value: str) -> str:
    """What one of them is called in the language that is spoken."""
    return tr(value)
