"""Sets shared with people, and shown to clients who have no account."""

from dataclasses import dataclass
from datetime import datetime
from typing import NamedTuple

from sqlalchemy.orm import Session

from sequor.core.errors import NotFound
from sequor.core.language import tr
from sequor.making.worker_cache import Corrected
from sequor.services.resources import Resources
from sequor.services.rights import Forbidden
from sequor.store import ledger, library, people, sharing
from sequor.store.acting import Actor, Right, actor
from sequor.store.models import Picture, PictureSet
from sequor.store.people_models import ClientLink, Comment, Person
from sequor.store.seen import right_in
from sequor.store.sharing import Shared
from sequor.store.sheet import Card, cards_of


@dataclass(frozen=True)
class LinkLine:
    """A link that shows a set: for whom, and until when."""

    id: int
    label: str
    made_at: datetime
    until: datetime


@dataclass(frozen=True)
class Sharing:
    """Whom a set belongs to, with whom it is shared, who else there is, whom it may be given to,
    and which links show it.
    """

    owner: str
    shared: list[Shared]
    others: list[Shared]
    takers: list[Person]
    links: list[LinkLine]


def sharing_of(resources: Resources, set_id: int) -> Sharing:
    """How a set is shared."""
    with resources.database.reading() as session:
        return _sharing(session, set_id)


def share(resources: Resources, set_id: int, person_id: int, right: Right) -> Sharing:
    """Let somebody do something with a set."""

    def change(session: Session) -> Sharing:
        sharing.share(session, set_id, person_id, right)
        return _sharing(session, set_id)

    return resources.database.write(change)


def share_no_more(resources: Resources, set_id: int, person_id: int) -> Sharing:
    """Take that back."""

    def change(session: Session) -> Sharing:
        sharing.share_no_more(session, set_id, person_id)
        return _sharing(session, set_id)

    return resources.database.write(change, small=True)


def give(resources: Resources, set_id: int, person_id: int) -> None:
    """Give a set to another account; who had it, if they are still there, may work on it and
    export as far as their role lets them.
    """

    def change(session: Session) -> None:
        found = library.get_set(session, set_id)
        person = people.find(session, person_id)
        if person.role == "guest":
            raise Forbidden(tr("{name} is a guest, who has no sets.", name=person.name))
        before = found.owner_id
        if any(one.person_id == person_id for one in sharing.shared_with(session, set_id)):
            sharing.share_no_more(session, set_id, person_id)
        found.owner_id = person_id
        session.flush()
        had = session.get(Person, before) if before not in (None, person_id) else None
        if had is not None and had.removed_at is None:
            most = Right.LOOK if had.role == "guest" else Right.EXPORT
            sharing.share(session, set_id, had.id, most)

    resources.database.write(change)


def make_link(
    resources: Resources, set_id: int, label: str, until: datetime
) -> tuple[LinkLine, str]:
    """A link that shows a set until a moment, and its token, which is told only now."""

    def change(session: Session) -> tuple[LinkLine, str]:
        made, token = sharing.make_link(session, set_id, label, until)
        return _line(made), token

    return resources.database.write(change)


def end_link(resources: Resources, set_id: int, link_id: int) -> Sharing:
    """Let a link work no more."""

    def change(session: Session) -> Sharing:
        if sharing.link_of(session, link_id).set_id != set_id:
            raise NotFound(tr("There is no such link."))
        sharing.end_link(session, link_id)
        return _sharing(session, set_id)

    return resources.database.write(change, small=True)


def client_of(resources: Resources, token: str) -> Actor:
    """Who looks by a link.

    Raises
    ------
    NotFound
        When the link works no more.
    """
    with resources.database.reading() as session:
        found = sharing.link_by(session, token)
    if found is None:
        raise NotFound(tr("This link works no more; ask who sent it for a new one."))
    return Actor(found.label, shown_set=found.set_id, link_id=found.id)


class Said(NamedTuple):
    """A note, and whether who acts may remove it."""

    comment: Comment
    removable: bool


@dataclass(frozen=True)
class ShownSet:
    """A set as a client sees it."""

    of: PictureSet
    cards: list[Card]
    favourites: set[int]
    said: list[Said]


def shown(resources: Resources) -> ShownSet:
    """The set that the link of who acts shows, with all versions of its pictures."""
    somebody = _client()
    with resources.database.reading() as session:
        found = library.get_set(session, somebody.shown_set or 0)
        cards = cards_of(session, found.id)
        said = _said(session, found.id, [card.id for card in cards])
        return ShownSet(found, cards, sharing.favourites_of(session, _link_id()), said)


def shown_picture(resources: Resources, picture_id: int, entry_id: int) -> Corrected:
    """A picture of the shown set as it holds.

    Raises
    ------
    NotFound
        When another entry holds by now: a client sees nothing of what was before.
    """
    with resources.database.reading() as session:
        picture = library.get_picture(session, picture_id)
        held = ledger.holding(session, picture)
        if entry_id != picture.head_id:
            raise NotFound(tr("The picture was changed; reload the page."))
        photo = library.photo_of(picture.original)
        return Corrected(picture.original_sha256, held.entry.recipe_hash, photo, held.recipe)


def mark(resources: Resources, picture_id: int, favourite: bool) -> None:
    """Mark a picture of the shown set as the client's favourite, or no more."""

    def change(session: Session) -> None:
        library.get_picture(session, picture_id)
        sharing.mark(session, _link_id(), picture_id, favourite)

    resources.database.write(change, small=True)


@dataclass(frozen=True)
class Words:
    """What is said on a place of a picture, in shares of its width and height."""

    x: float
    y: float
    words: str


def comment(resources: Resources, picture_id: int, said: Words) -> list[Said]:
    """Say something on a picture; all that is said on it and seen by who acts."""
    somebody = actor()

    def change(session: Session) -> list[Said]:
        picture = library.get_picture(session, picture_id)
        sharing.comment(
            session,
            Comment(
                picture_id=picture.id,
                person_id=somebody.person_id if somebody else None,
                link_id=somebody.link_id if somebody else None,
                author=somebody.name if somebody else "",
                x=said.x,
                y=said.y,
                words=said.words,
            ),
        )
        return _said_on(session, picture)

    return resources.database.write(change)


def comments_on(resources: Resources, picture_id: int) -> list[Said]:
    """What is said on a picture and seen by who acts."""
    with resources.database.reading() as session:
        return _said_on(session, library.get_picture(session, picture_id))


def take_comment_back(resources: Resources, comment_id: int) -> list[Said]:
    """Remove what was said: who said it may, and who may do everything with the set."""

    def change(session: Session) -> list[Said]:
        found = sharing.find_comment(session, comment_id)
        picture = library.get_picture(session, found.picture_id)
        removable = {one.comment.id: one.removable for one in _said_on(session, picture)}
        if not removable.get(found.id, False):
            raise Forbidden(tr("Only who wrote a note may remove it, and the set's owner."))
        session.delete(found)
        session.flush()
        return _said_on(session, picture)

    return resources.database.write(change, small=True)


@dataclass(frozen=True)
class Remarked:
    """Whose favourite a picture is, and how many notes there are on it."""

    favourite_of: list[str]
    notes: int


def remarks(resources: Resources, set_id: int) -> dict[int, Remarked]:
    """The pictures of a set on which anything was remarked."""
    with resources.database.reading() as session:
        found = library.get_set(session, set_id)
        names = sharing.favourites(session, found.id)
        counts = sharing.count_comments(session, found.id)
    return {
        number: Remarked(names.get(number, []), counts.get(number, 0))
        for number in sorted(names.keys() | counts.keys())
    }


def _said_on(session: Session, picture: Picture) -> list[Said]:
    return _said(session, picture.set_id, [picture.id])


def _said(session: Session, set_id: int, picture_ids: list[int]) -> list[Said]:
    """What is said on pictures of a set. A client sees their own words only; who may do everything
    with the set removes any.
    """
    somebody, said = actor(), sharing.comments_on(session, picture_ids)
    if somebody is None:
        return [Said(one, True) for one in said]
    if somebody.link_id is not None:
        return [Said(one, True) for one in said if one.link_id == somebody.link_id]
    owns = right_in(session, somebody, set_id) == Right.OWN
    return [
        Said(one, owns or (one.person_id is not None and one.person_id == somebody.person_id))
        for one in said
    ]


def _client() -> Actor:
    somebody = actor()
    if somebody is None or somebody.link_id is None:
        raise NotFound(tr("This link works no more; ask who sent it for a new one."))
    return somebody


def _link_id() -> int:
    return _client().link_id or 0


def _line(found: ClientLink) -> LinkLine:
    return LinkLine(found.id, found.label, found.made_at, found.until)


def _sharing(session: Session, set_id: int) -> Sharing:
    owner = sharing.owner_of(session, set_id)
    shared = sharing.shared_with(session, set_id)
    there = {one.person_id for one in shared}
    listed = [one for one in people.listed(session) if owner is None or one.id != owner.id]
    others = [
        Shared(one.id, one.name, Right.LOOK if one.role == "guest" else Right.OWN)
        for one in listed
        if one.id not in there and one.role != "owner"
    ]
    takers = [one for one in listed if one.role != "guest"]
    links = [_line(one) for one in sharing.links_of(session, set_id)]
    return Sharing(owner.name if owner else "", shared, others, takers, links)
