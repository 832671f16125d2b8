"""The whole job in Debian's Chromium, by mouse and by keyboard, on the running application."""

import math
import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, Route, expect

from sequor.core.report.words import in_words
from tests.conftest import measured_tilt_deg
from tests.pictures.test_reading_files import BAD
from tests.running import Application
from tests.ui.hands import (
    HEIGHT,
    WIDTH,
    add,
    cost,
    drag,
    draw_horizon,
    expect_roll,
    export,
    horizon_file,
    open_bench,
    picture_point,
    set_of,
    settled,
    shown_roll,
    state,
    tube_of,
)


@pytest.mark.parametrize("tilt_deg", [1.33, -4.03])
def test_one_line_by_mouse(set_page: Page, tmp_path: Path, tilt_deg: float) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, tilt_deg))
    page.get_by_text("Fit new lines to edges").click()
    draw_horizon(page, tilt_deg)
    # A screen pixel is worth 0.04 degrees along this line.
    expect_roll(page, -tilt_deg, within=0.06)
    read = page.get_by_role("row", name="Reading 1")
    expect(read).to_contain_text(in_words(tilt_deg).split()[1])
    expect(read).not_to_contain_text("-")
    expect(cost(page)).to_contain_text(re.compile(r"keeps \d\d\.\d % of the picture"))

    # The screen is coarse, so the ends are set to the pixel by key; then the file must be level to
    # 0.05 degrees.
    rise = math.tan(math.radians(tilt_deg)) * WIDTH * 0.45
    set_end_exactly(page, 1, (WIDTH * 0.05, HEIGHT / 2 - rise))
    set_end_exactly(page, 2, (WIDTH * 0.95, HEIGHT / 2 + rise))
    expect_roll(page, -tilt_deg, within=0.02)
    pixels = export(page, tmp_path)
    assert measured_tilt_deg(pixels) == pytest.approx(0, abs=0.05)
    assert pixels.shape[1] / pixels.shape[0] == pytest.approx(1.5, rel=0.002)


def set_end_exactly(page: Page, end: int, wanted: tuple[float, float]) -> None:
    """Move an end to the nearest tenth of a pixel with the arrow keys, as a patient person
    would.
    """
    handle = page.get_by_role("button", name=f"End {end} of reading 1")
    handle.focus()
    recipe = state(page)["recipe"]
    x, y = recipe["readings"][0]["points"][end - 1]
    for off, forward, back in (
        (wanted[0] - x, "ArrowRight", "ArrowLeft"),
        (wanted[1] - y, "ArrowDown", "ArrowUp"),
    ):
        tenths = round(abs(off) * 10)
        key = forward if off > 0 else back
        for _ in range(tenths // 10):
            page.keyboard.press(key)
        for _ in range(tenths % 10):
            page.keyboard.press(f"Alt+{key}")
    settled(page)  # a reading moved by key is entered when the keys rest


def test_undo_redo_reload_restart(set_page: Page, tmp_path: Path, application: Application) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 2.0))
    draw_horizon(page, 2.0)
    expect_roll(page, -2.0, within=0.06)
    levelled = shown_roll(page)
    page.keyboard.press("Control+z")
    expect_roll(page, 0)
    expect(page.get_by_role("button", name="Undo")).to_be_disabled()
    page.keyboard.press("Control+Shift+z")
    expect_roll(page, levelled)
    page.reload()
    expect_roll(page, levelled)
    assert application.stop() == 0
    application.start()
    page.reload()
    expect_roll(page, levelled)
    page.get_by_role("button", name="Undo").click()
    expect_roll(page, 0)


def test_the_keyboard_alone(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    add(page, horizon_file(tmp_path, 1.5))
    expect(page.get_by_role("link", name="Open horizon.png")).to_be_visible()
    page.get_by_role("link", name="Open horizon.png").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("group", name="Stage")).to_be_visible()
    page.keyboard.press("p")
    page.keyboard.press("l")
    page.keyboard.press("Enter")
    first = page.get_by_role("button", name="End 1 of reading 1")
    expect(first).to_be_focused()
    # The line was put across the middle from 20 % to 80 %; its ends go up and down to the border.
    rise = math.tan(math.radians(1.5)) * WIDTH * 0.3
    for _ in range(round(rise)):
        page.keyboard.press("ArrowUp")
    page.keyboard.press("Tab")
    expect(page.get_by_role("button", name="End 2 of reading 1")).to_be_focused()
    for _ in range(round(rise)):
        page.keyboard.press("ArrowDown")
    expect_roll(page, -1.5, within=0.03)
    settled(page)
    page.keyboard.press("5")
    button = page.get_by_role("button", name="Export", exact=True)
    expect(button).to_be_enabled()  # when the size of the file is known
    button.focus()
    with page.expect_download() as download:
        page.keyboard.press("Enter")
    download.value.save_as(tmp_path / "out.jpg")
    assert measured_tilt_deg(np.asarray(Image.open(tmp_path / "out.jpg"))) == pytest.approx(
        0, abs=0.05
    )


def test_vial_keys_drag_and_typing(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    for key, roll in (
        ("ArrowRight", 0.1),
        ("Shift+ArrowRight", 1.1),
        ("Alt+ArrowLeft", 1.09),
        ("ArrowLeft", 0.99),
    ):
        page.keyboard.press(key)
        expect_roll(page, roll)
    field = page.get_by_label("Tilt as shot")
    for typed, roll, words in (
        ("1.33 cw", -1.33, "turned 1.33° anticlockwise"),
        ("1.33 acw", 1.33, "turned 1.33° clockwise"),
        ("1°20'", 4 / 3, "turned 1.33° clockwise"),
        ("0", 0, "not turned"),
        ("-1.33", 1.33, "turned 1.33° clockwise"),
        ("-2", 2, "turned 2.00° clockwise"),
    ):
        field.fill(typed)
        field.press("Enter")
        expect_roll(page, roll)
        expect(page.get_by_role("slider", name="Roll", exact=True)).to_have_attribute(
            "aria-valuetext", words
        )
    field.fill("sideways")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("not an angle")
    expect_roll(page, 2)
    page.keyboard.press("Escape")

    tube = tube_of(page)
    start = (tube["x"] + tube["width"] * 0.7, tube["y"] + 15)
    per_px = 5 / (tube["width"] / 2 - 30)
    drag(page, start, (start[0] - 120, start[1]))
    expect_roll(page, 2 - 120 * per_px, within=0.02)
    before = shown_roll(page)
    # Alt is finer everywhere, by hand as by key; Shift goes farther by key.
    page.keyboard.down("Alt")
    drag(page, start, (start[0] + 100, start[1]))
    page.keyboard.up("Alt")
    expect_roll(page, before + 10 * per_px, within=0.02)
    page.get_by_role("button", name="Back to as shot").click()
    expect_roll(page, 0)


def test_readings_move_and_go(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 3.0))
    page.get_by_text("Fit new lines to edges").click()
    draw_horizon(page, 1.0)
    expect_roll(page, -1.0, within=0.06)
    rise = math.tan(math.radians(3.0)) * WIDTH * 0.45
    for end, x, y in ((1, 0.05, HEIGHT / 2 - rise), (2, 0.95, HEIGHT / 2 + rise)):
        box = page.get_by_role("button", name=f"End {end} of reading 1").bounding_box()
        assert box
        target = picture_point(page, WIDTH * x, y)
        drag(page, (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2), target)
        settled(page)
    expect_roll(page, -3.0, within=0.08)
    # A plumb reading at right angles to the horizon agrees with it.
    page.get_by_role("button", name=re.compile("^Plumb")).click()
    lean = math.tan(math.radians(3.0)) * 500
    drag(
        page,
        picture_point(page, 900 + lean, HEIGHT / 2 - 500),
        picture_point(page, 900 - lean, HEIGHT / 2 + 500),
    )
    expect(page.get_by_role("row", name="Reading 2")).to_contain_text("clockwise")
    expect_roll(page, -3.0, within=0.08)
    page.get_by_role("button", name="Delete reading 1").click()
    expect(page.get_by_role("row", name="Reading 2")).to_have_count(0)
    page.mouse.move(5, 400)
    page.get_by_role("row", name="Reading 1").hover()
    page.keyboard.press("Delete")
    expect(page.get_by_text("No readings yet")).to_be_visible()
    expect_roll(page, 0)


def test_lines_are_fitted_and_can_be_taken_as_drawn(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    rise = math.tan(math.radians(1.0)) * WIDTH * 0.45
    # Drawn roughly: each end some pixels off the horizon, on either side.
    drag(
        page,
        picture_point(page, WIDTH * 0.05, HEIGHT / 2 - rise + 6),
        picture_point(page, WIDTH * 0.95, HEIGHT / 2 + rise - 6),
    )
    toggle = page.get_by_role("button", name="Fit reading 1 to the edge")
    expect(toggle).to_have_attribute("aria-pressed", "true")
    expect_roll(page, -1.0, within=0.011)
    toggle.click()
    expect(toggle).to_have_attribute("aria-pressed", "false")
    expect_roll(page, -0.57, within=0.08)
    toggle.click()
    expect_roll(page, -1.0, within=0.011)
    page.keyboard.press("l")
    drag(
        page,
        picture_point(page, WIDTH * 0.1, HEIGHT * 0.2),
        picture_point(page, WIDTH * 0.9, HEIGHT * 0.2),
    )
    expect(page.get_by_text("kept as drawn")).to_be_visible()
    expect(page.get_by_role("button", name="Fit reading 2 to the edge")).to_have_attribute(
        "aria-pressed", "false"
    )
    page.get_by_text("Fit new lines to edges").click()
    page.keyboard.press("l")
    drag(
        page,
        picture_point(page, WIDTH * 0.1, HEIGHT * 0.4),
        picture_point(page, WIDTH * 0.9, HEIGHT * 0.6),
    )
    expect(page.get_by_role("button", name="Fit reading 3 to the edge")).to_have_attribute(
        "aria-pressed", "false"
    )


def test_escape_lets_go_of_a_line(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    page.mouse.move(*picture_point(page, 200, 500))
    page.mouse.down()
    page.mouse.move(*picture_point(page, 1500, 700), steps=5)
    page.keyboard.press("Escape")
    page.mouse.up()
    settled(page)
    expect(page.get_by_text("No readings yet")).to_be_visible()
    expect_roll(page, 0)


def test_a_key_takes_its_tool_whatever_was_in_the_hand(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    line = page.get_by_role("button", name=re.compile("^Line"))
    expect(line).to_have_attribute("aria-pressed", "true")  # in the hand on a fresh picture
    page.keyboard.press("l")
    expect(line).to_have_attribute("aria-pressed", "true")
    draw_horizon(page, 1.0)
    expect_roll(page, -1.0, within=0.011)
    # It stays there until another is taken, or it is put away.
    expect(line).to_have_attribute("aria-pressed", "true")
    for key, name in (("p", "Plumb"), ("r", "Rectangle"), ("t", "Trace"), ("k", "Check")):
        tool = page.get_by_role("button", name=re.compile(f"^{name}"))
        for _ in range(2):
            page.keyboard.press(key)
            expect(tool).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("Escape")
    expect(tool).to_have_attribute("aria-pressed", "false")
    page.keyboard.press("k")
    tool.click()  # the button itself puts away what is in the hand
    expect(tool).to_have_attribute("aria-pressed", "false")


def test_each_key_is_a_cap_of_its_own(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.keyboard.press("?")
    expect(page.get_by_role("dialog").locator("kbd").first).to_be_visible()
    caps = page.get_by_role("dialog").locator("kbd").all_inner_texts()
    assert {"L", "P", "K", "T", "R", "B", "Ctrl", "Z", "1", "5"} <= set(caps)
    assert all(len(cap) == 1 or cap in ("Enter", "Escape", "Tab", "Delete", "Ctrl") for cap in caps)


def test_two_fingers_zoom_and_pan(set_page: Page, browser: Browser, tmp_path: Path) -> None:
    open_bench(set_page, horizon_file(tmp_path, 0.0))
    tablet = browser.new_context(viewport={"width": 1280, "height": 800}, has_touch=True)
    tablet.add_cookies(set_page.context.cookies())
    page = tablet.new_page()
    page.goto(set_page.url)
    settled(page)
    touch = tablet.new_cdp_session(page)

    def fingers(kind: str, *points: tuple[float, float]) -> None:
        at = [{"x": x, "y": y, "id": number} for number, (x, y) in enumerate(points)]
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": at})

    a, b = picture_point(page, 700, 600), picture_point(page, 1100, 600)
    fingers("touchStart", a)
    fingers("touchStart", a, b)
    # Twice as far apart about the same middle, and 40 px further down.
    for step in (0.25, 0.5, 0.75, 1.0):
        spread = (b[0] - a[0]) / 2 * step
        fingers("touchMove", (a[0] - spread, a[1] + 40 * step), (b[0] + spread, b[1] + 40 * step))
    fingers("touchEnd")
    expected = a[0] - (b[0] - a[0]) / 2, a[1] + 40
    assert picture_point(page, 700, 600) == pytest.approx(expected, abs=1)
    settled(page)
    expect(page.get_by_text("No readings yet")).to_be_visible()  # and nothing was drawn
    tablet.close()


def test_grid_stands_still_and_the_key_shows_as_shot(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 5.0))
    draw_horizon(page, 5.0)
    expect_roll(page, -5.0, within=0.06)
    page.keyboard.press("g")
    grid = page.locator("[data-grid=coarse] path").first
    lines = grid.get_attribute("d")
    image = page.locator("[data-stage] img").first
    corrected = image.evaluate("e => getComputedStyle(e).transform")
    page.keyboard.press("Shift+ArrowRight")
    expect_roll(page, -4.0, within=0.06)
    assert image.evaluate("e => getComputedStyle(e).transform") != corrected
    assert grid.get_attribute("d") == lines
    page.keyboard.down("b")
    expect(page.get_by_text("as shot", exact=True)).to_be_visible()
    held = page.evaluate(
        "() => new DOMMatrix(getComputedStyle(document.querySelector('[data-as-shot-over] img'))"
        ".transform).b"
    )
    page.keyboard.up("b")
    assert held == 0
    expect(page.get_by_role("img", name="horizon.png, corrected")).to_be_visible()


def test_the_frame_takes_other_shapes(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    page.clock.install()
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.keyboard.press("3")
    page.get_by_text("1:1", exact=True).click()
    expect(page.get_by_text("1200 × 1200 px")).to_be_visible()
    expect(cost(page)).to_contain_text("keeps 66.7 % of the picture")
    page.get_by_label("Own ratio").fill("2:5")
    page.get_by_role("button", name="Use", exact=True).click()
    expect(page.get_by_text("480 × 1200 px")).to_be_visible()
    page.get_by_role("button", name="Turn 2:5 to 5:2").click()
    expect(page.get_by_text("1800 × 720 px")).to_be_visible()
    page.get_by_label("Own ratio").fill("wide")
    page.get_by_role("button", name="Use", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("not a ratio")
    # What the alert moved under the pointer is not what it points at: that would be looked at when
    # the pointer has rested on it, and stand in the place of what holds.
    looked: list[str] = []
    page.on("request", lambda request: looked.append(request.url))
    page.clock.fast_forward(2000)
    state(page)
    assert not [address for address in looked if address.endswith("/draft")]
    expect(page.get_by_text("1800 × 720 px")).to_be_visible()


def test_zoom_and_pan(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    fitted = picture_point(page, 0, 0), picture_point(page, WIDTH, HEIGHT)
    anchor = picture_point(page, 600, 500)
    page.mouse.move(*anchor)
    page.mouse.wheel(0, -400)
    expect(page.get_by_role("button", name=re.compile("fit .* %"))).to_have_count(0)
    assert picture_point(page, 600, 500) == pytest.approx(
        anchor, abs=0.5
    )  # what is under the pointer stays there
    wide = picture_point(page, WIDTH, 0)[0] - picture_point(page, 0, 0)[0]
    assert wide > 1.5 * (fitted[1][0] - fitted[0][0])
    page.keyboard.press("-")
    page.keyboard.press("-")
    page.keyboard.press("+")
    assert picture_point(page, WIDTH, 0)[0] - picture_point(page, 0, 0)[0] == pytest.approx(
        wide / 1.25, rel=0.001
    )
    before = picture_point(page, 600, 500)
    page.get_by_role("group", name="Stage").focus()
    page.keyboard.down("Space")
    drag(page, anchor, (anchor[0] + 90, anchor[1] - 40))
    page.keyboard.up("Space")
    assert picture_point(page, 600, 500) == pytest.approx((before[0] + 90, before[1] - 40), abs=0.5)
    expect(page.get_by_text("No readings yet")).to_be_visible()
    page.keyboard.press("0")
    assert picture_point(page, 0, 0) == pytest.approx(fitted[0], abs=0.5)


def test_two_windows_on_one_picture(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    other = page.context.new_page()
    other.goto(page.url)
    expect(other.get_by_role("group", name="Stage")).to_be_visible()
    other.keyboard.press("Shift+ArrowRight")
    expect_roll(other, 1)
    settled(other)
    page.bring_to_front()
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_role("alert")).to_contain_text("another window")
    expect_roll(page, 1)


def test_a_batch_with_bad_files(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    good = [
        horizon_file(tmp_path, tilt, f"good-{tilt}.png", width=300, height=200) for tilt in (1, 2)
    ]
    bad = []
    for kind in ("empty", "truncated", "hidden type"):
        name, content, _ = BAD[kind]
        bad.append(tmp_path / f"{kind.replace(' ', '-')}-{name}")
        bad[-1].write_bytes(content)
    add(page, good[0], *bad, good[1])
    expect(page.get_by_role("link", name=re.compile("^Open good-"))).to_have_count(2)
    expect(page.get_by_role("alert")).to_have_count(3)
    expect(page.get_by_text("really is a PNG file")).to_be_visible()
    add(page, good[0])
    expect(page.get_by_text("known already")).to_be_visible()
    expect(page.get_by_role("link", name=re.compile("^Open good-"))).to_have_count(2)


LOCKS_LATE = """() => {
  const request = navigator.locks.request.bind(navigator.locks);
  const asked = new Promise((go) => { window.go = go; });
  navigator.locks.request = async (...given) => { await asked; return request(...given); };
}"""


def test_a_file_is_sent_once_however_late_the_window_looks_for_what_was_left(
    set_page: Page, tmp_path: Path
) -> None:
    page = set_page.context.new_page()  # what is run at its start stays with it
    page.add_init_script(f"({LOCKS_LATE})()")
    held: list[Route] = []
    page.route(re.compile("/pictures$"), lambda route: held.append(route))
    page.goto(set_of(set_page))
    page.get_by_label("Picture files").set_input_files(horizon_file(tmp_path, 1.0))
    rows = page.get_by_role("region", name="Incoming files").get_by_text("horizon.png")
    expect(rows).to_have_count(1)
    page.evaluate("() => window.go()")
    page.wait_for_function(
        "async () => (await navigator.locks.query()).held.some((one) => /uploads/.test(one.name))"
    )
    # What was put down is read before this is.
    page.evaluate("async () => { await indexedDB.databases(); await new Promise(setTimeout); }")
    expect(rows).to_have_count(1)
    while held:
        held.pop().continue_()
    expect(page.get_by_role("link", name=re.compile("^Open horizon"))).to_have_count(1)
    expect(rows).to_have_count(1)


def test_a_page_asks_for_nothing_twice(set_page: Page, tmp_path: Path) -> None:
    open_bench(set_page, horizon_file(tmp_path, 1.0))
    page = set_page.context.new_page()
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url.partition("/api/")[2]))
    for address in (set_page.url, set_of(set_page)):
        asked.clear()
        page.goto(address)
        page.wait_for_load_state("networkidle")
        read = [one for one in asked if one and not one.startswith(("images/", "health"))]
        assert "options" in read
        assert sorted(read) == sorted(set(read)), address


def test_every_control_has_a_name(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    for key in "1234":
        page.keyboard.press(key)
        nameless = page.evaluate(
            """() => [...document.querySelectorAll('button, a, input, select, [tabindex="0"]')]
              .filter((e) => e.type !== 'hidden' && !e.ariaLabel && !e.labels?.length
                && !e.ariaLabelledByElements?.length && !e.textContent.trim() && !e.title)
              .map((e) => e.outerHTML.slice(0, 120))"""
        )
        assert nameless == []
    page.keyboard.press("Shift+?")
    expect(page.get_by_role("dialog")).to_contain_text("the picture as shot")
