"""The catalogues of the languages besides English: one file each, ``locale/LANGUAGE.po``, with the
words of the browser in it as well (GNU gettext).
"""

import gettext
import io
import re
from functools import partial
from pathlib import Path

from sequor.core.language import Catalogue, Message, catalogue_of, know

FOLDER = Path(__file__).parent / "locale"
_IN_BROWSER = re.compile(r"^frontend/|core/names\.py$")
_CLDR = ("zero", "one", "two", "few", "many", "other")
"""Forms of plurals, in the order that a catalogue has them in."""


def know_all() -> None:
    """Let every language be spoken that there is a catalogue of."""
    for path in FOLDER.glob("*.po"):
        know(path.stem, partial(_read, path))


def _read(path: Path) -> Catalogue:
    # Babel takes a while to load, and is needed for this only.
    from babel.messages.mofile import write_mo
    from babel.messages.pofile import read_po
    from babel.numbers import get_decimal_symbol, get_group_symbol

    with path.open("rb") as file:
        found = read_po(file, path.stem)
    compiled = io.BytesIO()
    write_mo(compiled, found)
    compiled.seek(0)
    messages = tuple(
        Message(one.context, _forms(one.id), _forms(one.string), tuple(f for f, _ in one.locations))
        for one in found
        if one.id
    )
    signs = get_decimal_symbol(path.stem), get_group_symbol(path.stem)
    return Catalogue(messages, gettext.GNUTranslations(compiled), *signs)


def _forms(text: object) -> tuple[str, ...]:
    return (text,) if isinstance(text, str) else tuple(text or ())  # type: ignore[arg-type]


def browser_words(spoken: str) -> dict[str, str]:
    """What the browser says in a language, as i18next has it: sentences by themselves, with the
    form of the plural (Unicode CLDR) or the context behind them.
    """
    from babel import Locale

    there = Locale.parse(spoken).plural_form.tags | {"other"}
    plurals = [form for form in _CLDR if form in there]
    words: dict[str, str] = {}
    for message in catalogue_of(spoken).messages:
        if not any(_IN_BROWSER.search(file) for file in message.files):
            continue
        if len(message.english) == 1:
            behind = f"|{message.context}" if message.context else ""
            words[message.english[0] + behind] = message.said[0]
        else:
            forms = zip(plurals, message.said, strict=True)
            words |= {message.english[1] + "_" + form: said for form, said in forms}
    return words
