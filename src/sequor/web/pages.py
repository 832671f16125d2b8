"""The pages of the browser: one document for all addresses, and the files that it names."""

from pathlib import Path

from flask import Flask, Response, request, send_from_directory
from werkzeug.security import safe_join


def register(app: Flask, frontend: Path) -> None:
    """Serve what the front end was built into.

    Parameters
    ----------
    frontend : Path
        The folder with ``index.html`` and ``assets``, whose names tell their content.
    """

    @app.route("/")
    @app.route("/sets/<path:_>")
    @app.route("/pictures/<path:_>")
    @app.route("/bin")
    @app.route("/exports")
    @app.route("/storage")
    def page(_: str = "") -> Response:
        response = send_from_directory(frontend, "index.html")
        response.headers["Cache-Control"] = "no-cache"
        return response

    @app.route("/assets/<path:name>")
    def asset(name: str) -> Response:
        response = _compressed(frontend / "assets", name)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response

    @app.route("/<any('favicon.svg'):name>")
    def file(name: str) -> Response:
        return send_from_directory(frontend, name)


def _compressed(folder: Path, name: str) -> Response:
    """A file as it was compressed when it was built, for those who take that (RFC 9110, 12.5.3)."""
    beside = safe_join(str(folder), f"{name}.br")
    if beside is None or not Path(beside).is_file():
        return send_from_directory(folder, name)
    if request.accept_encodings["br"] > 0:
        response = send_from_directory(folder, f"{name}.br", mimetype=_TYPES[Path(name).suffix])
        response.headers["Content-Encoding"] = "br"
    else:
        response = send_from_directory(folder, name)
    response.vary.add("Accept-Encoding")
    return response


_TYPES = {".js": "text/javascript", ".css": "text/css", ".svg": "image/svg+xml"}
