"""Which pictures are meant by paths on the command line."""

from pathlib import Path

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.pictures.formats import ENDINGS


def sources_of(paths: tuple[Path, ...]) -> list[Path]:
    """The pictures that paths name: files, and the pictures right in folders, by name.

    Raises
    ------
    UnusableInput
        When a folder holds no picture.
    """
    found: list[Path] = []
    for path in paths:
        if not path.is_dir():
            found.append(path)
            continue
        inside = sorted(p for p in path.iterdir() if p.suffix.lower() in ENDINGS and p.is_file())
        if not inside:
            raise UnusableInput(tr("There is no picture in the folder {path}.", path=path))
        found += inside
    return list(dict.fromkeys(found))
