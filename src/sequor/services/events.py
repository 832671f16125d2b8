"""What happens to a picture or a set, told to those who look at it: changes of others, and who
else is there.

One server tells its own listeners; nothing of it lasts.
"""

import queue
import threading
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

_MOST = 40
"""Each listener holds one thread of the server (`web.door`), which has 96."""
_MOST_WAITING = 100
"""News that wait for a listener; one that takes none is ended, and asks again."""

Kind = Literal["picture", "set"]


class Subject(NamedTuple):
    """What somebody listens to."""

    kind: Kind
    number: int


class News(NamedTuple):
    """Something that happened: ``changed`` by somebody, or who is ``present`` now."""

    what: Literal["changed", "present"]
    who: tuple[str, ...]


@dataclass(eq=False)
class Listener:
    """Somebody who listens, in a window."""

    about: Subject
    name: str
    window: str
    waiting: "queue.Queue[News | None]" = field(default_factory=lambda: queue.Queue(_MOST_WAITING))

    def next(self, patience_s: float) -> News | None:
        """What is to be told next.

        Raises
        ------
        queue.Empty
            When there is nothing for so long.
        """
        return self.waiting.get(timeout=patience_s)


class Hub:
    """All who listen."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: list[Listener] = []
        self._stopped = False

    def listen(self, about: Subject, name: str, window: str) -> Listener | None:
        """Somebody listens from now on; None where there is no place for more."""
        made = Listener(about, name, window)
        with self._lock:
            if self._stopped or len(self._listeners) >= _MOST:
                return None
            self._listeners.append(made)
        self._tell_who_is_there(about)
        return made

    def leave(self, listener: Listener) -> None:
        """Somebody listens no more."""
        with self._lock:
            if listener in self._listeners:
                self._listeners.remove(listener)
        self._tell_who_is_there(listener.about)

    def tell_of_change(self, abouts: Iterable[Subject], who: str, window: str) -> None:
        """Somebody changed something, in a window that need not be told."""
        wanted = set(abouts)
        with self._lock:
            found = [one for one in self._listeners if one.about in wanted]
        for listener in found:
            if not window or listener.window != window:
                _put(listener, News("changed", (who,)))

    def stop(self) -> None:
        """The application ends."""
        with self._lock:
            self._stopped, found = True, list(self._listeners)
        for listener in found:
            _put(listener, None)

    def _tell_who_is_there(self, about: Subject) -> None:
        with self._lock:
            found = [one for one in self._listeners if one.about == about]
        for listener in found:
            others = {one.name for one in found if one.window != listener.window}
            _put(listener, News("present", tuple(sorted(others - {listener.name}))))


def _put(listener: Listener, news: News | None) -> None:
    try:
        listener.waiting.put_nowait(news)
    except queue.Full:  # it takes nothing: it is ended, and asks again
        while not listener.waiting.empty():
            listener.waiting.get_nowait()
        listener.waiting.put_nowait(None)
