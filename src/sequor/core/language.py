"""The language in which words are said.

English is what stands in the code; every other language is a `Catalogue`, which somebody else reads
and makes known (`sequor.catalogues`). What is kept, a ledger's words among them, is kept in
English, and said again in the language of whoever reads it (`retelling`).
"""

import re
import string
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Protocol

ENGLISH = "en"
PLACE = re.compile(r"\{(\w+)(:[^}]*)?\}")
"""Where a value is filled in, and its specification."""
_spoken: ContextVar[str] = ContextVar("language", default=ENGLISH)


class Translations(Protocol):
    """What is said for a message, as the standard library's gettext has it."""

    def gettext(self, message: str) -> str:
        """By the message."""

    def pgettext(self, context: str, message: str) -> str:
        """By its context too."""

    def ngettext(self, one: str, other: str, count: int) -> str:
        """By a count."""


@dataclass(frozen=True)
class Message:
    """A message of a catalogue: what it is in English and in its language, each in all forms of the
    plural, and the files that say it.
    """

    context: str | None
    english: tuple[str, ...]
    said: tuple[str, ...]
    files: tuple[str, ...]


@dataclass(frozen=True)
class Catalogue:
    """A language: all messages, what is said for them, and the signs of its numbers, for decimals
    and between thousands.
    """

    messages: tuple[Message, ...]
    translations: Translations
    decimal: str
    group: str


_readers: dict[str, Callable[[], Catalogue]] = {}


def know(one: str, read: Callable[[], Catalogue]) -> None:
    """Let a language be spoken; its catalogue is read when it first is."""
    _readers[one] = read
    catalogue_of.cache_clear()


@lru_cache(maxsize=8)
def catalogue_of(one: str) -> Catalogue:
    """What is known of a language other than English."""
    return _readers[one]()


def languages() -> tuple[str, ...]:
    """All that can be spoken, English first."""
    return (ENGLISH, *sorted(_readers))


def language() -> str:
    """What is spoken here and now."""
    return _spoken.get()


@contextmanager
def speaking(one: str) -> Iterator[None]:
    """Speak another language until the end of the block."""
    before = _spoken.set(one)
    try:
        yield
    finally:
        _spoken.reset(before)


def speak(one: str) -> None:
    """Speak another language from now on, in this thread."""
    _spoken.set(one)


def mark(message: str) -> str:
    """A message that stands in the catalogues and is said later, by `tr`."""
    return message


def mark_in(context: str, message: str) -> str:
    """The same of one that is said by `tr_in`."""
    return message


def tr(message: str, /, **values: object) -> str:
    """A message in the language that is spoken, with values in the place of their names.

    Numbers among the values are written as the language writes them.
    """
    spoken = _spoken.get()
    if spoken == ENGLISH or not message:  # the empty one is the head of a catalogue
        return message.format(**values) if values else message
    return _filled(catalogue_of(spoken).translations.gettext(message), values)


def tr_in(context: str, message: str, /, **values: object) -> str:
    """The same of a message that means something else in other contexts."""
    spoken = _spoken.get()
    if spoken == ENGLISH:
        return message.format(**values) if values else message
    return _filled(catalogue_of(spoken).translations.pgettext(context, message), values)


def tr_plural(one: str, other: str, count: int, /, **values: object) -> str:
    """A message by a count, which stands in it as ``{count}``."""
    values = {"count": count, **values}
    spoken = _spoken.get()
    if spoken == ENGLISH:
        return (one if count == 1 else other).format(**values)
    return _filled(catalogue_of(spoken).translations.ngettext(one, other, count), values)


def english(message: str, /, **values: object) -> str:
    """A message that is kept: in English whatever is spoken, and said again by `retold`."""
    return message.format(**values) if values else message


def in_all(message: str) -> set[str]:
    """A message in every language."""
    return {message, *(catalogue_of(one).translations.gettext(message) for one in _readers)}


def number(value: float, spec: str) -> str:
    """A number by a format specification of Python's, with the decimal sign of the language."""
    return _with_signs(format(value, spec))


def listed(words: list[str]) -> str:
    """Several in one sentence: ``a``, ``a and b``, ``a, b and c``."""
    if len(words) < 2:
        return "".join(words)
    return tr("{some} and {last}", some=", ".join(words[:-1]), last=words[-1])


def lower(name: str) -> str:
    """A label in the middle of a sentence: English writes it small, others as they have it."""
    return name.lower() if language() == ENGLISH else name


def _filled(message: str, values: dict[str, object]) -> str:
    return _LOCALISED.vformat(message, (), values) if values else message


class _Localised(string.Formatter):
    def format_field(self, value: Any, format_spec: str) -> str:
        said: str = super().format_field(value, format_spec)
        is_number = isinstance(value, (int, float)) and not isinstance(value, bool)
        return _with_signs(said) if is_number else said


_LOCALISED = _Localised()


def _with_signs(said: str) -> str:
    spoken = _spoken.get()
    return said if spoken == ENGLISH else with_signs(said, catalogue_of(spoken))


def with_signs(said: str, catalogue: Catalogue) -> str:
    """A number that Python formatted, with the signs of a language."""
    return said.translate({ord("."): catalogue.decimal, ord(","): catalogue.group})
