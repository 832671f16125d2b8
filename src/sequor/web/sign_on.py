"""Signing in by another one's word, where SEQUOR_OIDC_ISSUER names one: there and back again."""

import hmac
import logging
from dataclasses import asdict
from urllib.parse import urlencode

from flask import Response, current_app, redirect, request
from flask_openapi3 import Tag
from itsdangerous import BadSignature, URLSafeTimedSerializer
from pydantic import BaseModel, Field

from sequor.core.errors import NotFound
from sequor.core.language import tr
from sequor.services import sign_on
from sequor.services.sign_on import Begun, NotVouched, Provider
from sequor.web.common_bodies import Problem
from sequor.web.context import resources
from sequor.web.documented import Room
from sequor.web.who import client, cookies_of_app

log = logging.getLogger(__name__)
api = Room("sign_on", __name__, url_prefix="/api/sign-on", abp_tags=[Tag(name="accounts")])
_LASTS_S = 600
_COOKIE = "sequor-{port}-on"


class WhereTo(BaseModel):
    """The page to go to afterwards."""

    to: str = Field(default="/", max_length=500, pattern=r"^/([^/\\].*)?$")


class Back(BaseModel):
    """What a browser comes back with."""

    code: str = Field(default="", max_length=4000)
    state: str = Field(default="", max_length=500)


@api.get("", responses={303: None, 404: Problem}, operation_id="beginSignOn")
def begin_sign_on(query: WhereTo) -> Response:
    """Send the browser to who vouches for people."""
    try:
        begun = sign_on.begin(_provider(), _back())
    except NotVouched as problem:
        return _refused(problem)
    response = current_app.make_response(redirect(begun.address, 303))
    kept = {**asdict(begun), "to": query.to}
    response.set_cookie(
        _name(),
        _serializer().dumps(kept),
        _LASTS_S,
        secure=request.is_secure,
        httponly=True,
        samesite="Lax",
        path="/api/sign-on",
    )
    response.headers["Cache-Control"] = "no-store"
    return response


@api.get("/back", responses={303: None, 404: Problem}, operation_id="finishSignOn")
def finish_sign_on(query: Back) -> Response:
    """Let in who comes back with a code."""
    provider = _provider()
    try:
        kept = _serializer().loads(request.cookies.get(_name(), ""), max_age=_LASTS_S)
        to, begun = kept.pop("to"), Begun(**kept)
        if not hmac.compare_digest(begun.state.encode(), query.state.encode()):
            raise NotVouched("state")
        vouched = sign_on.finish(provider, _back(), begun, query.code)
        found = sign_on.sign_on(resources().database, provider, vouched, client())
    except (BadSignature, NotVouched) as problem:
        return _refused(problem)
    response = current_app.make_response(redirect(to, 303))
    cookies_of_app().give(response, found.token)
    response.delete_cookie(_name(), path="/api/sign-on")
    response.headers["Cache-Control"] = "no-store"
    return response


def _provider() -> Provider:
    found = Provider.of(resources().settings)
    if found is None:
        raise NotFound(tr("Nobody else vouches for people here."))
    return found


def _back() -> str:
    return f"{request.url_root}api/sign-on/back"


def _name() -> str:
    return _COOKIE.format(port=resources().settings.port)


def _serializer() -> URLSafeTimedSerializer:
    return URLSafeTimedSerializer(cookies_of_app().key.text, salt="sequor.sign-on")


def _refused(problem: Exception) -> Response:
    log.warning("a sign-on did not succeed: %s", problem)
    address = f"/sign-in?{urlencode({'refused': 1})}"
    return current_app.make_response(redirect(address, 303))
