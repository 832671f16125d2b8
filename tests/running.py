"""The real application, started as a person starts it."""

import http.client
import json
import os
import secrets
import signal
import subprocess
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sequor.store.mariadb import free_port
from sequor.web.key import FILE, PARAMETER
from tests.conftest import ROOT
from tests.installed import put_into
from tests.waiting import until


class Application:
    """Sequor as ``bin/start`` runs it, on ports and data of its own."""

    command: tuple[object, ...] = (ROOT / "bin" / "start",)

    def __init__(self, data: Path, *arguments: str) -> None:
        self.data = data
        self.port = free_port()
        self.arguments = arguments
        self.environment = {
            **os.environ,
            "SEQUOR_PORT": str(self.port),
            "SEQUOR_DB_PORT": str(free_port()),
            "SEQUOR_DATA": str(data),
        }
        self.log = data.parent / "application.log"
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    @property
    def key(self) -> str:
        """The key of the application, once it has one."""
        path = self.data / FILE
        return path.read_text() if path.exists() else ""

    @property
    def headers(self) -> dict[str, str]:
        return {"Authorization": f"Bearer {self.key}"}

    def start(self) -> None:
        if not (self.data / "mariadb").exists():
            put_into(self.data / "mariadb")
        with self.log.open("ab") as log:
            command = [*self.command, *self.arguments]
            self.process = subprocess.Popen(command, env=self.environment, stdout=log, stderr=log)
        try:
            until(self._answers, 180)
        except AssertionError:
            raise RuntimeError(self._why()) from None

    def _answers(self) -> bool:
        if self.process.poll() is not None:
            raise RuntimeError(self._why())
        try:
            asked = urllib.request.Request(f"{self.url}/api/health", headers=self.headers)
            urllib.request.urlopen(asked, timeout=2).close()
        except OSError:
            return False
        return True

    def _why(self) -> str:
        return f"the application did not start:\n{self.log.read_text()[-2000:]}"

    def send(
        self,
        method: str,
        path: str,
        body: bytes | None = None,
        kind: str = "application/json",
        more: dict[str, str] | None = None,
    ) -> tuple[int, Any]:
        """The status of an answer and what it holds; raises OSError when there is none."""
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=300)
        try:
            headers = self.headers | ({"Content-Type": kind} if body else {})
            connection.request(method, path, body, headers | (more or {}))
            answer = connection.getresponse()
            content = answer.read()
        except http.client.HTTPException as problem:
            raise OSError("the connection ended") from problem
        finally:
            connection.close()
        is_json = answer.headers.get_content_type() == "application/json"
        return answer.status, json.loads(content) if is_json else content

    def post(self, path: str, body: object, more: dict[str, str] | None = None) -> tuple[int, Any]:
        return self.send("POST", path, json.dumps(body).encode(), more=more)

    def upload(self, set_id: int, name: str, content: bytes) -> tuple[int, Any]:
        """Send a file as a browser does."""
        border = secrets.token_hex(16)
        head = f'--{border}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n'
        parts = head.encode(), b"Content-Type: image/png\r\n\r\n", content
        body = b"".join(parts) + f"\r\n--{border}--\r\n".encode()
        path, kind = f"/api/sets/{set_id}/pictures", f"multipart/form-data; boundary={border}"
        return self.send("POST", path, body, kind)

    @property
    def entrance(self) -> str:
        """The address that lets a browser in, as ``bin/start`` prints it."""
        return f"{self.url}/?{PARAMETER}={self.key}"

    def stop(self, how: signal.Signals = signal.SIGINT) -> int:
        assert self.process is not None
        self.process.send_signal(how)
        return self.process.wait(30)


@contextmanager
def running(data: Path, *arguments: str) -> Iterator[Application]:
    """The application, started; stopped in the end, unless it was before."""
    application = Application(data, *arguments)
    application.start()
    yield application
    if application.process and application.process.poll() is None:
        application.stop()
