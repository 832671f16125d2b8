"""Exports beside the original: a copy of a finished file goes into a folder next to the picture.

Nothing that is there already is replaced: a file of that name but another content makes the new one
be numbered.
"""

import os
import shutil
import tempfile
from contextlib import suppress
from pathlib import Path

from sequor.core.language import tr
from sequor.store.files import PARTIAL, content_hash, sync_folder

USUAL_FOLDER = "levelled"
_MOST_TRIES = 1000


def put_beside(made: Path, original: Path, folder: str, name: str) -> Path:
    """Put a file into the folder of that name beside an original; where it is then.

    One with the same content that is there already by that name is what was asked for.

    Raises
    ------
    OSError
        When it cannot be written there; nothing is left of it.
    """
    target = original.parent / folder
    if not target.is_dir():
        target.mkdir()
        target.chmod(original.parent.stat().st_mode & 0o777)
    handle, partial = tempfile.mkstemp(dir=target, prefix=PARTIAL)
    try:
        with os.fdopen(handle, "wb") as file, made.open("rb") as source:
            shutil.copyfileobj(source, file)
            file.flush()
            os.fsync(file.fileno())
            os.fchmod(file.fileno(), mode_beside(original))
        return _named(Path(partial), target / name)
    finally:
        with suppress(FileNotFoundError):
            os.unlink(partial)


def mode_beside(original: Path) -> int:
    """Who may read and write what is put beside an original: who may that, if it is there."""
    try:
        return original.stat().st_mode & 0o666 | 0o600
    except OSError:
        return 0o644


def _named(partial: Path, wanted: Path) -> Path:
    """Give a whole file the name wanted, or the next one that is free."""
    for number in range(1, _MOST_TRIES):
        path = wanted if number == 1 else wanted.with_stem(f"{wanted.stem}-{number}")
        try:
            os.link(partial, path)  # it fails where there is one, as a move would not
        except FileExistsError:
            if path.is_file() and content_hash(path) == content_hash(partial):
                return path
            continue
        except OSError:  # a disk that knows no second names
            if path.exists():
                continue
            os.replace(partial, path)
        sync_folder(path.parent)
        return path
    raise FileExistsError(
        0,
        tr(
            "there are {most_tries} files named {name} already",
            most_tries=_MOST_TRIES,
            name=wanted.name,
        ),
    )
