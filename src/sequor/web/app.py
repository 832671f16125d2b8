"""The application factory."""

from flask_openapi3 import Info
from sqlalchemy import Engine as DatabaseEngine
from werkzeug.middleware.proxy_fix import ProxyFix
from werkzeug.routing import IntegerConverter

from sequor import __version__
from sequor.services.engine import servers_of
from sequor.services.events import Hub
from sequor.services.export_desk import ExportDesk
from sequor.services.proposals import Reader
from sequor.services.references import Watch
from sequor.services.resources import Caches, Resources
from sequor.services.trends import Trends
from sequor.settings import Settings
from sequor.store.database import Database
from sequor.store.files import FileStore
from sequor.store.mariadb import PrivateServer
from sequor.web import (
    accounts,
    answers,
    archives,
    bench,
    carrying,
    clients,
    curating,
    events,
    exports,
    frames,
    guard,
    health,
    history,
    images,
    installed,
    languages,
    limits,
    metrics,
    pages,
    repeated,
    rights,
    sets,
    shares,
    sign_on,
    state,
    traces,
    who,
)
from sequor.web.common_bodies import Problem
from sequor.web.context import Context
from sequor.web.documented import Documented
from sequor.web.key import key_of
from sequor.work.engine import Engine

_ABOUT = (
    "Levels tilted horizons and leaning lines in photographs: "
    "readings, a recipe, a solution, a corrected file."
)


_ROOMS = (
    health,
    metrics,
    state,
    sets,
    curating,
    archives,
    bench,
    history,
    carrying,
    images,
    frames,
    exports,
    accounts,
    sign_on,
    shares,
    clients,
    events,
)


class _Number(IntegerConverter):
    """A row's number in an address: what has more digits is no number of a row."""

    regex = r"\d{1,18}"


_SERVERS_SHARE = 0.25
"""Of the memory for what is kept; the rest is its workers'."""


def create_app(
    settings: Settings,
    engine: Engine,
    database: DatabaseEngine,
    server: PrivateServer | None = None,
) -> Documented:
    """Make the application.

    Parameters
    ----------
    engine : Engine
        What does the heavy work.
    database : sqlalchemy.Engine
        A migrated database.
    server : PrivateServer, optional
        Its server, if that is the application's own.
    """
    app = Documented(
        "sequor",
        info=Info(title="Sequor", version=__version__, description=_ABOUT),
        doc_prefix="/api",
        doc_ui=True,
        doc_url="/openapi.json",
        validation_error_callback=answers.validation_problem,
        validation_error_status=422,
        validation_error_model=Problem,
        security_schemes={},
        static_folder=None,
    )
    app.url_map.converters["int"] = _Number
    app.config["MAX_CONTENT_LENGTH"] = settings.max_upload_mb * 2**20
    app.config["TRUSTED_HOSTS"] = [*guard.HOSTS, *settings.host_names]
    files = FileStore(settings.data, settings.reserve_mb, server.ballast if server else None)
    kept = Caches(settings.cache_mb * _SERVERS_SHARE)
    servers = servers_of(settings)
    servers.on("forgotten", lambda _: kept.forget())
    tables = Database(database, files.space)
    own = Resources(settings, tables, files, engine, kept, servers=servers)
    at_work = ExportDesk(own), Reader(own), Watch(own), Trends(own)
    here = Context(own, *at_work, server, Hub(servers))
    app.extensions["sequor"] = here
    key = key_of(settings.data, settings.port)
    if settings.traces:
        traces.register(app, settings.traces)
    languages.register(app)
    who.register(app, key)
    guard.register(app, key, settings.max_request_kb * 1024)
    answers.register(app)
    rights.register(app)
    repeated.register(app)
    metrics.register(app, here)
    for room in _ROOMS:
        app.register_api(room.api)

    pages.register(app, settings.frontend)
    installed.register(app, settings.frontend)
    limits.register(app, settings.redis_url)
    if settings.proxy:
        app.wsgi_app = ProxyFix(  # type: ignore[method-assign]
            app.wsgi_app, x_for=settings.proxy, x_proto=settings.proxy, x_host=settings.proxy
        )
    return app
