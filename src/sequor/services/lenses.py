"""Lenses of the open database: which may have taken a picture, and their distortion for it."""

from pathlib import Path

from sequor.core.camera import focal_of
from sequor.core.edits import Edit, UseLens
from sequor.core.errors import UnusableInput
from sequor.core.recipe import PhotoFacts, Recipe
from sequor.pictures import lenses


def looked_up(edit: Edit, recipe: Recipe, photo: PhotoFacts, source: Path) -> Edit:
    """An edit with the distortion of the lens that it names; any other edit as it is.

    Parameters
    ----------
    source : Path
        The original's file, which says at what focal length and distance it was taken.
    """
    if not isinstance(edit, UseLens) or edit.polynomial is not None:
        return edit
    _, focal35_mm = focal_of(photo, recipe)
    polynomial = lenses.polynomial_of(edit.name, lenses.shot_of(source), focal35_mm)
    return edit.model_copy(update={"polynomial": polynomial})


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
                "The database knows no lens for what the file says of its camera and lens; "
                "name one with --lens."
            )
        return found[0].name
    named = [known.name for known in lenses.search(text)]
    if text in named:
        return text
    if len(named) != 1:
        some = f": {'; '.join(named[:5])}" if named else ""
        raise UnusableInput(f"{len(named)} lenses are named like “{text}”{some}; name one in full.")
    return named[0]
