"""Accounts: made, found, let in, removed. Of what lets somebody in, only a hash is stored."""

import hashlib
import secrets
from datetime import datetime, timedelta
from pathlib import Path

from sqlalchemy import Select, delete, func, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from sequor.core.errors import NotFound, UnusableInput
from sequor.core.language import tr
from sequor.store.acting import Role
from sequor.store.library import clean_name
from sequor.store.models import ENDED, Export, Original, Picture, PictureSet, now
from sequor.store.people_models import Invitation, Person, SignIn

IDLE, LONGEST = timedelta(days=14), timedelta(days=90)
"""A sign-in ends when it was not used for so long, and after so long in any case."""
_SEEN_EVERY = timedelta(minutes=5)
INVITED = timedelta(days=7)
RESET = timedelta(days=1)
"""So long a link for a new account works, and one for another password."""
_MARK = "served"


def new_token() -> str:
    """Something that nobody guesses: 32 bytes of the system's randomness."""
    return secrets.token_urlsafe(32)


def hash_of(token: str) -> str:
    """A token as it is stored; it has too much randomness to be found by trying."""
    return hashlib.sha256(token.encode()).hexdigest()


def mark_served(data: Path) -> None:
    """Write down beside the data that there are accounts: the door asks no database."""
    (data / _MARK).touch()


def is_served(data: Path) -> bool:
    """Whether there are accounts."""
    return (data / _MARK).exists()


def any_owner(session: Session) -> bool:
    """Whether an owner has an account."""
    return session.scalar(_owners()) != 0


def create(
    session: Session,
    name: str,
    role: Role,
    password: str | None = None,
    vouched: str | None = None,
) -> Person:
    """A new account.

    Parameters
    ----------
    password : str, optional
        The hash of one.
    vouched : str, optional
        Who vouches for the person.

    Raises
    ------
    UnusableInput
        When the name is taken.
    """
    name = clean_name(name, "")[:60]
    if not name:
        raise UnusableInput(tr("An account needs a name."))
    made = Person(name=name, role=role, password=password, vouched=vouched)
    session.add(made)
    try:
        session.flush()
    except IntegrityError as problem:
        raise UnusableInput(tr("The name {name} is taken.", name=name)) from problem
    return made


def listed(session: Session) -> list[Person]:
    """All accounts, by name."""
    return list(
        session.scalars(select(Person).where(Person.there == 1).order_by(Person.name, Person.id))
    )


def find(session: Session, person_id: int) -> Person:
    """An account by its number."""
    found = session.get(Person, person_id)
    if found is None or found.removed_at is not None:
        raise NotFound(tr("There is no such account."))
    return found


def by_name(session: Session, name: str) -> Person | None:
    """An account by its name."""
    return session.scalar(select(Person).where(Person.name == name.strip(), Person.there == 1))


def by_voucher(session: Session, vouched: str) -> Person | None:
    """An account by who vouches for it; also one that was removed, so that it is not made anew."""
    return session.scalar(select(Person).where(Person.vouched == vouched))


def change_role(session: Session, person_id: int, role: Role) -> Person:
    """Give an account another role."""
    found = find(session, person_id)
    if role != "owner":
        _keep_an_owner(session, found)
    found.role = role
    return found


def remove(session: Session, person_id: int) -> Person:
    """Remove an account: it lets nobody in any more; what it did and its sets stay."""
    found = find(session, person_id)
    _keep_an_owner(session, found)
    found.removed_at, found.password = now(), None
    end_all(session, person_id)
    return found


def _keep_an_owner(session: Session, going: Person) -> None:
    # Locked, so that two owners do not remove each other at the same moment.
    owners = session.scalars(
        select(Person.id).where(Person.there == 1, Person.role == "owner").with_for_update()
    ).all()
    if going.role == "owner" and len(owners) < 2:
        raise UnusableInput(
            tr("{name} is the only owner; make another one first.", name=going.name)
        )


def _owners() -> Select[int]:
    return select(func.count()).select_from(Person).where(Person.there == 1, Person.role == "owner")


def sign_in(session: Session, person: Person, browser: str, address: str) -> str:
    """Let somebody in; the token of it."""
    token = new_token()
    session.add(
        SignIn(
            token_hash=hash_of(token),
            person_id=person.id,
            browser=clean_name(browser, "")[:200],
            address=address[:64],
        )
    )
    session.flush()
    return token


def signed_in(session: Session, token: str) -> SignIn | None:
    """Whom a token lets in, if anybody."""
    found = session.scalar(select(SignIn).where(SignIn.token_hash == hash_of(token)))
    return found if found is not None and _is_good(found) else None


def is_to_be_noted(found: SignIn) -> bool:
    """Whether it is time to write down that it is still used."""
    return now() - found.seen_at > _SEEN_EVERY


def note_seen(session: Session, sign_in_id: int) -> None:
    """Write down that a sign-in was used just now."""
    session.execute(update(SignIn).where(SignIn.id == sign_in_id).values(seen_at=now()))


def sign_ins_of(session: Session, person_id: int) -> list[SignIn]:
    """Where somebody is signed in, the last used first."""
    query = select(SignIn).where(SignIn.person_id == person_id, SignIn.ended_at.is_(None))
    rows = session.scalars(query.order_by(SignIn.seen_at.desc(), SignIn.id.desc()))
    return [one for one in rows if _is_good(one)]


def end_sign_in(session: Session, person_id: int, sign_in_id: int) -> None:
    """End one of somebody's."""
    found = session.get(SignIn, sign_in_id)
    if found is None or found.person_id != person_id:
        raise NotFound(tr("There is no such sign-in."))
    found.ended_at = found.ended_at or now()


def end_all(session: Session, person_id: int, but: str | None = None) -> None:
    """End all of somebody's, but for that of a token."""
    ending = update(SignIn).where(SignIn.person_id == person_id, SignIn.ended_at.is_(None))
    if but is not None:
        ending = ending.where(SignIn.token_hash != hash_of(but))
    session.execute(ending.values(ended_at=now()))


def _is_good(found: SignIn) -> bool:
    at = now()
    return (
        found.ended_at is None
        and found.person.removed_at is None
        and at - found.seen_at < IDLE
        and at - found.made_at < LONGEST
    )


def invite(
    session: Session, role: Role, made_by: str, person_id: int | None = None
) -> tuple[Invitation, str]:
    """A link that works once, and its token."""
    token = new_token()
    lasts = INVITED if person_id is None else RESET
    made = Invitation(
        token_hash=hash_of(token),
        role=role,
        person_id=person_id,
        made_by=made_by,
        until=now() + lasts,
    )
    session.add(made)
    session.flush()
    return made, token


def open_invitations(session: Session) -> list[Invitation]:
    """Links that were not used yet, the newest first."""
    query = select(Invitation).where(Invitation.used_at.is_(None), Invitation.until > now())
    return list(session.scalars(query.order_by(Invitation.id.desc())))


def invitation(session: Session, token: str, locked: bool = False) -> Invitation:
    """The link of a token.

    Raises
    ------
    NotFound
        When it was used, withdrawn, or is too old.
    """
    query = select(Invitation).where(Invitation.token_hash == hash_of(token))
    found = session.scalar(query.with_for_update() if locked else query)
    if found is None or found.used_at is not None or found.until < now():
        raise NotFound(tr("This link works no more; ask for a new one."))
    return found


def withdraw(session: Session, invitation_id: int) -> None:
    """Let a link work no more."""
    found = session.get(Invitation, invitation_id)
    if found is None or found.used_at is not None:
        raise NotFound(tr("There is no such link."))
    found.used_at = now()


def exports_waiting(session: Session, person_id: int) -> int:
    """How many exports of somebody have not ended."""
    query = select(func.count()).select_from(Export)
    mine = query.where(Export.author_id == person_id, Export.state.not_in(ENDED))
    return session.scalar(mine) or 0


def space_of(session: Session, person_id: int) -> int:
    """Bytes of the originals in all sets of somebody, the bin among them."""
    hashes = (
        select(Picture.original_sha256)
        .join(PictureSet, PictureSet.id == Picture.set_id)
        .where(PictureSet.owner_id == person_id)
    )
    size = session.scalar(select(func.sum(Original.byte_size)).where(Original.sha256.in_(hashes)))
    return int(size or 0)


def forget_old(session: Session, before: datetime) -> None:
    """Let sign-ins and links go that ended long ago."""
    for kind in (SignIn, Invitation):
        session.execute(delete(kind).where(kind.made_at < before))
