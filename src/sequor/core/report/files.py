"""What a person should know of how a file was read."""

from collections.abc import Iterable

from sequor.core.language import mark, tr

_WORDS = {
    "developed": mark(
        "Developed from the raw file by LibRaw; files of 8 bits are written in sRGB."
    ),
    "floats": mark("Its floating-point numbers are kept; what is shown has a tone curve."),
    "inks": mark("Its inks (CMYK) were converted to colours of a wide profile."),
    "lab": mark("Its L*a*b* colours were converted to those of a wide profile."),
    "gain_map": mark("Its HDR gain map is not carried over: exports show what every screen can."),
    "first_of_several": mark("It holds several pictures; this is the first one."),
}


def file_words(remarks: Iterable[str]) -> tuple[str, ...]:
    """A sentence for each remark of how a file was read."""
    return tuple(tr(_WORDS[one]) for one in remarks if one in _WORDS)
