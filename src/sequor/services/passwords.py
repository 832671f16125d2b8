"""Passwords: which are good enough, and whether one is right.

Kept as Argon2id hashes with the parameters of RFC 9106 for machines with little memory. What is
good enough follows OWASP ASVS 5.0.0, 6.2: length, no rules of composition, and nothing that is
guessed soon (zxcvbn).
"""

from functools import cache

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError

from sequor.core.errors import UnusableInput
from sequor.core.language import tr

SHORTEST, LONGEST = 12, 128
_GUESSABLE = 2
"""zxcvbn's scores below this are for what takes fewer than a hundred million guesses."""
_LOOKED_AT = 72
"""Letters that are looked at; zxcvbn takes long for very long ones."""
_HASHER = PasswordHasher()


def check(password: str, name: str) -> None:
    """Refuse a password that is too short or soon guessed.

    Raises
    ------
    UnusableInput
    """
    if len(password) < SHORTEST:
        raise UnusableInput(tr("A password needs at least {shortest} letters.", shortest=SHORTEST))
    if len(password) > LONGEST:
        raise UnusableInput(tr("A password has at most {longest} letters.", longest=LONGEST))
    from zxcvbn import zxcvbn  # loads its lists of words, which no start waits for

    judged = zxcvbn(password[:_LOOKED_AT], user_inputs=[name, "sequor"])
    if judged["score"] < _GUESSABLE:
        raise UnusableInput(
            tr(
                "This password would be guessed soon; several words that do not belong "
                "together hold."
            )
        )


def hashed(password: str) -> str:
    """A password as it is stored."""
    return _HASHER.hash(password)


def is_right(stored: str | None, given: str) -> bool:
    """Whether a password is that of a hash. It takes as long where there is none, so that nobody
    learns from it which names there are.
    """
    try:
        return _HASHER.verify(stored or _nobodys(), given) and stored is not None
    except (VerificationError, InvalidHashError):
        return False


@cache
def _nobodys() -> str:
    """The hash of no account, made when it is needed first: it takes a quarter of a second."""
    return _HASHER.hash("nobody")


def is_outdated(stored: str) -> bool:
    """Whether a hash was made with other parameters than one would be today."""
    return _HASHER.check_needs_rehash(stored)
