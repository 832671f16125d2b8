"""The whole job with a screen reader's names and the keys alone; nothing is pointed at."""

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from tests.ui.hands import add, horizon_file, set_of, settled, wait_for


def test_the_job_by_roles_and_names(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    page.goto(set_of(page))
    add(page, horizon_file(tmp_path, 1.33))
    page.get_by_role("link", name="Open horizon.png").press("Enter")
    expect(page).to_have_title(re.compile("horizon.png"))
    stage = page.get_by_role("group", name="Stage")
    expect(stage).to_have_attribute("data-settled", "true")
    # A line is laid in the middle, and its ends are moved.
    stage.press("h")
    stage.press("Enter")
    wait_for(page, lambda now: len(now["recipe"]["readings"]) == 1)
    end = page.get_by_role("button", name="End 2 of reading 1")
    end.focus()
    for _ in range(4):
        end.press("Shift+ArrowDown")
    settled(page)
    holds = page.get_by_role("status", name="What holds")
    expect(holds).to_contain_text("keeps")
    # Or the angle is said.
    field = page.get_by_role("textbox", name="Tilt as shot")
    field.fill("1.33 cw")
    field.press("Enter")
    expect(holds).to_contain_text("turned 1.33° anticlockwise")
    page.get_by_role("button", name=re.compile("^3 ?Frame")).press("Enter")
    page.get_by_role("button", name="4:3").press("Enter")
    wait_for(page, lambda now: now["recipe"]["frame"]["ratio"] == "4:3")
    # What opens takes the focus, and gives it back.
    keys = page.get_by_role("button", name="Keys")
    keys.press("Enter")
    window = page.get_by_role("dialog", name="Keys")
    expect(window).to_be_visible()
    page.keyboard.press("Escape")
    expect(window).to_be_hidden()
    expect(keys).to_be_focused()
    page.get_by_role("button", name="Undo").press("Enter")
    wait_for(page, lambda now: now["recipe"]["frame"]["ratio"] != "4:3")
    page.get_by_role("button", name="Redo").press("Enter")
    wait_for(page, lambda now: now["recipe"]["frame"]["ratio"] == "4:3")
    page.get_by_role("button", name=re.compile("^5 ?Export")).press("Enter")
    export = page.get_by_role("button", name="Export", exact=True)
    expect(export).to_be_enabled()
    export.press("Enter")
    expect(page.get_by_role("status", name="Saved")).to_contain_text("horizon")


def test_three_hints_are_learnt_by_doing_and_stay_away(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    page.goto(set_of(page))
    add(page, horizon_file(tmp_path, 1.0))
    page.get_by_role("link", name="Open horizon.png").press("Enter")
    hint = page.locator("[data-hint]:not([data-hint=undo])")
    stage = page.get_by_role("group", name="Stage")
    expect(stage).to_have_attribute("data-settled", "true")
    expect(hint).to_have_count(0)
    stage.press("h")
    stage.press("Enter")
    wait_for(page, lambda now: len(now["recipe"]["readings"]) == 1)
    # How it is taken back stands beside the button for a moment.
    expect(page.locator("[data-hint=undo]")).to_have_text("Ctrl Z takes it back")
    expect(hint).to_have_text(re.compile("Hold B"))
    stage.press("b")
    expect(hint).to_have_count(0)
    stage.press("h")
    stage.press("Enter")
    wait_for(page, lambda now: len(now["recipe"]["readings"]) == 2)
    expect(hint).to_have_text(re.compile("^X turns"))
    page.get_by_role("button", name="Not again").press("Enter")
    expect(hint).to_have_count(0)
    page.reload()
    expect(stage).to_have_attribute("data-settled", "true")
    expect(hint).to_have_count(0)
    expect(page.locator("[data-hint=undo]")).to_have_count(0)


def test_nothing_found_says_what_to_do(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    page.goto(set_of(page))
    add(page, horizon_file(tmp_path, 1.0))
    expect(page.get_by_role("link", name="Open horizon.png")).to_be_visible()
    page.get_by_role("combobox", name="Which pictures are shown").select_option(label="Exported")
    page.get_by_role("button", name="Show all pictures").press("Enter")
    expect(page.get_by_role("link", name="Open horizon.png")).to_be_visible()
