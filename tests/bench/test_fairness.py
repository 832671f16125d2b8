"""One person's 5,000 exports, and another's hand on a picture (both by accounts of their own)."""

import subprocess
from pathlib import Path

from playwright.sync_api import Browser, BrowserContext, Page

from sequor.web.who import HEADER
from tests.bench.targets import Measured, tell
from tests.bench.test_in_the_browser import drag
from tests.conftest import ROOT
from tests.running import Application, running
from tests.ui.hands import settled
from tests.ui.test_people import PASSWORD, made_account, opened, sign_in
from tests.waiting import until

pytest_plugins = ["tests.ui.conftest"]
EXPORTS, AT_ONCE = 5_000, 50


def test_five_thousand_exports_of_another(
    browser: Browser, large_jpeg: Path, tmp_path: Path
) -> None:
    with running(tmp_path / "var", "--empty") as studio:
        command = [ROOT / "bin" / "sequor", "user", "add", "Ida", "--role=owner"]
        subprocess.run(
            [*command, "--password-stdin"],
            env=studio.environment,
            input=PASSWORD,
            text=True,
            check=True,
        )
        contexts = [browser.new_context(viewport={"width": 1280, "height": 800}) for _ in range(2)]
        hers, his = (
            at_own_picture(studio, context, name, large_jpeg)
            for context, name in zip(contexts, ("Una", "Kai"), strict=True)
        )
        until(lambda: not unread(studio))
        drag(hers, "while nobody else works", 40)
        settled(hers)
        copies = queue_exports(studio, his)
        his.close()
        for time in ("at first", "once more", "a third time"):
            hers.reload()
            settled(hers)
            drag(hers, f"while another's {EXPORTS} exports run, {time}", 80)
            settled(hers)
        cards = studio.send("GET", f"/api/sets/{copies}")[1]["pictures"]
        done = sum(card["state"] == "exported" for card in cards)
        tell(Measured("of another's exports done meanwhile", done, 1, at_least=True))


def unread(studio: Application) -> int:
    """How many pictures are not read yet: that is done in the background."""
    sets = studio.send("GET", "/api/sets")[1]["sets"]
    listed = [studio.send("GET", f"/api/sets/{one['id']}")[1]["pictures"] for one in sets]
    return sum(card["told"] == "unread" for cards in listed for card in cards)


def at_own_picture(studio: Application, context: BrowserContext, name: str, file: Path) -> Page:
    """Somebody at a picture of 24 megapixels in a set of their own."""
    made_account(studio, name)
    page = opened(context, f"{studio.url}/account")
    sign_in(page, name)
    page.wait_for_url(f"{studio.url}/account")
    made = ask(studio, page, "/api/sets", {"name": f"{name}'s"})
    content = {"name": f"{name}.jpg", "mimeType": "image/jpeg", "buffer": file.read_bytes()}
    added = page.request.post(
        f"{studio.url}/api/sets/{made['id']}/pictures",
        multipart={"file": content},
        headers=named(studio, page),
        timeout=120_000,
    )
    page.goto(f"{studio.url}/pictures/{added.json()['picture']['id']}")
    settled(page)
    return page


def queue_exports(studio: Application, page: Page) -> int:
    """Ask for all of them, of copies of a picture; gives the set of those."""
    number = int(page.url.rpartition("/")[2])
    set_id = ask(studio, page, "/api/sets", {"name": "Copies"})["id"]
    for _ in range(AT_ONCE):
        ask(studio, page, "/api/pictures/copy", {"picture_ids": [number], "set_id": set_id})
    listed = page.request.get(f"{studio.url}/api/sets/{set_id}").json()["pictures"]
    ids = [one["id"] for one in listed]
    for _ in range(EXPORTS // AT_ONCE):
        ask(studio, page, "/api/exports", {"picture_ids": ids, "format": "jpeg"})
    return set_id


def ask(studio: Application, page: Page, path: str, body: dict) -> dict:
    answer = page.request.post(
        f"{studio.url}{path}", data=body, headers=named(studio, page), timeout=120_000
    )
    assert answer.ok, answer.text()
    return answer.json()


def named(studio: Application, page: Page) -> dict[str, str]:
    return {HEADER: page.request.get(f"{studio.url}/api/me").json()["csrf"]}
