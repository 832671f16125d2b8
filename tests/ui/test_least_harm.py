"""One press that shares the corners out with the least harm, and what counts how much, kept under a
name.
"""

from pathlib import Path

from PIL import Image
from playwright.sync_api import Page, expect

from tests.core.test_mending import grass
from tests.ui.hands import entered, open_bench, state, to_step
from tests.ui.test_frame import type_tilt


def press(page: Page) -> dict:
    """Find the mixture, and what it leads to."""
    before = state(page)["entry_id"]
    page.get_by_role("button", name="Least harm").click()
    now = entered(page, before)
    expect(page.get_by_text("mixtures the least")).to_be_visible()
    return now


def test_least_harm_is_found_taken_explained_and_weighed_anew(
    set_page: Page, tmp_path: Path
) -> None:
    page = set_page
    Image.fromarray(grass()).save(tmp_path / "grass.png")
    open_bench(page, tmp_path / "grass.png")
    type_tilt(page, "2")
    to_step(page, "Corners")
    cropped = state(page)["solution"]["kept_fraction"]
    found = press(page)
    assert found["solution"]["kept_fraction"] > cropped + 0.03
    expect(page.get_by_text("for what is lost")).to_contain_text("Harm ")
    expect(page.get_by_text("mixtures the least")).to_contain_text("cropping all")

    page.get_by_role("button", name="What counts").click()
    page.get_by_label("How much Making up counts").select_option("never")
    page.get_by_role("button", name="Keep…").click()
    page.get_by_role("textbox", name="Name of the preset").fill("as it was")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("combobox", name="Preset", exact=True)).to_contain_text("as it was")
    found = press(page)
    assert found["solution"]["cost"]["fill_fraction"] == 0

    # What was chosen is still so after a reload, and a name brings it back.
    page.reload()
    to_step(page, "Corners")
    page.get_by_role("button", name="What counts").click()
    making_up = page.get_by_label("How much Making up counts")
    expect(making_up).to_have_value("never")
    making_up.select_option("much")
    page.get_by_role("combobox", name="Preset", exact=True).select_option(label="as it was")
    expect(making_up).to_have_value("never")
    page.get_by_role("button", name="Forget").click()
    expect(page.get_by_role("combobox", name="Preset", exact=True)).to_contain_text(
        "No presets yet"
    )


def test_where_nothing_may_be_done_that_is_said(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    Image.fromarray(grass()).save(tmp_path / "grass.png")
    open_bench(page, tmp_path / "grass.png")
    type_tilt(page, "2")
    to_step(page, "Corners")
    page.get_by_role("button", name="What counts").click()
    for what in ("Losing some", "Bending", "Making up"):
        page.get_by_label(f"How much {what} counts").select_option("never")
    before = state(page)["entry_id"]
    page.get_by_role("button", name="Least harm").click()
    expect(page.get_by_role("alert")).to_contain_text("Nothing is left that may be done")
    assert state(page)["entry_id"] == before
