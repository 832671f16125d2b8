"""Signing in by another one's word: OpenID Connect Core 1.0, 3.1 (the authorization code flow),
with a small provider of our own.
"""

from collections.abc import Iterator
from urllib.parse import urlsplit

import pytest
import requests
from flask.testing import FlaskClient
from joserfc.jwk import RSAKey
from pydantic import SecretStr

from sequor.store.mariadb import free_port
from tests.web.people import account, cheap_hashes, name_it, resources_of, stranger
from tests.web.provider import StandIn, vouching


@pytest.fixture
def provider(browserless: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> Iterator[StandIn]:
    """A provider, and an application that knows it and has an owner."""
    cheap_hashes(monkeypatch)
    account(browserless, "Ida", "owner")
    own = resources_of(browserless)
    with vouching() as found:
        known = {"oidc_issuer": found.issuer, "oidc_secret": SecretStr("s"), "oidc_label": "Door"}
        monkeypatch.setitem(own.__dict__, "settings", own.settings.model_copy(update=known))
        yield found


def there(client: FlaskClient, to: str = "/sets/1") -> str:
    """The address at the provider that a browser is sent to, and from there back."""
    sent = client.get(f"/api/sign-on?to={to}")
    assert sent.status_code == 303
    return requests.get(sent.headers["Location"], allow_redirects=False, timeout=10).headers[
        "Location"
    ]


def back(client: FlaskClient, address: str):
    found = urlsplit(address)
    return client.get(f"{found.path}?{found.query}")


def test_who_is_vouched_for_is_let_in(browserless: FlaskClient, provider: StandIn) -> None:
    una = stranger(browserless)
    assert una.get("/api/me").json["sign_on"] == "Door"
    answer = back(una, there(una))
    assert (answer.status_code, answer.headers["Location"]) == (303, "/sets/1")
    me = una.get("/api/me").json
    assert (me["person"]["name"], me["person"]["role"]) == ("Una", "guest")
    name_it(una, me["csrf"])
    assert una.post("/api/sign-out").status_code == 200
    # The same person again, whatever she is called by now; another one of that name has another.
    provider.claims["name"] = "Una Vik"
    again = stranger(browserless)
    back(again, there(again))
    assert again.get("/api/me").json["person"]["id"] == me["person"]["id"]
    provider.claims |= {"sub": "18", "name": "Una"}
    other = stranger(browserless)
    back(other, there(other))
    assert other.get("/api/me").json["person"]["name"] == "Una 2"


@pytest.mark.parametrize(
    "spoilt",
    [
        {"nonce": "another"},
        {"aud": "another"},
        {"iss": "https://evil.example"},
        {"exp": 1_000_000_000},
        {"sub": None},
    ],
    ids=str,
)
def test_claims_that_are_not_to_be_believed(
    browserless: FlaskClient, provider: StandIn, spoilt: dict
) -> None:
    """OpenID Connect Core 1.0, 3.1.3.7."""
    provider.claims |= spoilt
    una = stranger(browserless)
    answer = back(una, there(una))
    assert "refused" in answer.headers["Location"]
    assert una.get("/api/sets").status_code == 401


def test_another_ones_signature_is_none(browserless: FlaskClient, provider: StandIn) -> None:
    provider.signs_with = RSAKey.generate_key(2048, {"kid": "one"})
    una = stranger(browserless)
    assert "refused" in back(una, there(una)).headers["Location"]
    assert una.get("/api/sets").status_code == 401


def test_a_code_works_once_and_in_the_browser_that_began(
    browserless: FlaskClient, provider: StandIn
) -> None:
    una, eve = stranger(browserless), stranger(browserless)
    address = there(una)
    assert "refused" in back(eve, address).headers["Location"]  # she did not begin
    there(eve)
    assert "refused" in back(eve, address).headers["Location"]  # and what she began is another
    assert "refused" not in back(una, address).headers["Location"]
    late = stranger(browserless)
    kept = una.get_cookie("sequor-8700-on", path="/api/sign-on")
    assert kept is None or kept.value == ""
    assert "refused" in back(late, address).headers["Location"]


def test_a_provider_that_is_away_or_another_one(
    browserless: FlaskClient, provider: StandIn, monkeypatch: pytest.MonkeyPatch
) -> None:
    una, own = stranger(browserless), resources_of(browserless)
    provider.issuer = "http://127.0.0.1:9"  # what it says of itself names another one
    assert "refused" in una.get("/api/sign-on").headers["Location"]
    away = own.settings.model_copy(update={"oidc_issuer": f"http://127.0.0.1:{free_port()}"})
    monkeypatch.setitem(own.__dict__, "settings", away)
    assert "refused" in una.get("/api/sign-on").headers["Location"]


def test_who_was_removed_is_not_made_anew(browserless: FlaskClient, provider: StandIn) -> None:
    una = stranger(browserless)
    back(una, there(una))
    number = una.get("/api/me").json["person"]["id"]
    assert browserless.delete(f"/api/people/{number}").status_code == 200
    assert una.get("/api/sets").status_code == 401
    again = stranger(browserless)
    assert "refused" in back(again, there(again)).headers["Location"]
    assert [one["name"] for one in browserless.get("/api/people").json["people"]] == ["Ida"]


@pytest.mark.parametrize("to", ["//evil.example", "https://evil.example", "/\\evil.example"])
def test_afterwards_one_stays_here(browserless: FlaskClient, provider: StandIn, to: str) -> None:
    assert stranger(browserless).get(f"/api/sign-on?to={to}").status_code == 422


def test_where_nobody_else_vouches(browserless: FlaskClient) -> None:
    assert browserless.get("/api/sign-on").status_code == 404
