"""What several servers share, by Redis (`services.servers`)."""

import json
import logging
import queue
import threading
import time
import uuid
from collections import defaultdict
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager, suppress
from typing import Any

import redis

from sequor.services.servers import Message, ServersAway, Topic
from sequor.work.far.scripts import LEAVE, RENEW
from sequor.work.far.talking import client_of

log = logging.getLogger(__name__)
_CHANNEL, _KEEPER, _EMPTYING = "sequor:servers", "sequor:keeper", "sequor:emptying"
_TERM_MS, _RENEW_S = 15_000, 4.0
"""A server that is not heard of for so long keeps house no more."""
_MOST_WAITING = 1000
_HELD_MS, _WAIT_S = 300_000, 60.0
"""A lock of a server that died is free after that; so long another one waits for it."""
_ASK_AGAIN_S = 0.1


class ServersByRedis:
    """This server among several.

    Parameters
    ----------
    address : str
        Of Redis.
    """

    several = True

    def __init__(self, address: str) -> None:
        self.name = uuid.uuid4().hex
        self._redis = client_of(address)
        self._renew = self._redis.register_script(RENEW)
        self._leave = self._redis.register_script(LEAVE)
        self._waiting: queue.Queue[str] = queue.Queue(_MOST_WAITING)
        self._told: dict[str, list[Callable[[Message], None]]] = defaultdict(list)
        self._stopping, self._elected = threading.Event(), threading.Event()
        self._deposed = threading.Event()
        self._threads: list[threading.Thread] = []
        self._own = threading.Lock()

    @property
    def keeps_house(self) -> bool:
        """Whether it is this server."""
        return self._elected.is_set() and not self._deposed.is_set()

    @property
    def deposed(self) -> bool:
        """Whether another one took over while this could not be reached."""
        return self._deposed.is_set()

    def wait_for_house(self, patience_s: float) -> bool:
        """Wait until this server keeps house; whether it does."""
        return self._elected.wait(patience_s)

    @property
    def emptying(self) -> AbstractContextManager[object]:
        """See `Servers`; raises ServersAway."""
        return self._held()

    @contextmanager
    def _held(self) -> Iterator[None]:
        with self._own:  # one of this server asks at a time
            try:
                got = self._got_hold()
            except redis.RedisError as problem:
                raise ServersAway from problem
            if not got:
                raise ServersAway
            try:
                yield
            finally:
                with suppress(redis.RedisError):  # it ends by itself
                    self._leave([_EMPTYING], (self.name,))

    def _got_hold(self) -> bool:
        """Whether the lock is this server's. It is asked for by the server's name, so that what it
        got without hearing of it, where the answer was lost, is its own when it asks again.
        """
        deadline = time.monotonic() + _WAIT_S
        while not int(self._renew([_EMPTYING], (self.name, _HELD_MS))):
            if time.monotonic() > deadline or self._stopping.wait(_ASK_AGAIN_S):
                return False
        return True

    def tell(self, topic: Topic, message: Message) -> None:
        """Tell the other servers, as soon as it can be; nobody waits for that."""
        said = json.dumps({"from": self.name, "topic": topic, "message": message})
        with suppress(queue.Full):
            self._waiting.put_nowait(said)

    def on(self, topic: Topic, told: Callable[[Message], None]) -> None:
        """Hear of what other servers tell."""
        self._told[topic].append(told)

    def start(self) -> None:
        """Begin to hear and to tell, and to stand for keeping house."""
        if self._threads:
            return
        for function in (self._stand, self._say, self._hear):
            thread = threading.Thread(target=self._again, args=(function,), daemon=True)
            thread.start()
            self._threads.append(thread)

    def stop(self) -> None:
        """Leave; another one may keep house at once."""
        self._stopping.set()
        for thread in self._threads:
            thread.join()
        with suppress(redis.RedisError):
            self._leave([_KEEPER], (self.name,))

    def _again(self, function: Callable[[], None]) -> None:
        """Do something for as long as this server runs, whatever becomes of Redis meanwhile."""
        while not self._stopping.is_set():
            try:
                function()
            except redis.RedisError as problem:
                log.warning("what servers share does not answer: %r", problem)
                self._stopping.wait(1.0)
            except Exception:
                log.exception("what servers share")
                self._stopping.wait(1.0)

    def _stand(self) -> None:
        """Keep house, or wait for that."""
        mine = bool(int(self._renew([_KEEPER], (self.name, _TERM_MS))))
        if mine and not self._elected.is_set():
            log.info("this server keeps house")
            self._elected.set()
        elif not mine and self._elected.is_set() and not self._deposed.is_set():
            log.error("another server keeps house now")
            self._deposed.set()
        self._stopping.wait(_RENEW_S if mine else 1.0)

    def _say(self) -> None:
        try:
            said = self._waiting.get(timeout=0.5)
        except queue.Empty:
            return
        self._redis.publish(_CHANNEL, said)

    def _hear(self) -> None:
        with self._redis.pubsub(ignore_subscribe_messages=True) as listening:
            listening.subscribe(_CHANNEL)
            while not self._stopping.is_set():
                heard = listening.get_message(timeout=0.5)
                if heard:
                    self._pass_on(json.loads(heard["data"]))

    def _pass_on(self, said: dict[str, Any]) -> None:
        if said["from"] == self.name:
            return
        for told in self._told[said["topic"]]:
            try:
                told(said["message"])
            except Exception:
                log.exception("what another server told")
