"""Who acts: what a request does is done by somebody, who may see some sets and not others.

Somebody is named for as long as a request lasts. Where nobody is named, as in the program's own
work and in an installation without accounts, everything may be done and no author is written down.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Literal

Role = Literal["owner", "member", "guest"]
"""Of an account: an owner looks after everything, a member has sets of its own, a guest looks at
what is shared with it and comments on that."""


@dataclass
class PresentDeed:
    """What the present request does, as the audit log will have it: written once, with the first
    change that is kept.
    """

    what: str
    set_id: int | None = None
    picture_id: int | None = None
    facts: dict[str, object] = field(default_factory=dict)
    sets: frozenset[int] = frozenset()
    """The sets that it is about, known once it is noted."""
    told: "Callable[[PresentDeed, Actor], None] | None" = None
    """What is to know of it once it is kept."""
    written: bool = False


class Right(IntEnum):
    """What somebody may do with a set; each has those before it."""

    LOOK = 1
    WORK = 2
    EXPORT = 3
    OWN = 4


@dataclass(frozen=True)
class Actor:
    """Somebody who acts.

    Parameters
    ----------
    name : str
        As it is written down.
    person_id : int, optional
        The account.
    role : {"owner", "member", "guest"}
        Of the account; who looks by a link is a guest.
    shown_set : int, optional
        The only set that a link shows.
    link_id : int, optional
        The link.
    need : Right
        What is needed of the sets that the present request is about.
    deed : PresentDeed, optional
        What the request does, where that is written down.
    """

    name: str
    person_id: int | None = None
    role: Role = "guest"
    shown_set: int | None = None
    link_id: int | None = None
    need: Right = Right.LOOK
    deed: PresentDeed | None = None

    @property
    def sees_everything(self) -> bool:
        """Whether no set is hidden."""
        return self.role == "owner"


_ACTING: ContextVar[Actor | None] = ContextVar("acting", default=None)


def actor() -> Actor | None:
    """Who acts now; None for the program itself, and where there are no accounts."""
    return _ACTING.get()


def asker_of(person_id: int | None) -> str:
    """Whose work something is, as the workers are shared out by it; empty where nobody is known."""
    return f"person {person_id}" if person_id is not None else ""


def author_id() -> int | None:
    """The account of who acts now."""
    found = _ACTING.get()
    return found.person_id if found else None


def act_as(somebody: Actor | None) -> None:
    """From now on somebody else acts in this thread."""
    _ACTING.set(somebody)


@contextmanager
def acting(somebody: Actor | None) -> Iterator[None]:
    """Let somebody act for a while."""
    token = _ACTING.set(somebody)
    try:
        yield
    finally:
        _ACTING.reset(token)


@contextmanager
def seeing_everything() -> Iterator[None]:
    """Leave nothing out for a while: to tell what may be done from what there is."""
    with acting(None):
        yield
