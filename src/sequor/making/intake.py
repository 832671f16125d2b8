"""A received file is read whole and its proxy made, before anything is stored."""

from dataclasses import dataclass, replace
from pathlib import Path

from sequor.making.worker_cache import TaskResources
from sequor.pictures.decode import Damaged, DecodedPicture, claimed_bytes, decode, first_look
from sequor.pictures.formats import READ
from sequor.pictures.inspect import FileFacts, inspect
from sequor.pictures.metadata import has_metadata
from sequor.pictures.pages import write_page
from sequor.pictures.pose import pose_of
from sequor.pictures.proxy import PROXY_LONG_EDGE, make_proxy
from sequor.store.files import write_whole
from sequor.work.engine import TaskControl

_OWN_MB = 60.0
_MB = 2**20


@dataclass(frozen=True)
class Received:
    """What a received file holds; ``damage`` says what is wrong with it where it was taken all the
    same.
    """

    facts: FileFacts
    channels: int
    bits: int
    damage: str | None = None


def one_page(
    control: TaskControl, resources: TaskResources, received: Path, name: str, page: int
) -> Path:
    """A page of a received file as a file of its own, beside it.

    Raises
    ------
    UnusableInput
        When there is no such page.
    """
    resources.files.space.require_for_files(received.stat().st_size)
    target = received.with_name(f"{received.name}-{page}.tif")
    write_page(received, page, target, name)
    return target


def needed_mb(control: TaskControl, resources: TaskResources, received: Path, name: str) -> float:
    """Megabytes that reading a file will take, by its header alone.

    Raises
    ------
    UnusableInput
        When the file is refused from its header.
    """
    facts = inspect(received, name, resources.max_megapixels)
    decoded = claimed_bytes(received, facts, name)
    return (decoded * READ[facts.format].needs + received.stat().st_size) / _MB + _OWN_MB


def read_in(
    control: TaskControl,
    resources: TaskResources,
    received: Path,
    sha256: str,
    name: str,
    as_damaged: bool,
) -> Received:
    """Decode a file to its end and make its proxy; both would fail later otherwise.

    Parameters
    ----------
    as_damaged : bool
        Take it with what can be read of it, should it be damaged.

    Raises
    ------
    UnusableInput
        When the file is refused; nothing is kept of it.
    """
    picture, damage = _decoded(resources, received, name, as_damaged)
    facts = replace(picture.facts, pose=pose_of(received) if has_metadata(received) else None)
    proxy = resources.files.proxy(sha256)
    if not proxy.exists():
        content = make_proxy(picture)
        resources.files.space.require_for_files(len(content))
        write_whole(proxy, content)
    return Received(facts, picture.pixels.shape[2], picture.bits, damage)


def _decoded(
    resources: TaskResources, received: Path, name: str, as_damaged: bool
) -> tuple[DecodedPicture, str | None]:
    try:
        return first_look(received, name, resources.max_megapixels, PROXY_LONG_EDGE), None
    except Damaged as problem:
        if not as_damaged:
            raise
        return decode(received, name, resources.max_megapixels, damaged=True), problem.how
