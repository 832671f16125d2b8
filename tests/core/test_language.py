"""Every sentence is in every language, with the numbers and directions as that language has them.

What a catalogue holds is read by Babel, and what must be in it is found by Babel in the code, by
the same words as bin/words uses. Decimal signs are those of Unicode CLDR, which Babel carries.
"""

import ast
import re
import string
from contextlib import suppress

import pytest
from babel.messages.catalog import Message
from babel.messages.extract import extract_from_dir
from babel.messages.frontend import parse_mapping_cfg
from babel.messages.pofile import read_po
from babel.numbers import format_decimal
from pydantic import TypeAdapter

from sequor.catalogues import FOLDER, browser_words
from sequor.core.advance import advance
from sequor.core.edits import Edit
from sequor.core.errors import UnusableInput
from sequor.core.language import (
    english,
    languages,
    number,
    speaking,
    tr,
    tr_plural,
)
from sequor.core.photo import PhotoFacts
from sequor.core.print_size import PrintSize
from sequor.core.readings.typed_angle import parse_tilt
from sequor.core.recipe import Reading, Recipe
from sequor.core.report.words import axis_words, print_words, sigma_words
from sequor.core.retelling import retold
from tests.conftest import ROOT
from tests.web.hostile import edits

SAID = {
    **dict.fromkeys(("tr", "mark", "english", "t"), (1,)),
    **dict.fromkeys(("tr_in", "mark_in"), ((1, "c"), 2)),
    **dict.fromkeys(("tr_plural", "tn"), (1, 2)),
}
OTHERS = languages()[1:]
Key = tuple[str | None, str | tuple[str, ...]]


@pytest.fixture(scope="module")
def said() -> dict[Key, set[str]]:
    """All that is said in the code and on the screen, and the files that say it."""
    with (ROOT / "babel.cfg").open() as file:
        methods, options = parse_mapping_cfg(file)
    found: dict[Key, set[str]] = {}
    for name, _, message, _, context in extract_from_dir(ROOT, methods, options, SAID):
        key = (context, message if isinstance(message, str) else tuple(message))
        found.setdefault(key, set()).add(name)
    return found


def catalogue(spoken: str) -> dict[Key, Message]:
    with (FOLDER / f"{spoken}.po").open("rb") as file:
        messages = [message for message in read_po(file, spoken) if message.id]
    return {
        (one.context, one.id if isinstance(one.id, str) else tuple(one.id)): one for one in messages
    }


def forms(text: str | tuple[str, ...] | list[str]) -> tuple[str, ...]:
    return (text,) if isinstance(text, str) else tuple(text)


def values_of(text: str) -> set[str]:
    """What is filled into a message, with how it is written."""
    parsed = string.Formatter().parse(text)
    return {f"{name}!{conversion}:{spec}" for _, name, spec, conversion in parsed if name}


def test_german_is_spoken() -> None:
    assert "de" in OTHERS


@pytest.mark.parametrize("spoken", OTHERS)
def test_no_sentence_is_missing_or_left_over(spoken: str, said: dict[Key, set[str]]) -> None:
    there = catalogue(spoken)
    assert said.keys() - there.keys() == set(), "run bin/words and translate what is new"
    assert there.keys() - said.keys() == set(), "run bin/words"
    empty = [key for key, one in there.items() if not all(forms(one.string))]
    assert empty == []
    assert [key for key, one in there.items() if one.fuzzy] == []


@pytest.mark.parametrize("spoken", OTHERS)
def test_a_translation_takes_the_same_values(spoken: str) -> None:
    for (_, text), message in catalogue(spoken).items():
        wanted = set().union(*map(values_of, forms(text)))
        for form in forms(message.string):
            assert values_of(form) == wanted, text


def test_what_the_browser_says_is_found_wherever_it_stands(said: dict[Key, set[str]]) -> None:
    """Babel reads neither types nor JSX; a sentence that it overlooks would stay English."""
    texts = {form for _, text in said for form in forms(text)}
    call = re.compile(r"""(?<![\w.])tn?\(\s*"((?:[^"\\]|\\.)+)"\s*[,)]""")
    seen = 0
    for path in (ROOT / "frontend" / "src").rglob("*.ts*"):
        if ".test." in path.name or path.name == "schema.d.ts":
            continue
        for match in call.finditer(path.read_text()):
            seen += 1
            assert match[1] in texts, f"{path.name}: {match[1]}"
    assert seen > 600


# Words that are for the log, for programs, or for whoever runs the server.
SILENT = {
    "serve.py",
    "supervise.py",
    "own_workers.py",
    "starting.py",
    "recipe_versions.py",
    "openapi.py",
    "app.py",
    "metrics.py",
    "scripts.py",
}
UNSAID = re.compile(
    r"Value error|Bearer|SELECT |INSERT |SET |CREATE |START |REPEATABLE|READ |IF\(|default-src|"
    r"private, |public, |text/|^%|locate revision|Length Required|Content Too|Insufficient|"
    r"INPUT\.\.\.|no-store|Sequor: |synthesised|filled by|filled with a plain|"
    r"left transparent$|is gone from $|codestream|header ends|<script|<link |<meta |"
    r"window\.spoken|lang=|charset"
)
LOGS = {
    *("log", "logging", "re", "Tag", "text", "Field", "Literal", "AboutFormat"),
    *("Unreachable", "NotThere", "WrongContent", "DepotAway"),  # said in a sentence of another's
}


class Sentences(ast.NodeVisitor):
    """Strings of two words or more that are not said by any of the functions that say."""

    def __init__(self, source: str) -> None:
        self.found: list[tuple[int, str]] = []
        self.visit(ast.parse(source))

    def visit_Expr(self, node: ast.Expr) -> None:
        if not isinstance(node.value, ast.Constant):
            self.generic_visit(node)

    def visit_Call(self, node: ast.Call) -> None:
        called = node.func.value if isinstance(node.func, ast.Attribute) else node.func
        if not (isinstance(called, ast.Name) and (called.id in SAID or called.id in LOGS)):
            self.generic_visit(node)

    def visit_AnnAssign(self, node: ast.AnnAssign) -> None:
        if node.value:
            self.visit(node.value)

    def visit_JoinedStr(self, node: ast.JoinedStr) -> None:
        fixed = [str(part.value) for part in node.values if isinstance(part, ast.Constant)]
        if re.search(r"[a-z]{2,} +[a-z]{2,}", " ".join(fixed)):
            self.found.append((node.lineno, "".join(fixed)))
        for part in node.values:
            if not isinstance(part, ast.Constant):
                self.visit(part)

    def visit_Constant(self, node: ast.Constant) -> None:
        if isinstance(node.value, str) and re.search(r"[A-Za-z]{2,} +[a-z]{2,}", node.value):
            self.found.append((node.lineno, node.value))


def test_no_sentence_of_the_core_and_the_server_stands_outside() -> None:
    root = ROOT / "src" / "sequor"
    found = [
        f"{path.relative_to(root)}:{line}: {words}"
        for path in sorted(root.rglob("*.py"))
        if path.name not in SILENT and "migrations" not in path.parts
        for line, words in Sentences(path.read_text()).found
        if not UNSAID.search(words)
    ]
    assert found == []


# How it is said.


def test_numbers_have_the_signs_of_the_language() -> None:
    with speaking("de"):
        for value in (0.5, 1234.5, -3.25):
            assert number(value, ",.2f") == format_decimal(value, "#,##0.00", locale="de")
        assert tr("sure to {sigma_deg:.1f}°", sigma_deg=1.25) == "sicher auf 1,2°"
        assert tr("{done:,} of {height:,}", done=1200, height=4000) == "1.200 von 4.000"
    assert number(1234.5, ",.2f") == "1,234.50"


def test_directions_sizes_and_what_is_sure() -> None:
    with speaking("de"):
        assert axis_words("roll", 1.33) == "1,33° rechtsherum"
        assert axis_words("roll", -0.2) == "0,20° linksherum"
        assert axis_words("lean", 16) == "16,00° nach oben"
        assert axis_words("swing", -28) == "28,00° nach links"
        wide = PrintSize(width=25, height=20, unit="cm")
        assert print_words(wide, 0.42).endswith("das Bild wird auf 42 % verkleinert")
        assert sigma_words("lean", 0.5, False, True, 900, 0.5).startswith(
            "sicher auf 0,50°, Linien"
        )
    assert axis_words("roll", 1.33) == "1.33° clockwise"


@pytest.mark.parametrize(
    ("typed", "axis", "tilt_deg"),
    [
        ("1,33", "roll", 1.33),
        ("1,33 linksherum", "roll", -1.33),
        ("1,33° guz", "roll", -1.33),
        ("2 rechts", "roll", 2),
        ("12 oben", "lean", 12),
        ("12 unten", "lean", -12),
        ("1°20' linksherum", "roll", -4 / 3),
    ],
)
def test_angles_are_typed_as_the_language_has_them(typed: str, axis: str, tilt_deg: float) -> None:
    """In any language, whichever is spoken: a recipe is opened elsewhere too."""
    assert parse_tilt(typed, 0.0, axis).tilt_deg == pytest.approx(tilt_deg)


def test_one_and_several() -> None:
    with speaking("de"):
        assert tr_plural("{count} reading", "{count} readings", 1) == "1 Ablesung"
        assert tr_plural("{count} reading", "{count} readings", 3) == "3 Ablesungen"
    assert browser_words("de")["{n} pictures_one"] == "{n} Bild"
    assert browser_words("de")["{n} pictures_other"] == "{n} Bilder"


def test_what_was_kept_in_english_is_said_again() -> None:
    """Of every kind of edit: what the ledger calls it, as if it had been said in German."""
    read = TypeAdapter(Edit)
    seen = 0
    for body in edits("a"):
        edit = read.validate_python(body)
        kept = edit.words()
        with speaking("de"):
            wanted = edit.words()
            assert retold(kept) == wanted
            assert retold(f"back to: {kept}") == f"zurück zu: {wanted}"
        seen += wanted != kept
    assert seen > 50
    assert retold("level reading added") == "level reading added"


def test_a_recipe_is_the_same_in_every_language() -> None:
    """What an edit does depends on nothing but the edit: only its words are said."""
    photo = PhotoFacts(width=900, height=600)
    drawn = Reading(id="a", kind="level", points=((50, 290), (850, 310)))
    before = Recipe(readings=(drawn,))
    read = TypeAdapter(Edit)
    seen = 0
    for body in edits("a"):
        edit = read.validate_python(body)
        made = []
        for spoken in languages():
            with speaking(spoken), suppress(UnusableInput):
                made.append(advance(photo, before, (edit,)).recipe)
        assert made[1:] == made[:-1]
        seen += len(made) == len(languages())
    assert seen > 40


def test_what_is_kept_is_english_whatever_is_spoken() -> None:
    with speaking("de"):
        kept = english("is gone from {folder}", folder="/pictures")
        assert kept == "is gone from /pictures"
        assert retold(kept) == "ist verschwunden aus: /pictures"
        assert retold("a name of somebody's own") == "a name of somebody's own"


def test_a_language_ends_with_its_block() -> None:
    with speaking("de"):
        assert tr("not turned") == "nicht gedreht"
        assert tr("") == ""
    assert tr("not turned") == "not turned"
    assert (FOLDER / "de.po").is_file()
