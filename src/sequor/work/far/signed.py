"""Values on their way between machines: signed, and only then looked at (itsdangerous)."""

import pickle
from typing import Any

from itsdangerous import BadSignature, Signer

_SALT = "sequor.work"


class NotSigned(Exception):
    """It does not come from who has the key."""


class Seal:
    """Signs and opens.

    Parameters
    ----------
    key : str
        What all machines of an installation have, and nobody else.
    """

    def __init__(self, key: str) -> None:
        import hashlib

        self._signer = Signer(key, salt=_SALT, key_derivation="hmac", digest_method=hashlib.sha256)

    def sign(self, value: object, purpose: str) -> bytes:
        """A value as bytes; they are good for one purpose."""
        return self._signer.sign(_marked(purpose) + pickle.dumps(value))

    def open(self, content: bytes, purpose: str) -> Any:
        """The value of bytes.

        Raises
        ------
        NotSigned
            When they were not signed with the same key for the same purpose; nothing in them was
            looked at.
        """
        try:
            plain = self._signer.unsign(content)
        except BadSignature:
            raise NotSigned from None
        mark = _marked(purpose)
        if not plain.startswith(mark):
            raise NotSigned
        return pickle.loads(plain[len(mark) :])


def _marked(purpose: str) -> bytes:
    return purpose.encode() + b"\0"
