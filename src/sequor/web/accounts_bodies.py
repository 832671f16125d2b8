"""Bodies of accounts: signing in, links that work once, roles, the audit log."""

from datetime import datetime

from pydantic import BaseModel, Field

from sequor.store.acting import Role
from sequor.web.common_bodies import Body

_LONGEST_PASSWORD = 1000
"""What is longer is not even looked at."""


class SignInBody(Body):
    """A name and its password."""

    name: str = Field(min_length=1, max_length=60)
    password: str = Field(min_length=1, max_length=_LONGEST_PASSWORD)


class PersonOut(Body):
    """An account."""

    id: int
    name: str
    role: Role
    role_words: str
    made_at: datetime


class Me(Body):
    """Who asks: ``person`` is None for who started Sequor on this machine, and for strangers.

    ``served``: there are accounts; ``known``: more than signing in may be done; ``everything``: no
    set is hidden. ``csrf`` is named by changes, in the header ``X-CSRF-Token``. ``sign_on`` is
    the name of who else vouches for people, if anybody.
    """

    served: bool
    known: bool
    everything: bool
    makes_sets: bool
    person: PersonOut | None
    csrf: str
    sign_on: str
    shortest_password: int


class PasswordChange(Body):
    """The password of now, and another one."""

    old: str = Field(min_length=1, max_length=_LONGEST_PASSWORD)
    new: str = Field(min_length=1, max_length=_LONGEST_PASSWORD)


class SignInOut(Body):
    """A browser in which somebody is signed in; ``here`` is the one that asks."""

    id: int
    browser: str
    address: str
    made_at: datetime
    seen_at: datetime
    here: bool


class SignIns(Body):
    """All of somebody's, the last used first."""

    sign_ins: list[SignInOut]


class SignInPath(BaseModel):
    """A sign-in in an address."""

    sign_in_id: int


class PersonPath(BaseModel):
    """An account in an address."""

    person_id: int


class InvitationPath(BaseModel):
    """A link that works once, by its number."""

    invitation_id: int


class TokenPath(BaseModel):
    """A link by what lets somebody in."""

    token: str


class RoleChange(Body):
    """Another role."""

    role: Role


class InvitationOut(Body):
    """A link that nobody used yet: for a new account, or another password of that of ``name``."""

    id: int
    role: Role
    role_words: str
    name: str
    made_by: str
    until: datetime


class MadeInvitation(InvitationOut):
    """The same with the address, which is told only once."""

    path: str


class People(Body):
    """All accounts, and the links that nobody used yet."""

    people: list[PersonOut]
    invitations: list[InvitationOut]
    roles: list["RoleOption"]


class RoleOption(Body):
    """A role, and what it may do."""

    value: Role
    label: str
    about: str


class Accepted(Body):
    """What somebody who uses a link chooses; the name counts for new accounts only."""

    name: str = Field(default="", max_length=60)
    password: str = Field(min_length=1, max_length=_LONGEST_PASSWORD)


class DeedOut(Body):
    """A line of the audit log: ``words`` say what was done, ``about`` to what, by its names as they
    were then.
    """

    id: int
    at: datetime
    who: str
    what: str
    words: str
    about: str
    set_id: int | None
    picture_id: int | None
    facts: dict[str, object]


class Deeds(Body):
    """Lines of the audit log, the newest first."""

    deeds: list[DeedOut]


class DeedsQuery(BaseModel):
    """Which lines: those before one, those of an account."""

    before: int | None = Field(default=None, ge=1, le=2**63 - 1)
    person_id: int | None = Field(default=None, ge=1, le=2**31 - 1)
    limit: int = Field(default=100, ge=1, le=500)
