"""Who asks: the person who started Sequor, by its key; somebody who signed in; a client, by a link;
or a stranger.

The key opens Sequor on its own machine only. A browser in which somebody signed in shows a token in
a cookie; it is signed, so that the door knows without the database that it was given out here, and
every change names it a second time, in a header that no other site can set (signed double submit).
"""

import hashlib
import hmac
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from functools import partial
from http.cookies import CookieError, SimpleCookie
from ipaddress import ip_address
from typing import TypeVar
from urllib.parse import quote

from flask import Flask, Response, current_app, g, redirect, request
from flask_login import LoginManager, UserMixin, current_user
from itsdangerous import BadSignature, Signer

from sequor.core.language import mark, tr
from sequor.services import people, sharing
from sequor.services.people import MACHINE, Client
from sequor.store.acting import Actor, act_as
from sequor.store.people import LONGEST, is_served
from sequor.store.people_models import Person
from sequor.web.answers import problem
from sequor.web.context import resources
from sequor.web.key import COOKIE_S, Key

HEADER = "X-CSRF-Token"
CLIENTS = "clients."
"""Endpoints that a link opens."""
OPEN_TO_ALL = (
    "accounts.sign_in",
    "accounts.see_invitation",
    "accounts.accept_invitation",
    "accounts.get_me",
    "sign_on.begin_sign_on",
    "sign_on.finish_sign_on",
    "health.health",
    "enter",
    "asset",
    "words",
    "file",
    "icon",
    "manifest",
    "script",
    "away",
)
"""Endpoints that whoever asks is answered at, where there are accounts."""
_OF_THE_HAND = ("bench.draft_edits", "bench.hold_guide")
"""What is asked dozens of times a second while something is in the hand, and changes nothing: who
asks, and whether they may, is remembered for a moment (`services.moments`)."""
Answer = TypeVar("Answer")
STRANGER = Actor("", shown_set=0)
_TO_SIGN_IN = "/sign-in"
_ENTRANCE = mark("Open the address that bin/start printed; it ends in ?key=...")


class SignedIn(UserMixin):  # type: ignore[misc]
    """Somebody who signed in, as Flask-Login has it."""

    def __init__(self, person: Person, token: str) -> None:
        self.person, self.token = person, token

    def get_id(self) -> str:
        """The number of the account."""
        return str(self.person.id)


@dataclass(frozen=True)
class Cookies:
    """The cookie of those who signed in: its name and what is signed with."""

    key: Key

    @property
    def name(self) -> str:
        """Its name, where the connection is not encrypted: that of the installation, whichever of
        its servers answers, since cookies do not tell ports apart.
        """
        of_key = hashlib.sha256(f"cookie {self.key.text}".encode()).hexdigest()
        return f"sequor-{of_key[:8]}-in"

    @property
    def secure_name(self) -> str:
        """Its name where it is: browsers then take it from no other site (RFC 6265bis)."""
        return f"__Host-{self.name}"

    def token_in(self, cookies: str, secure: bool) -> str | None:
        """The token of a request's header ``Cookie``, if it was given out here."""
        try:
            found = SimpleCookie(cookies).get(self.secure_name if secure else self.name)
        except CookieError:
            return None
        if found is None:
            return None
        try:
            return self._signer.unsign(found.value).decode()
        except (BadSignature, UnicodeDecodeError):
            return None

    def is_shown(self, cookies: str) -> bool:
        """Whether a request shows a token that was given out here, whatever became of it."""
        return any(self.token_in(cookies, secure) for secure in (True, False))

    def give(self, response: Response, token: str) -> None:
        """Let a browser show a token from now on."""
        secure = request.is_secure
        response.set_cookie(
            self.secure_name if secure else self.name,
            self._signer.sign(token).decode(),
            int(LONGEST.total_seconds()),
            secure=secure,
            httponly=True,
            samesite="Lax",
        )

    def take(self, response: Response) -> None:
        """Let a browser forget it."""
        for name, secure in ((self.secure_name, True), (self.name, False)):
            response.delete_cookie(name, secure=secure, httponly=True, samesite="Lax")

    @property
    def _signer(self) -> Signer:
        return Signer(self.key.text, salt="sequor.sign-in")

    def csrf_of(self, token: str) -> str:
        """What changes name besides a token."""
        mac = hmac.new(self.key.text.encode(), f"csrf {token}".encode(), hashlib.sha256)
        return mac.hexdigest()


def register(app: Flask, key: Key) -> None:
    """Let the application know who asks."""
    cookies = Cookies(key)
    app.extensions["sequor.cookies"] = cookies
    manager = LoginManager(app)

    @manager.request_loader  # type: ignore[untyped-decorator]
    def load(_: object) -> SignedIn | None:
        token = cookies.token_in(request.headers.get("Cookie", ""), request.is_secure)
        if not token:
            return None
        person = for_a_moment(("who", token), partial(people.who_is, resources().database, token))
        return SignedIn(person, token) if person else None

    @app.teardown_request
    def nobody(_: object) -> None:
        act_as(None)


def for_a_moment(key: Hashable, ask: Callable[[], Answer]) -> Answer:
    """What is answered; in the hand, what was answered a moment ago."""
    return resources().moments.get(key, ask) if request.endpoint in _OF_THE_HAND else ask()


def identify(key: Key) -> Response | None:
    """Find out who asks, and let them act; an answer where nothing else is to be answered."""
    act_as(STRANGER)
    g.token = None
    shown = key.is_shown(
        request.headers.get("Cookie", ""), request.headers.get("Authorization", "")
    )
    served = is_served(resources().settings.data)
    if (served or shown) and (request.endpoint or "").startswith(CLIENTS):
        # Whoever asks: the link itself lets them in, and to nothing else.
        act_as(sharing.client_of(resources(), (request.view_args or {})["token"]))
        return None
    if shown and (not served or _is_from_here()):
        act_as(Actor(MACHINE, role="owner") if served else None)
        return None
    if served and current_user.is_authenticated:
        act_as(people.actor_of(current_user.person))
        g.token = current_user.token
        return _missing_token()
    if key.is_in(request.query_string.decode("latin-1")) and _is_from_here():
        return _let_in(key)
    if not served:
        return problem(tr(_ENTRANCE), 403)
    return _as_stranger()


def _as_stranger() -> Response | None:
    if request.endpoint in OPEN_TO_ALL:
        return None
    if request.endpoint == "page":
        return current_app.make_response(
            redirect(f"{_TO_SIGN_IN}?to={quote(request.full_path.rstrip('?'))}", 303)
        )
    return problem(tr("Sign in first."), 401)


def _missing_token() -> Response | None:
    """Refuse a change that does not name the token a second time."""
    if request.method in ("GET", "HEAD", "OPTIONS") or request.endpoint in OPEN_TO_ALL:
        return None
    given = request.headers.get(HEADER, "")
    if hmac.compare_digest(given.encode(), csrf().encode()):
        return None
    return problem(tr("This page is of another sign-in; load it again."), 403)


def name_words(name: str) -> str:
    """The name of who did something, as it is shown."""
    return tr("at the machine itself") if name == MACHINE else name


def cookies_of_app() -> Cookies:
    """The cookie of those who signed in."""
    found: Cookies = current_app.extensions["sequor.cookies"]
    return found


def csrf() -> str:
    """What changes name besides the token, for who asks; empty where none is needed."""
    return cookies_of_app().csrf_of(g.token) if g.get("token") else ""


def client() -> Client:
    """From where somebody asks."""
    return Client(request.headers.get("User-Agent", ""), request.remote_addr or "")


def _is_from_here() -> bool:
    """Whether the request comes from this machine, and by no proxy."""
    try:
        here = ip_address(request.environ.get("REMOTE_ADDR", "")).is_loopback
    except ValueError:
        return False
    return here and "HTTP_X_FORWARDED_FOR" not in request.environ


def _let_in(key: Key) -> Response:
    """An answer to who has the key in the address: it becomes a cookie."""
    if request.method != "GET":
        return problem(tr(_ENTRANCE), 403)
    response = current_app.make_response(redirect(request.path, 303))
    response.set_cookie(key.cookie, key.text, COOKIE_S, httponly=True, samesite="Lax")
    response.headers["Cache-Control"] = "no-store"
    return response
