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
    MARGIN,
    MEND,
    PRINT,
    RECTANGLE,
    SIZE,
    STRAIGHT,
    TRACE,
    TRIM,
    TYPED,
    WEIGHTS,
    WHITE,
)
from sequor.cli.edits import in_order, lens_edits
from sequor.cli.leveling import CannotTell, Leveling, check_target, level_file, read_recipe
from sequor.cli.lookups import FileLookups
from sequor.cli.main import LEVEL, PROPOSE
from sequor.cli.many import BatchOrder, level_many, usual_jobs
from sequor.cli.report import proposal_report, report
from sequor.cli.said import REFUSED, SOME_REFUSED, complain
from sequor.cli.sources import sources_of
from sequor.core.advance import advance
from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr
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
            return tr("{problem} No file was written.", problem=problem), CANNOT_TELL
        case UnusableInput():
            return str(problem), REFUSED
        case ValidationError():
            first = problem.errors()[0]
            field = "".join(f"{part}: " for part in first["loc"] if isinstance(part, str))
            return field + first["msg"].removeprefix("Value error, "), REFUSED
        case MemoryError():
            return tr("The picture does not fit into memory."), REFUSED
    raise problem


@click.command(help=LEVEL)
@click.argument("paths", type=FILE, nargs=-1, required=True, metavar="INPUT... OUTPUT")
@click.option("--recipe", "start", type=FILE, help=mark("a recipe to start from, as JSON"))
@click.option(
    "--edits", type=FILE, help=mark("edits to apply, a list as JSON (see docs/recipe.md)")
)
@click.option("--save-recipe", "saved", type=FILE, help=mark("where to write the recipe, as JSON"))
@click.option(
    "--level", type=LINE, multiple=True, help=mark("ends of a line that is level in reality")
)
@click.option(
    "--plumb", type=LINE, multiple=True, help=mark("ends of a line that is plumb in reality")
)
@click.option("--horizon", type=LINE, multiple=True, help=mark("ends of a line along the horizon"))
@click.option("--check", type=LINE, multiple=True, help=mark("a line that is only measured"))
@click.option("--trace", type=TRACE, multiple=True, help=mark("points along something straight"))
@click.option("--line-at", type=LINE_AT, multiple=True, help=mark("a line to be at DEG from level"))
@click.option(
    "--straight", type=STRAIGHT, multiple=True, help=mark("points along what is to be straight")
)
@click.option("--sigma", type=float, help=mark("how well ends were placed, in pixels (default: 1)"))
@click.option("--rectangle", type=RECTANGLE, multiple=True, help=mark("corners of a rectangle"))
@click.option(
    "--propose", type=click.Choice(WANTS), help=mark("take what the picture itself tells")
)
@click.option(
    "--camera-level", is_flag=True, help=mark("read how the camera says that it was held")
)
@click.option("--fit", is_flag=True, help=mark("fit every line to the image edge under it"))
@click.option("--bow", type=BOW, help=mark("take out a bow with these coefficients K1[,K2]"))
@click.option("--lens", help=mark("take out the bow of a lens of the open database, or auto"))
@click.option("--keep-bow", is_flag=True, help=mark("leave the bow in, whatever traces say"))
@click.option(
    "--focal35", type=float, help=mark("focal length in 35-mm terms (default: the file's)")
)
@click.option("--page", type=int, help=mark("of a TIFF of several pages: which one, from 1"))
@click.option("--white", type=WHITE, help=mark("the light of a raw picture, or X,Y of a grey spot"))
@click.option("--hold", type=HOLD, multiple=True, help=mark("hold an axis: AXIS[=DEG], default 0"))
@click.option(
    "--leave-in", type=click.Choice(AXES), multiple=True, help=mark("solved for, not applied")
)
@click.option(
    "--take-out", type=click.Choice(AXES), multiple=True, help=mark("applied, whatever shows")
)
@click.option("--trim", type=TRIM, multiple=True, help=mark("turn by hand on top: AXIS=DEG"))
@click.option("--as-shot", type=TYPED, multiple=True, help=mark("the angle as shot: roll=1.33cw"))
@click.option("--ease", type=float, help=mark("how much of lean and swing is taken out, 0 to 1"))
@click.option(
    "--ease-lean", type=float, help=mark("how much of the lean: what uprights converge by")
)
@click.option(
    "--ease-swing", type=float, help=mark("how much of the swing: what levels run together by")
)
@click.option("--ease-roll", type=float, help=mark("how much of the roll is taken out, 0 to 1"))
@click.option("--proportion", type=float, help=mark("height against width, 0.5 to 2"))
@click.option("--ratio", help=mark("original, free or W:H"))
@click.option("--print", "print_size", type=PRINT, help=mark("print size, such as 10x8in@300"))
@click.option(
    "--margin",
    type=MARGIN,
    help=mark("added all round for a wrap, such as 8%, or a length in the unit of the print size"),
)
@click.option("--keep", type=BOX, help=mark("box in source pixels that the frame must contain"))
@click.option("--air", type=float, help=mark("air around that box, as a share of its longer side"))
@click.option("--looks", type=click.Choice(SIDES), help=mark("the side that what is kept looks to"))
@click.option(
    "--cut-measured", is_flag=True, help=mark("the largest frame, even where it cuts readings")
)
@click.option(
    "--aim", type=AIM, help=mark("a point that a guide meets: X,Y[:GUIDE[:line|crossing]]")
)
@click.option(
    "--between", type=BETWEEN, help=mark("centre the frame between two readings, such as 1,2")
)
@click.option("--allow", type=float, help=mark("fill allowance, 0 (crop everything) to 1"))
@click.option(
    "--fill", type=click.Choice(get_args(FillMethod)), help=mark("how corners are filled")
)
@click.option("--colour", help=mark("#RRGGBB for --fill colour"))
@click.option("--candidate", type=CANDIDATE, help=mark("sharp or calm, with .DRAW for another one"))
@click.option("--avoid", type=BOX, multiple=True, help=mark("box that nothing is copied from"))
@click.option(
    "--mend",
    type=MEND,
    multiple=True,
    help=mark("place made anew, or copied: X,Y,REACH[:X,Y]"),
)
@click.option("--bend-lines", type=float, help=mark("how much of what is left over bends, 0 to 1"))
@click.option(
    "--bend-corners", type=float, help=mark("how much of empty corners is closed, 0 to 1")
)
@click.option(
    "--least-harm",
    type=WEIGHTS,
    help=mark("share corners out so that least is lost, bent and made up: usual, or weights"),
)
@click.option(
    "--max-stretch", type=float, help=mark("the most that bending may stretch (default: 1.6)")
)
@click.option("--still", type=BOX, multiple=True, help=mark("box that does not bend"))
@click.option("--size", type=SIZE, default="full", help=mark("full, N of the longer side, or WxH"))
@click.option("--enlarge", is_flag=True, help=mark("allow more pixels than the frame has"))
@click.option("--bits", type=click.Choice(["8", "16", "32"]), help=mark("bits per channel"))
@click.option("--srgb", is_flag=True, help=mark("convert to sRGB instead of keeping the profile"))
@click.option("--metadata", type=click.Choice(tuple(METADATA_NAMES)), default="all")
@click.option(
    "--quality", type=int, default=DEFAULT_QUALITY, help=mark("of lossy formats, 1 to 100")
)
@click.option("--progressive", is_flag=True, help=mark("of a JPEG: coarse first"))
@click.option(
    "--inks", is_flag=True, help=mark("of a TIFF of an original of inks (CMYK): keep them")
)
@click.option(
    "--chroma", type=click.Choice(tuple(CHROMA_NAMES)), default="auto", help=mark("of a JPEG")
)
@click.option("--packing", type=click.Choice(tuple(PACKING_NAMES)), default="deflate", help="TIFF")
@click.option("--sharpen", type=click.IntRange(0, MAX_SHARPEN), default=0, help=mark("per cent"))
@click.option(
    "--mix-numbers", is_flag=True, help=mark("when smaller, mix the numbers and not the light")
)
@click.option("--force", is_flag=True, help=mark("replace files that are there already"))
@click.option("--dry-run", "dry", is_flag=True, help=mark("say what would be done, write nothing"))
@click.option(
    "--jobs", type=click.IntRange(1, 64), help=mark("pictures at once (default: processors)")
)
@click.option(
    "--pattern", default=DEFAULT_PATTERN, help=mark("names of the files of many pictures")
)
@click.option("--format", "kind", type=click.Choice(tuple(FORMATS)), help=mark("of many pictures"))
@click.pass_obj
def level(words: list[str], /, paths: tuple[Path, ...], **given: Any) -> None:
    """Do what `LEVEL` says."""
    if len(paths) < 2:
        raise UnusableInput(
            tr("Name the picture and then the file to write, or a folder for many.")
        )
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
        raise UnusableInput(tr("--save-recipe is for one picture."))
    if folder.is_file():
        raise UnusableInput(
            tr("{folder} is a file; many pictures need a folder to go into.", folder=folder)
        )
    sources = sources_of(inputs)
    order = BatchOrder(folder, given["pattern"], given["kind"], given["jobs"] or usual_jobs())
    outcomes = level_many(sources, order, job, complain)
    refused = [outcome for outcome in outcomes if outcome.problem]
    untold = sum(outcome.untold for outcome in refused)
    done = tr("would be done") if given["dry"] else tr("done")
    parts = [
        tr(
            "{outcomes} of {outcomes2} {done}",
            outcomes=len(outcomes) - len(refused),
            outcomes2=len(outcomes),
            done=done,
        )
    ]
    if untold:
        parts.append(tr("{untold} cannot be told", untold=untold))
    if len(refused) > untold:
        parts.append(tr("{refused} refused", refused=len(refused) - untold))
    complain(", ".join(parts))
    if refused:
        raise SystemExit(CANNOT_TELL if untold == len(refused) else SOME_REFUSED)


@click.command("propose", help=PROPOSE)
@click.argument("sources", type=FILE, nargs=-1, required=True, metavar="PICTURE...")
@click.option("--want", type=click.Choice(WANTS), default="any", help=mark("what it is to be"))
@click.option(
    "--recipe", "start", type=FILE, help=mark("a recipe whose lens and readings are used")
)
@click.option("--bow", type=BOW, help=mark("take out a bow with these coefficients K1[,K2]"))
@click.option("--lens", help=mark("take out the bow of a lens of the open database, or auto"))
@click.option(
    "--focal35", type=float, help=mark("focal length in 35-mm terms (default: the file's)")
)
def propose_readings(
    sources: tuple[Path, ...], want: Want, start: Path | None, **given: Any
) -> None:
    """Do what `PROPOSE` says."""
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
        raise UnusableInput(
            tr("{name} must end in one of {suffixes}.", name=target.name, suffixes=_SUFFIXES)
        )
    return found
