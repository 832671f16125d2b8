"""The same job without a browser or a database: ``sequor level INPUT OUTPUT``."""

import argparse
import json
import sys
from functools import partial
from pathlib import Path
from typing import NoReturn

from pydantic import ValidationError

from sequor.core.errors import UnusableInput
from sequor.core.fit import fitted
from sequor.core.recipe import FrameChoice, Kind, Reading, Recipe
from sequor.core.render import render
from sequor.core.solve import Solution, solve
from sequor.pictures.decode import decode
from sequor.pictures.encode import DEFAULT_QUALITY, EXTENSIONS, encode

_LINE = "X1,Y1,X2,Y2"


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
    level.add_argument("output", type=Path, help="JPEG, PNG or TIFF file to write")
    kinds: tuple[Kind, ...] = ("level", "plumb")
    for kind in kinds:
        level.add_argument(
            f"--{kind}",
            metavar=_LINE,
            dest="lines",
            action="append",
            type=partial(_reading, kind),
            help=f"ends of a line that is {kind} in reality, in source pixels",
        )
    level.add_argument("--fit", action="store_true", help="fit every line to the image edge under it")
    level.add_argument("--ratio", default="original", help="original (default), free or W:H")
    level.add_argument("--quality", type=int, default=DEFAULT_QUALITY, help="JPEG quality, 1 to 100 (default 95)")
    chosen = parser.parse_args(arguments)
    try:
        recipe = recipe_of(chosen.lines or [], chosen.ratio)
        print(json.dumps(level_file(chosen.input, chosen.output, recipe, chosen.quality, chosen.fit), indent=2))
    except UnusableInput as problem:
        fail(str(problem))
    except ValidationError as problem:
        fail(problem.errors()[0]["msg"].removeprefix("Value error, "))
    except MemoryError:
        fail("The picture does not fit into memory.")


def recipe_of(lines: list[tuple[Kind, tuple[float, ...]]], ratio: str) -> Recipe:
    """The recipe of readings given as (kind, (x1, y1, x2, y2)) in source pixels of the upright picture."""
    return Recipe(
        readings=tuple(
            Reading(id=str(number), kind=kind, points=((x1, y1), (x2, y2)))
            for number, (kind, (x1, y1, x2, y2)) in enumerate(lines, 1)
        ),
        frame=FrameChoice(ratio=ratio),
    )


def level_file(source: Path, target: Path, recipe: Recipe, quality: int, fit: bool = False) -> dict[str, object]:
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
    format = EXTENSIONS.get(target.suffix.lower())
    if format is None:
        raise UnusableInput(f"{target.name} must end in .jpg, .png or .tif.")
    if not 1 <= quality <= 100:
        raise UnusableInput(f"A quality of {quality} is not between 1 and 100.")
    if not target.parent.is_dir():
        raise UnusableInput(f"The folder {target.parent} does not exist.")
    if target.exists() and source.exists() and target.samefile(source):
        raise UnusableInput("The output would overwrite the original; give it another name.")
    picture = decode(source)
    solution = solve(picture.facts.photo, recipe)
    if fit:
        readings = tuple(fitted(reading, picture.pixels) or reading for reading in recipe.readings)
        solution = solve(picture.facts.photo, recipe.model_copy(update={"readings": readings}))
    rendered = render(picture.pixels, solution)
    encode(rendered.pixels, picture, source, target, format, quality)
    return report(solution, rendered.empty_pixels)


def report(solution: Solution, empty_pixels: int) -> dict[str, object]:
    """What was done, as plain values for JSON."""
    frame = solution.frame
    return {
        "roll_deg": solution.stance.roll_deg,
        "lean_deg": solution.stance.lean_deg,
        "swing_deg": solution.stance.swing_deg,
        "frame": frame.model_dump(),
        "output": {"width": frame.width, "height": frame.height},
        "kept_fraction": solution.kept_fraction,
        "empty_pixels": empty_pixels,
        "readings": [
            reading.model_dump(include={"kind", "angle_deg", "sigma_deg", "residual_deg", "fitted"})
            for reading in solution.readings
        ],
        "notes": [note.text for note in solution.notes],
    }


def _reading(kind: Kind, text: str) -> tuple[Kind, tuple[float, ...]]:
    try:
        numbers = tuple(float(part) for part in text.split(","))
    except ValueError:
        numbers = ()
    if len(numbers) != 4:
        raise argparse.ArgumentTypeError(f"“{text}” is not a line; write {_LINE} in source pixels.")
    return kind, numbers


if __name__ == "__main__":
    main()
