"""The original that is on the bench, decoded, so that fitting a line does not read the file again every time."""

import threading
from pathlib import Path

from sequor.core.resample import Pixels
from sequor.pictures.decode import decode


class PixelCache:
    """Keeps the pixels of the one original asked for last."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._key = ""
        self._pixels: Pixels | None = None

    def get(self, sha256: str, path: Path, name: str, max_megapixels: float) -> Pixels:
        """The upright pixels of an original."""
        with self._lock:
            if self._pixels is None or self._key != sha256:
                self._pixels = None  # the old ones are let go before the new ones come
                self._pixels = decode(path, name, max_megapixels).pixels
                self._key = sha256
            return self._pixels
