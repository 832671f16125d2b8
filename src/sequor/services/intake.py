"""Pictures in: one received file becomes a picture of a set, or is refused with nothing stored."""

from collections.abc import Callable
from contextlib import ExitStack
from functools import partial
from pathlib import Path
from typing import IO, NamedTuple

from sqlalchemy.orm import Session

from sequor.core.errors import UnusableInput
from sequor.core.language import english, tr
from sequor.making.intake import Received, needed_mb, one_page, read_in
from sequor.making.worker_cache import Corrected
from sequor.pictures.inspect import SeveralPages
from sequor.pictures.pages import name_of_page
from sequor.services.fairness import check_space
from sequor.services.images import thumbnail_soon
from sequor.services.originals import mark_given_back, mark_lost
from sequor.services.references import place_of
from sequor.services.reply import Reply, T
from sequor.services.resources import Resources
from sequor.services.sidecars import Sidecar, sidecar_of, take_from
from sequor.services.working import run_task
from sequor.store.curating import restore_pictures
from sequor.store.failures import Clash
from sequor.store.files import content_hash
from sequor.store.ledger import recipe_of
from sequor.store.library import add_picture, clean_name, find_picture, get_set, photo_of
from sequor.store.models import Original, Picture
from sequor.store.sheet import Card, cards_of
from sequor.store.versions import versions_of
from sequor.work.engine import Lane, Task


class TakenIn(NamedTuple):
    """A picture that was taken in, as its contact sheet shows it, whether its set had that content
    already, and what is to be said of a sidecar that lay beside it.
    """

    card: Card
    known: bool
    said: str = ""


class Taking(NamedTuple):
    """What of a file is taken: ``as_damaged`` what can be read of it, should it be damaged, marked
    so for ever; of a TIFF of several pages the ``page`` that is wanted, from 1, which is kept as a
    file of its own.
    """

    as_damaged: bool = False
    page: int | None = None


WHOLE = Taking()


class _Arriving(NamedTuple):
    """A file that is to become a picture: where it is to be read, what it is, how it is kept, and,
    where it stays where it lies, its path there and the sidecar beside it.
    """

    path: Path
    sha256: str
    name: str
    keep: Callable[[], object]
    opened_from: str | None = None
    sidecar: Sidecar | None = None


_MOST_NAME = 255
_TRIES = 3
_HEADER_MB = 100.0
_MB = 2**20
_PAGE_NEEDS = 2.0
"""Memory that taking a page out needs, in sizes of the file: it goes through in strips."""
_ONE_READS = "intake"
"""Files are read one after the other, so that views find a worker meanwhile."""


def take_in(
    resources: Resources,
    set_id: int,
    name: str,
    stream: IO[bytes],
    reply: Reply[TakenIn, T],
    size: int = 0,
    how: Taking = WHOLE,
) -> T:
    """Add a file of about ``size`` bytes to a set.

    The whole file is decoded before anything is stored, so that a truncated one is found now and
    not at the export. A picture whose original was lost gets it back.

    Parameters
    ----------
    reply : Reply
        Made of the picture, and whether the set had that content already.
    how : Taking
        What of it is taken.

    Raises
    ------
    UnusableInput
        When the file is refused.
    """
    name = clean_name(name.replace("\\", "/").rsplit("/", 1)[-1])[-_MOST_NAME:]
    with resources.files.incoming(stream, size) as (received, sha256), ExitStack() as afterwards:
        if how.page is not None:
            received = _page(resources, received, sha256, name, how.page)
            afterwards.callback(received.unlink, missing_ok=True)
            sha256, name = content_hash(received), name_of_page(name, how.page)[-_MOST_NAME:]
        keep = partial(resources.files.store_original, received, sha256)
        coming = _Arriving(received, sha256, name, keep)
        return _taken_in(resources, set_id, coming, reply, how.as_damaged)


def _page(resources: Resources, received: Path, sha256: str, name: str, page: int) -> Path:
    """A page of a received file as a file of its own."""
    memory_mb = received.stat().st_size / _MB * _PAGE_NEEDS + _HEADER_MB
    found: Path = run_task(
        resources,
        Task(one_page, (received, name, page), Lane.PREVIEW, about=sha256, memory_mb=memory_mb),
    )
    return found


def open_in(
    resources: Resources,
    set_id: int,
    path: Path,
    reply: Reply[TakenIn, T],
    as_damaged: bool = False,
) -> T:
    """Add a file to a set that stays where it lies: it is read there and never written.

    As `take_in` otherwise. A recipe that lies beside it (`sidecars`) is what a new picture begins
    with; where that cannot be, the picture is as shot and the answer says why.

    Raises
    ------
    UnusableInput
        When the file is refused.
    """
    place = place_of(resources.files, path)
    sha256, before = content_hash(place), _stamp(place)
    keep = partial(resources.files.refer_to, place, sha256)
    name = clean_name(place.name)[-_MOST_NAME:]
    sidecar = sidecar_of(place, sha256)
    coming = _Arriving(place, sha256, name, keep, str(place), sidecar)
    try:
        said = _taken_in(resources, set_id, coming, reply, as_damaged)
    except SeveralPages as problem:
        raise UnusableInput(
            tr(
                "{name} holds {pages} pictures: add it on the contact sheet, where its "
                "pages can be chosen.",
                name=name,
                pages=problem.pages,
            )
        ) from problem
    if _stamp(place) != before:
        mark_lost(resources, sha256, english("was changed while it was opened"))
    return said


def _stamp(path: Path) -> tuple[int, int]:
    about = path.stat()
    return about.st_mtime_ns, about.st_size


def _taken_in(
    resources: Resources, set_id: int, coming: _Arriving, reply: Reply[TakenIn, T], as_damaged: bool
) -> T:
    sha256 = coming.sha256
    # The bin, which may hold the same original, is not emptied while it is looked for and kept.
    with resources.servers.emptying:
        known = _known(resources, set_id, sha256)
        if known and not _is_lost(resources, known.original):
            return _out_of_bin(resources, known, coming, reply)
    if not known:
        check_space(resources, coming.path.stat().st_size, set_id)
    damaged = as_damaged or _was_damaged(known)
    original = readable(resources, coming.path, sha256, coming.name, damaged)
    with resources.servers.emptying:
        known = _known(resources, set_id, sha256)
        coming.keep()
        if known:
            mark_given_back(resources, sha256)
            return _out_of_bin(resources, known, coming, reply)
        said, added = _added(resources, set_id, original, coming, reply)
    if added:
        photo, head = photo_of(original), added.head
        thumbnail_soon(resources, Corrected(sha256, head.recipe_hash, photo, recipe_of(head)))
    return said


def readable(
    resources: Resources, received: Path, sha256: str, name: str, as_damaged: bool = False
) -> Original:
    """What a received file is, read to its end; see `take_in`.

    Raises
    ------
    UnusableInput
        When it is refused: also when reading it would take more memory than there may be used.
    """
    needed = run_task(
        resources,
        Task(needed_mb, (received, name), Lane.PREVIEW, about=sha256, memory_mb=_HEADER_MB),
    )
    if needed > resources.settings.work_mb:
        raise UnusableInput(
            tr(
                "{name} would take {needed:,.0f} MB of memory to be read; {work_mb:,} MB "
                "may be used (SEQUOR_WORK_MB). Nothing was stored.",
                name=name,
                needed=needed,
                work_mb=resources.settings.work_mb,
            )
        )
    found: Received = run_task(
        resources,
        Task(
            read_in,
            (received, sha256, name, as_damaged),
            Lane.PREVIEW,
            about=sha256,
            memory_mb=needed,
            alone=_ONE_READS,
        ),
    )
    return _original(found, sha256, received.stat().st_size)


def _out_of_bin(
    resources: Resources, known: Picture, coming: _Arriving, reply: Reply[TakenIn, T]
) -> T:
    """A picture that the set has already; with all its versions where they are in the bin."""

    def restore(session: Session) -> T:
        # Held, so that it is not thrown away while it is told of.
        found = session.get_one(Picture, known.id, with_for_update={"of": Picture})
        versions = versions_of(session, found, binned=True)
        if found.binned_at is not None:
            restore_pictures(session, [one.id for one in versions])
        if coming.opened_from:
            for one in versions:
                one.opened_from = coming.opened_from
        return reply.to(session, _taken(session, found, True))

    return resources.database.write(restore, small=True)


def _added(
    resources: Resources,
    set_id: int,
    original: Original,
    coming: _Arriving,
    reply: Reply[TakenIn, T],
) -> tuple[T, Picture | None]:
    def add(session: Session) -> tuple[T, Picture]:
        made = add_picture(session, set_id, original, coming.name)
        made.opened_from = coming.opened_from
        said = take_from(session, made, coming.sidecar) if coming.sidecar else ""
        return reply.to(session, _taken(session, made, False, said)), made

    for again in range(_TRIES):
        try:
            return resources.database.write(add)
        except Clash:
            # The same file came in at the same moment by another way, and was quicker.
            known = _known(resources, set_id, original.sha256)
            if known:
                return _out_of_bin(resources, known, coming, reply), None
            if again == _TRIES - 1:
                raise
    raise AssertionError


def _taken(session: Session, picture: Picture, known: bool, said: str = "") -> TakenIn:
    (card,) = cards_of(session, ids=[picture.id])
    return TakenIn(card, known, said)


def _known(resources: Resources, set_id: int, sha256: str) -> Picture | None:
    with resources.database.reading() as session:
        get_set(session, set_id)
        return find_picture(session, set_id, sha256)


def _was_damaged(known: Picture | None) -> bool:
    """Whether a picture that gets its original back was taken in as damaged."""
    return known is not None and known.original.taken_damaged is not None


def _is_lost(resources: Resources, original: Original) -> bool:
    return original.damage is not None or not resources.files.original(original.sha256).exists()


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
        taken_damaged=found.damage[:300] if found.damage else None,
        focal35_mm=facts.focal.focal35_mm if facts.focal else None,
        focal_source=facts.focal.source if facts.focal else None,
        bow=facts.bow.model_dump(mode="json") if facts.bow else None,
        pose=facts.pose.model_dump(mode="json") if facts.pose else None,
        remarks=list(facts.remarks) or None,
    )
