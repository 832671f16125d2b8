"""Originals that stay where they lie: what may be opened so, and whether they are still there.

They are linked to from the store, read, and never written. One that is moved, or on a disk that is
not there now, is said to be lost until it is back; one that was changed is another picture.
"""

import logging
import threading
from pathlib import Path
from typing import NamedTuple

from sqlalchemy import select

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.making.worker_cache import GONE, OriginalLost, check_original, gone_from
from sequor.services.originals import mark_given_back, mark_lost
from sequor.services.resources import Resources
from sequor.store.files import FileStore
from sequor.store.models import Original, Picture

log = logging.getLogger(__name__)
_LOOK_EVERY_S = 10.0
_MOST_PATH = 1000


def place_of(files: FileStore, path: Path) -> Path:
    """Where a file lies that is to be opened there, without links on its way.

    Raises
    ------
    UnusableInput
        When it cannot be opened there.
    """
    name = path.name or str(path)
    if not path.is_absolute():
        raise UnusableInput(tr("{name}: the whole path is needed, from / on.", name=name))
    try:
        place = path.resolve(strict=True)
        str(place).encode()
        usable = place.is_file()
        if usable:
            place.open("rb").close()
    except UnicodeError:
        raise UnusableInput(
            tr("{name!a}: a path must be UTF-8 to be remembered.", name=name)
        ) from None
    except (OSError, ValueError, RuntimeError) as problem:
        why = getattr(problem, "strerror", None) or str(problem)
        raise UnusableInput(tr("{name} cannot be opened: {why}.", name=name, why=why)) from problem
    if not usable:
        raise UnusableInput(tr("{name} is no file.", name=name))
    if place.is_relative_to(files.root.resolve()):
        raise UnusableInput(
            tr("{name} lies in Sequor's own data folder; it is there already.", name=name)
        )
    if len(str(place)) > _MOST_PATH:
        raise UnusableInput(
            tr(
                "{name}: its path has more than {most_path} characters.",
                name=name,
                most_path=_MOST_PATH,
            )
        )
    return place


class _Seen(NamedTuple):
    """What tells cheaply that a file was not touched; nothing where it is gone."""

    changed_ns: int = 0
    size: int = -1


class Watch:
    """Looks every few seconds whether what stays where it lies is there, and as it was."""

    def __init__(self, resources: Resources) -> None:
        self._resources = resources
        self._seen: dict[str, _Seen] = {}
        self._stopping = threading.Event()
        self._thread = threading.Thread(target=self._go_on, daemon=True, name="references")

    def start(self) -> None:
        """Begin; again does nothing."""
        if not self._thread.is_alive():
            self._thread.start()

    def stop(self) -> None:
        """End."""
        self._stopping.set()
        if self._thread.is_alive():
            self._thread.join()

    def look(self) -> None:
        """Look once at every one; what changed is read and noted."""
        with self._resources.database.reading() as session:
            query = select(Original.sha256, Original.damage).where(
                Original.sha256.in_(
                    select(Picture.original_sha256).where(Picture.opened_from.is_not(None))
                )
            )
            known = [(sha256, damage) for sha256, damage in session.execute(query)]
        for sha256, damage in known:
            if self._stopping.is_set():
                return
            path = self._resources.files.original(sha256)
            if path.is_symlink():
                self._look_at(path, sha256, damage)

    def _look_at(self, path: Path, sha256: str, damage: str | None) -> None:
        seen = _seen(path)
        if seen == _Seen():
            if damage is None:
                mark_lost(self._resources, sha256, gone_from(path))
        elif (damage or "").startswith(GONE) or self._seen.get(sha256, seen) != seen:
            try:
                check_original(path, sha256)
            except OriginalLost as problem:
                mark_lost(self._resources, sha256, problem.how)
            else:
                mark_given_back(self._resources, sha256)
        self._seen[sha256] = seen

    def _go_on(self) -> None:
        while not self._stopping.wait(_LOOK_EVERY_S):
            try:
                self.look()
            except Exception as problem:  # the database is away, say: another time
                log.info("what stays where it lies was not looked at: %r", problem)


def _seen(path: Path) -> _Seen:
    try:
        about = path.stat()
    except OSError:
        return _Seen()
    return _Seen(about.st_mtime_ns, about.st_size)
