"""Sets and pictures: adding, finding, listing."""

from sqlalchemy import Select, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.language import english, tr
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe
from sequor.store.entries import entry_columns
from sequor.store.models import LedgerEntry, Original, Picture, PictureSet

AS_SHOT = english("as shot")
"""What the first entry of every ledger says."""


def clean_name(name: str, otherwise: str = "unnamed") -> str:
    """A name as it is kept: on one line, without what cannot be seen."""
    return " ".join("".join(c if c.isprintable() else " " for c in name).split()) or otherwise


def create_set(session: Session, name: str) -> PictureSet:
    """A new set; its name must not be taken."""
    name = clean_name(name, "")
    if not name:
        raise UnusableInput(tr("A set needs a name."))
    if session.scalar(select(PictureSet).where(PictureSet.name == name, PictureSet.live == 1)):
        raise UnusableInput(tr("There is a set named {name} already.", name=name))
    made = PictureSet(name=name)
    session.add(made)
    try:
        session.flush()
    except IntegrityError as problem:  # another one of that name was made at the same moment
        raise UnusableInput(tr("There is a set named {name} already.", name=name)) from problem
    return made


def get_set(session: Session, set_id: int) -> PictureSet:
    """A set by its number; one in the bin is not there."""
    found = session.get(PictureSet, set_id)
    if found is None:
        raise NotFound(tr("There is no set {set_id}.", set_id=set_id))
    if found.binned_at is not None:
        raise NotFound(tr("The set {name} is in the bin; put it back first.", name=found.name))
    return found


def list_sets(session: Session) -> list[tuple[PictureSet, int]]:
    """All sets with the number of their pictures, in their order and then the oldest first."""
    there = (Picture.set_id == PictureSet.id) & Picture.binned_at.is_(None)
    query = (
        select(PictureSet, func.count(Picture.original_sha256.distinct()))
        .outerjoin(Picture, there)
        .where(PictureSet.live == 1)
        .group_by(PictureSet.id)
        .order_by(PictureSet.place, PictureSet.id)
    )
    return [(found, count) for found, count in session.execute(query)]


def count_pictures(session: Session, set_id: int) -> int:
    """How many pictures a set has; versions share one original."""
    there = (Picture.set_id == set_id) & Picture.binned_at.is_(None)
    return session.scalar(select(func.count(Picture.original_sha256.distinct())).where(there)) or 0


def count_all(session: Session) -> int:
    """How many pictures there are outside the bin, versions among them."""
    query = select(func.count()).select_from(Picture).where(Picture.binned_at.is_(None))
    return session.scalar(query) or 0


def list_pictures(session: Session, set_id: int) -> list[Picture]:
    """The pictures of a set and their versions, in the order they came."""
    query = select(Picture).where(Picture.set_id == set_id, Picture.binned_at.is_(None))
    return list(session.scalars(query.order_by(Picture.id)))


def get_picture(session: Session, picture_id: int, lock: bool = False) -> Picture:
    """A picture by its number; one in the bin is not there.

    With ``lock`` no one else can move its head until the transaction ends.
    """
    query: Select[Picture, bool] = (
        select(Picture, Picture.binned_at.is_(None) & PictureSet.binned_at.is_(None))
        .join(PictureSet, PictureSet.id == Picture.set_id)
        .where(Picture.id == picture_id)
    )
    if lock:
        query = query.with_for_update(of=Picture)
    row = session.execute(query).first()
    if row is None:
        raise NotFound(tr("There is no picture {picture_id}.", picture_id=picture_id))
    found, live = row
    if not live:
        raise NotFound(tr("{name} is in the bin; put it back to go on with it.", name=found.name))
    return found


def get_pictures(session: Session, ids: list[int]) -> list[Picture]:
    """Pictures by their numbers, in that order; see `get_picture`."""
    query = select(Picture).join(PictureSet, PictureSet.id == Picture.set_id)
    live = Picture.binned_at.is_(None) & PictureSet.binned_at.is_(None)
    found = {one.id: one for one in session.scalars(query.where(Picture.id.in_(ids), live))}
    # What is not among them says itself why.
    return [found.get(number) or get_picture(session, number) for number in ids]


def others_with_pose(session: Session, picture: Picture, most: int) -> list[Picture]:
    """Other pictures of a set whose files say how the camera was held, the nearest first."""
    query = (
        select(Picture)
        .join(Original, Original.sha256 == Picture.original_sha256)
        .where(
            Picture.set_id == picture.set_id,
            Picture.binned_at.is_(None),
            Picture.original_sha256 != picture.original_sha256,
            Original.pose.is_not(None),
        )
        .order_by(func.abs(Picture.id - picture.id), Picture.id)
        .limit(most)
    )
    return list(session.scalars(query))


def get_original(session: Session, sha256: str) -> Original:
    """An original by the hash of its content."""
    found = session.get(Original, sha256)
    if found is None:
        raise NotFound(tr("There is no such original."))
    return found


def number_in_set(session: Session, picture: Picture) -> int:
    """The picture's place among those of its set in the order they came, from 1; its versions
    share it.
    """
    first = (
        select(func.min(Picture.id).label("first"))
        .where(Picture.set_id == picture.set_id, Picture.binned_at.is_(None))
        .group_by(Picture.original_sha256)
        .subquery()
    )
    own = select(func.min(Picture.id)).where(
        Picture.set_id == picture.set_id, Picture.original_sha256 == picture.original_sha256
    )
    before = select(func.count()).where(first.c.first <= own.scalar_subquery())
    return session.scalar(before) or 1


def find_picture(session: Session, set_id: int, sha256: str) -> Picture | None:
    """The picture of a set with that content, if it is there: the first version outside the bin,
    or else the first one within.
    """
    query = (
        select(Picture)
        .where(Picture.set_id == set_id, Picture.original_sha256 == sha256)
        .order_by(Picture.binned_at.is_not(None), Picture.version)
        .limit(1)
    )
    return session.scalar(query)


def add_picture(session: Session, set_id: int, original: Original, name: str) -> Picture:
    """Put an original into a set, with a first ledger entry: as shot."""
    picture = Picture(set_id=set_id, original=session.merge(original), name=name[:255])
    session.add(picture)
    session.flush()
    entry = entry_of(picture, Recipe(), AS_SHOT)
    session.add(entry)
    session.flush()
    picture.head = entry
    session.flush()
    return picture


def entry_of(
    picture: Picture, recipe: Recipe, what: str, parent_id: int | None = None
) -> LedgerEntry:
    """A ledger entry of a recipe of a picture, not added yet; see `new_entry`."""
    entry = new_entry(photo_of(picture.original), recipe, what)
    entry.picture_id, entry.parent_id = picture.id, parent_id
    return entry


def new_entry(photo: PhotoFacts, recipe: Recipe, what: str) -> LedgerEntry:
    """A ledger entry that belongs to no picture yet; see `entry_columns`."""
    return LedgerEntry(**entry_columns(photo, recipe, what))


def photo_of(original: Original) -> PhotoFacts:
    """What the core needs to know about a stored original."""
    return PhotoFacts.model_validate(
        {
            "width": original.width,
            "height": original.height,
            "focal35_mm": original.focal35_mm,
            "focal_source": original.focal_source or "file",
            "bow": original.bow,
            "pose": original.pose,
            "raw": "developed" in (original.remarks or ()),
        }
    )
