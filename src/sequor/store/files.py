"""The file store: originals by content hash, proxies, exports. Files appear whole or not at all."""

import hashlib
import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO

_CHUNK = 1 << 20


class FileStore:
    """Directories below one root: ``originals/`` (never modified).

    ``proxies/`` (made again when missing), ``exports/``.
    """

    def __init__(self, root: Path) -> None:
        self.root = root
        for name in ("originals", "proxies", "exports", "incoming"):
            (root / name).mkdir(parents=True, exist_ok=True)

    @contextmanager
    def incoming(self, stream: IO[bytes]) -> Iterator[tuple[Path, str]]:
        """Receive a stream into a temporary file; gives its path and SHA-256, and removes it
        afterwards if it is still there.
        """
        digest = hashlib.sha256()
        handle, name = tempfile.mkstemp(dir=self.root / "incoming")
        path = Path(name)
        try:
            with os.fdopen(handle, "wb") as file:
                while chunk := stream.read(_CHUNK):
                    digest.update(chunk)
                    file.write(chunk)
            yield path, digest.hexdigest()
        finally:
            path.unlink(missing_ok=True)

    def keep_original(self, received: Path, sha256: str) -> Path:
        """Move a received file to its place, read-only; the same content is kept once."""
        target = self.original(sha256)
        if not target.exists():
            target.parent.mkdir(exist_ok=True)
            received.chmod(0o444)
            os.replace(received, target)
        return target

    def original(self, sha256: str) -> Path:
        """Where an original is."""
        return self.root / "originals" / sha256[:2] / sha256

    def proxy(self, sha256: str) -> Path:
        """Where the proxy of an original is, or goes."""
        return self.root / "proxies" / f"{sha256}.jpg"

    def export(self, export_id: int, suffix: str) -> Path:
        """Where an exported file is, or goes."""
        return self.root / "exports" / f"{export_id}{suffix}"


def write_whole(path: Path, content: bytes) -> None:
    """Write a file under a temporary name and move it into place."""
    handle, name = tempfile.mkstemp(dir=path.parent, prefix=".partial-")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(content)
        os.replace(name, path)
    finally:
        with suppress(FileNotFoundError):
            os.unlink(name)
