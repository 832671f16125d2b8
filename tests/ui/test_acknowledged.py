"""The page keeps what was done: on its own picture, also while it closes; damaged files are marked,
and what was set aside is taken back.
"""

import io
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Page, Route, expect

from tests.running import Application
from tests.ui.hands import add, entered, horizon_file, open_bench, settled, state
from tests.waiting import until


def picture_ids(page: Page, application: Application, count: int) -> list[int]:
    set_id = page.url.rsplit("/", 1)[1]
    cards = application.send("GET", f"/api/sets/{set_id}")[1]["pictures"]
    assert len(cards) == count
    return [card["id"] for card in cards]


def test_an_answer_for_another_picture_is_never_shown(
    set_page: Page, tmp_path: Path, application: Application
) -> None:
    page = set_page
    files = [horizon_file(tmp_path, tilt, f"{tilt}.png") for tilt in (1.0, 2.0, 3.0)]
    add(page, *files)
    expect(page.get_by_role("link", name="Open")).to_have_count(3)
    first, late, last = picture_ids(page, application, 3)
    answers: list[Route] = []

    page.route(f"**/api/pictures/{late}", lambda route: answers.append(route))
    page.goto(f"{application.url}/pictures/{first}")
    settled(page)
    go = "path => { history.pushState({}, '', path); dispatchEvent(new PopStateEvent('popstate')) }"
    with page.expect_request(f"**/api/pictures/{late}"):
        page.evaluate(go, f"/pictures/{late}")
    page.evaluate(go, f"/pictures/{last}")
    settled(page)
    expect(page).to_have_title("3.0.png · Sequor")
    answers[0].continue_()  # the answer for the one between comes late
    page.wait_for_load_state("networkidle")
    expect(page).to_have_title("3.0.png · Sequor")
    before = application.send("GET", f"/api/pictures/{last}")[1]
    page.keyboard.press("l")
    page.keyboard.press("Enter")
    after = entered(page, before["entry_id"])
    assert after["id"] == last
    expect(page.get_by_role("alert")).to_have_count(0)


def test_the_last_edit_is_kept_while_the_page_closes(
    set_page: Page, tmp_path: Path, application: Application
) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    before, number = state(page), int(page.url.rsplit("/", 1)[1])
    page.keyboard.press("Escape")
    page.keyboard.press("ArrowRight")  # kept as soon as the hand rests, or the page goes
    page.goto("about:blank")

    def kept() -> dict | None:
        now = application.send("GET", f"/api/pictures/{number}")[1]
        return now if now["entry_id"] != before["entry_id"] else None

    after = until(kept)
    assert after["recipe"]["trim"]["roll_deg"] != before["recipe"]["trim"]["roll_deg"]


def test_a_damaged_file_is_taken_in_as_it_is(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    content = io.BytesIO()
    pixels = np.random.default_rng(1).integers(0, 255, (300, 450, 3), np.uint8)
    Image.fromarray(pixels).save(content, "JPEG")
    path = tmp_path / "from-an-old-card.jpg"
    path.write_bytes(content.getvalue()[:-20_000])
    add(page, path)
    expect(page.get_by_role("alert")).to_contain_text("can be taken in as it is")
    page.get_by_role("button", name="Take it in as it is").click()
    card = page.get_by_role("link", name="Open from-an-old-card.jpg")
    expect(card).to_contain_text("damaged file")
    card.click()
    settled(page)
    expect(page.get_by_role("banner")).to_contain_text("damaged file")


def test_what_was_set_aside_is_taken_back(
    set_page: Page, tmp_path: Path, application: Application
) -> None:
    """As after an old copy of the database: a file that no row names lies in the data folder."""
    page = set_page
    path = horizon_file(tmp_path, 1.0, "lost.png")
    name = "0" * 63 + "1"
    lies = application.data / "quarantine" / name
    lies.write_bytes(path.read_bytes())
    page.goto(f"{application.url}/storage")
    aside = page.get_by_role("region", name="Set aside")
    expect(aside.get_by_role("listitem")).to_have_count(1)
    own = page.request.get(f"{application.url}/api/sets").json()["sets"][-1]
    aside.get_by_label("Set for what was set aside").select_option(str(own["id"]))
    aside.get_by_role("button", name="Take in").click()
    expect(aside).to_have_count(0)
    assert not lies.exists()
    page.goto(f"{application.url}/sets/{own['id']}")
    expect(page.get_by_role("link", name="Open found-")).to_have_count(1)
