"""What the request handlers share, kept on the application."""

from dataclasses import dataclass, field
from typing import cast

from flask import current_app

from sequor.core.recipe import PhotoFacts
from sequor.store.database import Sessions
from sequor.store.files import FileStore
from sequor.web.export_worker import ExportWorker
from sequor.web.finishing import FinishingDesk
from sequor.web.pixel_cache import PixelCache, ProxyCache
from sequor.web.settings import Settings


@dataclass(frozen=True)
class Context:
    """The application's means."""

    settings: Settings
    sessions: Sessions
    files: FileStore
    exports: ExportWorker
    pixels: PixelCache = field(default_factory=PixelCache)
    proxies: ProxyCache = field(default_factory=ProxyCache)
    finishing: FinishingDesk = field(default_factory=FinishingDesk)
    photos: dict[int, PhotoFacts] = field(default_factory=dict)


def context() -> Context:
    """The means of the application that serves this request."""
    return cast(Context, current_app.extensions["sequor"])
