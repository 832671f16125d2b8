"""Whether who acts may do something with what a request names: sets, pictures, exports, originals.

What is not seen is answered as what is not there.
"""

from collections.abc import Callable, Iterable
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound
from sequor.core.language import mark, tr
from sequor.services.resources import Resources
from sequor.store import exports, library
from sequor.store.acting import Actor, Right, actor, seeing_everything
from sequor.store.models import Act, Export, LedgerEntry, Picture, PictureSet
from sequor.store.seen import right_here, right_in, sets_with

_FOR = {
    Right.LOOK: mark("looking"),
    Right.WORK: mark("working"),
    Right.EXPORT: mark("working and exporting"),
}


def write_deed(resources: Resources) -> None:
    """Write down what the present request does, where it changes nothing itself."""
    resources.database.write(lambda _: None, small=True)


Concerned = Callable[[Session], list[tuple[int, NotFound]]]
"""The sets that something is about, and what is said where one is not seen."""


class Forbidden(Exception):
    """It is seen, but this may not be done with it."""


def require_of_sets(resources: Resources, ids: Iterable[int], need: Right) -> None:
    """Make sure of a right in sets.

    Raises
    ------
    NotFound
        When one is not seen.
    Forbidden
        When the right is another one.
    """
    _require(resources, lambda s: [(number, _no_set(number)) for number in ids], need)


def require_of_pictures(resources: Resources, ids: Iterable[int], need: Right) -> None:
    """Make sure of a right in the sets of pictures."""
    wanted = list(ids)

    def found(session: Session) -> list[tuple[int, NotFound]]:
        rows = session.execute(
            select(Picture.id, Picture.set_id).where(Picture.id.in_(wanted))
        ).all()
        return [(set_id, _no_picture(number)) for number, set_id in rows]

    _require(resources, found, need)


def require_of_exports(resources: Resources, ids: Iterable[int], need: Right) -> None:
    """Make sure of a right in the sets that exports are of."""
    wanted = list(ids)

    def found(session: Session) -> list[tuple[int, NotFound]]:
        query = select(Export.id, Picture.set_id).join(Picture, Picture.id == Export.picture_id)
        rows = session.execute(query.where(Export.id.in_(wanted))).all()
        return [(set_id, exports.gone(number)) for number, set_id in rows]

    _require(resources, found, need)


def require_of_act(resources: Resources, act_id: int, need: Right) -> None:
    """Make sure of a right in the sets of all pictures that an act was done to."""

    def found(session: Session) -> list[tuple[int, NotFound]]:
        act = session.get(Act, act_id)
        # What it did to choices of files is in no ledger.
        chosen = [int(number) for number in (act and act.files_before) or ()]
        entered = select(LedgerEntry.picture_id).where(LedgerEntry.act_id == act_id)
        of_act = Picture.id.in_(entered) | Picture.id.in_(chosen)
        query = select(Picture.set_id).where(of_act).distinct()
        missing = NotFound(tr("There is no act {act_id}.", act_id=act_id))
        return [(set_id, missing) for set_id in session.scalars(query)]

    _require(resources, found, need)


def require_to_be_there(resources: Resources, kind: Literal["picture", "set"], number: int) -> None:
    """Make sure that there is a picture or a set outside the bin.

    Raises
    ------
    NotFound
    """
    with resources.database.reading() as session:
        if kind == "picture":
            library.get_picture(session, number)
        else:
            library.get_set(session, number)


def right_of_set(resources: Resources, set_id: int) -> Right:
    """What who acts may do with a set that is seen."""
    with resources.database.reading() as session:
        return right_here(session, set_id)


def require_to_see(resources: Resources, sha256: str, recipe_hash: str | None) -> None:
    """Make sure that an original is seen, and a recipe of it.

    Raises
    ------
    NotFound
    """
    somebody = actor()
    if somebody is None or somebody.sees_everything:
        return
    query = select(Picture.id).where(
        Picture.original_sha256 == sha256,
        Picture.set_id.in_(sets_with(somebody, Right.LOOK)),
    )
    if recipe_hash is not None:
        entries = LedgerEntry.picture_id == Picture.id
        query = query.join(LedgerEntry, entries).where(LedgerEntry.recipe_hash == recipe_hash)
    with resources.database.reading() as session, seeing_everything():
        if session.execute(query.limit(1)).first() is None:
            raise NotFound(tr("There is no such original."))


def _require(resources: Resources, concerned: Concerned, need: Right) -> None:
    somebody = actor()
    if somebody is None or somebody.sees_everything:
        return
    with resources.database.reading() as session, seeing_everything():
        for set_id, missing in concerned(session):
            _check(session, somebody, set_id, need, missing)


def _check(session: Session, somebody: Actor, set_id: int, need: Right, missing: NotFound) -> None:
    right = right_in(session, somebody, set_id)
    if right is None:
        raise missing
    if right < need:
        name = session.scalar(select(PictureSet.name).where(PictureSet.id == set_id))
        raise Forbidden(
            tr(
                "The set {name} is shared with you for {what}; ask its owner for more.",
                name=name,
                what=tr(_FOR[right]),
            )
        )


def _no_set(number: int) -> NotFound:
    return NotFound(tr("There is no set {set_id}.", set_id=number))


def _no_picture(number: int) -> NotFound:
    return NotFound(tr("There is no picture {picture_id}.", picture_id=number))
