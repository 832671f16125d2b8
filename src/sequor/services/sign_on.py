"""Signing in by another one's word: OpenID Connect (Core 1.0), by a code with a proof that only who
began can use it (RFC 7636).
"""

import secrets
from dataclasses import dataclass
from typing import Any, cast

from sqlalchemy.orm import Session

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.services.people import Client, LetIn, let_in, note_account
from sequor.settings import Settings
from sequor.store import people
from sequor.store.acting import Role
from sequor.store.database import Database
from sequor.store.library import clean_name
from sequor.store.people_models import Person

_PATIENCE_S = 10
_ASKED_FOR = ("openid", "profile")
_ALGORITHMS = ["RS256", "ES256"]
_TOLERANCE_S = 60
"""So much may the clocks differ."""
_MOST_ALIKE = 100


class NotVouched(Exception):
    """The other one does not say who it is, or not so that it can be believed."""


@dataclass(frozen=True)
class Provider:
    """Who vouches for people, and as what Sequor is known there."""

    issuer: str
    client_id: str
    client_secret: str
    role: Role

    @classmethod
    def of(cls, settings: Settings) -> "Provider | None":
        """That of an installation, if it has one."""
        if not settings.oidc_issuer:
            return None
        secret = settings.oidc_secret.get_secret_value() if settings.oidc_secret else ""
        issuer = settings.oidc_issuer.rstrip("/")
        return cls(issuer, settings.oidc_client, secret, settings.oidc_role)


@dataclass(frozen=True)
class Begun:
    """A sign-on that was begun: where the browser goes, and what is to be known when it is back."""

    address: str
    state: str
    nonce: str
    verifier: str


@dataclass(frozen=True)
class Vouched:
    """Who somebody is by the other one's word."""

    key: str
    name: str


def begin(provider: Provider, back: str) -> Begun:
    """Begin; the browser comes back to ``back``.

    Raises
    ------
    NotVouched
        When the provider does not answer.
    """
    nonce, verifier = secrets.token_urlsafe(32), secrets.token_urlsafe(48)
    endpoint = _described(provider)["authorization_endpoint"]
    session = _session(provider, back)
    address, state = session.create_authorization_url(endpoint, code_verifier=verifier, nonce=nonce)
    return Begun(address, state, nonce, verifier)


def finish(provider: Provider, back: str, begun: Begun, code: str) -> Vouched:
    """Turn the code that the browser brought into who somebody is.

    Raises
    ------
    NotVouched
        When it is no good, or what comes for it is not to be believed.
    """
    from authlib.integrations.base_client import OAuthError
    from joserfc import jwt
    from joserfc.errors import JoseError
    from joserfc.jwk import KeySet

    described = _described(provider)
    try:
        token = _session(provider, back).fetch_token(
            described["token_endpoint"],
            code=code,
            code_verifier=begun.verifier,
            timeout=_PATIENCE_S,
        )
        keys = KeySet.import_key_set(cast(Any, _fetched(described["jwks_uri"])))
        claims = jwt.decode(str(token.get("id_token", "")), keys, algorithms=_ALGORITHMS).claims
        jwt.JWTClaimsRegistry(
            leeway=_TOLERANCE_S,
            iss={"essential": True, "value": provider.issuer},
            aud={"essential": True, "value": provider.client_id},
            nonce={"essential": True, "value": begun.nonce},
            exp={"essential": True},
            sub={"essential": True},
        ).validate(claims)
    except (OAuthError, JoseError, OSError, ValueError, KeyError) as problem:
        raise NotVouched(str(problem)) from problem
    subject = str(claims["sub"])
    named = (claims.get(name) for name in ("name", "preferred_username", "email"))
    return Vouched(f"{provider.issuer} {subject}"[:400], str(next(filter(None, named), subject)))


def sign_on(database: Database, provider: Provider, vouched: Vouched, client: Client) -> LetIn:
    """Let in who is vouched for; who is new gets an account.

    Raises
    ------
    NotVouched
        When the account was removed here, whatever is said of its person elsewhere.
    """

    def change(session: Session) -> LetIn:
        person = people.by_voucher(session, vouched.key)
        if person is not None and person.removed_at is not None:
            raise NotVouched("removed")
        return let_in(session, person or _new(session, provider, vouched), client)

    return database.write(change)


def _new(session: Session, provider: Provider, vouched: Vouched) -> Person:
    """An account for somebody who was not here before; names that are taken get a number."""
    name = clean_name(vouched.name, "")[:50] or "?"
    for number in range(1, _MOST_ALIKE):
        wanted = name if number == 1 else f"{name} {number}"
        if people.by_name(session, wanted) is None:
            made = people.create(session, wanted, provider.role, vouched=vouched.key)
            note_account(session, "account_made", made)
            return made
    raise UnusableInput(tr("The name {name} is taken.", name=name))


def _session(provider: Provider, back: str) -> Any:
    from authlib.integrations.requests_client import OAuth2Session

    return OAuth2Session(
        provider.client_id,
        provider.client_secret,
        scope=" ".join(_ASKED_FOR),
        redirect_uri=back,
        code_challenge_method="S256",
    )


def _described(provider: Provider) -> dict[str, Any]:
    """What a provider says of itself (OpenID Connect Discovery 1.0)."""
    try:
        found = _fetched(f"{provider.issuer}/.well-known/openid-configuration")
    except (OSError, ValueError) as problem:
        raise NotVouched(str(problem)) from problem
    if str(found.get("issuer", "")).rstrip("/") != provider.issuer:
        raise NotVouched("issuer")
    return found


def _fetched(address: str) -> dict[str, Any]:
    import requests

    answer = requests.get(address, timeout=_PATIENCE_S)
    answer.raise_for_status()
    found: dict[str, Any] = answer.json()
    return found
