"""What is seen of the tables by who acts (`acting`): every query for sets, pictures and exports
leaves out those of sets in which the actor has not the right that the request needs.

So a query that forgets to ask finds too little, and nothing of another's. What is said to who lacks
a right is said before that (`sequor.web.rights`).
"""

from typing import Any

from sqlalchemy import ColumnElement, Select, Subquery, event, func, literal, select, union_all
from sqlalchemy.orm import ORMExecuteState, Session, sessionmaker, with_loader_criteria

from sequor.store.acting import Actor, Right, actor
from sequor.store.models import Export, Picture, PictureSet
from sequor.store.people_models import Share

_sets, _shares = PictureSet.__table__, Share.__table__
_pictures = Picture.__table__


def watch_over(maker: sessionmaker[Session]) -> None:
    """Let every session of a factory leave out what is not seen."""
    event.listen(maker, "do_orm_execute", _leave_out)


def sets_with(somebody: Actor, need: Right) -> Select[int]:
    """The numbers of the sets in which somebody has a right, as a query."""
    found = _rights_of(somebody)
    return select(found.c.set_id).where(found.c.may >= need)


def right_in(session: Session, somebody: Actor, set_id: int) -> Right | None:
    """What somebody may do with a set; None where it is not seen."""
    if somebody.sees_everything:
        return Right.OWN
    found = _rights_of(somebody)
    may = session.execute(select(func.max(found.c.may)).where(found.c.set_id == set_id)).scalar()
    return None if may is None else Right(may)


def right_here(session: Session, set_id: int) -> Right:
    """What who acts may do with a set that is seen."""
    somebody = actor()
    if somebody is None:
        return Right.OWN
    return right_in(session, somebody, set_id) or Right.LOOK


def _rights_of(somebody: Actor) -> Subquery:
    """The sets that somebody sees, and what they may do there: a member has their own and what is
    shared, a guest looks at what is shared, whatever it was shared for, and a client at one.
    """
    if somebody.shown_set is not None:
        shown = select(_sets.c.id.label("set_id"), _just(Right.LOOK))
        return shown.where(_sets.c.id == somebody.shown_set).subquery()
    member = somebody.role == "member"
    shared = select(_shares.c.set_id, _shares.c.may if member else _just(Right.LOOK))
    shared = shared.where(_shares.c.person_id == somebody.person_id)
    if not member:
        return shared.subquery()
    own = select(_sets.c.id, _just(Right.OWN)).where(_sets.c.owner_id == somebody.person_id)
    return union_all(shared, own).subquery()


def _just(right: Right) -> ColumnElement[int]:
    return literal(int(right)).label("may")


def _leave_out(state: ORMExecuteState) -> None:
    somebody = actor()
    if somebody is None or somebody.sees_everything or state.is_insert:
        return
    ids = sets_with(somebody, somebody.need)
    pictures = select(_pictures.c.id).where(_pictures.c.set_id.in_(ids))
    criteria: list[tuple[Any, ColumnElement[bool]]] = [
        (PictureSet, PictureSet.id.in_(ids)),
        (Picture, Picture.set_id.in_(ids)),
        (Export, Export.picture_id.in_(pictures)),
    ]
    state.statement = state.statement.options(
        *(with_loader_criteria(kind, rule, include_aliases=True) for kind, rule in criteria)
    )
