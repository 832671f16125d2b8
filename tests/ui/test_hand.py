"""What an act of the hand means: one line is what it is nearer to, a reading takes the place of
what was stated, and where lines contradict each other the outcomes are seen.
"""

from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.ui.demo import PICTURES, drag_along, size_of
from tests.ui.hands import (
    cost,
    drag,
    draw_horizon,
    expect_roll,
    horizon_file,
    open_bench,
    picture_point,
    settled,
    tube_of,
    wait_for,
)


def test_a_reading_takes_the_place_of_a_typed_tilt_in_one_act(
    set_page: Page, tmp_path: Path
) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 4.2))
    field = page.get_by_label("Tilt as shot")
    field.fill("4 cw")
    field.press("Enter")
    expect_roll(page, -4.0)
    # Entered, the keys are the bench's again.
    page.keyboard.press("l")
    draw_horizon(page, 4.2)
    expect_roll(page, -4.2, within=0.02)
    note = page.get_by_role("note").filter(has_text="gave way")
    expect(note).to_contain_text("4.00°")
    note.get_by_role("button", name="Put it on top").click()
    expect_roll(page, -8.2, within=0.02)
    page.keyboard.press("Control+z")
    expect_roll(page, -4.2, within=0.02)
    page.keyboard.press("Control+z")  # the reading, and with it what it did to the statement
    expect_roll(page, -4.0)


def test_one_line_is_level_or_plumb_and_is_turned_over(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.get_by_text("Fit new lines to edges").click()
    # Along an upright: it stays one, and the picture is not thrown on its side.
    drag(page, picture_point(page, 700, 200), picture_point(page, 720, 1000))
    upright = wait_for(page, lambda now: len(now["recipe"]["readings"]) == 1)
    assert upright["recipe"]["readings"][0]["kind"] == "plumb"
    assert abs(upright["solution"]["stance"]["roll"]["applied_deg"]) < 3
    # The tool is still in the hand: the next line needs no key.
    drag(page, picture_point(page, 300, 500), picture_point(page, 1500, 520))
    wait_for(page, lambda now: len(now["recipe"]["readings"]) == 2)
    page.keyboard.press("x")
    wait_for(page, lambda now: now["recipe"]["readings"][1]["kind"] == "plumb")
    page.get_by_role("button", name="Read reading 2 as level").click()
    wait_for(page, lambda now: now["recipe"]["readings"][1]["kind"] == "level")
    # Or by its sign in its row.
    for kind in ("plumb", "level"):
        page.get_by_role("button", name="Turn reading 2 over").click()
        wait_for(page, lambda now, k=kind: now["recipe"]["readings"][1]["kind"] == k)
    # Put away, a whole line can be taken; its direction stays.
    page.keyboard.press("Escape")
    before = wait_for(page, lambda now: True)["recipe"]["readings"][1]["points"]
    drag(page, picture_point(page, 600, 505), picture_point(page, 600, 705))
    moved = wait_for(
        page, lambda now: now["recipe"]["readings"][1]["points"][0][1] > before[0][1] + 100
    )["recipe"]["readings"][1]["points"]
    assert moved[1][1] - moved[0][1] == pytest.approx(before[1][1] - before[0][1], abs=0.01)
    # A level that is forced.
    page.keyboard.press("Shift+L")
    expect(page.get_by_role("button", name="Level", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )


def test_outcomes_are_seen_side_by_side_and_one_press_takes_one(set_page: Page) -> None:
    name, page = "the-old-house.tif", set_page
    open_bench(page, PICTURES / name)
    page.get_by_text("Fit new lines to edges").click()
    page.get_by_role("button", name="As shot", exact=True).click()
    page.mouse.move(*picture_point(page, 1700, 950, size_of(name)))
    page.mouse.wheel(0, -500)
    for count, edge in enumerate(("row, right end", "old house, first post"), 1):
        drag_along(page, name, edge)
        wait_for(page, lambda now, n=count: len(now["recipe"]["readings"]) == n)
    note = page.get_by_role("note").filter(has_text="which none of them is")
    note.get_by_role("button", name="Side by side…").click()
    window = page.get_by_role("dialog")
    for outcome in ("Between them, as it is", "Reading 1 really slopes", "Reading 2 really slopes"):
        expect(window.get_by_role("group", name=outcome).get_by_role("img").first).to_be_visible()
    window.get_by_role("button", name="Take: Reading 2 really slopes").click()
    expect(window).to_have_count(0)
    taken = wait_for(page, lambda now: now["recipe"]["readings"][1]["kind"] == "check")
    assert taken["solution"]["stance"]["roll"]["applied_deg"] == pytest.approx(-0.97, abs=0.5)
    # It stays in the book, measured: it really slopes.
    expect(page.get_by_role("row", name="Reading 2")).to_contain_text("°")
    settled(page)


def test_anything_is_found_by_what_people_call_it_and_done(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    steps = page.get_by_role("navigation", name="Steps")
    page.keyboard.press("/")
    page.keyboard.type("crop")
    found = page.get_by_role("option", name="Step: Frame")
    expect(found).to_contain_text("3")  # its key
    page.keyboard.press("Enter")
    expect(steps.get_by_role("button", name="Frame")).to_have_attribute("aria-current", "step")
    for word, wanted in (
        ("keystone", "Draw: rectangle"),
        ("before and after", "Show: beside"),
        ("straighten", "Draw a line"),
        ("full screen", "Nothing but the picture"),
    ):
        page.get_by_role("button", name="Find").click()
        page.keyboard.type(word)
        expect(page.get_by_role("option", name=wanted)).to_be_visible()
        page.keyboard.press("Escape")
    # Starting over is one act, and one undo brings everything back.
    draw_in_measure(page)
    page.keyboard.press("/")
    page.keyboard.type("start over")
    page.keyboard.press("Enter")
    expect_roll(page, 0.0)
    page.keyboard.press("Control+z")
    expect_roll(page, -1.0, within=0.02)


def draw_in_measure(page: Page) -> None:
    page.keyboard.press("l")
    draw_horizon(page, 1.0)
    expect_roll(page, -1.0, within=0.02)


def test_while_the_hand_moves_no_figure_of_an_earlier_hand_is_told(
    set_page: Page, tmp_path: Path
) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.keyboard.press("Escape")
    tube = tube_of(page)
    x, y = tube["x"] + tube["width"] / 2, tube["y"] + 12
    whole = cost(page).inner_text()
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 90, y, steps=3)
    # The hand pauses: the column says what the turn costs.
    expect(cost(page)).not_to_have_text(whole, use_inner_text=True)
    page.mouse.up()
    settled(page)
    page.keyboard.press("Control+z")
    expect_roll(page, 0.0)
    expect(cost(page)).to_have_text(whole, use_inner_text=True)
    page.evaluate(
        """() => {
          const bar = document.querySelector('[aria-label="Cost of the frame"]');
          window.told = [];
          new MutationObserver(() => window.told.push(bar.innerText)).observe(bar, {
            subtree: true, characterData: true, childList: true,
          });
        }"""
    )
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 4, y)
    expect(cost(page)).not_to_have_text(whole, use_inner_text=True)
    page.mouse.up()
    settled(page)
    # What the small turn costs, and nothing on the way to it.
    assert set(page.evaluate("window.told")) == {cost(page).inner_text()}
