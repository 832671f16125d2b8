"""File names of exports, from a pattern such as ``{name}-{width}x{height}``."""

import re
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from sequor.core.errors import UnusableInput
from sequor.core.language import tr

DEFAULT_PATTERN = "{name}-levelled"
PARTS = ("name", "set", "number", "width", "height", "date", "time")
_MOST = 150


@dataclass(frozen=True)
class Named:
    """What the parts of a pattern stand for; ``moment`` is when the picture was taken, or else when
    the file is made.
    """

    name: str
    set: str
    number: int
    moment: datetime


def file_name(pattern: str, named: Named, size: tuple[int, int], suffix: str) -> str:
    """The name of a file, without what no file system takes.

    ``{name}`` is the picture's own name without its ending.

    Raises
    ------
    UnusableInput
        When the pattern names a part that there is not, or leaves nothing.
    """
    check_pattern(pattern)
    values = {
        "name": Path(named.name).stem,
        "set": named.set,
        "number": f"{named.number:03d}",
        "width": str(size[0]),
        "height": str(size[1]),
        "date": named.moment.date().isoformat(),
        "time": f"{named.moment:%H%M%S}",
    }
    text = re.sub(r"\{(\w+)\}", lambda match: values[match[1]], pattern)
    text = without_forbidden(text).strip(" .-")[:_MOST]
    return f"{text or 'picture'}{suffix}"


def without_forbidden(name: str) -> str:
    """A name without what some file system or header does not take."""
    return re.sub(r'[\x00-\x1f\x7f\ud800-\udfff<>:"/\\|?*]+', "-", name)


def check_pattern(pattern: str) -> None:
    """Refuse a pattern with braces that are no known part."""
    left = re.sub(r"\{(" + "|".join(PARTS) + r")\}", "", pattern)
    if "{" in left or "}" in left:
        raise UnusableInput(
            tr(
                "“{pattern}” cannot be used as a file name: the parts in braces are {join}.",
                pattern=pattern,
                join=", ".join("{" + p + "}" for p in PARTS),
            )
        )
    if not pattern.strip():
        raise UnusableInput(tr("The pattern for the file name is empty."))


def distinct(names: list[str]) -> list[str]:
    """The same names, with a number added to those that occur again."""
    taken: set[str] = set()
    made = []
    for name in names:
        stem, suffix = Path(name).stem, Path(name).suffix
        number, trial = 2, name
        while trial.lower() in taken:
            trial, number = f"{stem}-{number}{suffix}", number + 1
        taken.add(trial.lower())
        made.append(trial)
    return made
