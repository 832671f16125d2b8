"""Keeping house: the bin emptied, budgets kept, old exports cleared, and what all of it takes."""

import logging
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from sequor.pictures.encode import SUFFIXES
from sequor.services.build import build
from sequor.services.reply import Reply, T
from sequor.services.resources import Resources
from sequor.store import curating, people
from sequor.store.models import ENDED, Export, Original, now

log = logging.getLogger(__name__)
_MB = 2**20
_SIGN_INS_DAYS = 400
"""Sign-ins and links that were made so long ago ended long ago."""


def move_pictures(resources: Resources, ids: list[int], set_id: int, reply: Reply[int, T]) -> T:
    """Move pictures, each with its versions, into another set."""
    return resources.database.write(lambda s: reply.to(s, curating.move_pictures(s, ids, set_id)))


def copy_pictures(resources: Resources, ids: list[int], set_id: int, reply: Reply[int, T]) -> T:
    """Copy pictures, each with its versions and their ledgers, into a set."""
    return resources.database.write(
        lambda s: reply.to(s, len(curating.copy_pictures(s, ids, set_id)))
    )


def bin_pictures(resources: Resources, ids: list[int], reply: Reply[int, T]) -> T:
    """Throw versions of pictures into the bin."""
    return resources.database.write(
        lambda s: reply.to(s, curating.bin_pictures(s, ids)), small=True
    )


def in_bin(resources: Resources, make: Callable[[curating.Binned], T]) -> T:
    """What is in the bin."""
    with resources.database.reading() as session:
        return make(curating.binned(session))


def restore(
    resources: Resources, picture_ids: list[int], set_ids: list[int], reply: Reply[int, T]
) -> T:
    """Take pictures and sets out of the bin, whole."""

    def change(session: Session) -> T:
        for set_id in set_ids:
            curating.restore_set(session, set_id)
        came = curating.restore_pictures(session, picture_ids)
        return reply.to(session, came + len(set_ids))

    return resources.database.write(change, small=True)


def empty_bin(resources: Resources, reply: Reply[int, T]) -> T:
    """Delete what is in the bin, with its files: a person wants it so.

    Parameters
    ----------
    reply : Reply
        Made of how many pictures are gone.
    """

    def change(session: Session) -> tuple[curating.Emptied, T]:
        gone = curating.empty_bin(session)
        return gone, reply.to(session, gone.pictures)

    with resources.servers.emptying:
        gone, said = resources.database.write(change, small=True)
        resources.files.remove(gone.originals, _files(gone))
        resources.caches.forget()
        resources.servers.tell("forgotten", {})
    return said


def clear_old_bin(resources: Resources, until: datetime) -> None:
    """Let go of what has been in the bin since a moment; its originals are set aside, since only a
    person deletes one.
    """
    with resources.servers.emptying:
        gone = resources.database.write(lambda s: curating.empty_bin(s, until), small=True)
        resources.files.set_originals_aside(gone.originals)
        resources.files.remove(exports=_files(gone))
        resources.caches.forget()
        resources.servers.tell("forgotten", {})


def _files(gone: curating.Emptied) -> list[tuple[int, str]]:
    return [(number, SUFFIXES[kind]) for number, kind in gone.exports]


def clear_exports(
    resources: Resources,
    reply: Reply[int, T],
    ids: list[int] | None = None,
    until: datetime | None = None,
) -> T:
    """Remove finished exports with their files: some, or those finished before a moment.

    The pictures, their ledgers and originals stay, so that each can be made again.

    Parameters
    ----------
    reply : Reply
        Made of how many there were.
    """

    def change(session: Session) -> tuple[list[tuple[int, str]], T]:
        query = select(Export).where(Export.state.in_(ENDED))
        if ids is not None:
            query = query.where(Export.id.in_(ids))
        if until is not None:
            query = query.where(Export.finished_at <= until)
        found = list(session.scalars(query))
        for export in found:
            session.delete(export)
        session.flush()
        gone = [(export.id, SUFFIXES[export.format]) for export in found]
        return gone, reply.to(session, len(gone))

    gone, said = resources.database.write(change, small=True)
    resources.files.remove(exports=gone)
    return said


def tidy_regularly(resources: Resources) -> None:
    """What is done by itself, now and then; originals are only removed out of the bin."""
    settings = resources.settings
    resources.database.forget(now() - timedelta(days=1))
    before = now() - timedelta(days=_SIGN_INS_DAYS)
    resources.database.write(lambda session: people.forget_old(session, before), small=True)
    clear_old_bin(resources, now() - timedelta(days=settings.bin_days))
    if settings.export_days:
        until = now() - timedelta(days=settings.export_days)
        clear_exports(resources, Reply(lambda count: count), until=until)
    resources.files.forget_thumbnails(build())
    for folder, most_mb in budgets(resources).items():
        gone = resources.files.trim_below(folder, most_mb * _MB)
        if gone:
            log.info("%s files of %s went, for its budget of %s MB", gone, folder, most_mb)


def budgets(resources: Resources) -> dict[str, int]:
    """How large what can be made again may become, in megabytes, by folder."""
    settings = resources.settings
    return {"proxies": settings.proxies_mb, "thumbnails": settings.thumbnails_mb}


@dataclass(frozen=True)
class Occupied:
    """What something takes; ``most`` is its budget in bytes, None where it has none."""

    files: int
    size: int
    most: int | None = None


@dataclass(frozen=True)
class Storage:
    """What is kept and how large it is, by name, and the bytes that are free."""

    kept: dict[str, Occupied]
    free: int


def storage(resources: Resources) -> Storage:
    """Look at everything that is kept."""
    most = {name: mb * _MB for name, mb in budgets(resources).items()}
    kept = {
        name: Occupied(*resources.files.sizes_of(name), most.get(name))
        for name in ("originals", "proxies", "thumbnails", "exports")
    }
    aside = resources.files.aside()
    kept |= {
        "quarantine": Occupied(len(aside), sum(one.size for one in aside)),
    }
    with resources.database.reading() as session:
        kept["database"] = Occupied(*_database(session))
        kept["bin"] = Occupied(*_binned(session))
    kept["views"] = Occupied(*resources.caches.images.taken())
    return Storage(kept, int(resources.files.space.free_mb * _MB))


def _database(session: Session) -> tuple[int, int]:
    """Tables, and the bytes of their data and indexes."""
    query = text(
        "SELECT COUNT(*), SUM(data_length + index_length) FROM information_schema.tables "
        "WHERE table_schema = DATABASE()"
    )
    count, size = session.execute(query).one()
    return int(count), int(size or 0)


def _binned(session: Session) -> tuple[int, int]:
    """Pictures in the bin, with those of sets that are there, and the bytes of their originals."""
    pictures, sets = curating.binned(session)
    inside = [picture for one in sets for picture in one.pictures]
    found = {picture.id: picture for picture in (*pictures, *inside)}
    hashes = {picture.original_sha256 for picture in found.values()}
    size = session.scalar(select(func.sum(Original.byte_size)).where(Original.sha256.in_(hashes)))
    return len(found), int(size or 0)
