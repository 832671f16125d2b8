"""The original that is on the bench, decoded, so that fitting, the loupe and the crisp view do not read the file again every time."""

import threading
from collections.abc import Callable
from pathlib import Path

from sequor.core.resample import Pixels
from sequor.pictures.decode import Picture, decode
from sequor.pictures.proxy import halved, pixels_of


class PixelCache:
    """Keeps the one original asked for last, and its halved versions."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._key = ""
        self._picture: Picture | None = None
        self._halves: list[Pixels] = []

    def get(self, sha256: str, path: Path, name: str, max_megapixels: float) -> Picture:
        """An original, decoded upright."""
        with self._lock:
            if self._picture is None or self._key != sha256:
                self._picture, self._halves = None, []  # the old ones are let go before the new ones come
                self._picture = decode(path, name, max_megapixels)
                self._key = sha256
            return self._picture

    def reduced(self, picture: Picture, times: int) -> Pixels:
        """The pixels of a picture that `get` has returned, halved so many times; each pixel is the mean of those it covers."""
        with self._lock:
            if picture is not self._picture:
                halves = [picture.pixels]
            else:
                self._halves = halves = self._halves or [picture.pixels]
            while len(halves) <= times:
                halves.append(halved(halves[-1]))
            return halves[times]


class ProxyCache:
    """Keeps the pixels of the one proxy asked for last, so that a bow can be dragged."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._key = ""
        self._pixels: Pixels | None = None

    def get(self, sha256: str, make: Callable[[], bytes]) -> Pixels:
        """The pixels of a proxy; ``make`` gives its file."""
        with self._lock:
            if self._pixels is None or self._key != sha256:
                self._pixels = pixels_of(make())
                self._key = sha256
            return self._pixels
