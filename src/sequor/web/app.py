"""The application factory."""

from pathlib import Path

from flask import Response, send_from_directory
from flask_openapi3 import Info, OpenAPI, Tag
from sqlalchemy import Engine, text

from sequor import __version__
from sequor.services.exports import ExportWorker
from sequor.services.means import Caches, Means
from sequor.settings import Settings
from sequor.store.database import sessions
from sequor.store.files import FileStore
from sequor.web import answers, bench, exports, frames, guard, images, sets
from sequor.web.answers import answer
from sequor.web.context import Context, means
from sequor.web.schemas import Health, Problem

_ABOUT = (
    "Levels tilted horizons and leaning lines in photographs: "
    "readings, a recipe, a solution, a corrected file."
)


def create_app(settings: Settings, engine: Engine) -> OpenAPI:
    """Make the application for a migrated database."""
    app = OpenAPI(
        "sequor",
        info=Info(title="Sequor", version=__version__, description=_ABOUT),
        doc_prefix="/api",
        doc_ui=True,
        doc_url="/openapi.json",
        validation_error_callback=answers.validation_problem,
        validation_error_status=422,
        validation_error_model=Problem,
        static_folder=None,
    )
    app.config["MAX_CONTENT_LENGTH"] = settings.max_upload_mb * 2**20
    app.config["TRUSTED_HOSTS"] = list(guard.HOSTS)
    files = FileStore(settings.data)
    own = Means(settings, sessions(engine), files, Caches(settings.cache_mb))
    app.extensions["sequor"] = Context(own, ExportWorker(own))
    guard.register(app)
    answers.register(app)
    for blueprint in (sets.api, bench.api, images.api, frames.api, exports.api):
        app.register_api(blueprint)

    @app.get(
        "/api/health",
        responses={200: Health, 503: Health},
        tags=[Tag(name="health")],
        operation_id="getHealth",
    )
    def health() -> Response:
        """Whether the server and its database answer."""
        try:
            with means().sessions() as session:
                session.execute(text("SELECT 1"))
        except Exception:
            return answer(Health(status="failing", database=False, version=__version__), 503)
        return answer(Health(status="ok", database=True, version=__version__))

    _serve_pages(app, settings.frontend)
    return app


def _serve_pages(app: OpenAPI, frontend: Path) -> None:
    @app.route("/")
    @app.route("/sets/<path:_>")
    @app.route("/pictures/<path:_>")
    def page(_: str = "") -> Response:
        response = send_from_directory(frontend, "index.html")
        response.headers["Cache-Control"] = "no-cache"
        return response

    @app.route("/assets/<path:name>")
    def asset(name: str) -> Response:
        response = send_from_directory(frontend / "assets", name)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response

    @app.route("/<any('favicon.svg'):name>")
    def file(name: str) -> Response:
        return send_from_directory(frontend, name)
