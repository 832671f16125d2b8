"""The pages of the browser: one document for all addresses, and the files that it names."""

import gzip
import hashlib
import json
from functools import cache
from pathlib import Path

from flask import Flask, Response, request, send_from_directory
from werkzeug.security import safe_join

from sequor.catalogues import browser_words
from sequor.core.language import ENGLISH, language, languages
from sequor.web.who import csrf

_SPEAKS, _FIRST = 'lang="en"', "<head>"
"""Of the page as it was built."""
_PRELOAD = '<link rel="preload" as="fetch" crossorigin="anonymous" href="{}" />'
_MODULE = '<link rel="modulepreload" href="/{}" />'
_CSRF = '<meta name="sequor-csrf" content="{}" />'
_ALWAYS = ("/api/options", "/api/file-options", "/api/me")
_AHEAD = {
    "bench": ("src/bench/BenchPage.tsx", ("/api/pictures/{}",)),
    "sheet": ("src/sheet/SheetPage.tsx", ("/api/sets", "/api/sets/{}")),
}
"""By page its part of what was built, and what it asks for first: both come while the first script
is read (HTML, "preload" and "modulepreload").
"""


def register(app: Flask, frontend: Path) -> None:
    """Serve what the front end was built into.

    Parameters
    ----------
    frontend : Path
        The folder with ``index.html`` and ``assets``, whose names tell their content.
    """

    @app.route("/")
    @app.route("/sets/<int:number>", defaults={"kind": "sheet"})
    @app.route("/sets/<path:_>")
    @app.route("/pictures/<int:number>", defaults={"kind": "bench"})
    @app.route("/pictures/<path:_>")
    @app.route("/bin")
    @app.route("/exports")
    @app.route("/storage")
    @app.route("/people")
    @app.route("/state")
    @app.route("/account")
    def page(_: str = "", kind: str = "", number: int = 0) -> Response:
        part, asked = _AHEAD.get(kind, ("", ()))
        return document(part, [address.format(number) for address in (*_ALWAYS, *asked)])

    @app.route("/sign-in")
    @app.route("/invitation/<token>")
    @app.route("/shown/<token>")
    def enter(token: str = "") -> Response:
        """Pages for those who are not known yet."""
        return document("", [])

    def document(part: str, asked: list[str]) -> Response:
        spoken, named = language(), csrf()
        first = [
            f'{_FIRST}<script src="{_address(spoken)}"></script>',
            *([_CSRF.format(named)] if named else []),
            *(_MODULE.format(file) for file in _modules(frontend, part)),
            *(_PRELOAD.format(address) for address in asked),
        ]
        text = (frontend / "index.html").read_text()
        text = text.replace(_SPEAKS, f'lang="{spoken}"', 1).replace(_FIRST, "".join(first), 1)
        response = app.response_class(text)
        response.headers["Cache-Control"] = "no-store" if named else "no-cache"
        response.vary.update(("Accept-Language", "Cookie"))
        return response

    @app.route(f"/words/<any({', '.join(languages())}):spoken>.js")
    def words(spoken: str) -> Response:
        taken = request.accept_encodings["gzip"] > 0
        content = _packed_words(spoken) if taken else _words(spoken)
        response = app.response_class(content, mimetype="text/javascript")
        if taken:
            response.headers["Content-Encoding"] = "gzip"
        response.vary.add("Accept-Encoding")
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
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
    taken = request.accept_encodings["br"] > 0
    # The type and the encoding follow from the name.
    response = send_from_directory(folder, f"{name}.br" if taken else name)
    response.vary.add("Accept-Encoding")
    return response


@cache
def _modules(frontend: Path, part: str) -> tuple[str, ...]:
    """The scripts that a part of what was built cannot do without: Vite's own list."""
    listed = frontend / ".vite" / "manifest.json"
    parts = json.loads(listed.read_text()) if listed.is_file() else {}
    found: dict[str, None] = {}
    todo = [part] if part in parts else []
    while todo:
        one = parts[todo.pop()]
        if one["file"] not in found and not one.get("isEntry"):
            found[one["file"]] = None
            todo += one.get("imports", [])
    return tuple(found)


@cache
def _words(spoken: str) -> str:
    """A script with what the browser says in a language, and all that it could speak."""
    said = {} if spoken == ENGLISH else browser_words(spoken)
    known = json.dumps({"words": said, "languages": languages()}, ensure_ascii=False)
    return f"window.spoken = {known};"


@cache
def _packed_words(spoken: str) -> bytes:
    return gzip.compress(_words(spoken).encode(), mtime=0)


@cache
def _address(spoken: str) -> str:
    """Where it is; other words are at another address."""
    return f"/words/{spoken}.js?{hashlib.sha256(_words(spoken).encode()).hexdigest()[:12]}"
