"""What is said of carrying over from one picture to others."""

from collections.abc import Mapping

from sequor.core.edits.carrying import PARTS, Misfit, Part
from sequor.core.recipe import MAX_READINGS

PART_NAMES: Mapping[Part, tuple[str, str]] = {
    "focal": ("Focal length", "as it was stated by hand"),
    "lens": ("Lens", "how its bow is taken out"),
    "stance": ("Stance", "the camera stood still: the same turn to the last bit"),
    "holds": ("Holds", "axes that are held or left in"),
    "ease": ("Ease", "how much is taken out"),
    "shape": ("Frame shape", "ratio or print size"),
    "place": ("Frame place", "the box to keep, the aim, a frame moved by hand"),
    "corners": ("Corners", "fill allowance and how they are filled"),
    "white": ("White", "the light that a raw picture is developed for"),
}
_WHY: Mapping[Misfit, str] = {
    "size": "it has another size in pixels",
    "aspect": "its sides have another ratio",
    "focal": "it was taken at another focal length",
    "outside": "it would lie outside this picture",
    "readings": "the readings it lies between are not in this picture",
    "many": f"with it there would be more than {MAX_READINGS} readings, the most of a picture",
    "finished": "it is not a raw file",
}


def misfit_words(part: Part, misfit: Misfit) -> str:
    """Why a part is left out: ``Stance not carried: it has another size in pixels.``"""
    return f"{PART_NAMES[part][0]} not carried: {_WHY[misfit]}."


def carried_words(parts: tuple[Part, ...], files: bool, name: str) -> str:
    """What was done, for the ledger: ``stance and ease carried over from gate.jpg``."""
    names = [PART_NAMES[part][0].lower() for part in PARTS if part in parts]
    if files:
        names.append("file choices")
    listed = " and ".join(filter(None, (", ".join(names[:-1]), names[-1]))) if names else "nothing"
    return f"{listed} carried over from {name}"
