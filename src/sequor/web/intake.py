"""Pictures in: one received file becomes a picture of a set, or is refused with nothing stored."""

from typing import IO

from sequor.core.errors import UnusableInput
from sequor.pictures.decode import Picture as Decoded
from sequor.pictures.decode import decode
from sequor.pictures.proxy import make_proxy
from sequor.store.database import Sessions
from sequor.store.files import FileStore, write_whole
from sequor.store.library import add_picture, find_picture, get_set
from sequor.store.models import Original, Picture


def take_in(
    sessions: Sessions, files: FileStore, max_megapixels: float, set_id: int, name: str, stream: IO[bytes]
) -> tuple[Picture, bool]:
    """Add a file to a set.

    The whole file is decoded before anything is stored, so that a truncated one
    is found now and not at the export.

    Returns
    -------
    (Picture, bool)
        The picture, and whether the set had that content already.

    Raises
    ------
    UnusableInput
        When the file is refused.
    """
    name = name.replace("\\", "/").rsplit("/", 1)[-1].strip() or "unnamed"
    with files.incoming(stream) as (received, sha256):
        with sessions() as session:
            get_set(session, set_id)
            known = find_picture(session, set_id, sha256)
            if known:
                return known, True
        picture = decode(received, name, max_megapixels)
        try:
            if not files.proxy(sha256).exists():
                write_whole(files.proxy(sha256), make_proxy(picture))
            original = _original(picture, sha256, received.stat().st_size)
            files.keep_original(received, sha256)
        except OSError as problem:
            raise UnusableInput(
                f"{name} could not be stored: {problem.strerror}. Nothing was kept of it; free some space and add it again."
            ) from problem
        with sessions.begin() as session:
            return add_picture(session, set_id, original, name), False


def ensure_proxy(files: FileStore, picture: Picture, max_megapixels: float) -> bytes:
    """The proxy of a stored picture, made again when its file is missing."""
    path = files.proxy(picture.original_sha256)
    if not path.exists():
        write_whole(path, make_proxy(decode(files.original(picture.original_sha256), picture.name, max_megapixels)))
    return path.read_bytes()


def _original(picture: Decoded, sha256: str, byte_size: int) -> Original:
    facts = picture.facts
    return Original(
        sha256=sha256,
        byte_size=byte_size,
        format=facts.format,
        width=facts.width,
        height=facts.height,
        channels=picture.pixels.shape[2],
        bits=picture.bits,
        orientation=facts.orientation,
        profile=facts.profile,
        focal35_mm=facts.focal35_mm,
    )
