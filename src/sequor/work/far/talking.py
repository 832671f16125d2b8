"""Talking to Redis: whoever asks decides whether and when to ask again."""

from typing import Any

import redis
from redis.backoff import NoBackoff
from redis.retry import Retry

_ANSWERS_S = 5.0
_IDLE_S = 30
"""A connection that was not used for so long is tried before it is."""


def client_of(address: str) -> Any:
    """A client of the Redis at an address, such as ``redis://:password@host:port/number``; each
    call raises redis.RedisError where there is no answer within a few seconds.
    """
    return redis.Redis.from_url(
        address,
        socket_timeout=_ANSWERS_S,
        socket_connect_timeout=_ANSWERS_S,
        retry=Retry(NoBackoff(), 1),
        health_check_interval=_IDLE_S,
    )
