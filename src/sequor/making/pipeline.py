"""The one way from a recipe to a file: decode, solve, render, fill, encode."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import cast

import numpy as np
from numpy.typing import NDArray

from sequor.core.errors import Cancelled
from sequor.core.fill.apply import PLANNED_SHARE, plan_for, render_filled
from sequor.core.fill.judge import Judgement
from sequor.core.fill.judging import judge_fill
from sequor.core.least_harm import LeastHarm
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.recipe import Recipe
from sequor.core.render.light import Light
from sequor.core.render.rendering import Rendered, coverage, render
from sequor.core.render.sharpen import sharpened
from sequor.core.render.size import Output, OutputSize, checked, output_of
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.pictures.decode import DecodedPicture
from sequor.pictures.encode import FileChoice, Own, encode, takes_inks, takes_numbers
from sequor.pictures.floating import FloatPicture, Numbers
from sequor.pictures.inks import COLOURED, InkPicture, read_inks
from sequor.pictures.metadata import Filled
from sequor.pictures.profiles import light_of
from sequor.work.tracing import traced

_SMALLER = 0.999
"""Output pixels for one of the frame, below which a picture gets smaller."""
RENDERED_SHARE = 0.83
"""Share of the work after which the pixels are there and only the file is to be written."""


@dataclass(frozen=True)
class Finished:
    """A file that was made, or would be: how, from what, and what comes of it; what fills it is
    judged once it was made. ``weighed`` says why its corners are shared out as they are, where that
    was asked for.
    """

    photo: PhotoFacts
    recipe: Recipe
    solution: Solution
    output: Output
    empty_pixels: int
    filled_share: float
    judged: Judgement | None = None
    weighed: LeastHarm | None = None


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
    photo, choice = picture.facts.photo, order.choice
    solution = solve(photo, recipe)
    output = checked(output_of(solution, recipe.frame, order.size), order.size)
    plan = plan_for(
        picture.pixels,
        solution,
        recipe,
        lambda share: progress(share * PLANNED_SHARE * RENDERED_SHARE),
        cancelled,
    )
    with traced("kernel", width=output.width, height=output.height):
        rendered = render_filled(
            picture.pixels,
            solution,
            recipe,
            lambda share: progress(share * RENDERED_SHARE),
            cancelled,
            (output.width, output.height),
            plan,
            _light(picture, output) if choice.linear else None,
        )
    judged = judge_fill(picture.pixels, solution, recipe, plan, cancelled)
    if cancelled():
        raise Cancelled
    own = None
    if picture.floats and takes_numbers(choice, picture):
        numbers = corrected_numbers(picture.floats, solution, rendered, cancelled)
        own = Own(numbers, picture.floats.profile if choice.format == "tiff" else None)
    elif takes_inks(choice, picture):
        inks = read_inks(order.source, picture.facts)
        own = Own(corrected_inks(inks, solution, rendered, cancelled), inks.profile)
    elif choice.sharpen:
        rendered = replace(rendered, pixels=sharpened(rendered.pixels, choice.sharpen / 100))
    file = replace(choice, ppi=output.ppi)
    filled = filled_of(recipe, rendered)
    with traced("encode"):
        encode(rendered.pixels, picture, order.source, order.target, file, filled, own)
    progress(1.0)
    made = rendered.empty_pixels, rendered.filled_share
    return Finished(photo, recipe, solution, output, *made, judged)


def look_ahead(photo: PhotoFacts, recipe: Recipe, size: OutputSize) -> Finished:
    """What `make_file` would come to, with no pixel made.

    Raises
    ------
    UnusableInput
        When the file could not be made.
    """
    solution = solve(photo, recipe)
    output = checked(output_of(solution, recipe.frame, size), size)
    covered = coverage(solution, (photo.width, photo.height), (output.width, output.height))
    empty = covered.size - int(covered.sum())
    filled, mended = recipe.fills, solution.mended_fraction
    left = empty if not filled or recipe.fill.method == "transparent" else 0
    share = min(1.0, mended + (empty / covered.size if filled else 0.0))
    return Finished(photo, recipe, solution, output, left, share)


def corrected_numbers(
    floats: FloatPicture,
    solution: Solution,
    rendered: Rendered,
    cancelled: Callable[[], bool] = lambda: False,
) -> Numbers:
    """The corrected numbers of a picture; where it covers nothing, or was mended, those of what was
    ``rendered`` and filled in the version that is shown.
    """
    height, width, channels = rendered.pixels.shape
    turned = render(floats.numbers, solution, cancelled=cancelled, size=(width, height))
    made = cast(Numbers, turned.pixels)
    if rendered.filled_share <= 0:
        return made
    if channels > made.shape[2]:  # corners that are left transparent
        made = np.concatenate([made, np.ones((height, width, 1), np.float32)], axis=2)
    source = floats.numbers.shape
    empty = ~coverage(solution, (source[1], source[0]), (width, height))
    if rendered.mended is not None:
        empty |= rendered.mended
    made[empty] = floats.numbers_of(cast(NDArray[np.uint16], rendered.pixels[empty]))
    return made


def corrected_inks(
    inks: InkPicture,
    solution: Solution,
    rendered: Rendered,
    cancelled: Callable[[], bool] = lambda: False,
) -> Pixels:
    """The corrected inks of a picture, each resampled as it is; where it covers nothing, or was
    mended, those of what was ``rendered`` and filled in the version in colours, bare paper where
    that is transparent.
    """
    height, width, channels = rendered.pixels.shape
    # Apart, so that no ink is taken for transparency.
    parts = (inks.values[..., :COLOURED], inks.values[..., COLOURED:])
    turned = [
        render(np.ascontiguousarray(part), solution, cancelled=cancelled, size=(width, height))
        for part in parts
    ]
    made = np.concatenate([one.pixels for one in turned], axis=2)
    source = inks.values.shape
    empty = ~coverage(solution, (source[1], source[0]), (width, height))
    if channels > COLOURED:
        made[empty] = 0
        empty[:] = False
    if rendered.mended is not None:
        empty |= rendered.mended
    if empty.any():
        made[empty] = inks.of_colours(rendered.pixels[empty][:, :COLOURED])
    return made


def _light(picture: DecodedPicture, output: Output) -> Light | None:
    """The curve of a picture that gets smaller."""
    if output.scale > _SMALLER:
        return None
    return Light(light_of(picture.profile, picture.pixels.shape[2]))


def filled_of(recipe: Recipe, rendered: Rendered) -> Filled | None:
    """What the metadata say of a fill; None when there is none."""
    if rendered.filled_share <= 0:
        return None
    corners = rendered.mended is None or recipe.fills
    return Filled(rendered.filled_share, recipe.fill.method if corners else "patches")
