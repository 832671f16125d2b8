"""What is said of carrying over from one picture to others."""

from collections.abc import Mapping

from sequor.core.edits.carrying import PARTS, Misfit, Part
from sequor.core.language import listed, lower, mark, tr
from sequor.core.recipe import MAX_READINGS

PART_NAMES: Mapping[Part, tuple[str, str]] = {
    "focal": (mark("Focal length"), mark("as it was stated by hand")),
    "lens": (mark("Lens"), mark("how its bow is taken out")),
    "stance": (mark("Stance"), mark("the camera stood still: the same turn to the last bit")),
    "holds": (mark("Holds"), mark("axes that are held or left in")),
    "ease": (mark("Ease"), mark("how much is taken out")),
    "shape": (mark("Frame shape"), mark("ratio or print size")),
    "place": (mark("Frame place"), mark("the box to keep, the aim, a frame moved by hand")),
    "corners": (mark("Corners"), mark("fill allowance and how they are filled")),
    "white": (mark("White"), mark("the light that a raw picture is developed for")),
}
_WHY: Mapping[Misfit, str] = {
    "size": mark("it has another size in pixels"),
    "aspect": mark("its sides have another ratio"),
    "focal": mark("it was taken at another focal length"),
    "outside": mark("it would lie outside this picture"),
    "readings": mark("the readings it lies between are not in this picture"),
    "many": mark("with it there would be more than {most} readings, the most of a picture"),
    "finished": mark("it is not a raw file"),
}


def misfit_words(part: Part, misfit: Misfit) -> str:
    """Why a part is left out: ``Stance not carried: it has another size in pixels.``"""
    why = tr(_WHY[misfit], most=MAX_READINGS)
    return tr("{part} not carried: {why}.", part=tr(PART_NAMES[part][0]), why=why)


def carried_words(parts: tuple[Part, ...], files: bool, name: str) -> str:
    """What was done, for the ledger: ``stance and ease carried over from gate.jpg``."""
    names = [lower(tr(PART_NAMES[part][0])) for part in PARTS if part in parts]
    if files:
        names.append(tr("file choices"))
    carried = listed(names) or tr("nothing")
    return tr("{carried} carried over from {name}", carried=carried, name=name)
