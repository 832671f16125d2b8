"""Many pictures and long memory at the screen: versions, ledgers, carrying over, sets, archives."""

import re
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.conftest import horizon_picture
from tests.ui.hands import (
    add,
    draw_horizon,
    horizon_file,
    open_bench,
    settled,
    state,
    wait_for,
)


def series(page: Page, folder: Path, count: int) -> None:
    """Pictures of one place of the tripod, on the contact sheet."""
    files = []
    for number in range(count):
        pixels = horizon_picture(1.33, width=900, height=600) - np.uint8(number)
        files.append(folder / f"step-{number}.png")
        Image.fromarray(pixels).save(files[-1])
    add(page, *files)
    expect(page.get_by_role("link", name=re.compile("^Open step"))).to_have_count(count)


def set_name(page: Page) -> str:
    return page.get_by_role("heading", level=1).inner_text()


def test_three_crops_are_compared_and_one_is_kept(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.33))
    draw_horizon(page, 1.33)
    page.get_by_role("button", name="Versions", exact=True).click()
    cards = page.get_by_role("list", name="Versions").get_by_role("listitem")
    expect(cards).to_have_count(1)
    for number, shape in enumerate(("5:4", "16:9", "1:1"), 2):
        page.get_by_role("button", name=shape, exact=True).click()
        expect(cards).to_have_count(number)
    heights = {card.locator("img").bounding_box()["height"] for card in cards.all()}
    assert len(heights) == 1
    kept = [float(re.search(r"keeps ([\d.]+) %", c.inner_text())[1]) for c in cards.all()]
    assert kept[0] > max(kept[1:])
    square = cards.filter(has_text="1:1")
    square.get_by_role("button", name="Keep only this").click()
    expect(cards).to_have_count(1)
    expect(page.get_by_label("Name of 1:1")).to_have_value("1:1")
    page.get_by_role("link", name="Open 1:1").click()
    settled(page)
    frame = state(page)["solution"]["frame"]
    assert frame["width"] == frame["height"]
    assert state(page)["recipe"]["readings"]


def test_a_ledger_is_looked_at_by_keys_and_gone_back_to(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.33))
    draw_horizon(page, 1.33)
    page.keyboard.press("ArrowRight")
    now = wait_for(page, lambda found: found["recipe"]["trim"]["roll_deg"] > 0)
    page.get_by_role("button", name="Ledger").click()
    entries = page.get_by_role("navigation", name="Ledger").get_by_role("button")
    expect(entries).to_have_count(3)
    expect(entries.first).to_have_accessible_name(re.compile("holds now"))
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("img", name=re.compile("chosen entry"))).to_be_visible()
    page.keyboard.press("d")
    page.get_by_label("Divider").fill("0.3")
    page.keyboard.press("Escape")
    settled(page)
    assert state(page)["entry_id"] == now["entry_id"]  # looking changed nothing
    page.get_by_role("button", name="Ledger").click()
    expect(entries).to_have_count(3)
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Enter")
    expect(entries).to_have_count(4)
    expect(entries.first).to_have_accessible_name(re.compile("^back to: as shot.*holds now"))
    page.get_by_role("button", name="To the bench").click()
    settled(page)
    assert state(page)["recipe"]["readings"] == []


def test_a_tripod_series_is_carried_over_and_undone(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    series(page, tmp_path, 6)
    page.get_by_role("link", name="Open step-0.png").click()
    settled(page)
    page.get_by_label("Tilt as shot").fill("1.33 cw")
    page.keyboard.press("Enter")
    first = wait_for(page, lambda found: found["recipe"]["trim"]["roll_deg"] != 0)
    page.get_by_label("To the contact sheet").click()
    page.get_by_role("button", name="Choose all").click()
    page.get_by_role("button", name="Carry over").click()
    targets = page.get_by_role("list", name="Targets").get_by_role("listitem")
    expect(targets.filter(has_text="becomes: turned 1.33°").first).to_be_visible()
    page.get_by_role("button", name="Carry over to 5").click()
    expect(page.get_by_role("status")).to_have_text("Carried over to 5 pictures.")
    page.get_by_role("button", name="To the sheet").click()
    expect(page.get_by_text("turned 1.33° anticlockwise")).to_have_count(6)
    page.get_by_role("link", name="Open step-3.png").click()
    settled(page)
    other = state(page)
    assert other["solution"]["homography"] == first["solution"]["homography"]
    assert other["solution"]["frame"] == first["solution"]["frame"]
    # The ledger of each has the act, and it can be undone in one alone too.
    page.keyboard.press("Control+z")
    wait_for(page, lambda found: found["recipe"]["trim"]["roll_deg"] == 0)


def test_an_act_on_many_is_undone_at_once(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    series(page, tmp_path, 3)
    page.get_by_role("link", name="Open step-0.png").click()
    settled(page)
    page.keyboard.press("ArrowRight")
    wait_for(page, lambda found: found["recipe"]["trim"]["roll_deg"] != 0)
    page.get_by_label("To the contact sheet").click()
    page.get_by_role("button", name="Choose all").click()
    page.get_by_role("button", name="Carry over").click()
    page.get_by_role("button", name="Carry over to 2").click()
    expect(page.get_by_role("status")).to_have_text("Carried over to 2 pictures.")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("status")).to_have_text("Undone in 2 pictures.")
    page.keyboard.press("Escape")
    expect(page.get_by_text("turned 0.10°", exact=False)).to_have_count(1)


def test_a_set_is_kept_by_keys(set_page: Page, tmp_path: Path) -> None:
    """Chosen, thrown away, taken back, found, put in order: no mouse."""
    page = set_page
    series(page, tmp_path, 4)
    cards = page.get_by_role("link", name=re.compile("^Open step"))
    page.get_by_label("In which order").select_option("name")
    page.get_by_label("Choose step-1.png").focus()
    page.keyboard.press("Space")
    bar = page.get_by_role("group", name="Chosen pictures")
    expect(bar).to_contain_text("1 picture chosen")
    page.get_by_label("Choose step-3.png").focus()
    page.keyboard.press("Shift+Space")
    expect(bar).to_contain_text("3 pictures chosen")
    page.keyboard.press("Escape")
    expect(bar).to_have_count(0)
    cards.first.focus()
    page.keyboard.press("ArrowRight")
    expect(page.get_by_role("link", name="Open step-1.png")).to_be_focused()
    page.keyboard.press("Control+a")
    expect(bar).to_contain_text("4 pictures chosen")
    page.keyboard.press("Delete")
    expect(page.get_by_text("4 versions went into the bin")).to_be_visible()
    expect(cards).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(cards).to_have_count(4)
    page.keyboard.press("/")
    page.keyboard.type("step-2")
    expect(cards).to_have_count(1)
    page.keyboard.press("Escape")
    expect(cards).to_have_count(4)
    page.get_by_label("Which pictures are shown").select_option("measured")
    expect(page.get_by_text("No picture of this set is like that.")).to_be_visible()


def test_a_set_is_moved_thrown_away_and_taken_back(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    series(page, tmp_path, 2)
    name = set_name(page)
    page.get_by_label("Choose step-0.png").check(force=True)
    page.get_by_role("button", name="New set of these").click()
    page.get_by_label("Name of the new set").fill(f"{name} apart")
    page.get_by_role("button", name="Make the set").click()
    cards = page.get_by_role("link", name=re.compile("^Open step"))
    expect(cards).to_have_count(1)
    page.get_by_role("navigation", name="Sets").get_by_text(f"{name} apart").click()
    expect(page.get_by_role("link", name="Open step-0.png")).to_be_visible()
    page.get_by_role("button", name="The set…").click()
    page.get_by_label("What the set is about").fill("one of two")
    page.get_by_role("button", name="Keep name and description").click()
    page.get_by_role("button", name="The set…").click()
    page.get_by_role("button", name="Throw the set into the bin").click()
    expect(page.get_by_role("navigation", name="Sets").get_by_text(f"{name} apart")).to_have_count(
        0
    )
    page.get_by_role("link", name="Bin", exact=True).click()
    line = page.get_by_role("listitem", name=f"The set {name} apart")
    line.get_by_role("button", name="Put back").click()
    expect(line).to_have_count(0)
    page.get_by_label("To the contact sheet").click()
    page.get_by_role("navigation", name="Sets").get_by_text(f"{name} apart").click()
    expect(page.get_by_role("link", name="Open step-0.png")).to_be_visible()


def test_an_archive_is_taken_along_and_in_again(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    series(page, tmp_path, 2)
    name = set_name(page)
    page.get_by_role("button", name="The set…").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Take it along as an archive").click()
    download.value.save_as(tmp_path / "set.zip")
    page.keyboard.press("Escape")
    page.get_by_label("Archive file").set_input_files(tmp_path / "set.zip")
    expect(page.get_by_role("heading", name=f"{name} 2")).to_be_visible()
    expect(page.get_by_role("link", name=re.compile("^Open step"))).to_have_count(2)
    (tmp_path / "no.zip").write_bytes(b"nothing")
    page.get_by_label("Archive file").set_input_files(tmp_path / "no.zip")
    expect(page.get_by_role("alert")).to_contain_text("Nothing of it was kept")


def test_exports_are_a_list_of_their_own(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.33, "sent.png"))
    page.keyboard.press("5")
    page.get_by_role("button", name="Keep…").click()
    page.get_by_label("Name of the preset").fill("Album")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Preset", exact=True)).to_contain_text("Album")
    with page.expect_download():
        page.get_by_role("button", name="Export", exact=True).click()
    page.goto(f"{page.url.split('/pictures')[0]}/exports")
    line = page.get_by_role("listitem", name=re.compile("^sent-levelled")).first
    expect(line).to_contain_text("0 empty pixels")
    line.get_by_role("button", name="Again").click()
    expect(page.get_by_role("listitem", name=re.compile("^sent-levelled"))).to_have_count(2)
    line.get_by_label("Choose").check(force=True)
    page.get_by_role("button", name="Clear 1").click()
    expect(page.get_by_role("listitem", name=re.compile("^sent-levelled"))).to_have_count(1)


def test_what_was_not_sent_goes_on_after_a_reload(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    held = []
    page.route("**/api/sets/*/pictures", lambda route: held.append(route))
    files = []
    for number in range(5):
        files.append(horizon_file(tmp_path, number / 2, f"late-{number}.png", width=300))
    add(page, *files)
    expect(page.get_by_role("region", name="Incoming files")).to_contain_text("0 of 5 files")
    page.unroute("**/api/sets/*/pictures")
    page.reload()
    expect(page.get_by_role("link", name=re.compile("^Open late"))).to_have_count(5)
    page.reload()
    expect(page.get_by_role("link", name=re.compile("^Open late"))).to_have_count(5)
    expect(page.get_by_role("region", name="Incoming files")).to_have_count(0)


def test_files_lie_in_the_order_they_came(set_page: Page, tmp_path: Path) -> None:
    """The first is the largest by far, and was in last when two were sent at a time."""
    sizes = {"a-first.png": (3600, 2400), "b-second.png": (300, 200), "c-third.png": (330, 220)}
    files = [
        horizon_file(tmp_path, 1.0 + place, name, width=width, height=height)
        for place, (name, (width, height)) in enumerate(sizes.items())
    ]
    add(set_page, *files)
    cards = set_page.get_by_role("link", name=re.compile("^Open (a-first|b-second|c-third)"))
    expect(cards).to_have_count(3)
    for place, name in enumerate(sizes):
        expect(cards.nth(place)).to_have_accessible_name(re.compile(f"^Open {name}"))
