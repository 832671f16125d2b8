"""The same job without a browser or a database: ``sequor level INPUT OUTPUT``."""

import argparse
import json
import math
import re
import sys
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Literal, NoReturn, get_args

from pydantic import ValidationError

from sequor.core.bow import bow_of
from sequor.core.camera import ASSUMED_FOCAL35_MM, focal_px_of
from sequor.core.errors import UnusableInput
from sequor.core.fill.apply import render_filled
from sequor.core.fit import fitted
from sequor.core.output import Output, OutputSize, checked, output_of
from sequor.core.recipe import (
    AXES,
    Box,
    Corners,
    Ease,
    FillMethod,
    FrameChoice,
    Hold,
    Kind,
    LensBow,
    PhotoFacts,
    PrintSize,
    Reading,
    Recipe,
)
from sequor.core.render import Rendered
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.pictures.decode import decode
from sequor.pictures.encode import DEFAULT_QUALITY, EXTENSIONS, FileChoice, encode
from sequor.pictures.inspect import inspect
from sequor.pictures.lenses import matching, polynomial_of, search, shot_of
from sequor.pictures.metadata import Filled

_LINE = "X1,Y1,X2,Y2"
FILLS = get_args(FillMethod)
_KIND_HELP: dict[Kind, str] = {
    "level": "ends of a line that is level in reality, in source pixels",
    "plumb": "ends of a line that is plumb in reality, in source pixels",
    "check": "ends of a line that is measured and reported but steers nothing",
}


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        fail(message)


def fail(message: str) -> NoReturn:
    """Say one sentence on standard error and stop with exit status 2."""
    sys.stderr.write(f"sequor: {' '.join(message.split())}\n")
    raise SystemExit(2)


def main(arguments: list[str] | None = None) -> None:
    """Run the command line."""
    parser = _Parser(prog="sequor", description="Level tilted horizons and leaning lines in photographs.")
    commands = parser.add_subparsers(dest="command", required=True)
    level = commands.add_parser("level", help="level one picture and print what was done as JSON")
    level.add_argument("input", type=Path, help="JPEG, PNG, TIFF or WebP file")
    level.add_argument("output", type=Path, help="JPEG, PNG, TIFF, WebP or AVIF file to write")
    for kind, says in _KIND_HELP.items():
        level.add_argument(f"--{kind}", metavar=_LINE, dest="lines", action="append", type=partial(_reading, kind), help=says)
    level.add_argument("--fit", action="store_true", help="fit every line to the image edge under it")
    level.add_argument(
        "--trace",
        metavar="X1,Y1,X2,Y2,X3,Y3,...",
        dest="lines",
        action="append",
        type=partial(_reading, "trace"),
        help="points along something that is straight in reality and looks bent: says how the lens bows",
    )
    level.add_argument("--bow", metavar="K1[,K2]", type=_bow, help="take out a bow with these coefficients")
    level.add_argument("--lens", metavar='auto|"NAME"', help="take out the bow of a lens of the open database")
    level.add_argument("--focal35", type=float, metavar="MM", help="focal length in 35-mm terms (default: the file's)")
    level.add_argument(
        "--hold",
        metavar="AXIS[=DEG]",
        action="append",
        default=[],
        type=_hold,
        help="hold roll, lean or swing at a value (default 0)",
    )
    level.add_argument(
        "--ease", type=float, default=1.0, metavar="F", help="how much of lean and swing is taken out, 0 to 1 (default)"
    )
    level.add_argument("--ratio", default="original", help="original (default), free or W:H")
    level.add_argument(
        "--print", metavar="WxH(in|cm)[@PPI]", type=_print_size, help="print size, such as 10x8in@300; sets ratio and size"
    )
    level.add_argument("--keep", metavar="X1,Y1,X2,Y2", type=_box, help="box in source pixels that the frame must contain")
    level.add_argument("--allow", type=float, default=0.0, metavar="F", help="fill allowance, 0 (crop everything, default) to 1")
    level.add_argument("--fill", choices=FILLS, default="patches", help="how corners are filled (default: patches)")
    level.add_argument("--colour", default="#ffffff", metavar="#RRGGBB", help="for --fill colour (default white)")
    level.add_argument(
        "--seed", type=int, default=1, help="another candidate for --fill patches: odd ones are sharp, even ones calm"
    )
    level.add_argument(
        "--size",
        type=_size,
        default=OutputSize(),
        metavar="full|N|WxH",
        help="full (default), pixels of the longer side, or exact pixels",
    )
    level.add_argument("--enlarge", action="store_true", help="allow more pixels than the frame has")
    level.add_argument("--bits", type=int, choices=(8, 16), help="bits per channel (default: as in the original)")
    level.add_argument("--srgb", action="store_true", help="convert to sRGB instead of keeping the colour profile")
    level.add_argument(
        "--metadata", choices=("all", "no_place", "none"), default="all", help="what metadata are kept (default all)"
    )
    level.add_argument("--quality", type=int, default=DEFAULT_QUALITY, help="JPEG, WebP and AVIF quality, 1 to 100 (default 95)")
    chosen = parser.parse_args(_joined(sys.argv[1:] if arguments is None else arguments))
    try:
        bow = _lens_bow(chosen.input, chosen.bow, chosen.lens, chosen.focal35)
        recipe = recipe_of(chosen.lines or [], chosen.ratio, chosen.hold, chosen.ease, chosen.focal35, bow)
        recipe = _framed(recipe, chosen)
        size = OutputSize(kind="print") if chosen.print and chosen.size.kind == "full" else chosen.size
        size = size.model_copy(update={"enlarge": chosen.enlarge})
        format = EXTENSIONS.get(chosen.output.suffix.lower())
        if format is None:
            raise UnusableInput(f"{chosen.output.name} must end in .jpg, .png, .tif, .webp or .avif.")
        file = FileChoice(format, chosen.quality, chosen.bits, chosen.srgb, chosen.metadata)
        print(json.dumps(level_file(chosen.input, chosen.output, recipe, file, size, chosen.fit), indent=2))
    except UnusableInput as problem:
        fail(str(problem))
    except ValidationError as problem:
        first = problem.errors()[0]
        field = "".join(f"{part}: " for part in first["loc"] if isinstance(part, str))
        fail(field + first["msg"].removeprefix("Value error, "))
    except MemoryError:
        fail("The picture does not fit into memory.")


def _joined(arguments: list[str]) -> list[str]:
    """The arguments with a negative --bow joined to its option, which argparse would take for an option itself."""
    joined: list[str] = []
    for word in arguments:
        if joined and joined[-1] == "--bow" and word.startswith("-"):
            joined[-1] = f"--bow={word}"
        else:
            joined.append(word)
    return joined


def recipe_of(
    lines: list[tuple[Kind, tuple[float, ...]]],
    ratio: str,
    holds: list[tuple[str, float]],
    ease: float,
    focal35_mm: float | None,
    bow: LensBow,
) -> Recipe:
    """The recipe of readings given as (kind, (x1, y1, x2, y2, ...)) in source pixels of the upright picture, axes held, and a bow."""
    held: dict[str, float] = {}
    for axis, value in holds:
        if held.setdefault(axis, value) != value:
            raise UnusableInput(f"The {axis} cannot be held at {held[axis]:g} and at {value:g} degrees; name it once.")
    return Recipe(
        readings=tuple(
            Reading(id=str(number), kind=kind, points=tuple(zip(numbers[::2], numbers[1::2], strict=True)))
            for number, (kind, numbers) in enumerate(lines, 1)
        ),
        hold=Hold.model_validate({f"{axis}_deg": value for axis, value in held.items()}),
        ease=Ease(perspective=ease),
        focal35_mm=focal35_mm,
        bow=bow,
        frame=FrameChoice(ratio=ratio),
    )


def _framed(recipe: Recipe, chosen: argparse.Namespace) -> Recipe:
    """A recipe with the print size, the box to keep and the fill that the arguments name."""
    frame = FrameChoice(ratio=recipe.frame.ratio, print_size=chosen.print, keep=chosen.keep)
    corners = Corners(allowance=chosen.allow, method=chosen.fill, colour=chosen.colour, seeds=(chosen.seed,) * 4)
    return recipe.model_copy(update={"frame": frame, "corners": corners})


def level_file(
    source: Path, target: Path, recipe: Recipe, file: FileChoice, size: OutputSize | None = None, fit: bool = False
) -> dict[str, object]:
    """Level one picture file; with ``fit`` every reading is fitted to the image edge under it first.

    Returns
    -------
    dict
        The report that the command prints; its fields are listed in docs/command-line.md.

    Raises
    ------
    UnusableInput
        With nothing written.
    """
    size = size or OutputSize()
    if not 1 <= file.quality <= 100:
        raise UnusableInput(f"A quality of {file.quality} is not between 1 and 100.")
    if not target.parent.is_dir():
        raise UnusableInput(f"The folder {target.parent} does not exist.")
    if target.exists() and source.exists() and target.samefile(source):
        raise UnusableInput("The output would overwrite the original; give it another name.")
    picture = decode(source)
    solution = solve(picture.facts.photo, recipe)
    if fit:
        # Traces first: the other lines are straight only in the straight picture.
        for kinds in (("trace",), ("level", "plumb", "check")):
            bow, _ = bow_of(picture.facts.photo, recipe)
            readings = tuple(
                (fitted(reading, picture.pixels, bow) or reading) if reading.kind in kinds else reading
                for reading in recipe.readings
            )
            recipe = recipe.model_copy(update={"readings": readings})
        solution = solve(picture.facts.photo, recipe)
    output = checked(output_of(solution, recipe.frame, size), size)
    rendered = render_filled(picture.pixels, solution, recipe, size=(output.width, output.height))
    filled = Filled(rendered.filled_share, recipe.corners.method) if rendered.filled_share > 0 else None
    encode(rendered.pixels, picture, source, target, replace(file, ppi=output.ppi), filled)
    return report(picture.facts.photo, solution, output, rendered)


def report(photo: PhotoFacts, solution: Solution, output: Output, rendered: Rendered) -> dict[str, object]:
    """What was done, as plain values for JSON."""
    frame = solution.frame
    return {
        "roll_deg": solution.stance.roll_deg,
        "lean_deg": solution.stance.lean_deg,
        "swing_deg": solution.stance.swing_deg,
        "sigma_deg": {axis: solution.stance.axis(axis).sigma_deg for axis in AXES},
        "homography": solution.homography,
        "focal_px": focal_px_of(solution.focal.focal35_mm, photo),
        "focal_source": solution.focal.source,
        "bow": {
            "k1": solution.bow.polynomial[1],
            "k2": solution.bow.polynomial[3],
            "polynomial": solution.bow.polynomial,
            "source": solution.bow.source,
            "sigma": solution.bow.sigma,
        },
        "frame": frame.model_dump(),
        "output": {"width": output.width, "height": output.height, "ppi": output.ppi, "scale": output.scale},
        "kept_fraction": solution.kept_fraction,
        "lost": solution.cost.lost.model_dump(),
        "empty_pixels": rendered.empty_pixels,
        "filled_share": rendered.filled_share,
        "readings": [
            reading.model_dump(include={"kind", "angle_deg", "sigma_deg", "residual_deg", "fitted", "outlier"})
            | {"sag_px": None if reading.sag_px is None else {"before": reading.sag_before_px, "after": reading.sag_px}}
            for reading in solution.readings
        ],
        "notes": [note.text for note in solution.notes],
    }


def _hold(text: str) -> tuple[str, float]:
    axis, _, value = text.partition("=")
    try:
        degrees = float(value) if value else 0.0
    except ValueError:
        degrees = math.nan
    if axis not in AXES or not math.isfinite(degrees):
        raise argparse.ArgumentTypeError(
            f"“{text}” is not an axis to hold; write roll, lean or swing, with =DEG for another value than 0."
        )
    return axis, degrees


def _print_size(text: str) -> PrintSize:
    match = re.fullmatch(r"([\d.]+)x([\d.]+)(in|cm)(?:@([\d.]+))?", text.strip())
    try:
        if match:
            unit: Literal["in", "cm"] = "in" if match[3] == "in" else "cm"
            return PrintSize(width=float(match[1]), height=float(match[2]), unit=unit, ppi=float(match[4] or 300))
    except ValidationError as problem:
        raise argparse.ArgumentTypeError(problem.errors()[0]["msg"].removeprefix("Value error, ")) from problem
    except ValueError:
        pass
    raise argparse.ArgumentTypeError(f"“{text}” is not a print size; write 10x8in or 29.7x21cm@300.")


def _box(text: str) -> Box:
    try:
        left, top, right, bottom = (float(part) for part in text.split(","))
        return Box(left=min(left, right), top=min(top, bottom), right=max(left, right), bottom=max(top, bottom))
    except ValueError:
        raise argparse.ArgumentTypeError(
            f"“{text}” is not a box; write X1,Y1,X2,Y2 in source pixels, at least a pixel wide and high."
        ) from None


def _size(text: str) -> OutputSize:
    if text == "full":
        return OutputSize()
    match = re.fullmatch(r"(\d+)(?:x(\d+))?", text.strip())
    try:
        if match and match[2]:
            return OutputSize(kind="pixels", width=int(match[1]), height=int(match[2]))
        if match:
            return OutputSize(kind="long_edge", pixels=int(match[1]))
    except ValidationError:
        pass
    raise argparse.ArgumentTypeError(f"“{text}” is not a size; write full, 2048 or 3000x2000.")


def _bow(text: str) -> tuple[float, float]:
    try:
        numbers = tuple(float(part) for part in text.split(","))
    except ValueError:
        numbers = ()
    if not 1 <= len(numbers) <= 2 or not all(map(math.isfinite, numbers)):
        raise argparse.ArgumentTypeError(f"“{text}” is not a bow; write K1 or K1,K2.")
    return numbers[0], numbers[1] if len(numbers) > 1 else 0.0


def _lens_bow(source: Path, bow: tuple[float, float] | None, lens: str | None, focal35_mm: float | None) -> LensBow:
    """How the bow is found: from coefficients, from the database, or from the traces."""
    if bow and lens:
        raise UnusableInput("The bow is given by --bow or by --lens, not by both.")
    if bow:
        return LensBow(source="hand", k1=bow[0], k2=bow[1])
    if not lens:
        return LensBow()
    facts, shot, name = inspect(source), shot_of(source), lens
    if lens == "auto":
        found = matching(shot)
        if not found:
            raise UnusableInput("The database knows no lens for what the file says of its camera and lens; name one with --lens.")
        name = found[0].name
    elif not any(known.name == lens for known in search(lens)):
        named = [known.name for known in search(lens)]
        if len(named) != 1:
            raise UnusableInput(
                f"{len(named)} lenses are named like “{lens}”{': ' + '; '.join(named[:5]) if named else ''}; name one in full."
            )
        name = named[0]
    return LensBow(
        source="database", polynomial=polynomial_of(name, shot, focal35_mm or facts.focal35_mm or ASSUMED_FOCAL35_MM), lens=name
    )


def _reading(kind: Kind, text: str) -> tuple[Kind, tuple[float, ...]]:
    try:
        numbers = tuple(float(part) for part in text.split(","))
    except ValueError:
        numbers = ()
    if kind == "trace":
        if len(numbers) < 6 or len(numbers) % 2:
            raise argparse.ArgumentTypeError(f"“{text}” is not a trace; write X1,Y1,X2,Y2,X3,Y3 with at least three points.")
    elif len(numbers) != 4:
        raise argparse.ArgumentTypeError(f"“{text}” is not a line; write {_LINE} in source pixels.")
    return kind, numbers


if __name__ == "__main__":
    main()
