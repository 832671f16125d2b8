"""What is judged by eye, looked at before it is done, and compared with what will be delivered."""

import math
import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw
from playwright.sync_api import Locator, Page, Route, expect

from tests.conftest import sea_picture
from tests.ui.demo import PICTURES, drag_along
from tests.ui.hands import (
    HEIGHT,
    WIDTH,
    compare,
    drag,
    draw_horizon,
    expect_roll,
    horizon_file,
    open_bench,
    picture_point,
    settled,
    state,
    wait_for,
)

MARKS = "[data-line], [data-end], [data-grid], [data-composition], [data-keep], [data-avoid]"


def middle(page: Page, name: str) -> tuple[float, float]:
    box = page.get_by_role("button", name=name, exact=True).bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def grid_shown(page: Page) -> Locator:
    return page.locator("[data-grid=fine]")


def look_and_take(page: Page, control: Locator) -> None:
    """Rest on a control until what it would come to is seen, then press it."""
    page.mouse.move(5, 5)
    settled(page)
    control.hover()
    expect(page.get_by_role("region", name="Cost of the frame")).to_contain_text("would keep")
    control.click()


def test_the_calmest_of_five_is_chosen_in_three_rounds(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.2))
    page.keyboard.press("Escape")
    page.keyboard.press("e")
    window = page.get_by_role("dialog", name="By eye: which is the calmest?")
    turns = window.get_by_role("button").filter(has_text=re.compile("turned"))
    expect(turns).to_have_count(5)
    # One degree, half, a quarter: by the keys, by the mouse.
    expect(turns.nth(1)).to_contain_text("1.00° anticlockwise")
    page.keyboard.press("2")
    expect(window).to_contain_text("Round 2 of 3")
    expect(turns.nth(1)).to_contain_text("1.50° anticlockwise")
    expect(turns.nth(2)).to_contain_text("1.00° anticlockwise")
    turns.nth(2).click()
    expect(window).to_contain_text("Round 3 of 3")
    window.get_by_role("button", name="One round back").click()
    expect(window).to_contain_text("Round 2 of 3")
    page.keyboard.press("3")
    expect(turns.nth(1)).to_contain_text("1.25° anticlockwise")
    page.keyboard.press("2")
    expect(window).to_have_count(0)
    expect_roll(page, -1.25)
    found = state(page)
    assert found["recipe"]["trim"]["by_eye_sigma_deg"] == pytest.approx(
        float(np.std([-1, -1, -1.25], ddof=1))
    )
    page.keyboard.press("Control+z")
    expect_roll(page, 0)


def test_a_corner_is_pulled_by_mouse_and_by_keys(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.keyboard.press("Escape")
    page.get_by_role("button", name="By eye").click()
    page.get_by_role("menuitem", name="Pull the corners").click()
    corner = "Picture, top right corner"
    x, y = middle(page, corner)
    drag(page, (x, y), (x + 40, y - 26))
    pulled = wait_for(page, lambda now: now["recipe"]["trim"]["lean_deg"] > 0.5)
    stance = pulled["solution"]["stance"]
    assert stance["swing"]["applied_deg"] > 0.5
    assert pulled["recipe"]["trim"]["stated"] == ["roll", "lean", "swing"]
    page.keyboard.press("Control+z")
    back = wait_for(page, lambda now: now["recipe"]["trim"]["lean_deg"] == 0)
    assert back["recipe"]["trim"]["stated"] == []
    page.get_by_role("button", name=corner).focus()
    page.keyboard.press("Shift+ArrowUp")
    wait_for(page, lambda now: abs(now["recipe"]["trim"]["lean_deg"]) > 0.5)
    page.keyboard.press("Escape")
    expect(page.get_by_role("button", name=corner)).to_have_count(0)


def test_the_picture_is_turned_by_dragging_outside_its_frame(
    set_page: Page, tmp_path: Path
) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.keyboard.press("Escape")
    stage = page.get_by_role("group", name="Stage").bounding_box()
    assert stage
    cx, cy = stage["x"] + stage["width"] / 2, stage["y"] + stage["height"] / 2
    # Above the picture's left corner, a quarter of a turn about the middle of the frame by hand.
    start = (stage["x"] + 6, stage["y"] + stage["height"] / 2 - 60)
    turned = math.radians(5)
    dx, dy = start[0] - cx, start[1] - cy
    end = (
        cx + dx * math.cos(turned) - dy * math.sin(turned),
        cy + dx * math.sin(turned) + dy * math.cos(turned),
    )
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(*end, steps=6)
    # A fine grid stands still meanwhile, and goes afterwards.
    expect(grid_shown(page)).to_have_count(1)
    page.mouse.up()
    expect_roll(page, 5.0, within=0.15)
    expect(grid_shown(page)).to_have_count(0)
    page.keyboard.press("Control+z")
    expect_roll(page, 0)


def test_the_price_of_a_shape_is_seen_before_it_is_taken(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.keyboard.press("3")
    cost = page.get_by_role("region", name="Cost of the frame")
    expect(cost).to_contain_text("keeps all of the picture")
    before = state(page)["entry_id"]
    square = page.get_by_role("group", name="Ratio").get_by_role("button", name="1:1")
    square.hover()
    # 3:2 cropped to a square keeps two thirds.
    expect(cost).to_contain_text("would keep 66.7 %")
    expect(cost).to_contain_text("now all")
    page.get_by_role("group", name="Stage").hover()
    expect(cost).to_contain_text("keeps all of the picture")
    assert state(page)["entry_id"] == before
    # The keys look too, and what is taken is what was seen.
    square.focus()
    page.keyboard.press("Shift+Tab")
    page.keyboard.press("Tab")
    expect(cost).to_contain_text("would keep 66.7 %")
    page.keyboard.press("Enter")
    wait_for(page, lambda now: now["recipe"]["frame"]["ratio"] == "1:1")
    expect(cost).to_contain_text("keeps 66.7 % of the picture")


def test_what_is_kept_has_air_and_looks_to_a_side(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 3.0))
    page.keyboard.press("Escape")
    page.get_by_label("Tilt as shot").fill("3 cw")
    page.get_by_label("Tilt as shot").press("Enter")
    expect_roll(page, -3)
    page.keyboard.press("3")
    page.get_by_role("tab", name="Place").click()
    page.get_by_role("button", name="Draw a box to keep").click()
    drag(page, picture_point(page, 800, 500), picture_point(page, 1000, 640))
    wait_for(page, lambda now: now["recipe"]["frame"]["keep"] is not None)
    page.get_by_role("slider", name="Air around what is kept").focus()
    page.keyboard.press("ArrowRight")
    wait_for(page, lambda now: now["recipe"]["frame"]["air"] == 0.05)
    sides = page.get_by_role("group", name="The side it looks to")
    # Each was looked at before: a press does what was seen, and not the opposite of it.
    look_and_take(page, sides.get_by_role("button", name="left"))
    wait_for(page, lambda now: now["recipe"]["frame"]["looks"] == "left")
    look_and_take(page, sides.get_by_role("button", name="left"))
    wait_for(page, lambda now: now["recipe"]["frame"]["looks"] is None)
    page.get_by_role("button", name=re.compile("^Ease")).click()
    look_and_take(page, page.get_by_role("button", name="natural"))
    wait_for(page, lambda now: now["recipe"]["ease"]["lean"] == 0.94)


def test_a_squashed_circle_is_given_its_shape_back(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    picture = Image.new("RGB", (WIDTH, HEIGHT), "#cfd8dc")
    ImageDraw.Draw(picture).ellipse((700, 500, 1000, 740), fill="#37474f")
    picture.save(tmp_path / "clock.png")
    open_bench(page, tmp_path / "clock.png")
    page.keyboard.press("3")
    page.get_by_role("button", name="Mark something round or square").click()
    drag(page, picture_point(page, 700, 500), picture_point(page, 1000, 740))
    # 300 wide and 240 high.
    expect(page.get_by_text("1.25 times as wide as high")).to_be_visible()
    page.get_by_role("button", name="Give it its shape back").click()
    found = wait_for(page, lambda now: now["recipe"]["proportion"] > 1)
    assert found["recipe"]["proportion"] == pytest.approx(1.25, abs=0.01)
    expect(page.get_by_text("has its true shape")).to_be_visible()


def test_what_will_be_delivered_is_compared_with_the_picture_as_shot(
    set_page: Page, tmp_path: Path
) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 4.0))
    draw_horizon(page, 4.0)
    wait_for(page, lambda now: len(now["recipe"]["readings"]) == 1)
    stage = page.get_by_role("group", name="Stage")
    assert stage.locator(MARKS).count() > 0
    page.keyboard.press("c")
    # Finished: nothing over it, nothing beside the frame.
    expect(stage.locator(MARKS)).to_have_count(0)
    veil = stage.locator("path[fill-opacity='1']")
    expect(veil).to_have_count(1)
    corrected = page.get_by_role("img", name=re.compile("corrected"))
    lies = corrected.bounding_box()
    page.keyboard.down("b")
    # As shot, in its place at its scale: the picture below does not move.
    over = stage.locator("[data-as-shot-over] img")
    expect(over).to_be_visible()
    assert corrected.bounding_box() == lies
    matrix = "new DOMMatrix(getComputedStyle(image).transform)"
    zoom = f"(image) => {{ const m = {matrix}; return Math.hypot(m.a, m.b) }}"
    assert over.evaluate(zoom) == pytest.approx(corrected.evaluate(zoom), rel=1e-4)
    page.keyboard.up("b")
    expect(over).to_have_count(0)
    compare(page, "Over")
    strength = page.get_by_role("slider", name="As shot over finished")
    expect(strength).to_have_attribute("aria-valuenow", "50")
    strength.focus()
    page.keyboard.press("End")
    expect(stage.locator("[data-as-shot-over]")).to_have_css("opacity", "1")
    page.keyboard.press("c")
    page.keyboard.press("c")
    expect(page.get_by_role("button", name="Corrected")).to_have_attribute("aria-pressed", "true")


def test_one_to_one_while_a_key_is_held(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.keyboard.press("Escape")
    stage = page.get_by_role("group", name="Stage")
    box = stage.bounding_box()
    assert box
    at = (box["x"] + 300, box["y"] + 200)
    page.mouse.move(*at)
    fitted = page.get_by_role("button", name=re.compile(r"^fit \d+ %"))
    expect(fitted).to_be_visible()
    under = picture_point(page, 0, 0)
    page.keyboard.down("z")
    expect(page.get_by_role("button", name=re.compile(r"^100 %"))).to_be_visible()
    page.keyboard.up("z")
    expect(fitted).to_be_visible()
    assert picture_point(page, 0, 0) == pytest.approx(under, abs=0.01)
    # In Export it is a pixel of the file that lies on one of the screen.
    page.keyboard.press("5")
    page.get_by_label("Size", exact=True).select_option("long_edge")
    page.get_by_label("Longer side").fill("900")
    expect(page.get_by_text("900 × 600 px")).to_be_visible()
    page.mouse.move(*at)
    stage.focus()
    page.keyboard.down("z")
    expect(page.get_by_role("button", name=re.compile(r"^50 %"))).to_be_visible()
    page.keyboard.up("z")


def test_the_loupe_runs_along_a_line(set_page: Page) -> None:
    page, name = set_page, "rail-by-the-cut.jpg"
    open_bench(page, PICTURES / name)
    page.get_by_text("Fit new lines to edges").click()
    drag_along(page, name, "far dike")
    wait_for(page, lambda now: len(now["recipe"]["readings"]) == 1)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Run along").click()
    loupe = page.get_by_role("img", name=re.compile("^Loupe"))
    expect(loupe).to_be_visible()
    # To its end, and away.
    expect(loupe).to_have_count(0, timeout=15_000)
    ends = state(page)["recipe"]["readings"][0]["points"]
    for _ in range(5):
        page.keyboard.press(".")
    said = loupe.get_attribute("aria-label") or ""
    at = [float(number) for number in re.findall(r"[\d.]+", said)[1:]]
    a, b = np.array(ends)
    assert at == pytest.approx(a + 0.2 * (b - a), abs=1.0)


def test_the_file_is_beside_the_button_when_it_is_there(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    page.keyboard.press("5")
    page.get_by_label("Size", exact=True).select_option("long_edge")
    page.get_by_label("Longer side").fill("6000")
    button = page.get_by_role("button", name="Export", exact=True)
    expect(button).to_be_disabled()
    expect(button).to_have_accessible_description(re.compile("It would be enlarged"))
    page.get_by_label("Longer side").fill("900")
    with page.expect_download() as download:
        button.click()
    saved = page.get_by_role("status", name="Saved")
    expect(saved).to_contain_text(download.value.suggested_filename)
    with page.context.expect_page() as shown:
        saved.get_by_role("link", name="Open").click()
    assert shown.value.request.get(shown.value.url).headers["content-type"] == "image/jpeg"
    shown.value.close()
    saved.get_by_role("link", name="Show in the list").click()
    expect(page).to_have_url(re.compile("/exports$"))


def test_what_is_proposed_is_compared_with_what_holds(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    Image.fromarray(sea_picture(2.0)).save(tmp_path / "sea.png")
    open_bench(page, tmp_path / "sea.png")
    page.keyboard.press("a")
    pencil = page.get_by_role("region", name="In pencil")
    pencil.get_by_role("button", name="Compare").click()
    window = page.get_by_role("dialog", name="What is proposed against what holds")
    for pane in ("Holds now", "As proposed"):
        expect(window.get_by_role("group", name=pane).get_by_role("img")).to_be_visible()
    window.get_by_role("button", name="Over").click()
    strength = window.get_by_role("slider", name="Strength of as proposed")
    strength.fill("1")
    proposed = window.get_by_role("img", name="sea.png, as proposed")
    slope = (
        "(image) => { const m = new DOMMatrix(getComputedStyle(image).transform);"
        " return Math.atan2(m.b, m.a) * 180 / Math.PI }"
    )
    assert abs(proposed.evaluate(slope)) == pytest.approx(2.0, abs=0.1)
    # While B is held what holds alone, in its place.
    page.keyboard.down("b")
    expect(proposed).to_have_count(0)
    page.keyboard.up("b")
    expect(proposed).to_be_visible()
    page.keyboard.press("Escape")
    assert state(page)["recipe"]["readings"] == []


def test_two_versions_are_compared(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    # A shape can be pressed only when it is known what the new version begins from.
    late: list[Route] = []
    page.route("**/versions", lambda route: late.append(route))
    page.get_by_role("button", name="Versions", exact=True).click()
    shapes = page.get_by_role("group", name="Try another shape")
    square = shapes.get_by_role("button", name="1:1")
    expect(square).to_be_disabled()
    for route in late:
        route.continue_()
    page.unroute("**/versions")
    square.click()
    page.get_by_role("button", name="Compare with 1:1").click()
    window = page.get_by_role("dialog")
    for pane in ("first version", "1:1"):
        expect(window.get_by_role("group", name=pane).get_by_role("img")).to_be_visible()
    window.get_by_role("button", name="Divided").click()
    expect(window.get_by_role("slider", name="Divider")).to_be_visible()


def test_a_double_click_puts_a_slider_and_a_vial_back(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.get_by_role("button", name=re.compile("^Ease")).click()
    ease = page.get_by_role("slider", name="Ease of swing")
    ease.focus()
    page.keyboard.press("Home")
    wait_for(page, lambda now: now["recipe"]["ease"]["swing"] == 0)
    ease.dblclick()
    wait_for(page, lambda now: now["recipe"]["ease"] == {"roll": 1, "lean": 1, "swing": 1})
    page.keyboard.press("Escape")
    page.get_by_label("Tilt as shot").fill("3 cw")
    page.get_by_label("Tilt as shot").press("Enter")
    expect_roll(page, -3)
    page.get_by_role("slider", name="Roll", exact=True).dblclick()
    expect_roll(page, 0)
