"""A small provider of OpenID Connect, on loopback: it vouches for whoever is written into it."""

import base64
import hashlib
import json
import secrets
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import urlencode

from joserfc import jwt
from joserfc.jwk import RSAKey
from werkzeug.serving import make_server
from werkzeug.wrappers import Request, Response


@dataclass
class StandIn:
    """What it says of itself and of people; each may be spoilt by a test."""

    claims: dict[str, Any] = field(default_factory=lambda: {"sub": "17", "name": "Una"})
    key: RSAKey = field(default_factory=lambda: RSAKey.generate_key(2048, {"kid": "one"}))
    signs_with: RSAKey | None = None
    issuer: str = ""
    codes: dict[str, dict[str, str]] = field(default_factory=dict)

    def __call__(self, environ, start_response):
        request = Request(environ)
        asked = {
            "/.well-known/openid-configuration": self.described,
            "/keys": self.keys,
            "/authorize": self.authorize,
            "/token": self.token,
        }
        return asked[request.path](request)(environ, start_response)

    def described(self, _: Request) -> Response:
        at = self.issuer
        said = {"issuer": at, "authorization_endpoint": f"{at}/authorize"}
        return _json({**said, "token_endpoint": f"{at}/token", "jwks_uri": f"{at}/keys"})

    def keys(self, _: Request) -> Response:
        return _json({"keys": [self.key.as_dict(private=False)]})

    def authorize(self, request: Request) -> Response:
        """Whoever comes is let through at once."""
        code = secrets.token_urlsafe(8)
        self.codes[code] = request.args.to_dict()
        back = {"code": code, "state": request.args["state"]}
        return Response(
            status=302, headers={"Location": f"{request.args['redirect_uri']}?{urlencode(back)}"}
        )

    def token(self, request: Request) -> Response:
        """A code works once, for who proves that they began (RFC 7636, 4.6)."""
        begun = self.codes.pop(request.form["code"], None)
        proof = hashlib.sha256(request.form["code_verifier"].encode()).digest()
        challenge = base64.urlsafe_b64encode(proof).rstrip(b"=").decode()
        if begun is None or begun["code_challenge"] != challenge:
            return _json({"error": "invalid_grant"}, 400)
        now = int(time.time())
        claims = {
            **{"iss": self.issuer, "aud": begun["client_id"], "nonce": begun["nonce"]},
            **{"iat": now, "exp": now + 300},
            **self.claims,
        }
        signed = jwt.encode({"alg": "RS256", "kid": "one"}, claims, self.signs_with or self.key)
        return _json({"access_token": "a", "token_type": "Bearer", "id_token": signed})


@contextmanager
def vouching() -> Iterator[StandIn]:
    """The provider, while it runs."""
    found = StandIn()
    server = make_server("127.0.0.1", 0, found, threaded=True)
    found.issuer = f"http://127.0.0.1:{server.server_port}"
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield found
    finally:
        server.shutdown()
        thread.join()
        server.server_close()


def _json(said: dict[str, Any], status: int = 200) -> Response:
    return Response(json.dumps(said), status, mimetype="application/json")
