"""Sets shared with people, and shown to clients by links: what is stored of that."""

from datetime import datetime
from typing import NamedTuple

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.language import tr
from sequor.store import people
from sequor.store.acting import Right
from sequor.store.library import clean_name, get_set
from sequor.store.models import Picture, now
from sequor.store.people_models import ClientLink, Comment, Favourite, Person, Share

_MOST_COMMENTS = 500
"""On a picture."""


class Shared(NamedTuple):
    """Somebody with whom a set is shared, and what they may do."""

    person_id: int
    name: str
    right: Right


def owner_of(session: Session, set_id: int) -> Person | None:
    """Whom a set belongs to; None where it was made before there were accounts."""
    owner_id = get_set(session, set_id).owner_id
    return None if owner_id is None else session.get(Person, owner_id)


def shared_with(session: Session, set_id: int) -> list[Shared]:
    """With whom a set is shared, by name."""
    query = (
        select(Person.id, Person.name, Share.right)
        .join(Share, Share.person_id == Person.id)
        .where(Share.set_id == set_id, Person.there == 1)
        .order_by(Person.name)
    )
    return [Shared(number, name, Right(may)) for number, name, may in session.execute(query)]


def share(session: Session, set_id: int, person_id: int, right: Right) -> None:
    """Let somebody do something with a set, in the place of what they might before."""
    owner_id = get_set(session, set_id).owner_id
    person = people.find(session, person_id)
    if owner_id == person_id:
        raise UnusableInput(tr("The set belongs to {name}.", name=person.name))
    if person.role == "guest" and right > Right.LOOK:
        raise UnusableInput(tr("{name} is a guest, who may only look.", name=person.name))
    session.merge(Share(set_id=set_id, person_id=person_id, right=int(right)))
    session.flush()


def share_no_more(session: Session, set_id: int, person_id: int) -> None:
    """Take back what somebody might do with a set."""
    found = session.get(Share, (set_id, person_id))
    if found is None:
        raise NotFound(tr("The set is not shared with this account."))
    session.delete(found)
    session.flush()


def links_of(session: Session, set_id: int) -> list[ClientLink]:
    """The links that show a set and still work, the newest first."""
    query = select(ClientLink).where(
        ClientLink.set_id == set_id, ClientLink.ended_at.is_(None), ClientLink.until > now()
    )
    return list(session.scalars(query.order_by(ClientLink.id.desc())))


def make_link(session: Session, set_id: int, label: str, until: datetime) -> tuple[ClientLink, str]:
    """A link that shows a set until a moment, and its token."""
    get_set(session, set_id)
    label = clean_name(label, "")[:60]
    if not label:
        raise UnusableInput(tr("Say for whom the link is."))
    if until <= now():
        raise UnusableInput(tr("The last day of the link is over already."))
    token = people.new_token()
    made = ClientLink(token_hash=people.hash_of(token), set_id=set_id, label=label, until=until)
    session.add(made)
    session.flush()
    return made, token


def link_of(session: Session, link_id: int) -> ClientLink:
    """A link by its number."""
    found = session.get(ClientLink, link_id)
    if found is None:
        raise NotFound(tr("There is no such link."))
    return found


def link_by(session: Session, token: str) -> ClientLink | None:
    """The link of a token, while it works."""
    query = select(ClientLink).where(ClientLink.token_hash == people.hash_of(token))
    found = session.scalar(query)
    good = found is not None and found.ended_at is None and found.until > now()
    return found if good else None


def end_link(session: Session, link_id: int) -> ClientLink:
    """Let a link work no more; what its client said stays."""
    found = link_of(session, link_id)
    found.ended_at = found.ended_at or now()
    return found


def mark(session: Session, link_id: int, picture_id: int, favourite: bool) -> None:
    """Mark a picture as a client's favourite, or no more."""
    if favourite:
        session.merge(Favourite(link_id=link_id, picture_id=picture_id))
    else:
        found = session.get(Favourite, (link_id, picture_id))
        if found is not None:
            session.delete(found)
    session.flush()


def favourites(session: Session, set_id: int) -> dict[int, list[str]]:
    """By the numbers of pictures of a set, whose favourites they are."""
    query = (
        select(Favourite.picture_id, ClientLink.label)
        .join(ClientLink, ClientLink.id == Favourite.link_id)
        .where(ClientLink.set_id == set_id)
        .order_by(Favourite.picture_id, ClientLink.label)
    )
    found: dict[int, list[str]] = {}
    for picture_id, label in session.execute(query):
        found.setdefault(picture_id, []).append(label)
    return found


def favourites_of(session: Session, link_id: int) -> set[int]:
    """The numbers of the pictures that a client marked."""
    query = select(Favourite.picture_id).where(Favourite.link_id == link_id)
    return set(session.scalars(query))


def comments_on(session: Session, picture_ids: list[int]) -> list[Comment]:
    """What was said on pictures, in the order in which it was said."""
    query = select(Comment).where(Comment.picture_id.in_(picture_ids)).order_by(Comment.id)
    return list(session.scalars(query))


def count_comments(session: Session, set_id: int) -> dict[int, int]:
    """By the numbers of pictures of a set, how much was said on them."""
    query = (
        select(Comment.picture_id, func.count())
        .join(Picture, Picture.id == Comment.picture_id)
        .where(Picture.set_id == set_id)
        .group_by(Comment.picture_id)
    )
    return dict(session.execute(query).all())


def comment(session: Session, said: Comment) -> Comment:
    """Leave words on a place of a picture.

    Raises
    ------
    UnusableInput
        When there are no words, or very many on this picture already.
    """
    said.words = said.words.strip()
    if not said.words:
        raise UnusableInput(tr("Nothing was written."))
    if len(comments_on(session, [said.picture_id])) >= _MOST_COMMENTS:
        raise UnusableInput(tr("There are very many notes on this picture; remove some."))
    session.add(said)
    session.flush()
    return said


def find_comment(session: Session, comment_id: int) -> Comment:
    """A comment by its number."""
    found = session.get(Comment, comment_id)
    if found is None:
        raise NotFound(tr("There is no such note."))
    return found
