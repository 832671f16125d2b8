"""The same job without a browser or a database: ``sequor level INPUT OUTPUT``."""

import argparse
import json
import math
import sys
from functools import partial
from pathlib import Path
from typing import NoReturn

from pydantic import ValidationError

from sequor.core.camera import focal_px_of
from sequor.core.errors import UnusableInput
from sequor.core.fit import fitted
from sequor.core.recipe import AXES, Ease, FrameChoice, Hold, Kind, PhotoFacts, Reading, Recipe
from sequor.core.render import render
from sequor.core.solution import Solution
from sequor.core.solve import solve
from sequor.pictures.decode import decode
from sequor.pictures.encode import DEFAULT_QUALITY, EXTENSIONS, encode

_LINE = "X1,Y1,X2,Y2"
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
    level.add_argument("output", type=Path, help="JPEG, PNG or TIFF file to write")
    for kind, says in _KIND_HELP.items():
        level.add_argument(f"--{kind}", metavar=_LINE, dest="lines", action="append", type=partial(_reading, kind), help=says)
    level.add_argument("--fit", action="store_true", help="fit every line to the image edge under it")
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
    level.add_argument("--quality", type=int, default=DEFAULT_QUALITY, help="JPEG quality, 1 to 100 (default 95)")
    chosen = parser.parse_args(arguments)
    try:
        recipe = recipe_of(chosen.lines or [], chosen.ratio, chosen.hold, chosen.ease, chosen.focal35)
        print(json.dumps(level_file(chosen.input, chosen.output, recipe, chosen.quality, chosen.fit), indent=2))
    except UnusableInput as problem:
        fail(str(problem))
    except ValidationError as problem:
        first = problem.errors()[0]
        field = "".join(f"{part}: " for part in first["loc"] if isinstance(part, str))
        fail(field + first["msg"].removeprefix("Value error, "))
    except MemoryError:
        fail("The picture does not fit into memory.")


def recipe_of(
    lines: list[tuple[Kind, tuple[float, ...]]],
    ratio: str,
    holds: list[tuple[str, float]],
    ease: float,
    focal35_mm: float | None,
) -> Recipe:
    """The recipe of readings given as (kind, (x1, y1, x2, y2)) in source pixels of the upright picture, and axes held."""
    held: dict[str, float] = {}
    for axis, value in holds:
        if held.setdefault(axis, value) != value:
            raise UnusableInput(f"The {axis} cannot be held at {held[axis]:g} and at {value:g} degrees; name it once.")
    return Recipe(
        readings=tuple(
            Reading(id=str(number), kind=kind, points=((x1, y1), (x2, y2)))
            for number, (kind, (x1, y1, x2, y2)) in enumerate(lines, 1)
        ),
        hold=Hold.model_validate({f"{axis}_deg": value for axis, value in held.items()}),
        ease=Ease(perspective=ease),
        focal35_mm=focal35_mm,
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
    return report(picture.facts.photo, solution, rendered.empty_pixels)


def report(photo: PhotoFacts, solution: Solution, empty_pixels: int) -> dict[str, object]:
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
        "frame": frame.model_dump(),
        "output": {"width": frame.width, "height": frame.height},
        "kept_fraction": solution.kept_fraction,
        "empty_pixels": empty_pixels,
        "readings": [
            reading.model_dump(include={"kind", "angle_deg", "sigma_deg", "residual_deg", "fitted", "outlier"})
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
