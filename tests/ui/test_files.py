"""A raw picture by the mouse: its bow, its light, its camera's level, its export."""

from pathlib import Path

import numpy as np
import tifffile
from playwright.sync_api import Page, expect

from tests.ui.demo import PICTURES
from tests.ui.hands import add, expect_roll, export, open_bench, state, wait_for


def test_a_raw_picture_is_levelled_by_its_own_camera(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, PICTURES / "ridge-hut-undeveloped.dng")
    page.keyboard.press("1")
    expect(page.get_by_text("as the file states it")).to_be_visible()
    expect(page.get_by_text("Developed from the raw file by LibRaw")).to_be_visible()
    take_a_grey_spot(page)
    page.keyboard.press("2")
    page.get_by_role("button", name="read the camera's level").click()
    expect_roll(page, -2.2)
    row = page.get_by_role("row", name="Reading 1")
    expect(row.get_by_text("camera", exact=True)).to_be_visible()
    assert state(page)["solution"]["lens"]["source"] == "file"
    page.keyboard.press("5")
    page.get_by_role("button", name="More about the file").click()
    expect(page.get_by_role("checkbox", name="Progressive: coarse first")).to_be_visible()
    made = export(page, tmp_path)
    assert made.shape[2] == 3


def take_a_grey_spot(page: Page) -> None:
    """In the Lens step: a lamp's light, then something grey by the mouse and by the keys."""
    light = page.get_by_role("combobox", name="Light that the picture is developed for")
    shown = page.locator("img[src*='@']")
    expect(shown).to_have_count(0)
    light.select_option(label="Incandescent lamps")
    expect(page.get_by_text("Developed for incandescent lamps, 2,860\u00a0K")).to_be_visible()
    expect(shown.first).to_be_visible()
    page.get_by_role("button", name="Choose a grey spot").click()
    stage = page.get_by_label("Stage", exact=True)
    box = stage.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.7)
    expect(page.get_by_text("for the light of a grey spot")).to_be_visible()
    expect(light).to_have_value("spot")
    chosen = state(page)["recipe"]["white"]
    page.get_by_role("button", name="Another grey spot").click()
    stage.focus()
    page.keyboard.press("Enter")
    after = wait_for(page, lambda now: now["recipe"]["white"]["x"] != chosen["x"])
    # The key is the tool's that is in the hand, not also that of Measure, which waits.
    assert after["recipe"]["readings"] == []
    # What was taken up in this step is laid down in the next.
    page.get_by_role("button", name="Another grey spot").click()
    expect(page.locator("[data-draw]")).to_have_count(1)
    page.keyboard.press("3")
    expect(page.locator("[data-draw]")).to_have_count(0)
    page.keyboard.press("1")
    light.select_option(label="As the camera chose")
    expect(shown).to_have_count(0)


def test_pages_of_a_scan_are_chosen(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    with tifffile.TiffWriter(tmp_path / "scan.tif") as file:
        for level in (40, 120, 200):
            file.write(np.full((60, 90, 3), level, np.uint8), photometric="rgb", metadata=None)
    add(page, tmp_path / "scan.tif")
    expect(page.get_by_text("holds 3 pictures: say which page")).to_be_visible()
    page.get_by_label("Pages of scan.tif to take").select_option(label="all 3 pages")
    for number in (1, 2, 3):
        expect(page.get_by_role("link", name=f"Open scan, page {number}.tif")).to_be_visible()
