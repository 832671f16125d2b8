"""Lenses of the open database: which may have taken a picture, and their distortion for it."""

from pathlib import Path

from sequor.core.camera import focal_of
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.photo import PhotoFacts, Polynomial
from sequor.core.recipe import Recipe
from sequor.pictures import lenses


def polynomial_of(name: str, recipe: Recipe, photo: PhotoFacts, source: Path) -> Polynomial:
    """The distortion of a lens for a picture.

    Parameters
    ----------
    recipe : Recipe
        Says at what focal length, unless the file does.
    source : Path
        The original's file, which says at what focal length and distance it was taken.
    """
    _, focal35_mm = focal_of(photo, recipe)
    return lenses.polynomial_of(name, lenses.shot_of(source), focal35_mm)


def named_lens(text: str, source: Path) -> str:
    """The one lens that a text names: ``auto`` for the likeliest, a whole name, or a part of one.

    Raises
    ------
    UnusableInput
        When none or several lenses are named so.
    """
    if text == "auto":
        found = lenses.matching(lenses.shot_of(source))
        if not found:
            raise UnusableInput(
                tr(
                    "The database knows no lens for what the file says of its camera and lens; "
                    "name one with --lens."
                )
            )
        return found[0].name
    named = [known.name for known in lenses.search(text)]
    if text in named:
        return text
    if len(named) != 1:
        some = f": {'; '.join(named[:5])}" if named else ""
        raise UnusableInput(
            tr(
                "{named} lenses are named like “{text}”{some}; name one in full.",
                named=len(named),
                text=text,
                some=some,
            )
        )
    return named[0]
