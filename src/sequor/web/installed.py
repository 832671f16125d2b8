"""What makes the pages an application of the device: its manifest, and what is shown without the
server.
"""

import json
from pathlib import Path

from flask import Flask, Response, render_template_string, send_from_directory

from sequor.core.language import language, tr

_READ = {
    "image/jpeg": [".jpg", ".jpeg"],
    "image/png": [".png"],
    "image/tiff": [".tif", ".tiff", ".dng"],
    "image/webp": [".webp"],
    "image/heic": [".heic", ".heif"],
    "image/avif": [".avif"],
    "image/jxl": [".jxl"],
}
"""What a device may open with Sequor, or share with it."""
_PAPER = "#fffdf8"
_AWAY = """<!doctype html>
<html lang="{{ lang }}">
  <head>
    <meta charset="utf-8" />
    <meta name="viewport" content="width=device-width, initial-scale=1" />
    <meta name="color-scheme" content="light dark" />
    <title>Sequor</title>
    <style>
      body { font: 16px/1.5 system-ui, sans-serif; display: grid; place-content: center;
             min-height: 90vh; margin: 0 24px; text-align: center; }
      button { font: inherit; padding: 8px 20px; justify-self: center; }
    </style>
  </head>
  <body>
    <h1>{{ title }}</h1>
    <p role="status">{{ words }}</p>
    <button>{{ again }}</button>
    <script src="/away.js"></script>
  </body>
</html>
"""


def register(app: Flask, frontend: Path) -> None:
    """Serve it; the script beside the pages and the icons are files of the front end."""

    @app.route("/manifest.webmanifest")
    def manifest() -> Response:
        said = json.dumps(_manifest(), ensure_ascii=False)
        response = app.response_class(said, mimetype="application/manifest+json")
        response.headers["Cache-Control"] = "no-cache"
        return response

    @app.route("/away")
    def away() -> Response:
        page = render_template_string(
            _AWAY,
            lang=language(),
            title=tr("Sequor is not there"),
            words=tr(
                "Its server does not answer. Nothing is lost; this page tries again by itself."
            ),
            again=tr("Try again"),
        )
        response = app.response_class(page)
        response.headers["Cache-Control"] = "no-cache"
        return response

    @app.route("/<any('sw.js', 'away.js'):name>")
    def script(name: str) -> Response:
        response = send_from_directory(frontend, name)
        response.headers["Cache-Control"] = "no-cache"
        return response

    @app.route("/icons/<path:name>")
    def icon(name: str) -> Response:
        return send_from_directory(frontend / "icons", name)


def _manifest() -> dict[str, object]:
    """Web Application Manifest (W3C), with share target and file handlers (WICG)."""
    return {
        "name": "Sequor",
        "short_name": "Sequor",
        "description": tr("Levels tilted horizons and leaning lines in photographs."),
        "lang": language(),
        "id": "/",
        "start_url": "/",
        "scope": "/",
        "display": "standalone",
        "background_color": _PAPER,
        "theme_color": _PAPER,
        "icons": [
            _icon("icon-192.png", 192, "any"),
            _icon("icon-512.png", 512, "any"),
            _icon("maskable-512.png", 512, "maskable"),
        ],
        "share_target": {
            "action": "/shared",
            "method": "POST",
            "enctype": "multipart/form-data",
            "params": {"files": [{"name": "pictures", "accept": [*_READ, ".dng"]}]},
        },
        "file_handlers": [{"action": "/", "accept": _READ}],
        "launch_handler": {"client_mode": "focus-existing"},
    }


def _icon(name: str, px: int, purpose: str) -> dict[str, str]:
    return {
        "src": f"/icons/{name}",
        "sizes": f"{px}x{px}",
        "type": "image/png",
        "purpose": purpose,
    }
