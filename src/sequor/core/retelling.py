"""What was said in English and kept, said again in the language of whoever reads it.

A ledger's words, why an export failed and how a file is damaged are kept as sentences. They are
found again among the messages of the catalogue, by what stands between their values.
"""

import re
from dataclasses import dataclass
from functools import lru_cache

from sequor.core.language import (
    ENGLISH,
    PLACE,
    catalogue_of,
    language,
    listed,
    speaking,
    with_signs,
)

_KEPT = re.compile(
    r"core/edits/|core/names\.py|core/readings/rectangle\.py|report/carrying\.py|"
    r"services/(editing|export_desk|working|sidecars|intake)\.py|"
    r"pictures/(decode|encode|inspect)\.py|making/worker_cache\.py|store/(library|mariadb)\.py|"
    r"work/dispatcher\.py"
)
"""The files that say what is kept."""
_NESTED = ("what", "how")
"""Such values are themselves something that was kept."""
_FIGURE = r"[−+-]?[\d,]*\.?\d+"


@dataclass(frozen=True)
class _Template:
    """A message of the catalogue as it is found again in what was said with it; one ``of_figures``
    has nothing but numbers filled in, one that ``holds`` has another kept sentence in it.
    """

    pattern: re.Pattern[str]
    said: str
    fixed: int
    of_figures: bool
    holds: bool


def retold(text: str) -> str:
    """What was said in English and kept, in the language that is spoken.

    It is found among the messages by what stands between their values; what is not found stays as
    it is.
    """
    spoken = language()
    return text if spoken == ENGLISH else _retold(spoken, text)


@lru_cache(maxsize=4096)
def _retold(spoken: str, text: str) -> str:
    return _by_templates(spoken, text, _kept_messages(spoken)[1])


def _by_templates(spoken: str, text: str, templates: tuple[_Template, ...]) -> str:
    exact = _kept_messages(spoken)[0]
    for form in (text, text[:1].upper() + text[1:]):  # a label within a sentence
        if form in exact:
            return exact[form]
    for template in templates:
        found = template.pattern.fullmatch(text)
        if found is not None:
            values = {
                name: _retold(spoken, said) if name in _NESTED else _value(spoken, said)
                for name, said in found.groupdict().items()
            }
            return _filled(template.said, values)
    return text


def _filled(said: str, values: dict[str, str]) -> str:
    return PLACE.sub(lambda place: values[place[1]], said)


def _value(spoken: str, said: str) -> str:
    """What was filled in: a number, words that are known, several of them; else as it is."""
    if re.fullmatch(_FIGURE, said):
        return with_signs(said, catalogue_of(spoken))
    exact, templates = _kept_messages(spoken)
    parts = [*said.partition(" and ")[0].split(", "), said.partition(" and ")[2]]
    if parts[-1] and all(_known(exact, part) for part in parts):
        with speaking(spoken):
            return listed([str(_known(exact, part)) for part in parts])
    return _by_templates(spoken, said, tuple(one for one in templates if one.of_figures))


def _known(exact: dict[str, str], said: str) -> str | None:
    return exact.get(said) or exact.get(said[:1].upper() + said[1:])


@lru_cache(maxsize=8)
def _kept_messages(spoken: str) -> tuple[dict[str, str], tuple[_Template, ...]]:
    exact: dict[str, str] = {}
    templates: list[_Template] = []
    for message in catalogue_of(spoken).messages:
        if message.context or not any(_KEPT.search(file) for file in message.files):
            continue
        for english, said in zip(message.english, message.said, strict=False):
            if PLACE.search(english):
                templates.append(_template(english, said))
            else:
                exact[english] = said
    # What holds another one goes before what it may hold; else the one that says most itself.
    order = sorted(templates, key=lambda one: (not one.holds, -one.fixed))
    return exact, tuple(order)


def _template(form: str, said: str) -> _Template:
    pattern, met, end, fixed = "", set[str](), 0, 0
    for place in PLACE.finditer(form):
        name = place[1]
        pattern += re.escape(form[end : place.start()])
        value = _FIGURE if place[2] else ".+?"
        pattern += f"(?P={name})" if name in met else f"(?P<{name}>{value})"
        fixed += place.start() - end
        met.add(name)
        end = place.end()
    pattern += re.escape(form[end:])
    figures = all(place[2] for place in PLACE.finditer(form))
    return _Template(
        re.compile(pattern, re.DOTALL),
        said,
        fixed + len(form) - end,
        of_figures=figures,
        holds=not met.isdisjoint(_NESTED),
    )
