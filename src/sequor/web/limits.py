"""How often may be tried what could be guessed: passwords and links (Flask-Limiter)."""

from typing import Any

from flask import Flask, Response, request
from flask_limiter import Limiter
from flask_limiter.util import get_remote_address

_GUESSED = ("accounts.sign_in", "accounts.accept_invitation", "accounts.see_invitation")
_BY_ADDRESS = "20/minute;100/hour"
_BY_NAME = "10/5minute;50/day"
"""Tries that were refused, from an address and for a name (OWASP ASVS 5.0.0, 6.3.1; the numbers are
our own)."""
_WELL = 400
_ANSWERS_S = 2


def register(app: Flask, counts: str | None) -> None:
    """Limit them.

    Parameters
    ----------
    counts : str, optional
        The Redis where all servers count together; a server that is alone counts by itself.
    """
    limiter = Limiter(
        get_remote_address,
        app=app,
        storage_uri=counts or "memory://",
        storage_options={"socket_timeout": _ANSWERS_S} if counts else {},
        in_memory_fallback_enabled=counts is not None,
    )
    for endpoint in (*_GUESSED, "accounts.change_password"):
        view: Any = app.view_functions[endpoint]
        view = limiter.limit(_BY_ADDRESS, deduct_when=_was_refused)(view)
        if endpoint == "accounts.sign_in":
            view = limiter.limit(_BY_NAME, key_func=_name, deduct_when=_was_refused)(view)
        app.view_functions[endpoint] = view


def _was_refused(response: Response) -> bool:
    return response.status_code >= _WELL


def _name() -> str:
    body = request.get_json(silent=True)
    given = body.get("name") if isinstance(body, dict) else None
    return f"name {str(given).strip().casefold()[:60]}"
