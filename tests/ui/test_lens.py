"""The Lens step on the bench: trace a bent line, take the bow out by hand or from the database,
measure, level, export.
"""

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from sequor.core.lens.distortion import sag_px
from sequor.core.solution import Solution
from tests.ui.demo import PICTURES, TRUTH, size_of
from tests.ui.hands import (
    HEIGHT,
    WIDTH,
    drag,
    export,
    horizon_file,
    open_bench,
    picture_point,
    state,
    wait_for,
)


def edge_in_file(pixels: np.ndarray, expected: np.ndarray) -> np.ndarray:
    """Where an edge lies in an exported picture, column by column near the expected points, by
    its strongest gradient.
    """
    grey = pixels.astype(float).mean(axis=2)
    columns = np.arange(int(expected[0, 0]) + 4, int(expected[-1, 0]) - 4)
    rows = np.interp(columns + 0.5, expected[:, 0], expected[:, 1])
    window = np.floor(rows).astype(int)[:, None] + np.arange(-6, 7)
    steps = grey[window + 1, columns[:, None]] - grey[window - 1, columns[:, None]]
    sense = np.sign(steps.mean(axis=0)[np.argmax(np.abs(steps.mean(axis=0)))])
    strength = np.clip(steps * sense, 0, None) ** 2
    found = (strength * (window + 0.5)).sum(axis=1) / np.maximum(strength.sum(axis=1), 1e-9)
    keep = strength.max(axis=1) > np.median(strength.max(axis=1)) / 4
    return np.column_stack([columns + 0.5, found])[keep]


def smooth(points: np.ndarray) -> np.ndarray:
    """A robust parabola through points, at their columns."""
    kept = points
    for _ in range(6):
        curve = np.polyfit(kept[:, 0], kept[:, 1], 2)
        off = np.abs(kept[:, 1] - np.polyval(curve, kept[:, 0]))
        kept = kept[off <= max(2.5 * float(np.median(off)), 0.3)]
    return np.column_stack([points[:, 0], np.polyval(curve, points[:, 0])])


def test_a_bowed_roof_line_is_traced_levelled_and_exported(set_page: Page, tmp_path: Path) -> None:
    name, page = "glasshouse.jpg", set_page
    open_bench(page, PICTURES / name)
    size = size_of(name)
    page.keyboard.press("Escape")
    page.get_by_role(
        "button", name="As shot", exact=True
    ).click()  # where every click is on the picture as the lens drew it
    for count, edge in enumerate(("first tie beam", "second tie beam"), 1):
        found = next(e for e in TRUTH[name]["edges"] if e["name"].startswith(edge))
        trace = found["trace"]
        page.keyboard.press("t")
        page.mouse.click(*picture_point(page, *trace[0], size))
        page.mouse.click(*picture_point(page, *trace[len(trace) // 2], size))
        page.mouse.dblclick(*picture_point(page, *trace[-1], size))
        wait_for(page, lambda now, n=count: len(now["recipe"]["readings"]) == n)
    solution = wait_for(page, lambda now: now["solution"]["lens"]["source"] == "traces")["solution"]
    assert solution["lens"]["polynomial"][1] == pytest.approx(-0.13, abs=0.02)
    before, after = solution["readings"][0]["sag_before_px"], solution["readings"][0]["sag_px"]
    assert before > 40
    assert after < 2
    page.get_by_role("button", name="Details of reading 1").click()
    expect(page.get_by_text(re.compile(r"sag \d+\.\d px as shot, [01]\.\d px now"))).to_be_visible()
    page.get_by_role("button", name="Reading 1 is level too").click()
    level = wait_for(page, lambda now: now["recipe"]["readings"][0]["serves_as"] == "level")[
        "solution"
    ]
    assert level["stance"]["roll"]["applied_deg"] == pytest.approx(
        TRUTH[name]["camera"]["roll_deg"], abs=0.1
    )
    page.get_by_role("button", name="Corrected", exact=True).click()
    page.wait_for_function(
        "() => document.querySelector('[data-stage] img').src.includes('undistorted.jpg')"
    )

    pixels = export(page, tmp_path)
    # The true beam, found in the file without the project's measuring code: straight and level.
    beam = np.array(
        next(e for e in TRUTH[name]["edges"] if e["name"].startswith("first tie beam"))["trace"],
        dtype=float,
    )
    solved = Solution.model_validate(level)
    where = solved.warp.to_corrected(beam) - [solved.frame.x, solved.frame.y]
    inside = where[(where[:, 0] > 10) & (where[:, 0] < pixels.shape[1] - 10)]
    line = smooth(edge_in_file(pixels, inside))
    assert sag_px(line) < 2
    rise = line[-1] - line[0]
    assert abs(np.degrees(np.arctan2(rise[1], rise[0]))) < 0.1


def test_the_bow_by_hand_follows_the_slider_and_can_be_typed(
    set_page: Page, tmp_path: Path
) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.keyboard.press("1")
    panel = page.get_by_role("region", name="Lens", exact=True)
    expect(panel).to_contain_text("no bow")
    panel.get_by_text("By hand", exact=True).click()
    wait_for(page, lambda now: now["recipe"]["lens"]["source"] == "hand")
    slider = page.get_by_role("slider", name="Bow, from barrel to pincushion")
    slider.focus()
    for _ in range(20):
        page.keyboard.press("ArrowLeft")
    expect(panel).to_contain_text(re.compile(r"barrel, \d\.\d % at the corners"))
    wait_for(page, lambda now: abs(now["recipe"]["lens"]["k1"] + 0.02) < 1e-9)
    page.wait_for_function(
        "() => document.querySelector('[data-stage] img').src.includes('undistorted.jpg')"
    )
    page.get_by_role("slider", name="Bow, finely").focus()
    page.keyboard.press("ArrowRight")
    wait_for(page, lambda now: abs(now["recipe"]["lens"]["k1"] + 0.0199) < 1e-9)
    field = page.get_by_label("Bow k1")
    field.fill("0.05")
    field.press("Enter")
    expect(panel).to_contain_text("pincushion")
    field.fill("-0.5")
    field.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("folds the picture over")
    expect(panel).to_contain_text("pincushion")  # the last good bow is kept
    assert state(page)["recipe"]["lens"]["k1"] == 0.05
    panel.get_by_text("Leave the bow in").click()
    expect(panel).to_contain_text("no bow")


def test_a_lens_is_searched_for_and_taken(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.keyboard.press("1")
    panel = page.get_by_role("region", name="Lens", exact=True)
    panel.get_by_text("From the lens database").click()
    expect(panel).to_contain_text("The file names neither camera nor lens")
    page.get_by_label("Search for a lens").fill("no such lens")
    expect(panel).to_contain_text("0 of that name")
    page.get_by_label("Search for a lens").fill("28mm f/2.8d 62")
    page.get_by_role("button", name="28mm f/2.8D 62").click()
    taken = wait_for(page, lambda now: now["recipe"]["lens"]["source"] == "database")
    assert "28mm" in taken["recipe"]["lens"]["name"]
    assert any(taken["solution"]["lens"]["polynomial"])
    expect(panel).to_contain_text("barrel")


def test_a_trace_needs_three_points_and_escape_begins_again(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.0))
    page.keyboard.press("t")
    page.mouse.click(*picture_point(page, WIDTH * 0.1, HEIGHT * 0.5))
    page.mouse.click(*picture_point(page, WIDTH * 0.9, HEIGHT * 0.5))
    page.get_by_role("group", name="Stage").focus()
    page.keyboard.press("Enter")
    expect(page.get_by_text("at least three points")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("l")
    drag(
        page,
        picture_point(page, WIDTH * 0.1, HEIGHT * 0.5),
        picture_point(page, WIDTH * 0.9, HEIGHT * 0.5),
    )
    found = wait_for(page, lambda now: len(now["recipe"]["readings"]) == 1)
    assert found["recipe"]["readings"][0]["kind"] == "level"
