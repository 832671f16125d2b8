"""What was made is kept while it fits a budget in bytes; the least used goes first."""

import threading
from collections.abc import Callable, Hashable
from contextlib import suppress
from typing import Generic, TypeVar

import cachetools

Value = TypeVar("Value")


class ByteCache(Generic[Value]):
    """Values by key, as many as a budget in bytes holds; one caller makes a value, others wait.

    Parameters
    ----------
    budget : int
        Bytes.
    size_of : callable
        Bytes of a value; one larger than the budget is made and not kept.
    """

    def __init__(self, budget: int, size_of: Callable[[Value], int]) -> None:
        self._kept: cachetools.LRUCache[Hashable, Value] = cachetools.LRUCache(budget, size_of)
        self._lock = threading.RLock()
        self._making: dict[Hashable, threading.Lock] = {}

    def get(self, key: Hashable, make: Callable[[], Value]) -> Value:
        """The value of a key, made if it is not kept."""
        with self._lock:
            if key in self._kept:
                return self._kept[key]
            making = self._making.setdefault(key, threading.Lock())
        with making:
            with self._lock:
                if key in self._kept:
                    return self._kept[key]
            try:
                value = make()
                self.put(key, value)
            finally:
                with self._lock:
                    self._making.pop(key, None)
        return value

    def find(self, key: Hashable) -> Value | None:
        """The value of a key, if it is kept."""
        with self._lock:
            return self._kept.get(key)

    def taken(self) -> tuple[int, int, int]:
        """How many values are kept, their bytes, and the budget."""
        with self._lock:
            kept = self._kept
            return len(kept), int(kept.currsize), int(kept.maxsize)

    def clear(self) -> None:
        """Keep nothing of what was made."""
        with self._lock:
            self._kept.clear()

    def put(self, key: Hashable, value: Value) -> None:
        """Keep a value, if it fits at all."""
        with self._lock, suppress(ValueError):
            self._kept[key] = value
