"""Sets: listed, made, renamed, ordered, merged, split, thrown away."""

from sqlalchemy.orm import Session

from sequor.services.reply import Reply, T
from sequor.services.resources import Resources
from sequor.store import curating, library
from sequor.store.models import PictureSet
from sequor.store.sheet import Card, cards_of

SetLine = tuple[PictureSet, int]
"""A set, and how many pictures it has; versions of one count once."""


def list_sets(resources: Resources) -> list[SetLine]:
    """All sets, in their order."""
    with resources.database.reading() as session:
        return library.list_sets(session)


def contents(resources: Resources, set_id: int) -> tuple[PictureSet, list[Card]]:
    """A set with its pictures and their versions."""
    with resources.database.reading() as session:
        found = library.get_set(session, set_id)
        return found, cards_of(session, found.id)


def create_set(resources: Resources, name: str, reply: Reply[SetLine, T]) -> T:
    """Make a set."""
    return resources.database.write(lambda s: reply.to(s, (library.create_set(s, name), 0)))


def order_sets(resources: Resources, ids: list[int], reply: Reply[list[SetLine], T]) -> T:
    """Put sets into another order."""

    def change(session: Session) -> T:
        curating.order_sets(session, ids)
        return reply.to(session, library.list_sets(session))

    return resources.database.write(change, small=True)


def change_set(
    resources: Resources,
    set_id: int,
    name: str | None,
    description: str | None,
    reply: Reply[SetLine, T],
) -> T:
    """Give a set another name or description."""
    return resources.database.write(
        lambda s: reply.to(s, _counted(s, curating.change_set(s, set_id, name, description)))
    )


def bin_set(resources: Resources, set_id: int, reply: Reply[int, T]) -> T:
    """Throw a set into the bin, with everything in it."""

    def change(session: Session) -> T:
        curating.bin_set(session, set_id)
        return reply.to(session, 1)

    return resources.database.write(change, small=True)


def merge_sets(resources: Resources, set_id: int, into_id: int, reply: Reply[int, T]) -> T:
    """Move everything from a set into another one; the empty one goes into the bin."""
    return resources.database.write(lambda s: reply.to(s, curating.merge_sets(s, set_id, into_id)))


def split_set(
    resources: Resources, set_id: int, picture_ids: list[int], name: str, reply: Reply[SetLine, T]
) -> T:
    """Move some pictures of a set into a new one."""

    def change(session: Session) -> T:
        library.get_set(session, set_id)
        made = library.create_set(session, name)
        curating.move_pictures(session, picture_ids, made.id)
        return reply.to(session, _counted(session, made))

    return resources.database.write(change)


def _counted(session: Session, found: PictureSet) -> SetLine:
    return found, library.count_pictures(session, found.id)
