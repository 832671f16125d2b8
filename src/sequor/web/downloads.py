"""Files to save: the one place where a Content-Disposition is made."""

import unicodedata
from urllib.parse import quote

from flask import Response
from werkzeug.http import dump_options_header

from sequor.pictures.naming import without_forbidden


def attachment(response: Response, name: str) -> Response:
    """An answer that a browser saves under a name, in whatever script that is (RFC 6266: a plain
    name for old clients, and the real one in UTF-8).
    """
    name = without_forbidden(name)
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    if plain.startswith(".") or not plain.strip():
        plain = f"sequor{plain.strip()}"
    options: dict[str, str | int | None] = {"filename": plain}
    if plain != name:
        options["filename*"] = f"UTF-8''{quote(name, safe='')}"
    response.headers["Content-Disposition"] = dump_options_header("attachment", options)
    return response
