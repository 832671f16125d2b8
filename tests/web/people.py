"""People with accounts, as tests of the interface have them."""

from flask.testing import FlaskClient

from sequor.services import passwords, people
from sequor.services.resources import Resources
from sequor.store.acting import Role
from sequor.web.who import HEADER

PASSWORD = "quiet harbour before nine"


def cheap_hashes(monkeypatch) -> None:
    """Argon2id with its smallest parameters: what tests wait for is not the hashing."""
    from argon2 import PasswordHasher

    monkeypatch.setattr(passwords, "_HASHER", PasswordHasher(1, 8, 1))


def resources_of(client: FlaskClient) -> Resources:
    return client.application.extensions["sequor"].resources


def make_account(client: FlaskClient, name: str, role: Role) -> int:
    own = resources_of(client)
    return people.create(own.database, own.files, name, role, PASSWORD).id


def cookie_of(client: FlaskClient) -> str:
    """The name of the cookie of those who signed in, where the connection is not encrypted."""
    return client.application.extensions["sequor.cookies"].name


def stranger(client: FlaskClient) -> FlaskClient:
    """A client of the same application that is not known."""
    other = client.application.test_client()
    other.environ_base["HTTP_HOST"] = client.environ_base["HTTP_HOST"]
    return other


def signed_in(client: FlaskClient, name: str, password: str = PASSWORD) -> FlaskClient:
    """A client in which somebody signed in."""
    other = stranger(client)
    answer = other.post("/api/sign-in", json={"name": name, "password": password})
    assert answer.status_code == 200, answer.json
    name_it(other, answer.json["csrf"])
    return other


def name_it(client: FlaskClient, csrf: str) -> None:
    """Let a client name its token a second time with every change."""
    client.environ_base[f"HTTP_{HEADER.upper().replace('-', '_')}"] = csrf


def account(client: FlaskClient, name: str, role: Role) -> FlaskClient:
    """A new account, and a client in which its person signed in."""
    make_account(client, name, role)
    return signed_in(client, name)
