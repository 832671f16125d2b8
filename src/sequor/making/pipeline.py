"""The one way from a recipe to a file: decode, solve, render, fill, encode."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

from sequor.core.errors import Cancelled
from sequor.core.fill.apply import render_filled
from sequor.core.recipe import PhotoFacts, Recipe
from sequor.core.render.rendering import Rendered
from sequor.core.render.size import Output, OutputSize, checked, output_of
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.pictures.decode import DecodedPicture
from sequor.pictures.encode import FileChoice, encode
from sequor.pictures.metadata import Filled

RENDERED_SHARE = 0.83
"""Share of the work after which the pixels are there and only the file is to be written."""


@dataclass(frozen=True)
class Finished:
    """A file that was made: how, from what, and what came of it."""

    photo: PhotoFacts
    recipe: Recipe
    solution: Solution
    output: Output
    rendered: Rendered


@dataclass(frozen=True)
class FileOrder:
    """A file that is to be made: of what file, where to, how large and of what kind."""

    source: Path
    target: Path
    size: OutputSize
    choice: FileChoice


def make_file(
    picture: DecodedPicture,
    recipe: Recipe,
    order: FileOrder,
    progress: Callable[[float], None] = lambda share: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Finished:
    """Write the corrected file of a picture, whole or not at all.

    Parameters
    ----------
    picture : DecodedPicture
        The decoded original; its file is the order's ``source``, where the metadata come from.
    recipe : Recipe
        The correction.
    progress, cancelled : callable
        Told the share done, and asked whether to stop.

    Raises
    ------
    UnusableInput
        With nothing written.
    Cancelled
        When ``cancelled`` said so.
    """
    photo = picture.facts.photo
    solution = solve(photo, recipe)
    output = checked(output_of(solution, recipe.frame, order.size), order.size)
    rendered = render_filled(
        picture.pixels,
        solution,
        recipe,
        lambda share: progress(share * RENDERED_SHARE),
        cancelled,
        (output.width, output.height),
    )
    if cancelled():
        raise Cancelled
    file = replace(order.choice, ppi=output.ppi)
    encode(rendered.pixels, picture, order.source, order.target, file, filled_of(recipe, rendered))
    progress(1.0)
    return Finished(photo, recipe, solution, output, rendered)


def filled_of(recipe: Recipe, rendered: Rendered) -> Filled | None:
    """What the metadata say of a fill; None when there is none."""
    if rendered.filled_share <= 0:
        return None
    return Filled(rendered.filled_share, recipe.fill.method)
