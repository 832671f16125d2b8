"""Versions of a picture: rows of one original in one set, each with a ledger of its own."""

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session, joinedload

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.recipe import Recipe
from sequor.store.library import AS_SHOT, entry_of, get_picture
from sequor.store.models import Picture

MAX_VERSIONS = 50
"""Of a picture, with those in the bin."""


def versions_of(session: Session, picture: Picture, binned: bool = False) -> list[Picture]:
    """All versions of a picture, those in the bin only with ``binned``, the first one first."""
    query = select(Picture).where(_alike(picture)).order_by(Picture.version)
    query = query.options(joinedload(Picture.head))
    if not binned:
        query = query.where(Picture.binned_at.is_(None))
    return list(session.scalars(query))


def add_version(session: Session, picture_id: int, recipe: Recipe, name: str, what: str) -> Picture:
    """Another version of a picture: as shot, and then with a recipe.

    Raises
    ------
    UnusableInput
        When there are too many, or the recipe cannot be solved.
    """
    picture = get_picture(session, picture_id)
    # All versions are locked, so that two begun at once get two numbers.
    session.execute(select(Picture.id).where(_alike(picture)).with_for_update())
    number = next_version(session, picture.set_id, picture.original_sha256)
    if number > MAX_VERSIONS:
        raise UnusableInput(
            tr(
                "A picture can have {max_versions} versions; this one has them.",
                max_versions=MAX_VERSIONS,
            )
        )
    made = Picture(
        set_id=picture.set_id,
        original=picture.original,
        name=picture.name,
        version=number,
        version_name=_named(name) or tr("version {number}", number=number),
        file_options=picture.file_options,
        opened_from=picture.opened_from,
    )
    session.add(made)
    session.flush()
    first = entry_of(made, Recipe(), AS_SHOT)
    session.add(first)
    session.flush()
    made.head = first
    if recipe != Recipe():
        made.head = entry_of(made, recipe, what, first.id)
        session.add(made.head)
    session.flush()
    return made


def name_version(session: Session, picture_id: int, name: str) -> Picture:
    """Give a version another name."""
    picture = get_picture(session, picture_id, lock=True)
    picture.version_name = _named(name)
    session.flush()
    return picture


def next_version(session: Session, set_id: int, sha256: str) -> int:
    """The number that the next version of an original in a set gets."""
    query = select(func.max(Picture.version)).where(
        Picture.set_id == set_id, Picture.original_sha256 == sha256
    )
    return (session.scalar(query) or 0) + 1


def _named(name: str) -> str:
    return " ".join(name.split())[:60]


def _alike(picture: Picture) -> ColumnElement[bool]:
    return (Picture.set_id == picture.set_id) & (Picture.original_sha256 == picture.original_sha256)
