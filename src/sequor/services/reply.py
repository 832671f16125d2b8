"""How a change is answered: with what its caller makes of it, inside the transaction.

So nothing more has to be read once it is kept, and no refusal follows a commit. A request that
names itself by a key gets the same answer when it comes again: the answer is kept with the change.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

from sqlalchemy.orm import Session

from sequor.services.resources import Resources
from sequor.store.models import StoredAnswer

V = TypeVar("V")
T = TypeVar("T")


@dataclass(frozen=True)
class KeyedAnswer:
    """What was answered to a request: its key, a hash of what it asked, and the answer as it was
    sent.
    """

    key: str
    asked: str
    status: int
    body: bytes


@dataclass(frozen=True)
class Reply(Generic[V, T]):
    """Makes the answer to a change of what it led to.

    Attributes
    ----------
    make : callable
        Gets what the change led to, while all that it names can still be read.
    receipt : callable
        What of the answer is to be kept; None for a request without a key.
    """

    make: Callable[[V], T]
    receipt: Callable[[T], KeyedAnswer | None] = lambda made: None

    def to(self, session: Session, value: V) -> T:
        """The answer to a change that is about to be committed."""
        made = self.make(value)
        kept = self.receipt(made)
        if kept is not None:
            session.add(
                StoredAnswer(
                    request_key=kept.key, asked=kept.asked, status=kept.status, body=kept.body
                )
            )
        return made


def find_receipt(resources: Resources, key: str) -> KeyedAnswer | None:
    """What was answered before to the request of a key."""
    with resources.database.reading() as session:
        found = session.get(StoredAnswer, key)
        return KeyedAnswer(key, found.asked, found.status, found.body) if found else None
