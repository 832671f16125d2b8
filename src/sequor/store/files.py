"""The file store: originals by content hash, proxies, exports.

Files appear whole or not at all, and lie safely on the disk before a row names them. Nobody else
on the machine may read them.
"""

import hashlib
import json
import os
import shutil
import tempfile
import time
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager, suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, NamedTuple

from sequor.core.errors import NotFound
from sequor.core.language import tr
from sequor.store.failures import DiskFull
from sequor.store.space import Space

_CHUNK = 1 << 20
PARTIAL = ".partial-"
"""The names of files that are not whole yet begin so."""
_ABOUT = ".about"
_FOLDERS = (
    *("originals", "proxies", "thumbnails", "exports", "quarantine", "incoming", "temporary"),
)
BEFORE_LIGHT = "@"
"""Between an original's hash and the light it is developed for, in names of files and addresses."""
_AGAIN = ("proxies", "thumbnails")


class Cleaned(NamedTuple):
    """How many files were removed, set aside, and put back at a start."""

    removed: int
    set_aside: int
    given_back: int


class SetAside(NamedTuple):
    """A file that no row names: its name in the quarantine, its size, the name that it came under
    as far as that is known, and since when it lies there (ISO 8601, UTC).
    """

    name: str
    size: int
    came_as: str
    since: str


class FileStore:
    """Directories below one root: ``originals/`` (never modified), with links to those that stay
    where they lie.

    ``proxies/`` and ``thumbnails/`` (made again when missing), ``exports/``, ``quarantine/`` for
    originals and exports that no row names, which only a person deletes, and two that are emptied
    at every start: ``incoming/`` for what is being received, ``temporary/`` for what libraries put
    down for a moment.
    """

    had_again: tuple[str, ...] = _AGAIN
    """Folders of what can be made, or fetched, again."""

    def __init__(self, root: Path, reserve_mb: float = 0.0, ballast: Path | None = None) -> None:
        self.root = root
        self.space = Space(root, reserve_mb, ballast)
        root.mkdir(parents=True, exist_ok=True)
        # Root's database runs as another account (`mariadb.ACCOUNT`): that must get through, and
        # sees nothing on its way.
        root.chmod(0o711 if os.geteuid() == 0 else 0o700)
        for name in _FOLDERS:
            (root / name).mkdir(exist_ok=True)
            (root / name).chmod(0o700)

    @property
    def temporary(self) -> Path:
        """Where libraries put temporary files."""
        return self.root / "temporary"

    @contextmanager
    def incoming(self, stream: IO[bytes], size: int = 0) -> Iterator[tuple[Path, str]]:
        """Receive a stream of about ``size`` bytes into a temporary file; gives its path and
        SHA-256, and removes it afterwards if it is still there.

        Raises
        ------
        DiskFull
            When there is no room for it; nothing is left of it.
        """
        self.space.require_for_files(size)
        digest = hashlib.sha256()
        path: Path | None = None
        try:
            try:
                handle, name = tempfile.mkstemp(dir=self.root / "incoming")
                path = Path(name)
                with os.fdopen(handle, "wb") as file:
                    while chunk := stream.read(_CHUNK):
                        self.space.require_for_files(len(chunk))
                        digest.update(chunk)
                        file.write(chunk)
                    _sync(file)
            except OSError as problem:
                raise DiskFull(
                    tr(
                        "The file could not be stored: {strerror}; {free_mb:,.0f} MB are free. "
                        "Nothing was kept of it.",
                        strerror=problem.strerror,
                        free_mb=self.space.free_mb,
                    )
                ) from problem
            yield path, digest.hexdigest()
        finally:
            if path:
                path.unlink(missing_ok=True)

    def store_original(self, received: Path, sha256: str) -> Path:
        """Move a received file to its place, read-only.

        The same content is kept once; one that was lost or damaged is given back.
        """
        target = self.original(sha256)
        target.parent.mkdir(exist_ok=True)
        received.chmod(0o400)
        os.replace(received, target)
        sync_folder(target.parent)
        sync_folder(target.parent.parent)
        self.forget_aside([sha256])  # the same content is back
        return target

    def refer_to(self, path: Path, sha256: str) -> None:
        """Let an original stay where it is: its place here is a link to it, which is only read.

        One that is here already, whole, stays.
        """
        target = self.original(sha256)
        if target.exists() and not target.is_symlink():
            return
        target.parent.mkdir(exist_ok=True)
        partial = target.with_name(f"{PARTIAL}{sha256}")
        partial.unlink(missing_ok=True)
        partial.symlink_to(path)
        os.replace(partial, target)
        sync_folder(target.parent)
        sync_folder(target.parent.parent)

    def reference(self, sha256: str) -> Path | None:
        """Where an original lies that is not kept here."""
        target = self.original(sha256)
        return target.readlink() if target.is_symlink() else None

    def original(self, sha256: str) -> Path:
        """Where an original is, or a link to it."""
        return self.root / "originals" / sha256[:2] / sha256

    def proxy(self, sha256: str, light: str = "") -> Path:
        """Where the proxy of an original is, or goes; ``light`` names what a raw one is developed
        for, unless it is what its camera chose.
        """
        return self.root / "proxies" / f"{sha256}{BEFORE_LIGHT if light else ''}{light}.jpg"

    def thumbnail(self, program: str, sha256: str, recipe_hash: str) -> Path:
        """Where a thumbnail that a program made is, or goes; its folder is there."""
        folder = self.root / "thumbnails" / program / sha256[:2]
        folder.mkdir(parents=True, exist_ok=True)
        return folder / f"{sha256}-{recipe_hash}.jpg"

    def forget_thumbnails(self, program: str) -> None:
        """Remove those of other programs than this one."""
        for folder in (self.root / "thumbnails").iterdir():
            if folder.name != program:
                shutil.rmtree(folder, ignore_errors=True)

    def remove(
        self, originals: Iterable[str] = (), exports: Iterable[tuple[int, str]] = ()
    ) -> None:
        """Remove originals with all that was made of them for the screen, and exports by number
        and suffix; no row names them any more.
        """
        for sha256 in originals:
            self.original(sha256).unlink(missing_ok=True)
            for path in (self.root / "proxies").glob(f"{sha256}*.jpg"):
                path.unlink(missing_ok=True)
            for path in (self.root / "thumbnails").glob(f"*/{sha256[:2]}/{sha256}-*.jpg"):
                path.unlink(missing_ok=True)
        for number, suffix in exports:
            self.export(number, suffix).unlink(missing_ok=True)

    def sizes_of(self, folder: str) -> tuple[int, int]:
        """How many files, and bytes, a folder has."""
        return _size_of(self.root / folder)

    def trim_below(self, folder: str, most_bytes: int) -> int:
        """Remove files of a folder, those not looked at for longest first, until it is small
        enough; how many went. Only of what can be had again.
        """
        assert folder in self.had_again
        found = []
        for path in (self.root / folder).rglob("*"):
            with suppress(FileNotFoundError):
                if path.is_file() and not path.name.startswith(PARTIAL):
                    about = path.stat()
                    found.append((max(about.st_atime, about.st_mtime), about.st_size, path))
        left, gone = sum(size for _, size, _ in found), 0
        for _, size, path in sorted(found, key=lambda one: one[0]):
            if left <= most_bytes:
                break
            path.unlink(missing_ok=True)
            left, gone = left - size, gone + 1
        return gone

    def export(self, export_id: int, suffix: str) -> Path:
        """Where an exported file is, or goes."""
        return self.root / export_name(export_id, suffix)

    def clean(
        self, originals: Iterable[str], exports: Iterable[int], at_work_s: float = 0.0
    ) -> "Cleaned":
        """Remove what a kill left behind, before anything is written.

        Only what is half-written or can be made again is removed. Originals and exports that no
        row names are set aside, whatever became of the rows; originals that were set aside and
        that a row names again come back.

        Parameters
        ----------
        originals, exports
            Those that rows name, by hash and number.
        at_work_s : float
            What is half-written and younger may be another server's, which is at work on it.
        """
        known = {*originals}
        numbers = {str(number) for number in exports}
        aside, removed = 0, self._remove_halves(time.time() - at_work_s)
        for path in (self.root / "proxies").iterdir():
            if path.stem.partition(BEFORE_LIGHT)[0] not in known:
                removed += 1
                path.unlink()
        for folder, names in (("originals", known), ("exports", numbers)):
            for path in (self.root / folder).rglob("*"):
                if path.stem in names:
                    continue
                # A link is not the file: that lies elsewhere and stays.
                if path.is_symlink():
                    removed += 1
                    path.unlink()
                elif path.is_file():
                    aside += 1
                    self._set_aside(path)
        return Cleaned(removed, aside, self._give_back(known))

    def _remove_halves(self, before: float) -> int:
        """Remove what is half-written, unless it was touched since; how many files."""
        halves = [
            path for name in ("incoming", "temporary") for path in (self.root / name).iterdir()
        ]
        for folder in ("originals", "proxies", "exports", "quarantine"):
            halves += (self.root / folder).rglob(f"{PARTIAL}*")
        removed = 0
        for path in halves:
            if path.lstat().st_mtime <= before:
                removed += 1
                shutil.rmtree(path) if path.is_dir() else path.unlink()
        return removed

    def _give_back(self, known: set[str]) -> int:
        """Put originals back that a row names again; how many."""
        back = 0
        for found in self.aside():
            target = self.original(found.name) if found.name in known else None
            if target is None or target.exists():
                continue
            target.parent.mkdir(exist_ok=True, mode=0o700)
            os.replace(self.root / "quarantine" / found.name, target)
            self.forget_aside([found.name])
            back += 1
        return back

    def set_originals_aside(self, named: Mapping[str, str]) -> None:
        """Set originals aside that no row names any more, by hash, with the names they came under;
        what was made of them for the screen goes.
        """
        for sha256, name in named.items():
            path = self.original(sha256)
            if path.exists() and not path.is_symlink():
                self._set_aside(path, name)
            self.remove(originals=[sha256])

    def _set_aside(self, path: Path, came_as: str = "") -> None:
        folder = self.root / "quarantine"
        name = path.name if path.parent.name != "exports" else f"export-{path.name}"
        about = {"came_as": came_as, "since": datetime.now(UTC).isoformat(timespec="seconds")}
        write_whole(folder / f"{name}{_ABOUT}", json.dumps(about).encode())
        os.replace(path, folder / name)
        sync_folder(folder)

    def aside(self) -> list["SetAside"]:
        """What was set aside, the newest last."""
        found = []
        for path in (self.root / "quarantine").iterdir():
            if path.name.endswith(_ABOUT) or path.name.startswith(PARTIAL):
                continue
            about = {"came_as": "", "since": ""}
            with suppress(OSError, ValueError):
                about |= json.loads(path.with_name(f"{path.name}{_ABOUT}").read_text())
            size = path.stat().st_size
            found.append(SetAside(path.name, size, str(about["came_as"]), str(about["since"])))
        return sorted(found, key=lambda one: (one.since, one.name))

    def aside_file(self, name: str) -> Path:
        """The file of something that was set aside.

        Raises
        ------
        NotFound
            When it is not there any more.
        """
        if name not in {one.name for one in self.aside()}:
            raise NotFound(tr("This file is not set aside any more."))
        return self.root / "quarantine" / name

    def forget_aside(self, names: Iterable[str]) -> None:
        """Delete what was set aside; a person asked for it, or it is kept elsewhere."""
        for name in names:
            path = self.root / "quarantine" / name
            path.unlink(missing_ok=True)
            path.with_name(f"{name}{_ABOUT}").unlink(missing_ok=True)


def export_name(export_id: int, suffix: str) -> str:
    """Where an exported file goes, below the data folder of who makes it."""
    return f"exports/{export_id}{suffix}"


def _size_of(folder: Path) -> tuple[int, int]:
    count = size = 0
    for path in folder.rglob("*"):
        with suppress(FileNotFoundError):
            if path.is_file() and not path.is_symlink():
                count, size = count + 1, size + path.stat().st_size
    return count, size


def write_whole(path: Path, content: bytes) -> None:
    """Write a file under a temporary name, to the disk, and move it into place."""
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=PARTIAL)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            _sync(file)
        os.replace(name, path)
        sync_folder(path.parent)
    finally:
        with suppress(FileNotFoundError):
            os.unlink(name)


def content_hash(path: Path) -> str:
    """The SHA-256 of a file's content, in hexadecimal."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def sync_folder(folder: Path) -> None:
    """Let the names in a folder survive a power cut."""
    handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _sync(file: IO[bytes]) -> None:
    file.flush()
    os.fsync(file.fileno())
