"""The tables of people: accounts, what they are let in with, what is shared with whom, and who did
what.

Of everything that lets somebody in, only a hash is kept.
"""

from datetime import datetime

from sqlalchemy import (
    JSON,
    BigInteger,
    Computed,
    DateTime,
    Float,
    ForeignKey,
    Integer,
    String,
    UniqueConstraint,
)
from sqlalchemy.orm import Mapped, mapped_column, relationship

from sequor.store.acting import Role
from sequor.store.models import Base, now


class Person(Base):
    """An account. ``password`` is an Argon2id hash, None where somebody else vouches for the
    person: ``vouched`` is then who (issuer and subject of OpenID Connect). One that was removed
    stays as the author of what it did; its name is free again.
    """

    __tablename__ = "people"
    __table_args__ = (UniqueConstraint("name", "there", name="uq_people_name_there"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    role: Mapped[Role] = mapped_column(String(8))
    password: Mapped[str | None] = mapped_column(String(200))
    vouched: Mapped[str | None] = mapped_column(String(400), unique=True)
    made_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    removed_at: Mapped[datetime | None] = mapped_column(DateTime)
    there: Mapped[int | None] = mapped_column(
        Integer, Computed("IF(removed_at IS NULL, 1, NULL)", persisted=True)
    )


class SignIn(Base):
    """A browser in which somebody signed in, until it is ended or was not used for long."""

    __tablename__ = "sign_ins"

    id: Mapped[int] = mapped_column(primary_key=True)
    token_hash: Mapped[str] = mapped_column(String(64), unique=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("people.id"), index=True)
    browser: Mapped[str] = mapped_column(String(200))
    address: Mapped[str] = mapped_column(String(64))
    made_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    seen_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    ended_at: Mapped[datetime | None] = mapped_column(DateTime)
    person: Mapped[Person] = relationship(lazy="joined", innerjoin=True)


class Invitation(Base):
    """A link that works once: for a new account of a role, or, with ``person_id``, for another
    password of one that there is.
    """

    __tablename__ = "invitations"

    id: Mapped[int] = mapped_column(primary_key=True)
    token_hash: Mapped[str] = mapped_column(String(64), unique=True)
    role: Mapped[Role] = mapped_column(String(8))
    person_id: Mapped[int | None] = mapped_column(ForeignKey("people.id"))
    made_by: Mapped[str] = mapped_column(String(60))
    made_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    until: Mapped[datetime] = mapped_column(DateTime)
    used_at: Mapped[datetime | None] = mapped_column(DateTime)


class Share(Base):
    """What a person may do with a set of another one's: a `Right`."""

    __tablename__ = "shares"

    set_id: Mapped[int] = mapped_column(
        ForeignKey("picture_sets.id", ondelete="CASCADE"), primary_key=True
    )
    person_id: Mapped[int] = mapped_column(ForeignKey("people.id"), primary_key=True, index=True)
    right: Mapped[int] = mapped_column("may", Integer)


class ClientLink(Base):
    """A link that shows one set to somebody without an account, until a day."""

    __tablename__ = "client_links"

    id: Mapped[int] = mapped_column(primary_key=True)
    token_hash: Mapped[str] = mapped_column(String(64), unique=True)
    set_id: Mapped[int] = mapped_column(
        ForeignKey("picture_sets.id", ondelete="CASCADE"), index=True
    )
    label: Mapped[str] = mapped_column(String(60))
    made_at: Mapped[datetime] = mapped_column(DateTime, default=now)
    until: Mapped[datetime] = mapped_column(DateTime)
    ended_at: Mapped[datetime | None] = mapped_column(DateTime)


class Favourite(Base):
    """A picture that a client marked."""

    __tablename__ = "favourites"

    link_id: Mapped[int] = mapped_column(
        ForeignKey("client_links.id", ondelete="CASCADE"), primary_key=True
    )
    picture_id: Mapped[int] = mapped_column(
        ForeignKey("pictures.id", ondelete="CASCADE"), primary_key=True, index=True
    )
    made_at: Mapped[datetime] = mapped_column(DateTime, default=now)


class Comment(Base):
    """Words on a place of a picture, in shares of the corrected frame's width and height; of a
    person, or of a client by a link.
    """

    __tablename__ = "comments"

    id: Mapped[int] = mapped_column(primary_key=True)
    picture_id: Mapped[int] = mapped_column(
        ForeignKey("pictures.id", ondelete="CASCADE"), index=True
    )
    person_id: Mapped[int | None] = mapped_column(ForeignKey("people.id"))
    link_id: Mapped[int | None] = mapped_column(ForeignKey("client_links.id", ondelete="SET NULL"))
    author: Mapped[str] = mapped_column(String(60))
    x: Mapped[float] = mapped_column(Float)
    y: Mapped[float] = mapped_column(Float)
    words: Mapped[str] = mapped_column(String(1000))
    made_at: Mapped[datetime] = mapped_column(DateTime, default=now)


class Deed(Base):
    """A line of the audit log: who did what, when, to what. The database lets no line be changed or
    deleted. Numbers and names are those of then, whatever became of what they name.
    """

    __tablename__ = "deeds"

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    at: Mapped[datetime] = mapped_column(DateTime, default=now, index=True)
    who: Mapped[str] = mapped_column(String(60))
    person_id: Mapped[int | None] = mapped_column(Integer, index=True)
    what: Mapped[str] = mapped_column(String(40))
    set_id: Mapped[int | None] = mapped_column(Integer, index=True)
    picture_id: Mapped[int | None] = mapped_column(Integer, index=True)
    facts: Mapped[dict[str, object] | None] = mapped_column(JSON(none_as_null=True))
