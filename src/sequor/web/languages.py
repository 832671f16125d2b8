"""The language of a request: the one chosen in the browser, or the one it asks for."""

from collections.abc import Mapping

from flask import Flask, request
from werkzeug.datastructures import Headers, LanguageAccept
from werkzeug.http import parse_accept_header, parse_cookie

from sequor.catalogues import know_all
from sequor.core.language import ENGLISH, languages, speak

COOKIE = "sequor-language"


def register(app: Flask) -> None:
    """Speak the language of each request while it is answered."""
    know_all()

    @app.before_request
    def begin() -> None:
        speak(language_of(request.headers))

    @app.teardown_request
    def end(_: BaseException | None) -> None:
        speak(ENGLISH)


def language_of(headers: Headers | Mapping[str, str]) -> str:
    """The language of a request, by its cookie or by what it accepts (RFC 9110, 12.5.4).

    Parameters
    ----------
    headers : mapping
        By their names as HTTP writes them, or as waitress does: ``ACCEPT_LANGUAGE``.
    """
    chosen = parse_cookie(headers.get("Cookie") or headers.get("COOKIE") or "").get(COOKIE)
    if chosen in languages():
        return chosen or ENGLISH
    accepted = headers.get("Accept-Language") or headers.get("ACCEPT_LANGUAGE") or ""
    # The best first; of a language of a country the language (RFC 4647, 3.4).
    ranges = parse_accept_header(accepted, LanguageAccept)
    wanted = [one.partition("-")[0].lower() for one, quality in ranges if quality > 0]
    return next((one for one in wanted if one in languages()), ENGLISH)
