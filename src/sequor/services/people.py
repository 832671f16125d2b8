"""Accounts as they are asked for: signing in and out, links for new ones, roles."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.services import passwords
from sequor.store import deeds, people
from sequor.store.acting import Actor, Role, actor
from sequor.store.database import Database
from sequor.store.files import FileStore
from sequor.store.people_models import Deed, Person

MACHINE = "-"
"""Who acts from the machine itself, as it is stored."""


@dataclass(frozen=True)
class Client:
    """From where somebody signs in."""

    browser: str
    address: str


@dataclass(frozen=True)
class LetIn:
    """Somebody who was let in, and the token that does it from now on."""

    person: Person
    token: str


class NotLetIn(Exception):
    """The name or the password is wrong; which, is not said."""

    def __init__(self) -> None:
        super().__init__(tr("This name and password do not belong together."))


def actor_of(person: Person) -> Actor:
    """Who acts when somebody is signed in."""
    return Actor(person.name, person.id, person.role)


def sign_in(database: Database, name: str, password: str, client: Client) -> LetIn:
    """Let somebody in by a password.

    Raises
    ------
    NotLetIn
    """
    with database.reading() as session:
        found = people.by_name(session, name)
    if not passwords.is_right(found.password if found else None, password) or found is None:
        database.write(
            lambda s: deeds.note(
                s, "sign_in_refused", who=name or "?", facts={"address": client.address}
            ),
            small=True,
        )
        raise NotLetIn
    number, stored = found.id, found.password or ""

    def change(session: Session) -> LetIn:
        person = people.find(session, number)
        if passwords.is_outdated(stored):
            person.password = passwords.hashed(password)
        return let_in(session, person, client)

    return database.write(change, small=True)


def let_in(session: Session, person: Person, client: Client) -> LetIn:
    """Sign somebody in who is known by other means."""
    token = people.sign_in(session, person, client.browser, client.address)
    facts: dict[str, object] = {"address": client.address}
    deeds.note(session, "signed_in", who=person.name, person_id=person.id, facts=facts)
    return LetIn(person, token)


def note_account(session: Session, what: str, person: Person) -> None:
    """Write down what somebody does with their own account who is not let in yet."""
    facts: dict[str, object] = {"account": person.name}
    deeds.note(session, what, who=person.name, person_id=person.id, facts=facts)


def who_is(database: Database, token: str) -> Person | None:
    """Whom a token lets in, if anybody; that it is used is written down now and then."""
    with database.reading() as session:
        found = people.signed_in(session, token)
    if found is None:
        return None
    if people.is_to_be_noted(found):
        number = found.id
        database.write(lambda s: people.note_seen(s, number), small=True)
    return found.person


def sign_out(database: Database, token: str) -> None:
    """End the sign-in of a token."""

    def change(session: Session) -> None:
        found = people.signed_in(session, token)
        if found is not None:
            people.end_sign_in(session, found.person_id, found.id)

    database.write(change, small=True)


def change_password(database: Database, person_id: int, old: str, new: str, token: str) -> None:
    """Give an account another password, and end its other sign-ins.

    Raises
    ------
    NotLetIn
        When the old one is wrong.
    UnusableInput
        When the new one is not good enough.
    """
    with database.reading() as session:
        person = people.find(session, person_id)
    if not passwords.is_right(person.password, old):
        raise NotLetIn
    passwords.check(new, person.name)
    stored = passwords.hashed(new)

    def change(session: Session) -> None:
        people.find(session, person_id).password = stored
        people.end_all(session, person_id, but=token)

    database.write(change, small=True)


def create(database: Database, files: FileStore, name: str, role: Role, password: str) -> Person:
    """A new account, by who looks after the machine."""
    passwords.check(password, name)
    stored = passwords.hashed(password)

    def change(session: Session) -> Person:
        return people.create(session, name, role, stored)

    made = database.write(change)
    people.mark_served(files.root)
    return made


def reset(database: Database, name: str, password: str) -> None:
    """Give an account another password, by who looks after the machine; it is signed in nowhere
    then.
    """
    passwords.check(password, name)
    stored = passwords.hashed(password)

    def change(session: Session) -> None:
        person = named(session, name)
        person.password = stored
        people.end_all(session, person.id)

    database.write(change)


def remove(database: Database, person_id: int) -> list[Person]:
    """Remove an account; what it did and its sets stay."""

    def change(session: Session) -> list[Person]:
        people.remove(session, person_id)
        return people.listed(session)

    return database.write(change)


def named(session: Session, name: str) -> Person:
    """An account by its name.

    Raises
    ------
    UnusableInput
        When there is none.
    """
    found = people.by_name(session, name)
    if found is None:
        raise UnusableInput(tr("There is no account named {name}.", name=name))
    return found


def change_role(database: Database, person_id: int, role: Role) -> list[Person]:
    """Give an account another role; its sign-ins keep working with that."""

    def change(session: Session) -> list[Person]:
        people.change_role(session, person_id, role)
        return people.listed(session)

    return database.write(change)


def listed(database: Database) -> list[Person]:
    """All accounts."""
    with database.reading() as session:
        return people.listed(session)


@dataclass(frozen=True)
class SignInLine:
    """Somewhere that somebody is signed in; whether it is where this is asked from."""

    id: int
    browser: str
    address: str
    made_at: datetime
    seen_at: datetime
    here: bool


def sign_ins(database: Database, person_id: int, token: str) -> list[SignInLine]:
    """Where somebody is signed in."""
    own = people.hash_of(token)
    with database.reading() as session:
        return [
            SignInLine(
                one.id, one.browser, one.address, one.made_at, one.seen_at, one.token_hash == own
            )
            for one in people.sign_ins_of(session, person_id)
        ]


def end_sign_in(database: Database, person_id: int, sign_in_id: int) -> None:
    """End one of them."""
    database.write(lambda s: people.end_sign_in(s, person_id, sign_in_id), small=True)


@dataclass(frozen=True)
class InvitationLine:
    """A link that works once: for whom, and until when."""

    id: int
    role: Role
    name: str
    made_by: str
    until: datetime


def invite(database: Database, role: Role) -> tuple[InvitationLine, str]:
    """A link for a new account, and its token, which is told only now."""

    def change(session: Session) -> tuple[InvitationLine, str]:
        made, token = people.invite(session, role, _asking())
        return InvitationLine(made.id, role, "", made.made_by, made.until), token

    return database.write(change)


def invite_again(database: Database, person_id: int) -> tuple[InvitationLine, str]:
    """A link by which somebody gives themselves another password, and its token."""

    def change(session: Session) -> tuple[InvitationLine, str]:
        person = people.find(session, person_id)
        made, token = people.invite(session, person.role, _asking(), person_id)
        return InvitationLine(made.id, person.role, person.name, made.made_by, made.until), token

    return database.write(change)


def invitations(database: Database) -> list[InvitationLine]:
    """Links that nobody used yet."""
    with database.reading() as session:
        names = {one.id: one.name for one in people.listed(session)}
        return [
            InvitationLine(
                one.id, one.role, names.get(one.person_id or 0, ""), one.made_by, one.until
            )
            for one in people.open_invitations(session)
        ]


def withdraw(database: Database, invitation_id: int) -> None:
    """Let such a link work no more."""
    database.write(lambda s: people.withdraw(s, invitation_id), small=True)


def invitation(database: Database, token: str) -> InvitationLine:
    """What a link is for."""
    with database.reading() as session:
        found = people.invitation(session, token)
        name = people.find(session, found.person_id).name if found.person_id else ""
        return InvitationLine(found.id, found.role, name, found.made_by, found.until)


def accept(database: Database, token: str, name: str, password: str, client: Client) -> LetIn:
    """Use a link: make the account, or give it the other password, and let its person in.

    Raises
    ------
    NotFound
        When it works no more.
    UnusableInput
        When the name is taken or the password not good enough; the link works on.
    """
    known = invitation(database, token)
    passwords.check(password, known.name or name)
    stored = passwords.hashed(password)

    def change(session: Session) -> LetIn:
        found = people.invitation(session, token, locked=True)
        if found.person_id is None:
            person = people.create(session, name, found.role, stored)
            note_account(session, "account_made", person)
        else:
            person = people.find(session, found.person_id)
            person.password = stored
            people.end_all(session, person.id)
            note_account(session, "password_changed", person)
        people.withdraw(session, found.id)
        return let_in(session, person, client)

    return database.write(change)


def deeds_of(
    database: Database, before: int | None, limit: int, person_id: int | None
) -> list[Deed]:
    """Lines of the audit log, the newest first."""
    with database.reading() as session:
        return deeds.listed(session, before, limit, person_id)


def _asking() -> str:
    somebody = actor()
    return somebody.name if somebody else MACHINE
