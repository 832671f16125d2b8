"""Pictures in: one received file becomes a picture of a set, or is refused with nothing stored."""

from pathlib import Path
from typing import IO

from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from sequor.making.intake import Received, read_in
from sequor.services.images import thumbnail_soon
from sequor.services.means import Means
from sequor.services.originals import mark_given_back
from sequor.services.pictures import corrected_of_entry
from sequor.services.working import have_done
from sequor.store.keeping import restore_pictures
from sequor.store.library import add_picture, find_picture, get_set
from sequor.store.models import Original, Picture
from sequor.store.versions import versions_of
from sequor.work.engine import Lane

_MOST_NAME = 255
_TRIES = 3
_PIXELS_PER_BYTE, _LEAST_MB = 30, 100.0
"""Memory that reading a file takes, guessed from its size before it is opened: a JPEG of a camera
has ten times as many bytes when decoded, and its proxy is made beside it."""
_ONE_READS = "intake"
"""Files are read one after the other, so that views find a worker meanwhile."""


def take_in(
    means: Means, set_id: int, name: str, stream: IO[bytes], size: int = 0
) -> tuple[Picture, bool]:
    """Add a file of about ``size`` bytes to a set.

    The whole file is decoded before anything is stored, so that a truncated one is found now and
    not at the export. A picture whose original was lost gets it back.

    Returns
    -------
    (Picture, bool)
        The picture, and whether the set had that content already.

    Raises
    ------
    UnusableInput
        When the file is refused.
    """
    name = name.replace("\\", "/").rsplit("/", 1)[-1].strip()[-_MOST_NAME:] or "unnamed"
    with means.files.incoming(stream, size) as (received, sha256):
        known = _known(means, set_id, sha256)
        if known and not _is_lost(means, known.original):
            return _out_of_bin(means, known), True
        original = readable(means, received, sha256, name)
        with means.emptying:  # the bin, which may hold the same original, is not emptied meanwhile
            means.files.keep_original(received, sha256)
            if known:
                mark_given_back(means, sha256)
                return _out_of_bin(means, known), True
            added, was_known = _added(means, set_id, original, name)
        thumbnail_soon(means, corrected_of_entry(means, added.id, added.head.id))
        return added, was_known


def readable(means: Means, received: Path, sha256: str, name: str) -> Original:
    """What a received file is, read to its end.

    Raises
    ------
    UnusableInput
        When it is refused.
    """
    found: Received = have_done(
        means,
        Lane.PREVIEW,
        read_in,
        received,
        sha256,
        name,
        about=sha256,
        memory_mb=_memory_mb(means, received),
        alone=_ONE_READS,
    )
    return _original(found, sha256, received.stat().st_size)


def _out_of_bin(means: Means, known: Picture) -> Picture:
    """A picture that the set has already; with all its versions where they are in the bin."""
    if known.binned_at is None:
        return known

    def restore(session: Session) -> Picture:
        found = session.get_one(Picture, known.id)
        restore_pictures(session, [one.id for one in versions_of(session, found, binned=True)])
        return found

    return means.database.write(restore)


def _added(means: Means, set_id: int, original: Original, name: str) -> tuple[Picture, bool]:
    for _ in range(_TRIES):
        try:
            return means.database.write(
                lambda session: add_picture(session, set_id, original, name)
            ), False
        except IntegrityError:
            # The same file came in at the same moment by another way, and was quicker.
            known = _known(means, set_id, original.sha256)
            if known:
                return known, True
    return means.database.write(lambda s: add_picture(s, set_id, original, name)), False


def _known(means: Means, set_id: int, sha256: str) -> Picture | None:
    with means.database.reading() as session:
        get_set(session, set_id)
        return find_picture(session, set_id, sha256)


def _is_lost(means: Means, original: Original) -> bool:
    return original.damage is not None or not means.files.original(original.sha256).exists()


def _memory_mb(means: Means, received: Path) -> float:
    most = means.settings.max_megapixels * 4
    return min(most, max(_LEAST_MB, received.stat().st_size * _PIXELS_PER_BYTE / 2**20))


def _original(found: Received, sha256: str, byte_size: int) -> Original:
    facts = found.facts
    return Original(
        sha256=sha256,
        byte_size=byte_size,
        format=facts.format,
        width=facts.width,
        height=facts.height,
        channels=found.channels,
        bits=found.bits,
        orientation=facts.orientation,
        profile=facts.profile[:200] if facts.profile else None,
        taken_at=facts.taken_at,
        focal35_mm=facts.focal.focal35_mm if facts.focal else None,
        focal_source=facts.focal.source if facts.focal else None,
    )
