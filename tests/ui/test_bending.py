"""Bending at the screen, measured in the files that were exported."""

import math
from pathlib import Path

import cv2
import numpy as np
import pytest
from PIL import Image, ImageDraw
from playwright.sync_api import Page, expect

from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Recipe
from sequor.core.solution import Solution
from sequor.core.solve import solve
from tests.conftest import ROOT
from tests.ui.demo import TRUTH
from tests.ui.hands import (
    HEIGHT,
    WIDTH,
    drag,
    export,
    open_bench,
    picture_point,
    settled,
    state,
    wait_for,
)
from tests.ui.test_frame import on_frame, to_step, type_tilt

LINES = {
    "red": ((200, 250), (800, 290)),
    "green": ((1250, 150), (1290, 800)),
    "blue": ((300, 1000), (1400, 930)),
}
WANTED_DEG = {"red": 0.0, "green": 90.0, "blue": -5.0}


def coloured_lines(folder: Path) -> Path:
    """Three lines that no camera explains, on paper, drawn finer and brought to size."""
    fine = 4
    image = Image.new("RGB", (WIDTH * fine, HEIGHT * fine), "#f4f1e8")
    draw = ImageDraw.Draw(image)
    for colour, ends in LINES.items():
        draw.line([(x * fine, y * fine) for x, y in ends], fill=colour, width=6 * fine)
    image.resize((WIDTH, HEIGHT), Image.Resampling.BOX).save(folder / "lines.png")
    return folder / "lines.png"


def tilts(pixels: np.ndarray) -> dict[str, tuple[float, float]]:
    """Of every coloured line the angle from level, and how far its pixels lie from a straight
    line, by their principal axes.
    """
    found = {}
    for channel, colour in enumerate(("red", "green", "blue")):
        others = np.delete(pixels.astype(int), channel, axis=2).max(axis=2)
        rows, columns = np.nonzero(pixels[:, :, channel].astype(int) - others > 60)
        points = np.column_stack([columns, rows]) + 0.5
        middle = points.mean(axis=0)
        x, y = np.linalg.eigh((points - middle).T @ (points - middle))[1][:, 1]
        along = (points - middle) @ [x, y]
        across = (points - middle) @ [-y, x]
        means = [across[(along >= a) & (along < a + 40)].mean() for a in np.arange(
            along.min() + 20, along.max() - 60, 40)]  # fmt: skip
        found[colour] = (math.degrees(math.remainder(math.atan2(y, x), math.pi)), np.ptp(means))
    return found


def test_three_lines_are_brought_to_three_angles(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, coloured_lines(tmp_path))
    page.get_by_text("Fit new lines to edges").click()
    for count, ends in enumerate(LINES.values(), 1):
        page.keyboard.press("s")
        drag(page, *(picture_point(page, *end) for end in ends))
        wait_for(page, lambda now, count=count: len(now["recipe"]["readings"]) == count)
    for number, colour in enumerate(LINES, 1):
        page.get_by_role("button", name=f"Details of reading {number}").click()
        page.get_by_label(f"What reading {number} becomes").select_option("angle")
        wait_for(page, lambda now, n=number: now["recipe"]["readings"][n - 1]["becomes"] == "angle")
        field = page.get_by_role("spinbutton", name=f"Wanted angle of reading {number}")
        field.fill(str(WANTED_DEG[colour]))
        field.press("Enter")
        wait_for(
            page,
            lambda now, n=number, c=colour: (
                now["recipe"]["readings"][n - 1]["wanted_deg"] == WANTED_DEG[c]
            ),
        )
        page.get_by_role("button", name=f"Details of reading {number}").click()
    now = state(page)
    assert now["recipe"]["bend"]["lines"] == 1
    assert all(abs(one["left_deg"]) < 0.02 for one in now["solution"]["readings"])
    for colour, (tilt, bent) in tilts(export(page, tmp_path)).items():
        assert abs(math.remainder(tilt - WANTED_DEG[colour], 180)) < 0.1
        assert bent < 0.6
    # By key: the grip beyond the end of the line that is lit, a tenth of a degree a step.
    page.keyboard.press("2")
    page.get_by_role("row", name="Reading 3").click()
    grip = page.get_by_role("slider", name="Wanted angle of reading 3")
    for _ in range(4):
        grip.press("ArrowDown")
    wait_for(page, lambda now: now["recipe"]["readings"][2]["wanted_deg"] == -4.6)


def test_the_rolled_mill_is_kept_whole_by_bending_its_corners(
    set_page: Page, tmp_path: Path
) -> None:
    page, name = set_page, "mill-at-sixmile.jpg"
    open_bench(page, ROOT / "demo" / "pictures" / name)
    type_tilt(page, "6 cw")
    to_step(page, "Corners")
    ways = page.get_by_role("group", name="What each way would cost")
    expect(ways.get_by_role("button")).to_have_count(3)
    expect(ways).to_contain_text("invents")
    before = state(page)["solution"]["kept_fraction"]
    assert before < 0.8
    page.get_by_role("slider", name="Closed by bending").press("End")
    now = wait_for(page, lambda now: now["recipe"]["bend"]["corners"] == 1)
    bend, frame = now["solution"]["bend"], now["solution"]["frame"]
    assert now["solution"]["kept_fraction"] > 0.97
    assert now["solution"]["cost"]["fill_fraction"] == 0
    assert bend["max_stretch"] <= 1.6
    # The picture itself is drawn bent, on a mesh; the mesh and the stretch are laid over it.
    expect(page.locator("canvas[data-bent=true]")).to_be_visible()
    page.keyboard.press("w")
    expect(page.locator("[data-overlay=mesh]")).to_be_visible()
    page.keyboard.press("w")
    expect(page.get_by_role("img", name="Areas shrink in blue and grow in orange")).to_be_visible()
    pixels = export(page, tmp_path)
    assert pixels.shape[:2] == (frame["height"], frame["width"])
    assert (
        frame["width"] / frame["height"] == 1.5 or abs(frame["width"] - 1.5 * frame["height"]) < 2
    )
    warp = solved(now).warp
    grey = cv2.GaussianBlur(pixels.astype(np.float32).mean(axis=2), (0, 0), 1.0)
    place = np.array([frame["x"], frame["y"]])
    for edge in TRUTH[name]["edges"][1:2] + TRUTH[name]["edges"][6:8]:
        ends = warp.to_corrected(np.array(edge["points"])) - place
        tilt = tilt_of_edge(grey, ends, edge["kind"])
        assert abs(tilt) < 0.3, edge["name"]


def solved(now: dict) -> Solution:
    """What the core says of the picture that a state shows."""
    file = now["file"]
    photo = PhotoFacts(width=file["width"], height=file["height"], focal35_mm=file["focal35_mm"])
    return solve(photo, Recipe.model_validate(now["recipe"]))


def tilt_of_edge(grey: np.ndarray, ends: np.ndarray, kind: str) -> float:
    """The tilt from true of the edge near a line, by the strongest gradient across it."""
    axis = 0 if kind == "level" else 1
    low, high = sorted(ends[:, axis])
    along = np.arange(math.ceil(low + 0.1 * (high - low)), math.floor(high - 0.1 * (high - low)))
    found = []
    for at in along:
        share = (at + 0.5 - ends[0, axis]) / (ends[1, axis] - ends[0, axis])
        middle = ends[0, 1 - axis] + share * (ends[1, 1 - axis] - ends[0, 1 - axis])
        first = round(middle) - 6
        strip = grey[first : first + 13, at] if axis == 0 else grey[at, first : first + 13]
        steep = np.abs(np.gradient(strip))
        top = int(np.argmax(steep[1:-1])) + 1
        a, b, c = steep[top - 1 : top + 2]
        found.append(first + top + 0.5 * (a - c) / (a - 2 * b + c + 1e-9))
    slope = np.polyfit(along, found, 1)
    kept = np.abs(found - np.polyval(slope, along)) < 1.5
    slope = np.polyfit(along[kept], np.array(found)[kept], 1)
    return math.degrees(math.atan(slope[0]))


def test_a_circle_stays_round_in_a_box_that_does_not_bend(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    image = Image.new("RGB", (WIDTH, HEIGHT), "#dfe4ea")
    centre, radius = (420, 330), 170
    ImageDraw.Draw(image).ellipse(
        [centre[0] - radius, centre[1] - radius, centre[0] + radius, centre[1] + radius],
        fill="#203050",
    )
    image.save(tmp_path / "circle.png")
    open_bench(page, tmp_path / "circle.png")
    type_tilt(page, "5 cw")
    to_step(page, "Corners")
    page.get_by_role("button", name="Bend all").click()
    now = wait_for(page, lambda now: now["recipe"]["bend"]["corners"] == 1)
    page.get_by_role("button", name="Mark what must not bend").click()
    # Where the circle is on the stage, by the corners of the frame.
    frame = now["solution"]["frame"]
    middle = solved(now).warp.to_corrected(np.array([centre]))[0]
    corner, far = on_frame(page, "Frame, top left corner"), on_frame(
        page, "Frame, bottom right corner"
    )  # fmt: skip
    scale = (far[0] - corner[0]) / frame["width"]
    x, y = (
        corner[0] + (middle[0] - frame["x"]) * scale,
        corner[1] + (middle[1] - frame["y"]) * scale,
    )
    reach = (radius + 40) * scale
    drag(page, (x - reach, y - reach), (x + reach, y + reach))
    wait_for(page, lambda now: len(now["recipe"]["bend"]["still"]) == 1)
    settled(page)
    expect(page.locator("[data-still]")).to_have_count(1)
    pixels = export(page, tmp_path)
    dark = (pixels[:, :, 0] < 128).astype(np.uint8)
    outline = max(cv2.findContours(dark, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)[0], key=len)
    _, axes, _ = cv2.fitEllipse(outline)
    assert max(axes) / min(axes) < 1.01
    # What a brush goes over does not bend either.
    to_step(page, "Corners")
    page.get_by_role("button", name="Brush over what must not bend").click()
    expect(page.get_by_role("slider", name="Width of the brush")).to_be_visible()
    drag(page, (x - reach, y), (x + reach, y))
    wait_for(page, lambda now: len(now["recipe"]["bend"]["brushed"]) == 1)
    expect(page.locator("[data-still-brush]")).to_have_count(1)
    page.keyboard.press("Enter")  # the brush keeps the keys
    brushed = wait_for(page, lambda now: len(now["recipe"]["bend"]["brushed"]) == 2)
    first, dab = brushed["recipe"]["bend"]["brushed"]
    assert len(first["points"]) > 1 == len(dab["points"])
    assert dab["reach"] == pytest.approx(first["reach"], rel=0.2)
    # Everything bends again.
    page.get_by_role("button", name="Clear 3").click()
    wait_for(page, lambda now: now["recipe"]["bend"]["still"] == [])
    assert state(page)["recipe"]["bend"]["brushed"] == []
