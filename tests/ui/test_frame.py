"""The frame and the corners at the screen: keep, print, fill, check, by mouse and by key."""

import io
import re
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.conftest import ROOT
from tests.core.test_fill import steps_across
from tests.ui.demo import TRUTH
from tests.ui.hands import (
    HEIGHT,
    WIDTH,
    add,
    drag,
    entered,
    horizon_file,
    open_bench,
    picture_point,
    settled,
    state,
    to_step,
)


def on_frame(page: Page, name: str) -> tuple[float, float]:
    box = page.get_by_role("button", name=name, exact=True).bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def type_tilt(page: Page, text: str) -> None:
    field = page.get_by_label("Tilt as shot")
    field.fill(text)
    field.press("Enter")
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    settled(page)


def to_frame(page: Page, tab: str) -> None:
    to_step(page, "Frame")
    page.get_by_role("tab", name=tab).click()


def export(page: Page, folder: Path) -> Path:
    with page.expect_download() as download:
        page.get_by_role("button", name="Export", exact=True).click()
    target = folder / download.value.suggested_filename
    download.value.save_as(target)
    return target


def test_a_subject_near_the_edge_is_kept_by_a_keep_box(set_page: Page) -> None:
    page, name = set_page, "swing-bridge-keeper.jpg"
    truth = TRUTH[name]
    (left, right), (top, bottom) = (
        sorted(values) for values in zip(*truth["subject"], strict=True)
    )
    size = (truth["width"], truth["height"])
    open_bench(page, ROOT / "demo" / "pictures" / name)
    type_tilt(
        page,
        f"{abs(truth['camera']['roll_deg'])} {'cw' if truth['camera']['roll_deg'] < 0 else 'acw'}",
    )
    to_frame(page, "Shape")
    before = state(page)["entry_id"]
    page.get_by_role("button", name="1:1", exact=True).click()
    square = entered(page, before)

    def holds(now: dict) -> bool:
        frame, h = now["solution"]["frame"], np.array(now["solution"]["homography"])
        laid = np.array([[x, y, 1] for x in (left, right) for y in (top, bottom)]) @ h.T
        xs, ys = (laid[:, :2] / laid[:, 2:]).T
        return bool(
            (xs >= frame["x"] - 1).all()
            and (xs <= frame["x"] + frame["width"] + 1).all()
            and (ys >= frame["y"] - 1).all()
            and (ys <= frame["y"] + frame["height"] + 1).all()
        )

    assert not holds(square)  # the best square cuts the subject off
    page.get_by_role("tab", name="Place").click()
    page.get_by_role("button", name="Draw a box to keep").click()
    drag(page, picture_point(page, left, top, size), picture_point(page, right, bottom, size))
    kept = entered(page, square["entry_id"])
    assert holds(kept)
    drawn = kept["recipe"]["frame"]["keep"]
    assert abs(drawn["left"] - left) < 12
    assert abs(drawn["bottom"] - bottom) < 12
    assert not any("box to keep" in note["text"] for note in kept["report"]["notes"])
    page.get_by_role("button", name="Clear").click()
    assert entered(page, kept["entry_id"])["recipe"]["frame"]["keep"] is None


def test_a_print_of_ten_by_eight_is_exported_and_read_back(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 2.0, width=2400, height=1600))
    type_tilt(page, "2 cw")
    to_frame(page, "Shape")
    page.get_by_role("button", name="5:4", exact=True).click()
    expect(page.get_by_role("button", name="5:4", exact=True)).to_have_attribute(
        "aria-pressed", "true"
    )
    page.get_by_label("Print size", exact=True).and_(page.locator("select")).select_option("own")
    page.get_by_label("Print width").fill("5")
    page.get_by_label("Print height").fill("4")
    page.get_by_label("Pixels per inch").fill("240")
    page.get_by_role("button", name="Use this size").click()
    expect(
        page.get_by_text(re.compile("1200 × 960 px at 240 ppi; the picture is reduced to"))
    ).to_be_visible()
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Export").click()
    expect(page.get_by_label("Size", exact=True)).to_have_value("print")
    expect(page.get_by_text("1200 × 960 px at 240 ppi", exact=True)).to_be_visible()
    page.get_by_label("Format").select_option("tiff")
    with Image.open(export(page, tmp_path)) as out:
        assert out.size == (1200, 960)
        assert out.info["dpi"] == (240, 240)
        assert out.size[0] / out.size[1] == 5 / 4
    expect(page.get_by_text(re.compile("1200 × 960 px, .* 0 empty pixels"))).to_be_visible()
    # A margin of half an inch all round, for a wrap: 6 x 5 in.
    to_frame(page, "Shape")
    page.get_by_label("Margin", exact=True).fill("0.5")
    page.get_by_label("Margin", exact=True).press("Enter")
    expect(page.get_by_text("0.5 in all round; 6 × 5 in with it")).to_be_visible()
    expect(page.locator("[data-face]")).to_be_visible()
    to_step(page, "Export")
    with Image.open(export(page, tmp_path)) as out:
        assert out.size == (1440, 1200)
    expect(page.get_by_text(re.compile("1440 × 1200 px, .* 0 empty pixels"))).to_be_visible()
    page.get_by_label("Size", exact=True).select_option("long_edge")
    page.get_by_label("Pixels of the longer side").fill("9000")
    expect(page.get_by_text(re.compile("the picture is enlarged to"))).to_be_visible()
    expect(page.get_by_role("button", name="Export", exact=True)).to_be_disabled()


def test_four_candidates_one_chosen_exported_and_its_seam_checked(
    set_page: Page, tmp_path: Path
) -> None:
    page = set_page
    with Image.open(ROOT / "demo" / "pictures" / "ridge-hut.jpg") as whole:
        whole.convert("RGB").resize((600, 400), Image.Resampling.LANCZOS).save(tmp_path / "hut.png")
    open_bench(page, tmp_path / "hut.png")
    type_tilt(page, "2.5 cw")
    to_step(page, "Corners")
    slider = page.get_by_role("slider", name="Fill allowance")
    before = state(page)["entry_id"]
    slider.focus()
    for _ in range(6):
        slider.press("PageUp")
    now = entered(page, before)
    assert now["recipe"]["fill"]["allowance"] == 0.6
    expect(
        page.get_by_text(re.compile(r"[\d.]+ % of the frame is filled from the surroundings")).first
    ).to_be_visible()
    expect(page.get_by_text("The corners are being filled…")).to_be_visible()
    page.wait_for_selector("[data-filled=true]", state="attached")
    expect(page.get_by_text("The corners are being filled…")).to_have_count(0)
    # The judge's words, and a ring on the stage for each place that stands out.
    judged = page.get_by_role("note", name="The fill, judged")
    expect(judged).to_contain_text(re.compile(r"Doubt \d+ %"))
    address = f"{page.url.replace('/pictures', '/api/pictures')}/fill?entry={now['entry_id']}"
    told = len(page.request.get(address).json()["flaws"])
    expect(judged.get_by_role("listitem")).to_have_count(told)
    expect(page.locator("[data-flaw]")).to_have_count(told)
    page.get_by_role("button", name="Look into corners and edges").click()
    seen = page.get_by_role("img", name="The frame as it will be in the file")
    expect(seen).to_have_attribute("data-loaded", "true")
    expect(seen.locator("[data-flaw]")).to_have_count(told)
    page.keyboard.press("Escape")
    expect(seen).to_have_count(0)
    page.get_by_role("button", name="Choose among four candidates").click()
    for number in range(1, 5):
        page.wait_for_selector(f"img[alt='Candidate {number}'][data-loaded=true]")
    server = page.url.split("/pictures")[0]
    shown = [page.get_by_role("img", name=f"Candidate {number}") for number in range(1, 5)]
    pictures = [page.request.get(f"{server}{one.get_attribute('src')}").body() for one in shown]
    assert len(set(pictures)) == 4
    page.get_by_role("button", name="Take candidate 3").click()
    chosen = entered(page, now["entry_id"])
    assert chosen["recipe"]["fill"]["candidates"] == [{"style": "sharp", "draw": 2}] * 4
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Export").click()
    page.get_by_label("Format").select_option("png")
    made = np.asarray(Image.open(export(page, tmp_path)).convert("RGB"))
    expect(page.get_by_text(re.compile(r"0 empty pixels, [\d.]+ % filled"))).to_be_visible()
    frame, outline = chosen["solution"]["frame"], np.array(chosen["solution"]["outline"])
    assert made.shape[:2] == (frame["height"], frame["width"])
    across, usual = steps_across(made, ~inside(outline - [frame["x"], frame["y"]], made.shape[:2]))
    assert across <= 1.15 * usual + 0.5


def test_a_fill_that_may_copy_from_nowhere_says_so(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 3.0, width=900, height=600))
    type_tilt(page, "3 cw")
    to_step(page, "Corners")
    before = state(page)["entry_id"]
    page.get_by_role("slider", name="Fill allowance").press("End")
    allowed = entered(page, before)
    page.get_by_role("button", name="Mark what not to copy").click()
    drag(page, picture_point(page, 0, 0, (900, 600)), picture_point(page, 900, 600, (900, 600)))
    entered(page, allowed["entry_id"])
    expect(
        page.get_by_role("alert").filter(has_text="Nothing is left to copy from")
    ).to_be_visible()
    page.get_by_role("button", name="Clear 1").click()
    page.wait_for_selector("[data-filled=true]", state="attached")
    expect(page.get_by_role("alert")).to_have_count(0)


def inside(outline: np.ndarray, shape: tuple[int, int]) -> np.ndarray:
    """Which pixel centres lie in a convex outline, by the signs of cross products."""
    y, x = np.mgrid[0 : shape[0], 0 : shape[1]] + 0.5
    sides = [
        (b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])
        for a, b in zip(outline, np.roll(outline, -1, axis=0), strict=True)
    ]
    return np.all([side >= 0 for side in sides], axis=0) | np.all(
        [side <= 0 for side in sides], axis=0
    )


def test_the_corner_check_shows_what_is_in_the_file(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 3.0))
    type_tilt(page, "3 cw")
    to_step(page, "Corners")
    page.get_by_role("button", name="Look into corners and edges").click()
    expect(
        page.get_by_text(re.compile(r"\d+ × \d+ px: 0 of [\d ]+ pixels are empty\."))
    ).to_be_visible()
    shown = {}
    for place in ("top left", "top right", "bottom right", "bottom left"):
        image = page.get_by_role("img", name=f"{place} corner")
        expect(image).to_be_visible()
        page.wait_for_function(
            "(alt) => document.querySelector(`img[alt='${alt}']`).naturalWidth > 0",
            arg=f"{place} corner",
        )
        address = f"{page.url.split('/pictures')[0]}{image.get_attribute('src')}"
        shown[place] = np.asarray(
            Image.open(io.BytesIO(page.request.get(address).body())).convert("RGB")
        )
    for place in ("left", "top", "right", "bottom"):
        expect(page.get_by_role("group", name=f"{place} edge")).to_be_visible()
    whole = page.get_by_role("img", name="The frame as it will be in the file")
    expect(whole).to_have_attribute("data-loaded", "true")
    page.keyboard.press("Escape")
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Export").click()
    page.get_by_label("Format").select_option("png")
    file = np.asarray(Image.open(export(page, tmp_path)).convert("RGB"))
    np.testing.assert_array_equal(shown["top left"], file[:112, :112])
    np.testing.assert_array_equal(shown["top right"], file[:112, -112:])
    np.testing.assert_array_equal(shown["bottom right"], file[-112:, -112:])
    np.testing.assert_array_equal(shown["bottom left"], file[-112:, :112])


def test_the_frame_moves_and_resizes_by_mouse_and_key(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 2.0))
    type_tilt(page, "2 cw")
    to_frame(page, "Place")
    best = state(page)
    x, y = on_frame(page, "Frame, bottom right corner")
    drag(page, (x, y), (x - 120, y - 80))
    smaller = entered(page, best["entry_id"])
    frame = smaller["solution"]["frame"]
    assert frame["width"] < best["solution"]["frame"]["width"] - 150
    assert abs(frame["width"] / frame["height"] - WIDTH / HEIGHT) < 0.01  # the ratio holds
    assert abs(frame["x"] - best["solution"]["frame"]["x"]) < 2  # the opposite corner stays
    expect(page.get_by_text("lies where you placed it")).to_be_visible()
    # Moved far beyond the picture it stops at the outline.
    middle = on_frame(page, "Frame")
    drag(page, middle, (middle[0] + 500, middle[1]))
    moved = entered(page, smaller["entry_id"])
    assert moved["solution"]["frame"]["width"] == frame["width"]
    assert moved["solution"]["cost"]["fill_fraction"] == 0
    page.get_by_role("button", name="Frame", exact=True).and_(page.locator("path")).focus()
    page.keyboard.press("Shift+ArrowLeft")
    nudged = entered(page, moved["entry_id"])
    assert abs(moved["solution"]["frame"]["x"] - nudged["solution"]["frame"]["x"] - 100) < 2
    page.get_by_role("button", name="Frame, left edge").focus()
    page.keyboard.press("ArrowRight")
    narrower = entered(page, nudged["entry_id"])
    # Whole pixels of a frame that lies between them.
    by = nudged["solution"]["frame"]["width"] - narrower["solution"]["frame"]["width"]
    assert 10 <= by <= 11
    page.get_by_role("button", name="Back to the best frame").click()
    back = entered(page, narrower["entry_id"])
    assert back["solution"]["frame"] == best["solution"]["frame"]
    assert back["solution"]["best"]


def test_an_edge_goes_past_the_outline_only_when_it_is_pulled_on(
    set_page: Page, tmp_path: Path
) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 3.0))
    type_tilt(page, "3 cw")
    to_step(page, "Corners")
    before = state(page)["entry_id"]
    page.get_by_role("slider", name="Fill allowance").focus()
    for _ in range(5):
        page.keyboard.press("PageUp")
    allowed = entered(page, before)
    to_frame(page, "Place")
    # A small frame inside the picture, then its corner pulled far out.
    x, y = on_frame(page, "Frame, top left corner")
    drag(page, (x, y), (x + 210, y + 140))
    small = entered(page, allowed["entry_id"])
    middle = on_frame(page, "Frame")
    drag(page, middle, (middle[0] - 60, middle[1] - 38))
    within = entered(page, small["entry_id"])
    assert within["solution"]["cost"]["fill_fraction"] == 0
    x, y = on_frame(page, "Frame, top left corner")
    drag(page, (x, y), (x - 400, y - 260))
    past = entered(page, within["entry_id"])
    assert past["recipe"]["frame"]["placed"]["past"] is True
    cost = past["solution"]["cost"]
    assert 0 < cost["fill_fraction"] <= 0.5 * cost["keep_all_fraction"] + 0.002


def test_an_aim_and_the_guides(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    type_tilt(page, "1 cw")
    to_frame(page, "Place")
    page.get_by_label("Guides in the frame").and_(page.locator("select")).select_option("golden")
    expect(page.locator("[data-composition=golden]")).to_have_count(4)
    before = state(page)["entry_id"]
    page.get_by_role("button", name="Choose a point").click()
    page.mouse.click(*picture_point(page, 700, 500))
    aimed = entered(page, before)
    aim, solution = aimed["recipe"]["frame"]["aim"], aimed["solution"]
    assert aim["guide"] == "golden"
    x, _, w = np.array(solution["homography"]) @ [*aim["point"], 1]
    share = (x / w - solution["frame"]["x"]) / solution["frame"]["width"]
    assert min(abs(share - at) for at in (0.381966, 0.618034)) < 0.003
    page.get_by_label("Guides in the frame").and_(page.locator("select")).select_option("none")
    expect(page.locator("[data-composition]")).to_have_count(0)


def test_several_pictures_are_exported_as_one_zip(set_page: Page, tmp_path: Path) -> None:
    import zipfile

    page = set_page
    add(
        page,
        *(
            horizon_file(tmp_path, tilt, f"{name}.png", width=400, height=300)
            for name, tilt in (("one", 1.0), ("two", 2.0))
        ),
    )
    expect(page.get_by_role("link", name=re.compile("Open "))).to_have_count(2)
    page.get_by_role("button", name="Choose all").click()
    page.get_by_role("button", name="Export 2 chosen").click()
    names = page.get_by_role("status", name="Names")
    expect(names).to_contain_text("two-levelled.jpg")
    page.get_by_label("Pattern of the file name").fill("mill")
    expect(names).to_contain_text("2 would have the name of another one")
    page.get_by_label("Pattern of the file name").fill("{name}-levelled")
    page.get_by_role("button", name="Export all").click()
    link = page.get_by_role("link", name="Take 2 pictures as one ZIP")
    expect(link).to_be_visible()
    with page.expect_download() as download:
        link.click()
    with zipfile.ZipFile(download.value.path()) as archive:
        assert sorted(archive.namelist()) == ["one-levelled.jpg", "two-levelled.jpg"]
