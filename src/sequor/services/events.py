"""What happens to a picture or a set, told to those who look at it: changes of others, and who
else is there.

Each server tells its own listeners, and the other servers; nothing of it lasts.
"""

import queue
import threading
import time
import uuid
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal, NamedTuple

from sequor.services.servers import Message, OneServer, Servers

_MOST = 40
"""Each listener holds one thread of the server (`web.door`), which has 96."""
_MOST_WAITING = 100
"""News that wait for a listener; one that takes none is ended, and asks again."""

_FORGOTTEN_S = 30.0
"""Who is there by another server is so no more when that says nothing for so long."""

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


class _There(NamedTuple):
    """Somebody who is there, in a window, by another server."""

    name: str
    window: str


class Hub:
    """All who listen.

    Parameters
    ----------
    servers : Servers, optional
        By which the other servers hear what this one does.
    """

    def __init__(self, servers: Servers | None = None) -> None:
        self._servers = servers or OneServer()
        self._lock = threading.Lock()
        self._listeners: list[Listener] = []
        self._elsewhere: dict[tuple[Subject, str], tuple[float, tuple[_There, ...]]] = {}
        self._stopped = False
        self._name = uuid.uuid4().hex
        self._servers.on("changed", self._others_changed)
        self._servers.on("present", self._others_are_there)

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
        self._servers.tell(
            "changed", {"abouts": [list(one) for one in wanted], "who": who, "window": window}
        )
        self._tell_here(wanted, who, window)

    def _tell_here(self, wanted: set[Subject], who: str, window: str) -> None:
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
        self.say_who_is_here(about)
        self._tell_here_who_is_there(about)

    def say_who_is_here(self, about: Subject) -> None:
        """Tell other servers who listens here, now and then, so that they go on knowing it."""
        with self._lock:
            here = [[one.name, one.window] for one in self._listeners if one.about == about]
        self._servers.tell("present", {"about": list(about), "server": self._name, "there": here})

    def _tell_here_who_is_there(self, about: Subject) -> None:
        before = time.monotonic() - _FORGOTTEN_S
        with self._lock:
            here = [one for one in self._listeners if one.about == about]
            there = [_There(one.name, one.window) for one in here]
            for (subject, _), (heard_s, others) in self._elsewhere.items():
                if subject == about and heard_s > before:
                    there += others
        for listener in here:
            names = {one.name for one in there if one.window != listener.window}
            _put(listener, News("present", tuple(sorted(names - {listener.name}))))

    def _others_changed(self, message: Message) -> None:
        abouts = {Subject(*one) for one in message["abouts"]}
        self._tell_here(abouts, message["who"], message["window"])

    def _others_are_there(self, message: Message) -> None:
        about = Subject(*message["about"])
        there = tuple(_There(*one) for one in message["there"])
        place, now = (about, message["server"]), time.monotonic()
        with self._lock:
            known = self._elsewhere.pop(place, (0.0, ()))[1]
            if there:
                self._elsewhere[place] = now, there
            for old in [key for key, (s, _) in self._elsewhere.items() if s < now - _FORGOTTEN_S]:
                del self._elsewhere[old]
        if there != known:
            self._tell_here_who_is_there(about)


def _put(listener: Listener, news: News | None) -> None:
    try:
        listener.waiting.put_nowait(news)
    except queue.Full:  # it takes nothing: it is ended, and asks again
        while not listener.waiting.empty():
            listener.waiting.get_nowait()
        listener.waiting.put_nowait(None)
