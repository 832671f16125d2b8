"""What several servers of one installation share while they run: what they tell each other, what
only one of them may do at a time, and which of them keeps house.

A server that is alone tells itself and keeps house. Where there are several, all of this goes by
Redis (`services.by_redis`). Nothing of it lasts: what must not be lost is in the database.
"""

import threading
from collections.abc import Callable
from contextlib import AbstractContextManager
from typing import Any, Literal, Protocol

from sequor.core.language import tr

Topic = Literal["changed", "present", "exports", "came_in", "forgotten"]
Message = dict[str, Any]
"""What is told; it is JSON on its way."""


class ServersAway(Exception):
    """What the servers share does not answer, so that it is not known what the others do."""

    def __init__(self) -> None:
        super().__init__(
            tr(
                "Sequor's servers cannot speak to each other at the moment; nothing was changed. "
                "Ask again in a few seconds."
            )
        )


class Servers(Protocol):
    """What a server shares with the others."""

    @property
    def several(self) -> bool:
        """Whether there may be other servers."""

    @property
    def keeps_house(self) -> bool:
        """Whether this is the server that hands out exports, reads pictures and cleans up."""

    @property
    def deposed(self) -> bool:
        """Whether another one took over keeping house while this one could not be reached."""

    def wait_for_house(self, patience_s: float) -> bool:
        """Wait until this server keeps house; whether it does."""

    @property
    def emptying(self) -> AbstractContextManager[object]:
        """Held while originals are put down or removed, so that none is removed that just came."""

    def tell(self, topic: Topic, message: Message) -> None:
        """Tell the other servers; it may get lost."""

    def on(self, topic: Topic, told: Callable[[Message], None]) -> None:
        """Hear of what other servers tell."""

    def start(self) -> None:
        """Begin to hear, and to stand for keeping house."""

    def stop(self) -> None:
        """End."""


class OneServer:
    """There is one server."""

    several, keeps_house, deposed = False, True, False

    def __init__(self) -> None:
        self.emptying = threading.Lock()

    def wait_for_house(self, patience_s: float) -> bool:
        """It is this one."""
        return True

    def tell(self, topic: Topic, message: Message) -> None:
        """There is nobody else."""

    def on(self, topic: Topic, told: Callable[[Message], None]) -> None:
        """There is nobody else."""

    def start(self) -> None:
        """There is nothing to do."""

    def stop(self) -> None:
        """There is nothing to do."""
