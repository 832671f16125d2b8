"""What health is told as."""

from typing import Literal

from sequor.web.common_bodies import Body


class Health(Body):
    """Whether the server and its database answer, whether it is ready, and why it is not; what will
    be a reason soon is said in ``warnings``.

    ``waiting`` and ``running`` count pieces of heavy work.
    """

    status: Literal["ok", "failing"]
    live: bool
    ready: bool
    reasons: list[str]
    warnings: list[str]
    database: bool
    free_mb: float
    waiting: int
    running: int
    version: str
