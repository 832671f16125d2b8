"""What is known of who has a picture in the hand, remembered for a moment: a drag asks the same
dozens of times a second, and each time the database would say the same.

Whatever this server writes makes it forget at once; what another server, or the command line,
changes counts a second later.
"""

import threading
from collections.abc import Callable, Hashable
from typing import TypeVar

import cachetools

from sequor.store.database import Database

_MOMENT_S, _MOST = 1.0, 1024
Value = TypeVar("Value")


class Moments:
    """Answers by what was asked, for a second.

    Parameters
    ----------
    database : Database
        Its changes end what is remembered.
    """

    def __init__(self, database: Database) -> None:
        self._database = database
        self._kept: cachetools.TTLCache[Hashable, object] = cachetools.TTLCache(_MOST, _MOMENT_S)
        self._lock = threading.Lock()

    def get(self, key: Hashable, ask: Callable[[], Value]) -> Value:
        """What was answered a moment ago, or is answered now; what raises is not remembered."""
        key = self._database.latest, key
        with self._lock:
            if key in self._kept:
                return self._kept[key]  # type: ignore[return-value]
        value = ask()
        with self._lock:
            self._kept[key] = value
        return value
