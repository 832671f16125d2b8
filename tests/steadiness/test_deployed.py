"""What ships for serving others: nginx in front, with TLS; units; a container's description.

Debian's nginx is started with the example, on ports of its own and with a certificate of its own.
"""

import http.client
import json
import re
import ssl
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
import yaml

from sequor.settings import Settings
from sequor.store.mariadb import free_port
from tests.conftest import ROOT
from tests.running import Application
from tests.waiting import until

DEPLOY = ROOT / "deploy"
NAME = "level.studio.example"
PASSWORD = "quiet harbour before nine"


class Studio:
    """Sequor behind nginx, asked as from another machine: through TLS, by its name."""

    def __init__(self, application: Application, port: int, certificate: Path) -> None:
        self.application, self._port = application, port
        self._context = ssl.create_default_context(cafile=str(certificate))
        self.more: dict[str, str] = {}

    def ask(
        self, method: str, path: str, body: object = None, **headers: str
    ) -> tuple[http.client.HTTPResponse, bytes]:
        connection = http.client.HTTPSConnection(NAME, self._port, context=self._context)
        connection._create_connection = (  # type: ignore[attr-defined]
            lambda address, *rest, **named: __import__("socket").create_connection(
                ("127.0.0.1", address[1])
            )
        )
        sent = None if body is None else json.dumps(body)
        kind = {"Content-Type": "application/json"} if body is not None else {}
        connection.request(method, path, sent, {"Host": NAME, **kind, **self.more, **headers})
        answer = connection.getresponse()
        content = answer.read() if answer.getheader("Content-Type") != EVENTS else b""
        return answer, content


EVENTS = "text/event-stream; charset=utf-8"


@pytest.fixture(scope="module")
def studio(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Studio]:
    folder = tmp_path_factory.mktemp("deployed")
    application = Application(folder / "var", "--empty")
    application.environment |= {"SEQUOR_PROXY": "1", "SEQUOR_HOSTS": NAME}
    # Before anything is there: the account begins the data.
    subprocess.run(
        [ROOT / "bin" / "sequor", "user", "add", "Ida", "--role=owner", "--password-stdin"],
        env=application.environment,
        input=PASSWORD,
        text=True,
        check=True,
        capture_output=True,
    )
    port, certificate, key = free_port(), folder / "level.pem", folder / "level.key"
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2"]
        + ["-subj", f"/CN={NAME}", "-addext", f"subjectAltName=DNS:{NAME}"]
        + ["-keyout", str(key), "-out", str(certificate)],
        check=True,
        capture_output=True,
    )
    site = (DEPLOY / "nginx.conf").read_text()
    for shipped, here in (
        ("listen 443", f"listen 127.0.0.1:{port}"),
        ("/etc/ssl/level.pem", str(certificate)),
        ("/etc/ssl/level.key", str(key)),
        ("127.0.0.1:8700", f"127.0.0.1:{application.port}"),
    ):
        assert shipped in site
        site = site.replace(shipped, here)
    whole = folder / "nginx.conf"
    temporary = "".join(
        f"{kind}_temp_path {folder}/{kind};"
        for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    whole.write_text(
        f"daemon off; pid {folder}/pid; error_log {folder}/error.log;\n"
        f"events {{}}\nhttp {{ access_log off; {temporary}\n{site}\n}}\n"
    )
    subprocess.run(["nginx", "-t", "-q", "-c", str(whole)], check=True)
    nginx = subprocess.Popen(["nginx", "-c", str(whole)])
    application.start()
    found = Studio(application, port, certificate)
    try:
        until(lambda: found.ask("GET", "/api/health")[0].status == 200)
        yield found
    finally:
        nginx.terminate()
        nginx.wait(30)
        application.stop()


@pytest.fixture
def ida(studio: Studio) -> Iterator[Studio]:
    """The owner, signed in through nginx."""
    body = {"name": "Ida", "password": PASSWORD}
    answer, content = studio.ask("POST", "/api/sign-in", body)
    assert answer.status == 200, content
    cookie = answer.getheader("Set-Cookie")
    assert cookie.startswith("__Host-")
    assert "Secure" in cookie
    studio.more = {"Cookie": cookie.split(";")[0], "X-CSRF-Token": json.loads(content)["csrf"]}
    yield studio
    studio.more = {}


def test_somebody_signs_in_and_works_through_it(ida: Studio) -> None:
    answer, _ = ida.ask("POST", "/api/sets", {"name": "Quay"}, Origin=f"https://{NAME}")
    assert answer.status == 201
    assert answer.getheader("Strict-Transport-Security")
    foreign, _ = ida.ask("POST", "/api/sets", {"name": "B"}, Origin="https://evil.example")
    assert foreign.status == 403


def test_the_address_is_the_clients_and_none_that_it_says(ida: Studio) -> None:
    ida.ask("GET", "/api/me", **{"X-Forwarded-For": "203.0.113.9"})
    body = {"name": "Ida", "password": "wrong"}
    ida.ask("POST", "/api/sign-in", body, **{"X-Forwarded-For": "203.0.113.9"})
    _, content = ida.ask("GET", "/api/deeds?limit=1")
    assert json.loads(content)["deeds"][0]["facts"]["address"] == "127.0.0.1"


def test_the_key_opens_nothing_through_it(studio: Studio) -> None:
    key = studio.application.key
    by_header, _ = studio.ask("GET", "/api/people", Authorization=f"Bearer {key}")
    assert by_header.status == 401
    by_address, _ = studio.ask("GET", f"/?key={key}")
    assert by_address.status == 303
    assert "sign-in" in by_address.getheader("Location")
    # Beside it, on the machine itself, it does.
    assert studio.application.send("GET", "/api/people")[0] == 200
    forged = {"X-Forwarded-For": "127.0.0.1"}
    assert studio.application.send("GET", "/api/people", more=forged)[0] == 401


def test_news_come_through_at_once(ida: Studio) -> None:
    _, made = ida.ask("POST", "/api/sets", {"name": "Pier"})
    answer, _ = ida.ask("GET", f"/api/events?set_id={json.loads(made)['id']}&window=w1")
    assert answer.getheader("Content-Type") == EVENTS
    lines = [answer.readline() for _ in range(4)]
    assert b"event: present\n" in lines
    answer.close()


def test_names_that_are_not_sequors_are_refused(studio: Studio) -> None:
    status, _ = studio.application.send("GET", "/api/health", more={"Host": "evil.example"})
    assert status == 403


def test_nobody_is_served_before_an_owner_has_an_account(tmp_path: Path) -> None:
    application = Application(tmp_path / "var", "--empty")
    application.environment |= {"SEQUOR_BIND": "0.0.0.0"}
    with pytest.raises(RuntimeError, match="bin/sequor user add"):
        application.start()


def test_the_units_are_understood(tmp_path: Path) -> None:
    for unit in DEPLOY.glob("sequor*.[st]*"):
        text = unit.read_text().replace("/opt/sequor", str(ROOT))
        (tmp_path / unit.name).write_text(text)
    units = sorted(str(path) for path in tmp_path.iterdir())
    assert len(units) == 4
    command = ["systemd-analyze", "verify", "--man=no", *units]
    said = subprocess.run(command, capture_output=True, text=True)
    wrong = [line for line in said.stderr.splitlines() if "sequor" in line]
    assert wrong == []


def test_the_container_is_linted() -> None:
    linter = ROOT / ".venv" / "bin" / "hadolint"
    said = subprocess.run([linter, DEPLOY / "Dockerfile"], capture_output=True, text=True)
    assert (said.returncode, said.stdout) == (0, "")


def test_settings_that_are_named_are_there() -> None:
    composed = yaml.safe_load((DEPLOY / "compose.yaml").read_text())
    assert set(composed["services"]) == {"sequor", "nginx"}
    several = yaml.safe_load((DEPLOY / "compose-several.yaml").read_text())["services"]
    assert set(several) == {"server", "worker", "redis", "database", "nginx"}
    # Servers and workers have the same key, Redis and depot, and so the same environment.
    given, needed = several["server"]["environment"], several["worker"]["environment"]
    assert needed.items() <= given.items()
    shared = {volume.partition(":")[2] for volume in several["worker"]["volumes"]}
    assert needed["SEQUOR_DEPOT"] == "file:///srv/depot"
    assert shared == {"/srv/depot"}
    texts = "".join(path.read_text() for path in DEPLOY.iterdir())
    for name in set(re.findall(r"SEQUOR_([A-Z_]+)", texts)):
        assert name.lower() in Settings.model_fields, name
    built = composed["services"]["sequor"]["build"]
    assert (DEPLOY / built["context"] / built["dockerfile"]).resolve() == DEPLOY / "Dockerfile"
