"""What the picture proposes itself, at the screen: in pencil, refused, inked, reviewed."""

import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, Route, expect

from tests.conftest import sea_picture
from tests.ui.demo import PICTURES, TRUTH, edge_of
from tests.ui.hands import add, cost, export, open_bench, settled, state, wait_for
from tests.ui.test_measuring import tilt_in_file

FRONT = "pumping-station.jpg"


def readings(page: Page) -> list[dict]:
    return state(page)["recipe"]["readings"]


def test_a_front_proposed_refused_inked_and_exported(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, PICTURES / FRONT)
    page.get_by_role("button", name="Read the picture").click()
    pencil = page.get_by_role("region", name="In pencil")
    expect(pencil.get_by_role("status")).to_contain_text("plumb")
    lines = pencil.get_by_role("listitem")
    count = lines.count()
    assert count >= 6
    expect(page.locator("[data-proposed]")).to_have_count(count)
    assert readings(page) == []

    # Looked at before it is taken: the cost is said, and nothing is kept.
    pencil.get_by_role("button", name="Preview").click()
    kept = page.get_by_text(re.compile(r"would keep \d+\.\d %"))
    expect(kept).to_be_visible()
    pencil.get_by_role("button", name="Preview").click()
    expect(cost(page)).to_contain_text("keeps all of the picture")
    assert readings(page) == []

    refused = lines.first.get_by_role("button", name=re.compile("^Rub out"))
    refused.click()
    gone = wait_for(page, lambda now: now["what"] == "proposed line rubbed out")
    assert len(gone["recipe"]["rubbed_out"]) == 1
    expect(page.get_by_role("button", name="Read the picture")).to_have_attribute(
        "aria-busy", "false"
    )
    pencil.get_by_role("button", name="Ink all").click()
    now = wait_for(page, lambda now: "inked" in now["what"])
    expect(pencil).to_have_count(0)
    rubbed = now["recipe"]["rubbed_out"][0]
    assert rubbed not in [reading["points"] for reading in now["recipe"]["readings"]]
    for axis, within in (("roll", 0.05), ("lean", 0.2), ("swing", 0.2)):
        assert now["solution"]["stance"][axis]["applied_deg"] == pytest.approx(
            TRUTH[FRONT]["camera"][f"{axis}_deg"], abs=within
        )
    pixels = export(page, tmp_path)
    for edge in ("left corner", "cornice", "stack, right side"):
        assert abs(tilt_in_file(page, pixels, edge_of(FRONT, edge))) < 0.1


def test_by_keys_alone_one_line_is_inked_and_all_the_others(set_page: Page) -> None:
    page = set_page
    open_bench(page, PICTURES / "posts-in-haze.jpg")
    page.keyboard.press("a")
    pencil = page.get_by_role("region", name="In pencil")
    first = pencil.get_by_role("button", name=re.compile("^Ink (plumb|level)")).first
    first.focus()
    page.keyboard.press("Enter")
    wait_for(page, lambda now: len(now["recipe"]["readings"]) == 1)
    expect(page.get_by_role("button", name="Read the picture")).to_have_attribute(
        "aria-busy", "false"
    )
    page.keyboard.press("v")
    expect(pencil.get_by_role("button", name="Preview")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("i")
    now = wait_for(page, lambda now: len(now["recipe"]["readings"]) > 3)
    assert now["solution"]["stance"]["roll"]["applied_deg"] == pytest.approx(
        TRUTH["posts-in-haze.jpg"]["camera"]["roll_deg"], abs=0.1
    )
    page.keyboard.press("Control+z")
    wait_for(page, lambda now: len(now["recipe"]["readings"]) == 1)


def test_a_picture_that_cannot_be_told_says_so(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    grain = np.random.default_rng(3).integers(90, 140, (600, 900, 3)).astype(np.uint8)
    Image.fromarray(grain).save(tmp_path / "sand.png")
    open_bench(page, tmp_path / "sand.png")
    page.get_by_role("button", name="Read the picture").click()
    said = page.get_by_role("region", name="In pencil")
    expect(said).to_contain_text("There is no line in this picture that tells")
    expect(said.get_by_role("button", name="Ink all")).to_have_count(0)
    said.get_by_role("button", name="Put the pencil away").click()
    expect(said).to_have_count(0)


def refuse(route: Route) -> None:
    """Answer a change as if another had come before it."""
    route.fulfill(status=409, json={"problem": "Another entry holds by now."})


def test_six_pictures_levelled_and_reviewed_by_keys(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    tilts = [1.3, -2.1, 0.7, 3.0, -0.9, 0.0]
    files = []
    for number, tilt in enumerate(tilts):
        files.append(tmp_path / f"horizon-{number}.png")
        picture = sea_picture(tilt) if number < 5 else np.full((600, 900, 3), 120, np.uint8)
        Image.fromarray(picture).save(files[-1])
    cards = page.get_by_role("link", name=re.compile("^Open horizon"))
    for count, file in enumerate(files, 1):
        add(page, file)
        expect(cards).to_have_count(count)
    # Read in the background: the cards say it without anybody asking.
    # Six are read one after the other, giving way to all else.
    expect(page.get_by_text("about 1.3° ", exact=False).first).to_be_visible(timeout=180_000)
    page.get_by_role("button", name="Choose all").focus()
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Level 6 chosen").focus()
    page.keyboard.press("Enter")
    for number in range(5):
        expect(page.get_by_role("heading", name=f"horizon-{number}.png")).to_be_visible()
        expect(
            page.get_by_role("img", name=re.compile(f"horizon-{number}.png, as it would be"))
        ).to_be_visible()
        if number == 2:
            # What goes wrong is read and put away; the review goes on where it was.
            page.route("**/ledger", refuse, times=1)
            page.keyboard.press("Enter")
            expect(page.get_by_role("alert")).to_contain_text("Another entry holds by now.")
            page.get_by_role("button", name="Understood").click()
            expect(page.get_by_role("alert")).to_have_count(0)
            expect(page.get_by_role("heading", name="horizon-2.png")).to_be_visible()
        page.keyboard.press("Backspace" if number == 3 else "Enter")
    expect(page.get_by_role("heading", name="horizon-5.png")).to_be_visible()
    expect(page.get_by_text("Sequor cannot tell", exact=False)).to_be_visible()
    strip = page.get_by_role("navigation", name="Pictures of this review")
    expect(strip.get_by_text("inked")).to_have_count(4)
    expect(strip.get_by_text("rubbed out")).to_have_count(1)
    # The last decision is taken back wherever one is, and shown.
    page.keyboard.press("Control+z")
    expect(page.get_by_role("heading", name="horizon-4.png")).to_be_visible()
    expect(strip.get_by_text("inked")).to_have_count(3)
    page.keyboard.press("Enter")
    expect(strip.get_by_text("inked")).to_have_count(4)
    # One that was opened is come back to, with all that was decided.
    page.keyboard.press("o")
    expect(page.get_by_role("group", name="Stage")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("heading", name="horizon-5.png")).to_be_visible()
    expect(strip.get_by_text("inked")).to_have_count(4)
    # Nothing is inked twice, and the review has an end.
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_text("5 of 6, inked")).to_be_visible()
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="horizon-5.png")).to_be_visible()
    page.keyboard.press("ArrowRight")
    end = page.get_by_role("region", name="The end of the review")
    expect(end.get_by_role("region", name="Inked").get_by_role("button")).to_have_count(4)
    expect(end.get_by_role("button", name="Export what is done (4)")).to_be_visible()
    page.keyboard.press("Enter")
    expect(end).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("turned 1.30°", exact=False)).to_be_visible()
    expect(page.get_by_text("turned 0.90°", exact=False)).to_be_visible()
    page.get_by_role("link", name="Open horizon-1.png").click()
    settled(page)
    assert state(page)["what"].endswith("inked")
    assert state(page)["solution"]["stance"]["roll"]["applied_deg"] == pytest.approx(2.1, abs=0.1)
