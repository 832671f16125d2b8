"""``sequor level`` and ``sequor propose``: their options, and what each does to the recipe."""

import json
from pathlib import Path
from typing import Any, get_args

import click
from pydantic import ValidationError

from sequor.cli.arguments import (
    AIM,
    BETWEEN,
    BOW,
    BOX,
    CANDIDATE,
    FILE,
    HOLD,
    LINE,
    LINE_AT,
    PRINT,
    RECTANGLE,
    SIZE,
    STRAIGHT,
    TRACE,
    TRIM,
    TYPED,
    WHITE,
)
from sequor.cli.edits import in_order, lens_edits
from sequor.cli.leveling import CannotTell, Leveling, check_target, level_file, read_recipe
from sequor.cli.lookups import FileLookups
from sequor.cli.many import BatchOrder, level_many, usual_jobs
from sequor.cli.report import proposal_report, report
from sequor.cli.said import REFUSED, SOME_REFUSED, complain
from sequor.cli.sources import sources_of
from sequor.core.advance import advance
from sequor.core.errors import UnusableInput
from sequor.core.propose.proposal import Want
from sequor.core.recipe import AXES, SIDES, FillMethod
from sequor.pictures.decode import decode
from sequor.pictures.encode import (
    CHROMA_NAMES,
    DEFAULT_QUALITY,
    EXTENSIONS,
    FORMATS,
    MAX_SHARPEN,
    PACKING_NAMES,
    SUFFIXES,
    Bits,
    FileChoice,
    Format,
)
from sequor.pictures.metadata import METADATA_NAMES
from sequor.pictures.naming import DEFAULT_PATTERN

WANTS = get_args(Want)
CANNOT_TELL = 3
"""Exit status where the picture does not tell how it is to be turned, or none of those that were
refused does."""


def explain(problem: Exception) -> tuple[str, int]:
    """What is said of a problem, in one sentence, and the exit status.

    Raises
    ------
    Exception
        The problem itself, where it is none of those that are expected.
    """
    match problem:
        case CannotTell():
            return f"{problem} No file was written.", CANNOT_TELL
        case UnusableInput():
            return str(problem), REFUSED
        case ValidationError():
            first = problem.errors()[0]
            field = "".join(f"{part}: " for part in first["loc"] if isinstance(part, str))
            return field + first["msg"].removeprefix("Value error, "), REFUSED
        case MemoryError():
            return "The picture does not fit into memory.", REFUSED
    raise problem


@click.command()
@click.argument("paths", type=FILE, nargs=-1, required=True, metavar="INPUT... OUTPUT")
@click.option("--recipe", "start", type=FILE, help="a recipe to start from, as JSON")
@click.option("--edits", type=FILE, help="edits to apply, a list as JSON (see docs/recipe.md)")
@click.option("--save-recipe", "saved", type=FILE, help="where to write the recipe, as JSON")
@click.option("--level", type=LINE, multiple=True, help="ends of a line that is level in reality")
@click.option("--plumb", type=LINE, multiple=True, help="ends of a line that is plumb in reality")
@click.option("--horizon", type=LINE, multiple=True, help="ends of a line along the horizon")
@click.option("--check", type=LINE, multiple=True, help="a line that is only measured")
@click.option("--trace", type=TRACE, multiple=True, help="points along something straight")
@click.option("--line-at", type=LINE_AT, multiple=True, help="a line to be at DEG from level")
@click.option(
    "--straight", type=STRAIGHT, multiple=True, help="points along what is to be straight"
)
@click.option("--sigma", type=float, help="how well ends were placed, in pixels (default: 1)")
@click.option("--rectangle", type=RECTANGLE, multiple=True, help="corners of a rectangle")
@click.option("--propose", type=click.Choice(WANTS), help="take what the picture itself tells")
@click.option("--camera-level", is_flag=True, help="read how the camera says that it was held")
@click.option("--fit", is_flag=True, help="fit every line to the image edge under it")
@click.option("--bow", type=BOW, help="take out a bow with these coefficients K1[,K2]")
@click.option("--lens", help="take out the bow of a lens of the open database, or auto")
@click.option("--keep-bow", is_flag=True, help="leave the bow in, whatever traces say")
@click.option("--focal35", type=float, help="focal length in 35-mm terms (default: the file's)")
@click.option("--page", type=int, help="of a TIFF of several pages: which one, from 1")
@click.option("--white", type=WHITE, help="the light of a raw picture, or X,Y of a grey spot")
@click.option("--hold", type=HOLD, multiple=True, help="hold an axis: AXIS[=DEG], default 0")
@click.option("--leave-in", type=click.Choice(AXES), multiple=True, help="solved for, not applied")
@click.option("--take-out", type=click.Choice(AXES), multiple=True, help="applied, whatever shows")
@click.option("--trim", type=TRIM, multiple=True, help="turn by hand on top: AXIS=DEG")
@click.option("--as-shot", type=TYPED, multiple=True, help="the angle as shot: roll=1.33cw")
@click.option("--ease", type=float, help="how much of lean and swing is taken out, 0 to 1")
@click.option("--ease-lean", type=float, help="how much of the lean: what uprights converge by")
@click.option("--ease-swing", type=float, help="how much of the swing: what levels run together by")
@click.option("--ease-roll", type=float, help="how much of the roll is taken out, 0 to 1")
@click.option("--proportion", type=float, help="height against width, 0.5 to 2")
@click.option("--ratio", help="original, free or W:H")
@click.option("--print", "print_size", type=PRINT, help="print size, such as 10x8in@300")
@click.option("--keep", type=BOX, help="box in source pixels that the frame must contain")
@click.option("--air", type=float, help="air around that box, as a share of its longer side")
@click.option("--looks", type=click.Choice(SIDES), help="the side that what is kept looks to")
@click.option("--cut-measured", is_flag=True, help="the largest frame, even where it cuts readings")
@click.option("--aim", type=AIM, help="a point that a guide meets: X,Y[:GUIDE[:line|crossing]]")
@click.option("--between", type=BETWEEN, help="centre the frame between two readings, such as 1,2")
@click.option("--allow", type=float, help="fill allowance, 0 (crop everything) to 1")
@click.option("--fill", type=click.Choice(get_args(FillMethod)), help="how corners are filled")
@click.option("--colour", help="#RRGGBB for --fill colour")
@click.option("--candidate", type=CANDIDATE, help="sharp or calm, with .DRAW for another one")
@click.option("--avoid", type=BOX, multiple=True, help="box that nothing is copied from")
@click.option("--bend-lines", type=float, help="how much of what is left over bends, 0 to 1")
@click.option("--bend-corners", type=float, help="how much of empty corners is closed, 0 to 1")
@click.option("--max-stretch", type=float, help="the most that bending may stretch (default: 1.6)")
@click.option("--still", type=BOX, multiple=True, help="box that does not bend")
@click.option("--size", type=SIZE, default="full", help="full, N of the longer side, or WxH")
@click.option("--enlarge", is_flag=True, help="allow more pixels than the frame has")
@click.option("--bits", type=click.Choice(["8", "16", "32"]), help="bits per channel")
@click.option("--srgb", is_flag=True, help="convert to sRGB instead of keeping the profile")
@click.option("--metadata", type=click.Choice(tuple(METADATA_NAMES)), default="all")
@click.option("--quality", type=int, default=DEFAULT_QUALITY, help="of lossy formats, 1 to 100")
@click.option("--progressive", is_flag=True, help="of a JPEG: coarse first")
@click.option("--inks", is_flag=True, help="of a TIFF of an original of inks (CMYK): keep them")
@click.option("--chroma", type=click.Choice(tuple(CHROMA_NAMES)), default="auto", help="of a JPEG")
@click.option("--packing", type=click.Choice(tuple(PACKING_NAMES)), default="deflate", help="TIFF")
@click.option("--sharpen", type=click.IntRange(0, MAX_SHARPEN), default=0, help="per cent")
@click.option("--mix-numbers", is_flag=True, help="when smaller, mix the numbers and not the light")
@click.option("--force", is_flag=True, help="replace files that are there already")
@click.option("--dry-run", "dry", is_flag=True, help="say what would be done, write nothing")
@click.option("--jobs", type=click.IntRange(1, 64), help="pictures at once (default: processors)")
@click.option("--pattern", default=DEFAULT_PATTERN, help="names of the files of many pictures")
@click.option("--format", "kind", type=click.Choice(tuple(FORMATS)), help="of many pictures")
@click.pass_obj
def level(words: list[str], /, paths: tuple[Path, ...], **given: Any) -> None:
    """Level one picture, or many into a folder, and print what was done as JSON."""
    if len(paths) < 2:
        raise UnusableInput("Name the picture and then the file to write, or a folder for many.")
    *inputs, target = paths
    given["lines"] = in_order(words, given)
    choice = _file_choice(given)
    job = Leveling(given, choice, given["force"], given["dry"])
    if len(inputs) > 1 or inputs[0].is_dir() or target.is_dir():
        _level_many(tuple(inputs), target, job)
        return
    (source,) = inputs
    for path in filter(None, (target, given["saved"])):
        check_target(path, source, given["force"])
    done, _ = level_file(source, lambda _: target, job.with_format(_format_of(target)))
    if given["saved"] and not given["dry"]:
        given["saved"].write_text(done.recipe.model_dump_json(indent=2) + "\n")
    click.echo(json.dumps(report(done), indent=2))


def _file_choice(given: dict[str, Any]) -> FileChoice:
    depths: dict[str | None, Bits | None] = {"8": 8, "16": 16, "32": 32, None: None}
    return FileChoice(
        "jpeg",
        given["quality"],
        depths[given["bits"]],
        given["srgb"],
        given["metadata"],
        chroma=given["chroma"],
        progressive=given["progressive"],
        packing=given["packing"],
        linear=not given["mix_numbers"],
        sharpen=given["sharpen"],
        inks=given["inks"],
    )


def _level_many(inputs: tuple[Path, ...], folder: Path, job: Leveling) -> None:
    given = job.given
    if given["saved"]:
        raise UnusableInput("--save-recipe is for one picture.")
    if folder.is_file():
        raise UnusableInput(f"{folder} is a file; many pictures need a folder to go into.")
    sources = sources_of(inputs)
    order = BatchOrder(folder, given["pattern"], given["kind"], given["jobs"] or usual_jobs())
    outcomes = level_many(sources, order, job, complain)
    refused = [outcome for outcome in outcomes if outcome.problem]
    untold = sum(outcome.untold for outcome in refused)
    done = "would be done" if given["dry"] else "done"
    parts = [f"{len(outcomes) - len(refused)} of {len(outcomes)} {done}"]
    if untold:
        parts.append(f"{untold} cannot be told")
    if len(refused) > untold:
        parts.append(f"{len(refused) - untold} refused")
    complain(", ".join(parts))
    if refused:
        raise SystemExit(CANNOT_TELL if untold == len(refused) else SOME_REFUSED)


@click.command("propose")
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
    # OpenCV takes a while to load, and is needed for this only.
    from sequor.core.propose.proposing import propose

    unread = False
    for source in sources:
        try:
            picture = decode(source)
            photo, recipe = picture.facts.photo, read_recipe(start)
            edits = tuple(lens_edits({"keep_bow": False, **given}, source))
            recipe = advance(photo, recipe, edits, FileLookups(source, picture)).recipe
            proposal = propose(picture.pixels, photo, recipe, want)
            click.echo(json.dumps({"picture": str(source), **proposal_report(proposal)}))
        except UnusableInput as problem:
            complain(str(problem))
            unread = True
    if unread:
        raise SystemExit(REFUSED)


_SUFFIXES = " ".join(SUFFIXES.values())


def _format_of(target: Path) -> Format:
    found = EXTENSIONS.get(target.suffix.lower())
    if found is None:
        raise UnusableInput(f"{target.name} must end in one of {_SUFFIXES}.")
    return found
