"""One picture file levelled by what was said on the command line."""

import os
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from pydantic import TypeAdapter

from sequor.cli.edits import edits_of
from sequor.cli.lookups import FileLookups
from sequor.core.advance import Edits, advance
from sequor.core.corner_ways import WAYS
from sequor.core.edits import Edit, FitEverything, InkReadings
from sequor.core.edits.base import Lookups
from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.least_harm import HarmWeights, LeastHarm, halvings_enough, least_harm
from sequor.core.photo import PhotoFacts
from sequor.core.pixels import Pixels
from sequor.core.recipe import Recipe
from sequor.core.render.size import OutputSize, output_of
from sequor.core.solve import solve
from sequor.making.pipeline import FileOrder, Finished, look_ahead, make_file
from sequor.pictures.decode import decode
from sequor.pictures.encode import FileChoice, Format
from sequor.pictures.pages import write_page
from sequor.pictures.pose import pose_of
from sequor.pictures.proxy import halved


class CannotTell(UnusableInput):
    """The picture does not tell how it is to be turned, or not surely."""


@dataclass(frozen=True)
class Leveling:
    """What is done to a picture: the options that were given, and the kind of file; ``force``
    replaces a file that is there, ``dry`` writes none.
    """

    given: dict[str, Any]
    choice: FileChoice
    force: bool = False
    dry: bool = False

    def with_format(self, kind: Format) -> "Leveling":
        """The same for files of another format."""
        return replace(self, choice=replace(self.choice, format=kind))


def level_file(
    source: Path, target: Callable[[tuple[int, int]], Path], job: Leveling
) -> tuple[Finished, Path]:
    """Level one picture file; what was done, and the file.

    Parameters
    ----------
    target : callable
        The file to write, by its width and height.

    Raises
    ------
    CannotTell
        When proposals are to be taken and the picture tells nothing.
    UnusableInput
        With nothing written.
    """
    if job.given["page"] is None:
        return _leveled(source, source, target, job)
    with TemporaryDirectory() as folder:
        page = Path(folder) / "page.tif"
        write_page(source, job.given["page"], page, source.name)
        return _leveled(source, page, target, job)


def _leveled(
    source: Path, picture_file: Path, target: Callable[[tuple[int, int]], Path], job: Leveling
) -> tuple[Finished, Path]:
    """See `level_file`; the picture is read from a file that may be a page of the source."""
    given = job.given
    if not 1 <= job.choice.quality <= 100:
        raise UnusableInput(
            tr("A quality of {quality} is not between 1 and 100.", quality=job.choice.quality)
        )
    recipe, more = read_recipe(given["start"]), _read_edits(given["edits"])
    picture = decode(picture_file)
    if given["camera_level"]:
        picture = replace(picture, facts=replace(picture.facts, pose=pose_of(picture_file)))
    photo = picture.facts.photo
    lookups = FileLookups(picture_file, picture)
    recipe = advance(photo, recipe, (*edits_of(given, source), *more), lookups).recipe
    last: Edits = (FitEverything(),) if given["fit"] else ()
    if given["propose"]:
        last = (_proposed(picture.pixels, photo, recipe, given["propose"]), *last)
    recipe = advance(photo, recipe, last, lookups).recipe
    weighed = None
    if given["least_harm"]:
        weights = given["least_harm"]
        recipe, weighed = _harmed_least(picture.pixels, photo, recipe, weights, lookups)
    white = recipe.white.chromaticity
    if photo.raw and white and not job.dry:
        picture = replace(decode(picture_file, white=white), facts=picture.facts)
    size = given["size"]
    if size.kind == "full" and recipe.frame.print_size:
        size = OutputSize(kind="print")
    size = size.model_copy(update={"enlarge": given["enlarge"]})
    output = output_of(solve(photo, recipe), recipe.frame, size)
    path = target((output.width, output.height))
    # Of many, the folder is made when it is needed.
    if path.parent.is_dir() or not job.dry:
        check_target(path, source, job.force)
    if job.dry:
        done = look_ahead(photo, recipe, size)
    else:
        done = make_file(picture, recipe, FileOrder(picture_file, path, size, job.choice))
    return replace(done, weighed=weighed), path


def check_target(path: Path, source: Path, force: bool) -> None:
    """Refuse to write where that would lose something, or cannot be done."""
    if not path.parent.is_dir():
        raise UnusableInput(tr("The folder {parent} does not exist.", parent=path.parent))
    if path.exists() and source.exists() and os.path.samefile(path, source):
        raise UnusableInput(tr("The output would overwrite the original; give it another name."))
    if path.exists() and not force:
        raise UnusableInput(tr("{path} is there already; --force replaces it.", path=path))


def read_recipe(path: Path | None) -> Recipe:
    """The recipe in a file; an empty one without a file."""
    return Recipe.model_validate_json(_text(path)) if path else Recipe()


def _proposed(pixels: Pixels, photo: PhotoFacts, recipe: Recipe, want: Any) -> InkReadings:
    """What is proposed, to be taken."""
    # OpenCV takes a while to load, and is needed for this only.
    from sequor.core.propose.proposing import propose
    from sequor.core.report.proposals import proposal_words

    proposal = propose(pixels, photo, recipe, want)
    if not proposal.sure:
        raise CannotTell(proposal_words(proposal).summary)
    readings = tuple(one.reading for one in proposal.readings)
    return InkReadings(readings=readings, leave_in=proposal.leave_in)


def _harmed_least(
    pixels: Pixels, photo: PhotoFacts, recipe: Recipe, weights: HarmWeights, lookups: Lookups
) -> tuple[Recipe, LeastHarm]:
    """The recipe with its corners shared out so that the least harm is done, and why so."""
    bending = advance(photo, recipe, (WAYS["bend"],), lookups).recipe
    halvings = halvings_enough(photo)
    for _ in range(halvings):
        pixels = halved(pixels)
    found = least_harm(pixels, halvings, photo, bending, weights)
    return advance(photo, recipe, (found.best.edit,), lookups).recipe, found


def _read_edits(path: Path | None) -> tuple[Edit, ...]:
    adapter: TypeAdapter[tuple[Edit, ...]] = TypeAdapter(tuple[Edit, ...])
    return adapter.validate_json(_text(path)) if path else ()


def _text(path: Path) -> str:
    try:
        return path.read_text()
    except (OSError, UnicodeDecodeError) as problem:
        raise UnusableInput(tr("{path} cannot be read as text.", path=path)) from problem
