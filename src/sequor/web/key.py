"""The key of an installation: who knows it is the person who started Sequor.

It stands in a file that only that person can read, and in the address that `bin/start` prints. A
browser that opens this address gets it as a cookie; a program sends it as a bearer token (RFC
6750). Other people of the machine can connect, but know no key.
"""

import os
import secrets
from dataclasses import dataclass
from http.cookies import CookieError, SimpleCookie
from pathlib import Path
from urllib.parse import parse_qs

FILE = "key"
PARAMETER = "key"
COOKIE_S = 365 * 86_400
_BEARER = "Bearer "


@dataclass(frozen=True)
class Key:
    """A key; its cookie has the port in its name, since cookies do not tell ports apart."""

    text: str
    port: int

    @property
    def cookie(self) -> str:
        """The name of the cookie."""
        return f"sequor-{self.port}"

    def is_shown(self, cookies: str, authorization: str) -> bool:
        """Whether a request shows the key, by its headers ``Cookie`` and ``Authorization``."""
        if authorization.startswith(_BEARER) and self._is(authorization.removeprefix(_BEARER)):
            return True
        try:
            found = SimpleCookie(cookies).get(self.cookie)
        except CookieError:
            return False
        return found is not None and self._is(found.value)

    def is_in(self, query: str) -> bool:
        """Whether an address has the key in its query."""
        return any(self._is(given) for given in parse_qs(query[:1000]).get(PARAMETER, ()))

    def _is(self, given: str) -> bool:
        return secrets.compare_digest(given.strip().encode(), self.text.encode())


def key_of(data: Path, port: int) -> Key:
    """The key of a data folder, made when it has none."""
    path = data / FILE
    try:
        text = path.read_text().strip()
    except FileNotFoundError:
        text = ""
    if not text:
        text = secrets.token_urlsafe(24)
        data.mkdir(parents=True, exist_ok=True)
        # Whole at once, and only one's: several servers may start on the same data.
        made = path.with_name(f".{FILE}-{os.getpid()}-{text[:8]}")
        handle = os.open(made, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w") as file:
            file.write(text)
        try:
            os.link(made, path)
        except FileExistsError:
            if not path.read_text().strip():  # left by a power cut
                os.replace(made, path)
            text = path.read_text().strip()
        finally:
            made.unlink(missing_ok=True)
    return Key(text, port)
