"""Sets and pictures: adding, finding, listing."""

from sqlalchemy import Select, func, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.recipe import PhotoFacts, Recipe
from sequor.core.solve import solve
from sequor.store.hashes import recipe_hash
from sequor.store.models import Export, LedgerEntry, Original, Picture, PictureSet


def create_set(session: Session, name: str) -> PictureSet:
    """A new set; its name must not be taken."""
    name = " ".join(name.split())
    if not name:
        raise UnusableInput("A set needs a name.")
    if session.scalar(select(PictureSet).where(PictureSet.name == name)):
        raise UnusableInput(f"There is a set named {name} already.")
    made = PictureSet(name=name)
    session.add(made)
    try:
        session.flush()
    except IntegrityError as problem:  # another one of that name was made at the same moment
        raise UnusableInput(f"There is a set named {name} already.") from problem
    return made


def get_set(session: Session, set_id: int) -> PictureSet:
    """A set by its number."""
    found = session.get(PictureSet, set_id)
    if found is None:
        raise NotFound(f"There is no set {set_id}.")
    return found


def list_sets(session: Session) -> list[tuple[PictureSet, int]]:
    """All sets with the number of their pictures, oldest first."""
    query = (
        select(PictureSet, func.count(Picture.id))
        .outerjoin(Picture)
        .group_by(PictureSet.id)
        .order_by(PictureSet.id)
    )
    return [(found, count) for found, count in session.execute(query)]


def list_pictures(session: Session, set_id: int) -> list[tuple[Picture, bool]]:
    """The pictures of a set in the order they came, each with whether it was ever exported."""
    exported = (
        select(Export.id).where(Export.picture_id == Picture.id, Export.state == "done").exists()
    )
    query = select(Picture, exported).where(Picture.set_id == set_id).order_by(Picture.id)
    return [(picture, done) for picture, done in session.execute(query)]


def get_picture(session: Session, picture_id: int, lock: bool = False) -> Picture:
    """A picture by its number.

    With ``lock`` no one else can move its head until the transaction ends.
    """
    query: Select[Picture] = select(Picture).where(Picture.id == picture_id)
    if lock:
        query = query.with_for_update(of=Picture)
    found = session.scalar(query)
    if found is None:
        raise NotFound(f"There is no picture {picture_id}.")
    return found


def get_original(session: Session, sha256: str) -> Original:
    """An original by the hash of its content."""
    found = session.get(Original, sha256)
    if found is None:
        raise NotFound("There is no such original.")
    return found


def number_in_set(session: Session, picture: Picture) -> int:
    """The picture's place in its set as the contact sheet shows it, from 1."""
    before = select(func.count()).where(Picture.set_id == picture.set_id, Picture.id <= picture.id)
    return session.scalar(before) or 1


def find_picture(session: Session, set_id: int, sha256: str) -> Picture | None:
    """The picture of a set with that content, if it is there."""
    return session.scalar(
        select(Picture).where(Picture.set_id == set_id, Picture.original_sha256 == sha256)
    )


def add_picture(session: Session, set_id: int, original: Original, name: str) -> Picture:
    """Put an original into a set, with a first ledger entry: as shot."""
    picture = Picture(set_id=set_id, original=session.merge(original), name=name[:255])
    session.add(picture)
    session.flush()
    entry = entry_of(picture, Recipe(), "as shot")
    session.add(entry)
    session.flush()
    picture.head = entry
    session.flush()
    return picture


def entry_of(
    picture: Picture, recipe: Recipe, what: str, parent_id: int | None = None
) -> LedgerEntry:
    """A ledger entry of a recipe, not added yet.

    Raises UnusableInput when the recipe cannot be solved.
    """
    solution = solve(photo_of(picture.original), recipe)
    return LedgerEntry(
        picture_id=picture.id,
        parent_id=parent_id,
        what=what[:200],
        recipe=(stored := recipe.model_dump(mode="json")),
        recipe_hash=recipe_hash(stored),
        roll_deg=solution.stance.roll_deg,
        lean_deg=solution.stance.lean_deg,
        swing_deg=solution.stance.swing_deg,
        kept_fraction=solution.kept_fraction,
    )


def photo_of(original: Original) -> PhotoFacts:
    """What the core needs to know about a stored original."""
    return PhotoFacts.model_validate(
        {
            "width": original.width,
            "height": original.height,
            "focal35_mm": original.focal35_mm,
            "focal_source": original.focal_source or "file",
        }
    )
