"""What the request handlers share, kept on the application."""

import re
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import cast

from flask import current_app, request

from sequor.services.events import Hub
from sequor.services.export_desk import ExportDesk
from sequor.services.proposals import Reader
from sequor.services.references import Watch
from sequor.services.resources import Resources
from sequor.services.trends import Trends
from sequor.store.acting import asker_of, author_id
from sequor.store.mariadb import PrivateServer

_WINDOW = re.compile(r"[A-Za-z0-9-]{1,64}")


@dataclass(frozen=True)
class Context:
    """The application's resources, its exports, what reads its pictures, what looks after those
    that stay where they lie, how it was in the last hour, its database server if that is its own,
    and who listens to what happens.
    """

    resources: Resources
    exports: ExportDesk
    reader: Reader
    references: Watch
    trends: Trends
    server: PrivateServer | None = None
    hub: Hub = field(default_factory=Hub)


def context() -> Context:
    """The context of the application that serves this request."""
    return cast(Context, current_app.extensions["sequor"])


def resources() -> Resources:
    """The resources of the application that serves this request."""
    return context().resources


def client_gone() -> Callable[[], bool]:
    """What tells whether the client of this request has closed its connection."""
    return cast(
        Callable[[], bool],
        request.environ.get("waitress.client_disconnected", lambda: False),
    )


def asker() -> str:
    """Who asks, so that none waits for all of another's work: the account, or, where there is none,
    the window, as it names itself.
    """
    return asker_of(author_id()) or window_of()


def window_of() -> str:
    """The window that asks, as it names itself."""
    given = request.headers.get("X-Window", "")
    return given if _WINDOW.fullmatch(given) else ""
