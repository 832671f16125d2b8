"""Pictures in: one received file becomes a picture of a set, or is refused with nothing stored."""

from pathlib import Path
from typing import IO

from sqlalchemy.exc import IntegrityError

from sequor.core.errors import UnusableInput
from sequor.pictures.decode import Picture as Decoded
from sequor.pictures.decode import decode
from sequor.pictures.proxy import make_proxy
from sequor.services.means import Means
from sequor.store.files import write_whole
from sequor.store.library import add_picture, find_picture, get_set
from sequor.store.models import Original, Picture


def take_in(means: Means, set_id: int, name: str, stream: IO[bytes]) -> tuple[Picture, bool]:
    """Add a file to a set.

    The whole file is decoded before anything is stored, so that a truncated one is found now and
    not at the export.

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
    with means.files.incoming(stream) as (received, sha256):
        known = _known(means, set_id, sha256)
        if known:
            return known, True
        picture = decode(received, name, means.settings.max_megapixels)
        byte_size = received.stat().st_size
        _store(means, picture, received, sha256, name)
        original = _original(picture, sha256, byte_size)
        try:
            with means.sessions.begin() as session:
                return add_picture(session, set_id, original, name), False
        except IntegrityError:
            # The same file came in at the same moment by another way, and was quicker.
            known = _known(means, set_id, sha256)
            if known:
                return known, True
            with means.sessions.begin() as session:
                return add_picture(session, set_id, original, name), False


def _known(means: Means, set_id: int, sha256: str) -> Picture | None:
    with means.sessions() as session:
        get_set(session, set_id)
        return find_picture(session, set_id, sha256)


def _store(means: Means, picture: Decoded, received: Path, sha256: str, name: str) -> None:
    try:
        if not means.files.proxy(sha256).exists():
            write_whole(means.files.proxy(sha256), make_proxy(picture))
        means.files.keep_original(received, sha256)
    except OSError as problem:
        raise UnusableInput(
            f"{name} could not be stored: {problem.strerror}. Nothing was kept of it; free some "
            "space and add it again."
        ) from problem


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
