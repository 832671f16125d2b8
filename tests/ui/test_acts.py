"""How many acts whole jobs take: a press, a click or a drag each counts as one. What a job takes is
held here: it may become less, and not more without a reason.
"""

import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Locator, Page, expect

from tests.conftest import sea_picture
from tests.ui.demo import PICTURES, drag_along
from tests.ui.hands import add, drag, expect_roll, open_bench, picture_point, wait_for


class Acts:
    """A hand that counts what it does."""

    def __init__(self, page: Page) -> None:
        self.page = page
        self.count = 0

    def press(self, key: str) -> None:
        self.count += 1
        self.page.keyboard.press(key)

    def click(self, what: Locator) -> None:
        self.count += 1
        what.click()

    def click_at(self, place: tuple[float, float]) -> None:
        self.count += 1
        self.page.mouse.click(*place)

    def drag_along(self, name: str, edge: str) -> None:
        self.count += 1
        drag_along(self.page, name, edge)


def left_over(state: dict, kind: str) -> list[float]:
    return [
        abs(one["residual_deg"]) for one in state["solution"]["readings"] if one["kind"] == kind
    ]


def test_a_sea_is_level_after_one_drag(set_page: Page, tmp_path: Path) -> None:
    page, acts = set_page, Acts(set_page)
    Image.fromarray(sea_picture(2.3)).save(tmp_path / "sea.png")
    open_bench(page, tmp_path / "sea.png")
    acts.count += 1
    # Roughly, as a hand draws: it finds the edge.
    drag(page, picture_point(page, 60, 280, (900, 600)), picture_point(page, 840, 312, (900, 600)))
    expect_roll(page, -2.3, within=0.1)
    assert acts.count == 1


def test_a_leaning_front_is_read_and_inked(set_page: Page) -> None:
    page, acts = set_page, Acts(set_page)
    open_bench(page, PICTURES / "pumping-station.jpg")
    acts.press("a")
    expect(
        page.get_by_role("region", name="In pencil").get_by_role("listitem").first
    ).to_be_visible()
    acts.press("i")
    found = wait_for(page, lambda now: len(now["recipe"]["readings"]) >= 4)
    assert max(left_over(found, "plumb")) < 0.3
    assert found["solution"]["stance"]["lean"]["applied_deg"] == pytest.approx(16, abs=0.6)
    assert acts.count == 2


def test_a_near_rail_and_a_far_dike(set_page: Page) -> None:
    page, acts, name = set_page, Acts(set_page), "rail-by-the-cut.jpg"
    open_bench(page, PICTURES / name)
    acts.drag_along(name, "near rail, top")
    wait_for(page, lambda now: len(now["recipe"]["readings"]) == 1)
    acts.drag_along(name, "far dike")
    expect_roll(page, 1.33, within=0.1)
    assert acts.count == 2


def test_an_old_house_that_is_crooked_itself(set_page: Page) -> None:
    page, acts, name = set_page, Acts(set_page), "the-old-house.tif"
    open_bench(page, PICTURES / name)
    for count, edge in enumerate(("row, right end", "old house, first post"), 1):
        acts.drag_along(name, edge)
        wait_for(page, lambda now, n=count: len(now["recipe"]["readings"]) == n)
    acts.click(page.get_by_role("button", name="Side by side…"))
    acts.click(page.get_by_role("button", name="Take: Reading 2 really slopes"))
    # The camera was tilted by 1.5; the end of the row tells 1 of it, and the leaning post none.
    expect_roll(page, -1.0, within=0.55)
    assert acts.count == 4


def test_six_pictures_one_of_which_cannot_be_told(set_page: Page, tmp_path: Path) -> None:
    page, acts = set_page, Acts(set_page)
    cards = page.get_by_role("link", name=re.compile("^Open sea"))
    for number, tilt in enumerate([1.3, -2.1, 0.7, 3.0, -0.9, None]):
        pixels = np.full((600, 900, 3), 120, np.uint8) if tilt is None else sea_picture(tilt)
        Image.fromarray(pixels).save(tmp_path / f"sea-{number}.png")
        add(page, tmp_path / f"sea-{number}.png")
        expect(cards).to_have_count(number + 1)
    acts.click(page.get_by_role("button", name="Choose all"))
    acts.click(page.get_by_role("button", name="Level 6 chosen"))
    for number in range(5):
        would = page.get_by_role("img", name=f"sea-{number}.png, as it would be")
        expect(would).to_be_visible()
        acts.press("Enter")
    expect(page.get_by_role("heading", name="sea-5.png")).to_be_visible()
    acts.press("ArrowRight")
    end = page.get_by_role("region", name="The end of the review")
    expect(end.get_by_role("region", name="Inked").get_by_role("button")).to_have_count(5)
    acts.click(end.get_by_role("button", name="Export what is done (5)"))
    expect(page.get_by_role("dialog")).to_be_visible()
    assert acts.count == 9


def test_a_print_on_the_scanner(set_page: Page) -> None:
    page, acts, name = set_page, Acts(set_page), "old-print-on-the-scanner.jpg"
    open_bench(page, PICTURES / name)
    acts.press("a")
    expect(
        page.get_by_role("region", name="In pencil").get_by_role("listitem").first
    ).to_be_visible()
    acts.press("i")
    expect_roll(page, 2.1, within=0.1)
    assert acts.count == 2
