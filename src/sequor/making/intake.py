"""A received file is read whole and its proxy made, before anything is stored."""

from dataclasses import dataclass
from pathlib import Path

from sequor.making.kept import Kit
from sequor.pictures.decode import decode
from sequor.pictures.inspect import FileFacts
from sequor.pictures.proxy import make_proxy
from sequor.store.files import write_whole
from sequor.work.engine import Told


@dataclass(frozen=True)
class Received:
    """What a received file holds."""

    facts: FileFacts
    channels: int
    bits: int


def read_in(told: Told, kit: Kit, received: Path, sha256: str, name: str) -> Received:
    """Decode a file to its end and make its proxy; both would fail later otherwise.

    Raises
    ------
    UnusableInput
        When the file is refused; nothing is kept of it.
    """
    picture = decode(received, name, kit.max_megapixels)
    proxy = kit.files.proxy(sha256)
    if not proxy.exists():
        content = make_proxy(picture)
        kit.files.space.require_for_files(len(content))
        write_whole(proxy, content)
    return Received(picture.facts, picture.pixels.shape[2], picture.bits)
