"""Waiting for what other processes do: the one place where tests ask again and again."""

import time
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")
PATIENCE_S = 120.0
"""Longer than anything takes on a busy machine; what does not come by then is a fault."""
_AGAIN_S = 0.02


def until(what: Callable[[], T], patience_s: float = PATIENCE_S) -> T:
    """What comes of asking, as soon as it is something.

    Raises
    ------
    AssertionError
        When it never is.
    """
    deadline = time.monotonic() + patience_s
    while True:
        found = what()
        if found:
            return found
        assert time.monotonic() < deadline, "it did not come to that"
        time.sleep(_AGAIN_S)
