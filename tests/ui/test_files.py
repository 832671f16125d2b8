"""A raw picture by the mouse: its bow, its camera's level, its export."""

from pathlib import Path

from playwright.sync_api import Page, expect

from tests.ui.demo import PICTURES
from tests.ui.hands import expect_roll, export, open_bench, state


def test_a_raw_picture_is_levelled_by_its_own_camera(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, PICTURES / "ridge-hut-undeveloped.dng")
    page.keyboard.press("1")
    expect(page.get_by_text("as the file states it")).to_be_visible()
    expect(page.get_by_text("Developed from the raw file by LibRaw")).to_be_visible()
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
