"""A whole job in German, by the names that the screen has in it; and back to English by a press."""

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.running import Application
from tests.ui.conftest import SIZE, TIMEOUT_MS, let_in
from tests.ui.demo import PICTURES
from tests.ui.hands import drag, horizon_file, own_set, picture_point, set_of
from tests.ui.test_layout import FAULTS, faults_at
from tests.waiting import until

STEPS = ("Objektiv", "Messen", "Ausschnitt", "Ecken", "Ausgabe")
LEFT_ENGLISH = re.compile(r"\b(the|and|of|is|are|with|you|picture|reading|press|draw)\b", re.I)
TEXTS = """() => [...document.querySelectorAll('[title], [aria-label], [placeholder]')]
  .flatMap((e) => ['title', 'aria-label', 'placeholder'].map((name) => e.getAttribute(name)))
  .concat(document.body.innerText.split('\\n')).filter(Boolean)"""

SAME = re.compile(r"[^a-z]*(mm|px)?|(Sequor / )?test_\w+|[\w-]+\.jpg|Format|({\w+}\W*)+")
"""Figures, keys, names of one's own, words of patterns, and a word that both languages have."""


@pytest.fixture
def german(
    browser: Browser, application: Application, request: pytest.FixtureRequest
) -> Iterator[Page]:
    """A window of somebody whose browser asks for German."""
    context = browser.new_context(viewport=SIZE, accept_downloads=True, locale="de-DE")
    let_in(context, application)
    page = context.new_page()
    page.set_default_timeout(TIMEOUT_MS)
    made = page.request.post(f"{application.url}/api/sets", data={"name": request.node.name[:80]})
    own_set(page, f"{application.url}/sets/{made.json()['id']}")
    yield page
    context.close()


def opened(page: Page, file: Path) -> dict:
    server, _, number = set_of(page).rpartition("/sets/")
    sent = {"name": file.name, "mimeType": "image/*", "buffer": file.read_bytes()}
    address = f"{server}/api/sets/{number}/pictures"
    added = page.request.post(address, multipart={"file": sent}).json()["picture"]
    page.goto(f"{server}/pictures/{added['id']}")
    at_rest(page)
    return added


def at_rest(page: Page) -> None:
    expect(page.locator("[data-stage]")).to_have_attribute("data-settled", "true")


def read_row(page: Page) -> None:
    """A picture with many readings, all of which were proposed."""
    opened(page, PICTURES / "lock-keepers-row.jpg")
    page.keyboard.press("a")
    page.get_by_role("button", name="Alle nachziehen").click()
    at_rest(page)


def english_on(page: Page, *own: str) -> list[str]:
    """What is shown that has English words in it, but for names of one's own."""
    texts = {text for text in page.evaluate(TEXTS) if not any(name in text for name in own)}
    return sorted(text for text in texts if LEFT_ENGLISH.search(text))


def same_in_both(page: Page, address: str) -> list[str]:
    """What is shown on the steps of the bench and reads the same in German and in English."""
    shown: list[set[str]] = []
    for language in ("de", "en"):
        server = address.rpartition("/pictures/")[0]
        cookie = {"name": "sequor-language", "value": language, "url": server}
        page.context.add_cookies([cookie])  # type: ignore[list-item]
        page.goto(address)
        at_rest(page)
        texts: set[str] = set()
        for key in range(1, len(STEPS) + 1):
            page.keyboard.press(str(key))
            at_rest(page)
            texts |= set(page.evaluate(TEXTS))
        shown.append(texts)
    return sorted(text for text in shown[0] & shown[1] if not SAME.fullmatch(text))


def test_a_job_in_german(german: Page, tmp_path: Path) -> None:
    page = german
    opened(page, horizon_file(tmp_path, 1.33))
    assert page.evaluate("document.documentElement.lang") == "de"
    page.get_by_role("button", name="Horizont").click()
    start, end = picture_point(page, 100, 600 - 16.2), picture_point(page, 1700, 600 + 16.2)
    drag(page, start, end)
    roll = page.get_by_role("slider", name="Verkantung")
    expect(roll).to_have_attribute("aria-valuetext", re.compile(r"gedreht um 1,3\d° linksherum"))
    # Numbers are typed as they are shown.
    field = page.get_by_role("textbox", name="Schräge wie aufgenommen")
    field.fill("2,5 linksherum")
    field.press("Enter")
    expect(roll).to_have_attribute("aria-valuetext", "gedreht um 2,50° rechtsherum")
    page.get_by_role("button", name="Zurücknehmen").click()
    expect(roll).to_have_attribute("aria-valuetext", re.compile("linksherum"))
    steps = page.get_by_role("navigation", name="Schritte")
    for name in STEPS:
        steps.get_by_role("button", name=name).click()
        at_rest(page)
        assert english_on(page, "horizon.png") == []
        assert page.evaluate(FAULTS) == [], name
    page.get_by_role("button", name="Ausgabe", exact=True).last.click()
    expect(page.get_by_role("status", name="Gespeichert")).to_be_visible()
    # What the ledger kept in English is read in German.
    page.get_by_role("button", name="Journal").click()
    expect(page.get_by_text("Horizont hinzugefügt").first).to_be_visible()


def test_longer_words_have_room_too(german: Page) -> None:
    page = german
    read_row(page)
    sizes = [(1280, 800), (1024, 768), (820, 1180), (390, 844)]
    for key, name in enumerate(STEPS, 1):
        page.keyboard.press(str(key))
        assert faults_at(page, sizes, lambda: at_rest(page)) == {}, name


def test_all_other_pages_are_german(german: Page, tmp_path: Path) -> None:
    page = german
    added = opened(page, horizon_file(tmp_path, 1.0, name="horizont.png"))
    server, _, number = set_of(page).rpartition("/sets/")
    sets = page.request.get(f"{server}/api/sets").json()["sets"]
    others = [words for one in sets for words in (one["name"], one["description"]) if words]
    for address in (
        f"/sets/{number}",
        f"/pictures/{added['id']}/versions",
        f"/pictures/{added['id']}/history",
        "/exports",
        "/bin",
        "/storage",
        "/api/nowhere",
    ):
        page.goto(f"{server}{address}")
        page.wait_for_load_state("networkidle")
        assert english_on(page, *others, "horizont.png") == [], address


def test_nothing_on_the_bench_reads_the_same_in_both(german: Page) -> None:
    page = german
    read_row(page)
    page.get_by_role("textbox", name="Schräge wie aufgenommen").fill("2 linksherum")
    page.keyboard.press("Enter")
    at_rest(page)
    assert same_in_both(page, page.url) == []


def test_one_press_speaks_the_other_language(german: Page) -> None:
    page = german
    page.goto(set_of(page))
    page.get_by_role("button", name="English").click()
    expect(page.get_by_role("button", name="Add pictures")).to_be_visible()
    page.reload()
    expect(page.get_by_role("button", name="Add pictures")).to_be_visible()
    page.get_by_role("button", name="Deutsch").click()
    expect(page.get_by_role("button", name="Bilder hinzufügen")).to_be_visible()
    until(lambda: page.evaluate("document.documentElement.lang") == "de")
