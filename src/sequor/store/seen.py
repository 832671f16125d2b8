"""What is seen of the tables by who acts (`acting`): every query for sets, pictures, exports and
acts leaves out those of sets in which the actor has not the right that the request needs.

So a query that forgets to ask finds too little, and nothing of another's. What is said to who lacks
a right is said before that (`sequor.web.rights`).
"""

from typing import Any

from sqlalchemy import ColumnElement, Select, event, false, select, union
from sqlalchemy.orm import ORMExecuteState, Session, sessionmaker, with_loader_criteria

from sequor.store.acting import Actor, Right, actor
from sequor.store.models import Export, Picture, PictureSet
from sequor.store.people_models import Share

_sets, _shares = PictureSet.__table__, Share.__table__
_pictures = Picture.__table__


def watch_over(maker: sessionmaker[Session]) -> None:
    """Let every session of a factory leave out what is not seen."""
    event.listen(maker, "do_orm_execute", _leave_out)


def sets_with(somebody: Actor, need: Right) -> Any:
    """The numbers of the sets in which somebody has a right, as a query."""
    if somebody.shown_set is not None:
        shown = somebody.shown_set if need <= Right.LOOK else None
        return select(_sets.c.id).where(_sets.c.id == shown)
    shared = select(_shares.c.set_id).where(
        _shares.c.person_id == somebody.person_id, _shares.c.may >= need
    )
    if somebody.role != "member":
        return shared if need <= Right.LOOK else shared.where(false())
    own = select(_sets.c.id).where(_sets.c.owner_id == somebody.person_id)
    return union(own, shared)


def right_in(session: Session, somebody: Actor, set_id: int) -> Right | None:
    """What somebody may do with a set; None where it is not seen."""
    if somebody.sees_everything:
        return Right.OWN
    if somebody.shown_set is not None:
        return Right.LOOK if set_id == somebody.shown_set else None
    owned: Select[int] = select(_sets.c.id).where(
        _sets.c.id == set_id, _sets.c.owner_id == somebody.person_id
    )
    if somebody.role == "member" and session.execute(owned).first():
        return Right.OWN
    may = session.execute(
        select(_shares.c.may).where(
            _shares.c.set_id == set_id, _shares.c.person_id == somebody.person_id
        )
    ).scalar()
    if may is None:
        return None
    return Right(may) if somebody.role == "member" else Right.LOOK


def _leave_out(state: ORMExecuteState) -> None:
    somebody = actor()
    if somebody is None or somebody.sees_everything or state.is_insert:
        return
    seen = sets_with(somebody, somebody.need).subquery()
    ids = select(seen.c[0])

    def of_picture() -> Any:
        return select(_pictures.c.id).where(_pictures.c.set_id.in_(ids))

    criteria: list[tuple[Any, ColumnElement[bool]]] = [
        (PictureSet, PictureSet.id.in_(ids)),
        (Picture, Picture.set_id.in_(ids)),
        (Export, Export.picture_id.in_(of_picture())),
    ]
    state.statement = state.statement.options(
        *(with_loader_criteria(kind, rule, include_aliases=True) for kind, rule in criteria)
    )
