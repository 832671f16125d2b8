"""``sequor level``: its options, and what each does to the recipe."""

import json
import sys
from pathlib import Path
from typing import Any, NoReturn, get_args

import click
from pydantic import TypeAdapter, ValidationError

from sequor.cli.arguments import (
    AIM,
    BETWEEN,
    BOW,
    BOX,
    CANDIDATE,
    FILE,
    HOLD,
    LINE,
    PRINT,
    RECTANGLE,
    SIZE,
    TRACE,
    TRIM,
    TYPED,
)
from sequor.cli.edits import edits_of, in_order, lens_edits
from sequor.cli.report import proposal_report, report
from sequor.core.editing import apply
from sequor.core.edits import Edit, InkReadings
from sequor.core.errors import UnusableInput
from sequor.core.pixels import Pixels
from sequor.core.propose.proposal import Want
from sequor.core.propose.proposing import propose
from sequor.core.recipe import AXES, FillMethod, PhotoFacts, Recipe
from sequor.core.render.size import OutputSize
from sequor.core.report.proposals import proposal_words
from sequor.making.pipeline import Finished, make_file
from sequor.pictures.decode import decode
from sequor.pictures.encode import DEFAULT_QUALITY, EXTENSIONS, FileChoice, Format
from sequor.pictures.metadata import METADATA_NAMES
from sequor.services.lenses import looked_up

WANTS = get_args(Want)
CANNOT_TELL = 3
"""Exit status where the picture does not tell how it is to be turned."""


class CannotTell(UnusableInput):
    """The picture does not tell how it is to be turned, or not surely."""


def main(arguments: list[str] | None = None) -> None:
    """Run the command line."""
    words = sys.argv[1:] if arguments is None else arguments
    try:
        sequor.main(words, prog_name="sequor", standalone_mode=False, obj=words)
    except click.ClickException as problem:
        fail(problem.format_message())
    except click.Abort:
        fail("Stopped; no file was written.")
    except CannotTell as problem:
        fail(f"{problem} No file was written.", CANNOT_TELL)
    except UnusableInput as problem:
        fail(str(problem))
    except ValidationError as problem:
        first = problem.errors()[0]
        field = "".join(f"{part}: " for part in first["loc"] if isinstance(part, str))
        fail(field + first["msg"].removeprefix("Value error, "))
    except MemoryError:
        fail("The picture does not fit into memory.")


def fail(message: str, status: int = 2) -> NoReturn:
    """Say one sentence on standard error and stop with an exit status."""
    _complain(message)
    raise SystemExit(status)


def _complain(message: str) -> None:
    sys.stderr.write(f"sequor: {' '.join(message.split())}\n")


@click.group()
def sequor() -> None:
    """Level tilted horizons and leaning lines in photographs."""


@sequor.command()
@click.argument("source", type=FILE, metavar="INPUT")
@click.argument("target", type=FILE, metavar="OUTPUT")
@click.option("--recipe", "start", type=FILE, help="a recipe to start from, as JSON")
@click.option("--edits", type=FILE, help="edits to apply, a list as JSON (see docs/recipe.md)")
@click.option("--save-recipe", "saved", type=FILE, help="where to write the recipe, as JSON")
@click.option("--level", type=LINE, multiple=True, help="ends of a line that is level in reality")
@click.option("--plumb", type=LINE, multiple=True, help="ends of a line that is plumb in reality")
@click.option("--horizon", type=LINE, multiple=True, help="ends of a line along the horizon")
@click.option("--check", type=LINE, multiple=True, help="a line that is only measured")
@click.option("--trace", type=TRACE, multiple=True, help="points along something straight")
@click.option("--sigma", type=float, help="how well ends were placed, in pixels (default: 1)")
@click.option("--rectangle", type=RECTANGLE, multiple=True, help="corners of a rectangle")
@click.option("--propose", type=click.Choice(WANTS), help="take what the picture itself tells")
@click.option("--fit", is_flag=True, help="fit every line to the image edge under it")
@click.option("--bow", type=BOW, help="take out a bow with these coefficients K1[,K2]")
@click.option("--lens", help="take out the bow of a lens of the open database, or auto")
@click.option("--keep-bow", is_flag=True, help="leave the bow in, whatever traces say")
@click.option("--focal35", type=float, help="focal length in 35-mm terms (default: the file's)")
@click.option("--hold", type=HOLD, multiple=True, help="hold an axis: AXIS[=DEG], default 0")
@click.option("--leave-in", type=click.Choice(AXES), multiple=True, help="solved for, not applied")
@click.option("--take-out", type=click.Choice(AXES), multiple=True, help="applied, whatever shows")
@click.option("--trim", type=TRIM, multiple=True, help="turn by hand on top: AXIS=DEG")
@click.option("--as-shot", type=TYPED, multiple=True, help="the angle as shot: roll=1.33cw")
@click.option("--ease", type=float, help="how much of lean and swing is taken out, 0 to 1")
@click.option("--ease-roll", type=float, help="how much of the roll is taken out, 0 to 1")
@click.option("--proportion", type=float, help="height against width, 0.5 to 2")
@click.option("--ratio", help="original, free or W:H")
@click.option("--print", "print_size", type=PRINT, help="print size, such as 10x8in@300")
@click.option("--keep", type=BOX, help="box in source pixels that the frame must contain")
@click.option("--cut-measured", is_flag=True, help="the largest frame, even where it cuts readings")
@click.option("--aim", type=AIM, help="a point that a guide meets: X,Y[:GUIDE[:line|crossing]]")
@click.option("--between", type=BETWEEN, help="centre the frame between two readings, such as 1,2")
@click.option("--allow", type=float, help="fill allowance, 0 (crop everything) to 1")
@click.option("--fill", type=click.Choice(get_args(FillMethod)), help="how corners are filled")
@click.option("--colour", help="#RRGGBB for --fill colour")
@click.option("--candidate", type=CANDIDATE, help="sharp or calm, with .DRAW for another one")
@click.option("--avoid", type=BOX, multiple=True, help="box that nothing is copied from")
@click.option("--size", type=SIZE, default="full", help="full, N of the longer side, or WxH")
@click.option("--enlarge", is_flag=True, help="allow more pixels than the frame has")
@click.option("--bits", type=click.Choice(["8", "16"]), help="bits per channel")
@click.option("--srgb", is_flag=True, help="convert to sRGB instead of keeping the profile")
@click.option("--metadata", type=click.Choice(tuple(METADATA_NAMES)), default="all")
@click.option("--quality", type=int, default=DEFAULT_QUALITY, help="JPEG, WebP and AVIF, 1 to 100")
@click.pass_obj
def level(words: list[str], /, source: Path, target: Path, **given: Any) -> None:
    """Level one picture and print what was done as JSON."""
    given["lines"] = in_order(words, given)
    choice = FileChoice(
        _format_of(target),
        given["quality"],
        {"8": 8, "16": 16, None: None}[given["bits"]],
        given["srgb"],
        given["metadata"],
    )
    done = level_file(source, target, given, choice)
    if given["saved"]:
        given["saved"].write_text(done.recipe.model_dump_json(indent=2) + "\n")
    click.echo(json.dumps(report(done), indent=2))


def level_file(source: Path, target: Path, given: dict[str, Any], choice: FileChoice) -> Finished:
    """Level one picture file by the options that were given.

    Raises
    ------
    UnusableInput
        With nothing written.
    """
    if not 1 <= choice.quality <= 100:
        raise UnusableInput(f"A quality of {choice.quality} is not between 1 and 100.")
    for path in filter(None, (target, given["saved"])):
        if not path.parent.is_dir():
            raise UnusableInput(f"The folder {path.parent} does not exist.")
    if target.exists() and source.exists() and target.samefile(source):
        raise UnusableInput("The output would overwrite the original; give it another name.")
    recipe, more = _read_recipe(given["start"]), _read_edits(given["edits"])
    picture = decode(source)
    photo = picture.facts.photo
    for edit in (*edits_of(given, source), *more):
        recipe = apply(looked_up(edit, recipe, photo, source), recipe, photo)
    if given["propose"]:
        recipe = _with_proposals(picture.pixels, photo, recipe, given["propose"])
    size = given["size"]
    if size.kind == "full" and recipe.frame.print_size:
        size = OutputSize(kind="print")
    size = size.model_copy(update={"enlarge": given["enlarge"]})
    return make_file(picture, source, target, recipe, size, choice, given["fit"])


def _with_proposals(pixels: Pixels, photo: PhotoFacts, recipe: Recipe, want: Want) -> Recipe:
    """The recipe with what is proposed taken."""
    proposal = propose(pixels, photo, recipe, want)
    if not proposal.sure:
        raise CannotTell(proposal_words(proposal).summary)
    readings = tuple(one.reading for one in proposal.readings)
    return apply(InkReadings(readings=readings, leave_in=proposal.leave_in), recipe, photo)


@sequor.command("propose")
@click.argument("sources", type=FILE, nargs=-1, required=True, metavar="PICTURE...")
@click.option("--want", type=click.Choice(WANTS), default="any", help="what it is to be")
@click.option("--recipe", "start", type=FILE, help="a recipe whose lens and readings are used")
@click.option("--bow", type=BOW, help="take out a bow with these coefficients K1[,K2]")
@click.option("--lens", help="take out the bow of a lens of the open database, or auto")
@click.option("--focal35", type=float, help="focal length in 35-mm terms (default: the file's)")
def propose_readings(
    sources: tuple[Path, ...], want: Want, start: Path | None, **given: Any
) -> None:
    """Print, for each picture, the readings that it proposes itself, a line of JSON each."""
    unread = False
    for source in sources:
        try:
            picture = decode(source)
            photo, recipe = picture.facts.photo, _read_recipe(start)
            for edit in lens_edits({"keep_bow": False, **given}, source):
                recipe = apply(looked_up(edit, recipe, photo, source), recipe, photo)
            proposal = propose(picture.pixels, photo, recipe, want)
            click.echo(json.dumps({"picture": str(source), **proposal_report(proposal)}))
        except UnusableInput as problem:
            _complain(str(problem))
            unread = True
    if unread:
        raise SystemExit(2)


def _format_of(target: Path) -> Format:
    found = EXTENSIONS.get(target.suffix.lower())
    if found is None:
        raise UnusableInput(f"{target.name} must end in .jpg, .png, .tif, .webp or .avif.")
    return found


def _read_recipe(path: Path | None) -> Recipe:
    return Recipe.model_validate_json(_text(path)) if path else Recipe()


def _read_edits(path: Path | None) -> tuple[Edit, ...]:
    adapter: TypeAdapter[tuple[Edit, ...]] = TypeAdapter(tuple[Edit, ...])
    return adapter.validate_json(_text(path)) if path else ()


def _text(path: Path) -> str:
    try:
        return path.read_text()
    except (OSError, UnicodeDecodeError) as problem:
        raise UnusableInput(f"{path} cannot be read as text.") from problem
