"""What the request handlers share, kept on the application."""

from dataclasses import dataclass
from typing import cast

from flask import current_app

from sequor.services.exports import ExportWorker
from sequor.services.means import Means


@dataclass(frozen=True)
class Context:
    """The application's means, and its worker."""

    means: Means
    exports: ExportWorker


def context() -> Context:
    """The context of the application that serves this request."""
    return cast(Context, current_app.extensions["sequor"])


def means() -> Means:
    """The means of the application that serves this request."""
    return context().means
