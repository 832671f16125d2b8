"""Keeping house: sets renamed, ordered, merged; pictures moved, copied, thrown into the bin and
taken out again. Nothing is deleted but out of the bin.
"""

from collections.abc import Iterable
from datetime import datetime
from typing import NamedTuple

from sqlalchemy import delete, insert, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.language import tr
from sequor.store.library import clean_name, get_set
from sequor.store.models import (
    Export,
    ExportFormat,
    LedgerEntry,
    Original,
    Picture,
    PictureSet,
    StoredProposal,
    now,
)
from sequor.store.versions import next_version


def change_set(
    session: Session, set_id: int, name: str | None = None, description: str | None = None
) -> PictureSet:
    """Another name or description for a set."""
    found = get_set(session, set_id)
    if name is not None:
        name = clean_name(name, "")
        if not name:
            raise UnusableInput(tr("A set needs a name."))
        found.name = name
    if description is not None:
        found.description = description.strip()
    try:
        session.flush()
    except IntegrityError as problem:
        raise UnusableInput(tr("There is a set named {name} already.", name=name)) from problem
    return found


def order_sets(session: Session, ids: list[int]) -> None:
    """Put the named sets in this order, before all others."""
    for place, set_id in enumerate(dict.fromkeys(ids)):
        get_set(session, set_id).place = place - len(ids)
    session.flush()


def merge_sets(session: Session, from_id: int, into_id: int) -> int:
    """Move everything from one set into another and put the empty one into the bin; how many
    pictures went.
    """
    if from_id == into_id:
        raise UnusableInput(tr("A set cannot be merged with itself."))
    source = get_set(session, from_id)
    ids = list(session.scalars(select(Picture.id).where(Picture.set_id == source.id)))
    moved = move_pictures(session, ids, into_id) if ids else 0
    source.binned_at = now()
    session.flush()
    return moved


def move_pictures(session: Session, ids: Iterable[int], set_id: int) -> int:
    """Move pictures, each with all its versions, into another set; how many went.

    Where that has the same original already they become further versions of it.
    """
    target = get_set(session, set_id)
    moved = 0
    for picture in with_versions(session, ids):
        if picture.set_id == target.id:
            continue
        _become(session, picture, target, picture.set.name)
        moved += 1
    session.flush()
    return moved


def copy_pictures(session: Session, ids: Iterable[int], set_id: int) -> list[int]:
    """Copy pictures, each with all its versions and their whole ledgers, into a set; the numbers
    of the copies.
    """
    target = get_set(session, set_id)
    made = []
    for picture in with_versions(session, ids):
        if picture.binned_at is not None:
            continue
        copy = Picture(
            set_id=picture.set_id,
            original=picture.original,
            name=picture.name,
            version_name=picture.version_name,
            file_options=picture.file_options,
            opened_from=picture.opened_from,
        )
        _become(session, copy, target, tr("{name}, copied", name=picture.set.name), new=True)
        session.add(copy)
        session.flush()
        copy_ledger(session, picture, copy)
        made.append(copy.id)
    return made


class NewEntry(NamedTuple):
    """An entry that comes from elsewhere; ``parent`` is a place among those before it."""

    parent: int | None
    columns: dict[str, object]


def write_ledger(session: Session, picture: Picture, entries: list[NewEntry], head: int) -> None:
    """Enter a whole ledger into a picture that has none; ``head`` is the place of what holds."""
    rows = [{**entry.columns, "picture_id": picture.id} for entry in entries]
    made = insert(LedgerEntry).returning(LedgerEntry.id, sort_by_parameter_order=True)
    numbers = list(session.scalars(made, rows))
    parents = [
        {"id": number, "parent_id": numbers[entry.parent]}
        for number, entry in zip(numbers, entries, strict=True)
        if entry.parent is not None
    ]
    if parents:
        session.execute(update(LedgerEntry), parents)
    picture.head = session.get_one(LedgerEntry, numbers[head])
    session.flush()


COPIED = ("what", "recipe", "recipe_hash", "roll_deg", "lean_deg", "swing_deg", "kept_fraction")
"""What an entry keeps wherever it goes, besides when it was made and whether it has a frame."""


def ledger_entries(session: Session, picture_id: int) -> list[LedgerEntry]:
    """All entries of a picture with their recipes, oldest first."""
    query = select(LedgerEntry).where(LedgerEntry.picture_id == picture_id)
    return list(session.scalars(query.order_by(LedgerEntry.id)))


def copy_ledger(session: Session, picture: Picture, copy: Picture) -> None:
    """Enter all that the ledger of one picture has into that of another."""
    found = ledger_entries(session, picture.id)
    places = {entry.id: place for place, entry in enumerate(found)}
    columns = (*COPIED, "created_at", "framed")
    entries = [
        NewEntry(
            None if entry.parent_id is None else places[entry.parent_id],
            {name: getattr(entry, name) for name in columns},
        )
        for entry in found
    ]
    write_ledger(session, copy, entries, places[picture.head.id])


def bin_pictures(session: Session, ids: Iterable[int]) -> int:
    """Throw versions of pictures into the bin; how many went."""
    query = (
        update(Picture)
        .where(Picture.id.in_(list(ids)), Picture.binned_at.is_(None))
        .values(binned_at=now())
    )
    return int(session.execute(query).rowcount)  # type: ignore[attr-defined]


def restore_pictures(session: Session, ids: Iterable[int]) -> int:
    """Take versions out of the bin, back into their set, which comes back with them if it was
    thrown away meanwhile; how many came.
    """
    came = 0
    for picture in _found(session, ids):
        if picture.binned_at is None:
            continue
        picture.binned_at = None
        if picture.set.binned_at is not None:
            restore_set(session, picture.set_id)
        came += 1
    session.flush()
    return came


def bin_set(session: Session, set_id: int) -> None:
    """Throw a set into the bin with everything in it."""
    get_set(session, set_id).binned_at = now()
    session.flush()


def restore_set(session: Session, set_id: int) -> PictureSet:
    """Take a set out of the bin with everything in it; under another name if that is taken."""
    found = session.get(PictureSet, set_id)
    if found is None:
        raise NotFound(tr("There is no set {set_id}.", set_id=set_id))
    found.name = free_name(session, found.name) if found.binned_at else found.name
    found.binned_at = None
    session.flush()
    return found


def free_name(session: Session, name: str) -> str:
    """A name that no set outside the bin has, as like the given one as can be."""
    query = select(PictureSet.name).where(PictureSet.live == 1)
    taken = {other.casefold() for other in session.scalars(query)}
    number, found = 1, name
    while found.casefold() in taken:
        number += 1
        found = f"{name[:112]} {number}"
    return found


class Binned(NamedTuple):
    """What is in the bin: single pictures, and sets, the newest first."""

    pictures: list[Picture]
    sets: list[PictureSet]


def binned(session: Session) -> Binned:
    """What is in the bin."""
    pictures = select(Picture).where(Picture.binned_at.is_not(None))
    sets = select(PictureSet).where(PictureSet.binned_at.is_not(None))
    return Binned(
        list(session.scalars(pictures.order_by(Picture.binned_at.desc(), Picture.id))),
        list(session.scalars(sets.order_by(PictureSet.binned_at.desc(), PictureSet.id))),
    )


class Emptied(NamedTuple):
    """What is gone for good: exports by number and format, and originals that nothing needs, by
    hash with the names that they came under.
    """

    pictures: int
    exports: list[tuple[int, ExportFormat]]
    originals: dict[str, str]


def empty_bin(session: Session, until: datetime | None = None) -> Emptied:
    """Delete what has been in the bin since ``until`` or longer; everything without one.

    Its files are the caller's to remove or to set aside, once this is kept.
    """
    until = until or now()
    sets = list(session.scalars(select(PictureSet.id).where(PictureSet.binned_at <= until)))
    gone = (Picture.binned_at <= until) | Picture.set_id.in_(sets)
    columns = Picture.id, Picture.original_sha256, Picture.name
    found = session.execute(select(*columns).where(gone).with_for_update()).all()
    ids, names = [row[0] for row in found], {row[1]: row[2] for row in found}
    hashes = {*names}
    exports = select(Export.id, Export.format).where(Export.picture_id.in_(ids))
    made = [(number, kind) for number, kind in session.execute(exports)]
    entries = LedgerEntry.picture_id.in_(ids)
    session.execute(delete(Export).where(Export.picture_id.in_(ids)))
    session.execute(update(Picture).where(Picture.id.in_(ids)).values(head_id=None))
    session.execute(update(LedgerEntry).where(entries).values(parent_id=None))
    session.execute(delete(LedgerEntry).where(entries))
    session.execute(delete(Picture).where(Picture.id.in_(ids)))
    session.execute(delete(PictureSet).where(PictureSet.id.in_(sets)))
    used = set(
        session.scalars(select(Picture.original_sha256).where(Picture.original_sha256.in_(hashes)))
    )
    unused = sorted(hashes - used)
    session.execute(delete(StoredProposal).where(StoredProposal.original_sha256.in_(unused)))
    session.execute(delete(Original).where(Original.sha256.in_(unused)))
    session.flush()
    return Emptied(len(ids), made, {sha256: names[sha256] for sha256 in unused})


def _become(
    session: Session, picture: Picture, target: PictureSet, origin: str, new: bool = False
) -> None:
    """Let a picture be in a set; as another version where its original is there already."""
    number = next_version(session, target.id, picture.original_sha256 or picture.original.sha256)
    if number > 1 and not picture.version_name:
        picture.version_name = tr("from {origin}", origin=origin)[:60]
    picture.set_id, picture.version = target.id, number
    if not new:
        session.flush()
        session.refresh(picture, ["set"])


def _found(session: Session, ids: Iterable[int]) -> list[Picture]:
    wanted = list(dict.fromkeys(ids))
    query = select(Picture).where(Picture.id.in_(wanted)).order_by(Picture.id).with_for_update()
    found = list(session.scalars(query))
    if len(found) < len(wanted):
        raise NotFound(tr("Some of these pictures are not there any more; nothing was changed."))
    return found


def with_versions(session: Session, ids: Iterable[int]) -> list[Picture]:
    """The pictures with all their versions, also those in the bin."""
    groups = dict.fromkeys((p.set_id, p.original_sha256) for p in _found(session, ids))
    found = []
    for set_id, sha256 in groups:
        query = select(Picture).where(Picture.set_id == set_id, Picture.original_sha256 == sha256)
        found += list(session.scalars(query.order_by(Picture.version)))
    return found
