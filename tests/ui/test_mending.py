"""The brush at the screen: a spot made anew by mouse and by keys, another way, copied, removed, and
in the exported file.
"""

import math
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.core.test_mending import grass, red, spotted
from tests.ui.hands import drag, entered, export, open_bench, picture_point, state, to_step

SIZE = (600, 400)


def at_the_brush(page: Page, folder: Path) -> None:
    """A picture of grass with a red spot, on the bench, with the brush in the hand."""
    Image.fromarray(spotted(grass())).save(folder / "grass.png")
    open_bench(page, folder / "grass.png")
    to_step(page, "Corners")
    page.get_by_role("button", name="Brush over a place").click()


def made(page: Page, count: int) -> None:
    """Wait until what is mended is shown."""
    expect(page.locator("[data-mend]")).to_have_count(count)
    page.wait_for_selector("[data-mended=true]", state="attached")
    expect(page.get_by_text("The place is being made anew…")).to_have_count(0)


def on_screen(page: Page) -> np.ndarray:
    """The stage as it is seen."""
    shot = page.get_by_role("group", name="Stage").screenshot()
    decoded = cv2.imdecode(np.frombuffer(shot, np.uint8), cv2.IMREAD_COLOR)
    assert decoded is not None
    return np.ascontiguousarray(decoded[:, :, ::-1])


def test_a_spot_is_brushed_away_copied_over_and_exported(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    at_the_brush(page, tmp_path)
    before = state(page)["entry_id"]
    assert red(on_screen(page)) > 400
    width = page.get_by_role("slider", name="Width of the brush")
    width.focus()
    for _ in range(6):
        width.press("ArrowRight")
    drag(page, picture_point(page, 294, 206, SIZE), picture_point(page, 306, 214, SIZE))
    now = entered(page, before)
    (mend,) = now["recipe"]["mends"]
    assert math.dist(mend["points"][0], (294, 206)) < 2
    assert math.dist(mend["points"][-1], (306, 214)) < 2
    assert 2 * mend["reach"] > 30
    made(page, 1)
    assert red(on_screen(page)) < 20
    expect(page.get_by_text("1 place mended")).to_be_visible()

    row = page.get_by_role("group", name="Mend 1")
    row.get_by_role("button", name="Another").click()
    now = entered(page, now["entry_id"])
    assert now["recipe"]["mends"][0]["candidate"] == {"style": "calm", "draw": 1}
    row.get_by_role("button", name="Copy from…").click()
    page.mouse.click(*picture_point(page, 420, 300, SIZE))
    now = entered(page, now["entry_id"])
    middle = mend["points"][len(mend["points"]) // 2]
    copied = now["recipe"]["mends"][0]["copied_from"]
    assert math.dist((middle[0] + copied[0], middle[1] + copied[1]), (420, 300)) < 2
    made(page, 1)
    assert red(on_screen(page)) < 20

    to_step(page, "Export")
    page.get_by_label("Format").select_option("png")
    file = export(page, tmp_path)[..., :3]
    assert red(file) == 0
    far = np.hypot(*(np.mgrid[0:400, 0:600] - np.array([210, 300])[:, None, None])) > 60
    assert (file == grass())[far].all()


def test_the_brush_by_keys_and_a_mend_removed(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    at_the_brush(page, tmp_path)
    before = state(page)["entry_id"]
    brush = page.get_by_role("button", name="Brush: arrow keys move it")
    expect(brush).to_be_focused()
    page.keyboard.press("Enter")
    now = entered(page, before)
    assert math.dist(now["recipe"]["mends"][0]["points"][0], (300, 200)) < 1
    for _ in range(3):
        page.keyboard.press("Shift+ArrowDown")
    page.keyboard.press("Enter")
    now = entered(page, now["entry_id"])
    first, second = (mend["points"][0] for mend in now["recipe"]["mends"])
    assert second[0] == first[0]
    assert second[1] > first[1] + 20
    made(page, 2)
    page.get_by_role("button", name="Remove mend 1").click()
    now = entered(page, now["entry_id"])
    assert [mend["points"][0] for mend in now["recipe"]["mends"]] == [second]
    page.keyboard.press("Escape")
    expect(brush).to_have_count(0)
    page.reload()
    assert len(state(page)["recipe"]["mends"]) == 1


def test_a_brush_over_everything_says_so(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    Image.fromarray(grass(60, 90)).save(tmp_path / "small.png")
    open_bench(page, tmp_path / "small.png")
    to_step(page, "Corners")
    page.get_by_role("button", name="Brush over a place").click()
    page.get_by_role("slider", name="Width of the brush").press("End")
    before = state(page)["entry_id"]
    turns = ((4, 8), (86, 8), (86, 24), (4, 24), (4, 40), (86, 40), (86, 54), (4, 54))
    start, *others = (picture_point(page, *turn, (90, 60)) for turn in turns)
    page.mouse.move(*start)
    page.mouse.down()
    for turn in others:
        page.mouse.move(*turn, steps=8)
    page.mouse.up()
    entered(page, before)
    expect(page.get_by_role("alert")).to_contain_text("Nothing is left to copy from")
    page.get_by_role("button", name="Remove mend 1").click()
    expect(page.get_by_role("alert")).to_have_count(0)
