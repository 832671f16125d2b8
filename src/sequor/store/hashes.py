"""Hashes that name recipes by their content, as they are stored."""

import hashlib
import json
from collections.abc import Mapping

_LENGTH = 32


def recipe_hash(stored: Mapping[str, object]) -> str:
    """The first 128 bits of the SHA-256 of a recipe's JSON with ordered keys, in hexadecimal."""
    text = json.dumps(stored, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()[:_LENGTH]
