"""A depot: where several machines find originals, and leave what they made of them.

A folder that all of them have, or a store that speaks S3, by one library (fsspec). It is laid out
as a data folder is: `originals/` by hash, and `made/` by the hash of what was made, until it is
fetched. So the data folder itself, shared, may be the depot.
"""

import os
import shutil
import time
import uuid
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from sequor.store.files import PARTIAL, content_hash, sync_folder

_ORIGINALS, _MADE = "originals", "made"
_NAMES = 2
"""Of the first letters of a hash, in the name of a folder."""


class DepotAway(OSError):
    """The depot does not answer as it should."""


class NotThere(OSError):
    """The depot has no such file."""


class WrongContent(OSError):
    """What came from the depot is not what its hash says."""


class Depot:
    """Files by their hash, at an address of fsspec: ``file:///srv/sequor`` or ``s3://bucket/path``.

    Every method may raise OSError: the depot cannot be reached now, or does not do it. It may be
    sent to another process.
    """

    def __init__(self, address: str) -> None:
        self.address = address
        self._opened: tuple[int, Any, str] | None = None

    def __getstate__(self) -> dict[str, Any]:
        return {"address": self.address, "_opened": None}

    def has_original(self, sha256: str) -> bool:
        """Whether an original is there."""
        with _reached():
            return self._has(_original(sha256))

    def put_original(self, path: Path, sha256: str) -> None:
        """Leave an original there."""
        with _reached():
            self._put(path, _original(sha256))

    def fetch_original(self, sha256: str, target: Path) -> None:
        """Fetch an original, whole and as its hash says, or not at all."""
        with _reached():
            self._fetch(_original(sha256), target, sha256)

    def put_made(self, path: Path) -> str:
        """Leave something that was made there; under which hash."""
        sha256 = content_hash(path)
        with _reached():
            if not self._has(_made(sha256)):
                self._put(path, _made(sha256), link=True)
        return sha256

    def fetch_made(self, sha256: str, target: Path) -> None:
        """Fetch something that was made, whole and as its hash says; it goes with `clean`."""
        with _reached():
            self._fetch(_made(sha256), target, sha256, link=True)

    def is_original_itself(self, path: Path, sha256: str) -> bool:
        """Whether a file is the depot's own: a data folder may be the depot."""
        own = Path(f"{self._files()[1]}/{_original(sha256)}")
        return self._is_folder and own.exists() and own.samefile(path)

    def is_folder(self, folder: Path) -> bool:
        """Whether the depot is that folder, by whatever name."""
        own = Path(self._files()[1])
        return self._is_folder and own.exists() and own.samefile(folder)

    def clean(self, known: Iterable[str] | None, older_than_s: float) -> int:
        """Remove what was made, and originals, once nobody needs them any more; how many files.

        Parameters
        ----------
        known : iterable of str, optional
            Originals that stay; without it all do: they are the data folder's.
        """
        kept, before, gone = set(known or ()), time.time() - older_than_s, 0
        with _reached():
            files, root = self._files()
            for folder in (_MADE,) if known is None else (_MADE, _ORIGINALS):
                for path in files.find(f"{root}/{folder}"):
                    name = path.rsplit("/", 1)[-1]
                    if folder == _ORIGINALS and name in kept:
                        continue
                    with suppress(FileNotFoundError):
                        if files.modified(path).timestamp() < before:
                            files.rm_file(path)
                            gone += 1
        return gone

    def _files(self) -> tuple[Any, str]:
        """The file system, opened once a process, and the path in it."""
        import fsspec

        if self._opened is None or self._opened[0] != os.getpid():
            # What one lists is asked for anew: others write there, too.
            found, root = fsspec.core.url_to_fs(
                self.address, use_listings_cache=False, skip_instance_cache=True
            )
            self._opened = os.getpid(), found, root.rstrip("/")
        return self._opened[1], self._opened[2]

    def _has(self, name: str) -> bool:
        files, root = self._files()
        return bool(files.exists(f"{root}/{name}"))

    def _put(self, path: Path, name: str, link: bool = False) -> None:
        """Under another name first where that is seen: a store of objects shows whole ones only.

        ``link``: it may stay the same file, where both lie on one file system.
        """
        files, root = self._files()
        target = f"{root}/{name}"
        if not self._is_folder:
            files.put_file(str(path), target)
            return
        with _appearing(Path(target)) as partial:
            _linked_or_copied(path.resolve(), partial, link)

    def _fetch(self, name: str, target: Path, sha256: str, link: bool = False) -> None:
        files, root = self._files()
        with _appearing(target) as partial:
            try:
                if self._is_folder:
                    _linked_or_copied(Path(f"{root}/{name}"), partial, link)
                else:
                    files.get_file(f"{root}/{name}", str(partial))
                    _sync(partial)
            except FileNotFoundError as problem:
                raise NotThere(name) from problem
            if content_hash(partial) != sha256:
                raise WrongContent(name)

    @property
    def _is_folder(self) -> bool:
        return "file" in self._files()[0].protocol


@contextmanager
def _appearing(target: Path) -> Iterator[Path]:
    """A name beside a file, which becomes the file when this ends well."""
    target.parent.mkdir(parents=True, exist_ok=True)
    partial = target.with_name(f"{PARTIAL}{uuid.uuid4().hex}")
    try:
        yield partial
        os.replace(partial, target)
        sync_folder(target.parent)
    finally:
        partial.unlink(missing_ok=True)


def _linked_or_copied(source: Path, target: Path, link: bool) -> None:
    """The same file under another name, or a copy of it that lies safely on the disk."""
    if link:
        # Not where it is another file system, or one that has no such links.
        with suppress(OSError):
            os.link(source, target)
            return
    shutil.copyfile(source, target)
    _sync(target)


def _sync(path: Path) -> None:
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _original(sha256: str) -> str:
    return f"{_ORIGINALS}/{sha256[:_NAMES]}/{sha256}"


def _made(sha256: str) -> str:
    return f"{_MADE}/{sha256[:_NAMES]}/{sha256}"


@contextmanager
def _reached() -> Iterator[None]:
    """Whatever a store's own library raises is an error of the outside."""
    try:
        yield
    except OSError:
        raise
    except Exception as problem:
        raise DepotAway(repr(problem)) from problem
