"""Fingers and a pen, on a telephone and on a tablet: real touch events, of the browser's own."""

import math
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, ViewportSize, expect

from tests.conftest import measured_tilt_deg
from tests.ui.conftest import TIMEOUT_MS
from tests.ui.fingers import Fingers, Place, between
from tests.ui.hands import (
    HEIGHT,
    WIDTH,
    expect_roll,
    export,
    horizon_file,
    open_bench,
    own_set,
    picture_point,
    set_of,
    settled,
    shown_roll,
    state,
    tube_of,
    wait_for,
)

TELEPHONE, TABLET = (390, 844), (820, 1180)


Glass = tuple[Page, Fingers]


@pytest.fixture
def glass(set_page: Page, browser: Browser) -> Iterator[Callable[[tuple[int, int]], Glass]]:
    """A window of a size that is touched, in the same set."""
    contexts = []

    def made(size: tuple[int, int]) -> Glass:
        viewport: ViewportSize = {"width": size[0], "height": size[1]}
        context = browser.new_context(
            viewport=viewport, has_touch=True, is_mobile=True, accept_downloads=True
        )
        contexts.append(context)
        context.add_cookies(set_page.context.cookies())  # type: ignore[arg-type]
        page = context.new_page()
        page.set_default_timeout(TIMEOUT_MS)
        own_set(page, set_of(set_page))
        return page, Fingers(context.new_cdp_session(page))

    yield made
    for context in contexts:
        context.close()


def horizon_ends(page: Page, tilt_deg: float) -> tuple[Place, Place]:
    """On screen, well inside the picture."""
    rise = math.tan(math.radians(tilt_deg)) * WIDTH * 0.4
    return (
        picture_point(page, WIDTH * 0.1, HEIGHT / 2 - rise),
        picture_point(page, WIDTH * 0.9, HEIGHT / 2 + rise),
    )


def drawn(page: Page, fingers: Fingers, tilt_deg: float) -> None:
    """A level along the horizon, by one finger."""
    fingers.drag(*horizon_ends(page, tilt_deg))
    wait_for(page, lambda now: bool(now["recipe"]["readings"]))


def end_place(page: Page, number: int) -> Place:
    box = page.get_by_role("button", name=f"End {number} of reading 1").bounding_box()
    assert box
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def end_in_file(page: Page, number: int) -> tuple[float, float]:
    x, y = state(page)["recipe"]["readings"][0]["points"][number - 1]
    return x, y


def scale_of(page: Page) -> float:
    """Pixels on the screen for a pixel of the picture."""
    return math.dist(picture_point(page, 0, 0), picture_point(page, 1000, 0)) / 1000


@pytest.mark.parametrize("size", [TELEPHONE, (844, 390), TABLET, (1180, 820)])
def test_a_whole_job_by_touch(
    glass: Callable[[tuple[int, int]], Glass], tmp_path: Path, size: tuple[int, int]
) -> None:
    page, fingers = glass(size)
    open_bench(page, horizon_file(tmp_path, 2.0))
    drawn(page, fingers, 2.0)
    expect_roll(page, -2.0, within=0.03)
    settled(page)
    # Nudged by the tube, and taken back.
    before = shown_roll(page)
    tube = tube_of(page)
    middle = (tube["x"] + tube["width"] / 2, tube["y"] + 12)
    fingers.drag(middle, (middle[0] + 30, middle[1]))
    settled(page)
    assert shown_roll(page) > before
    page.get_by_role("button", name="Undo").tap()
    expect_roll(page, before)
    # Compared, and given a shape.
    if page.get_by_title("How the picture is shown").count():
        page.get_by_title("How the picture is shown").tap()
        page.get_by_role("menuitem", name="Finished").tap()
        page.get_by_title("How the picture is shown").tap()
        page.get_by_role("menuitem", name="Corrected").tap()
    else:
        page.get_by_role("button", name="Finished").tap()
        page.get_by_role("button", name="Corrected").tap()
    steps = page.get_by_role("navigation", name="Steps")
    steps.get_by_role("button", name="Frame").tap()
    page.get_by_role("button", name="1:1", exact=True).tap()
    wait_for(
        page, lambda now: now["solution"]["frame"]["width"] == now["solution"]["frame"]["height"]
    )
    settled(page)
    pixels = export(
        page, tmp_path, open_step=lambda: steps.get_by_role("button", name="Export").tap()
    )
    assert pixels.shape[0] == pixels.shape[1]
    assert measured_tilt_deg(pixels) == pytest.approx(0, abs=0.05)


def test_an_end_is_taken_from_beside_and_placed_to_a_pixel(
    glass: Callable[[tuple[int, int]], Glass], tmp_path: Path
) -> None:
    page, fingers = glass(TABLET)
    open_bench(page, horizon_file(tmp_path, 1.0))
    page.get_by_text("Fit new lines to edges").tap()
    drawn(page, fingers, 1.0)
    # From 18 px beside it: what is moved is the end, by as much as the finger went.
    x, y = end_place(page, 2)
    was, scale = end_in_file(page, 2), scale_of(page)
    from_beside = (x + 12, y + 14)
    fingers.drag(from_beside, (from_beside[0] - 60, from_beside[1] - 40), steps=3)
    settled(page)
    moved = end_place(page, 2)
    assert math.dist(was, end_in_file(page, 2)) * scale == pytest.approx(math.hypot(60, 40), abs=4)
    # The loupe lies beside it and stays, and arrows on the screen move it by single pixels.
    loupe = page.get_by_role("img", name="Loupe").bounding_box()
    assert loupe
    assert not (
        loupe["x"] < moved[0] < loupe["x"] + loupe["width"]
        and loupe["y"] < moved[1] < loupe["y"] + loupe["height"]
    )
    before = end_in_file(page, 2)
    pad = page.get_by_role("group", name="Move the end by pixels")
    for name in ("One pixel right", "One pixel right", "One pixel down"):
        button = pad.get_by_role("button", name=name)
        box = button.bounding_box()
        assert box
        assert min(box["width"], box["height"]) >= 44
        button.tap()
    after = wait_for(page, lambda now: tuple(now["recipe"]["readings"][0]["points"][1]) != before)
    settled(page)
    assert math.dist(before, end_in_file(page, 2)) == pytest.approx(math.hypot(2, 1), abs=0.02)
    assert after["can_undo"]
    pad.get_by_role("button", name="Done").tap()
    expect(pad).to_have_count(0)


def test_two_fingers_do_not_take_what_the_first_holds(
    glass: Callable[[tuple[int, int]], Glass], tmp_path: Path
) -> None:
    page, fingers = glass(TABLET)
    open_bench(page, horizon_file(tmp_path, 1.0))
    page.get_by_text("Fit new lines to edges").tap()
    drawn(page, fingers, 1.0)
    before, scale = end_in_file(page, 2), scale_of(page)
    start = end_place(page, 2)
    fingers.down(start)
    pulled = (start[0] - 80, start[1] - 60)
    # At once, so that it is fast on any machine: a slow finger moves it less.
    fingers.move(pulled)
    other = (pulled[0] - 200, pulled[1])
    fingers.down(pulled, other)
    for apart in (20, 40, 60, 80):
        fingers.move((pulled[0] + apart, pulled[1]), (other[0] - apart, other[1]))
    fingers.up()
    settled(page)
    after = end_in_file(page, 2)
    # It lies where the finger had brought it, not where the two fingers went.
    assert math.dist(before, after) * scale == pytest.approx(100, abs=5)
    assert len(state(page)["recipe"]["readings"]) == 1


def test_two_fingers_place_no_point_and_take_none(
    glass: Callable[[tuple[int, int]], Glass], tmp_path: Path
) -> None:
    page, fingers = glass(TABLET)
    open_bench(page, horizon_file(tmp_path, 1.0))
    page.get_by_role("button", name="Trace").tap()
    for x in (300, 600, 900):
        place = picture_point(page, x, 300)
        fingers.down(place)
        fingers.up()
    points = page.get_by_text("3 points.", exact=False)
    expect(points).to_be_visible()
    a, b = (300.0, 300.0), (500.0, 300.0)
    fingers.down(a, b)
    for apart in (10, 20, 30):
        fingers.move((a[0] - apart, a[1]), (b[0] + apart, b[1]))
    fingers.up()
    expect(points).to_be_visible()
    page.get_by_role("button", name="End the line").tap()
    found = wait_for(page, lambda now: bool(now["recipe"]["readings"]))
    assert len(found["recipe"]["readings"][0]["points"]) == 3


def test_once_a_pen_was_seen_it_draws_and_fingers_move_the_picture(
    glass: Callable[[tuple[int, int]], Glass], tmp_path: Path
) -> None:
    page, fingers = glass(TABLET)
    open_bench(page, horizon_file(tmp_path, 1.5))
    start, end = horizon_ends(page, 1.5)
    # The palm of the hand that holds the pen lies on the glass before and while it draws.
    fingers.down((400, 700), radius=60)
    fingers.pen("mouseMoved", start, buttons=0)
    fingers.pen("mousePressed", start)
    for step in range(1, 9):
        fingers.pen("mouseMoved", between(start, end, step / 8))
    fingers.pen("mouseReleased", end)
    fingers.up()
    expect_roll(page, -1.5, within=0.03)
    settled(page)
    assert len(state(page)["recipe"]["readings"]) == 1
    # Later one finger only moves the picture.
    fingers.rest(0.5)
    place = picture_point(page, 900, 300)
    fingers.drag((400, 300), (440, 350))
    settled(page)
    moved = picture_point(page, 900, 300)
    assert (moved[0] - place[0], moved[1] - place[1]) == pytest.approx((40, 50), abs=1)
    assert len(state(page)["recipe"]["readings"]) == 1


def test_three_hints_for_fingers_are_learnt_by_doing(
    glass: Callable[[tuple[int, int]], Glass], tmp_path: Path
) -> None:
    page, fingers = glass(TABLET)
    open_bench(page, horizon_file(tmp_path, 1.0))
    hint = page.locator("[data-hint]:not([data-hint=undo])")
    drawn(page, fingers, 1.0)
    expect(hint).to_have_attribute("data-hint", "fingers")
    fingers.down((300, 300), (500, 300))
    fingers.move((290, 300), (510, 300))
    fingers.up()
    expect(hint).to_have_count(0)
    for count in (2, 3):
        fingers.rest(1)
        x, y = picture_point(page, 300, 300 + 100 * count)
        fingers.drag((x, y), (x + 200, y + 4))
        wait_for(page, lambda now, count=count: len(now["recipe"]["readings"]) == count)
    hint = page.locator("[data-hint]", has_text="bent arrow")
    expect(hint).to_be_visible()
    fingers.caught_up(page)
    resting = page.locator("[data-hint=press]")
    # Of a tap on a machine that is late the browser makes a long press: then it is tapped again.
    for _ in range(4):
        page.get_by_role("button", name="Not again").tap()
        with suppress(AssertionError):
            expect(resting).to_be_visible(timeout=10_000)
            break
    expect(resting).to_be_visible()
    box = page.get_by_role("button", name="Undo").bounding_box()
    assert box
    fingers.down((box["x"] + 8, box["y"] + 8))
    expect(page.get_by_role("tooltip").last).to_be_visible()
    expect(resting).to_have_count(0)
    fingers.up()


def test_a_long_press_tells_what_hovering_tells_and_presses_nothing(
    glass: Callable[[tuple[int, int]], Glass], tmp_path: Path
) -> None:
    page, fingers = glass(TELEPHONE)
    open_bench(page, horizon_file(tmp_path, 1.0))
    page.get_by_role("navigation", name="Steps").get_by_role("button", name="Frame").tap()
    redo = page.get_by_role("button", name="Redo").bounding_box()
    assert redo
    fingers.down((redo["x"] + 15, redo["y"] + 15))
    expect(page.get_by_role("tooltip")).to_contain_text("Redo (Ctrl Shift Z)")
    fingers.up()
    step = page.get_by_role("navigation", name="Steps").get_by_role("button", name="Corners")
    box = step.bounding_box()
    assert box
    fingers.down((box["x"] + 20, box["y"] + 20))
    expect(page.get_by_role("tooltip")).to_contain_text("Corners (4)")
    fingers.up()
    expect(step).not_to_have_attribute("aria-current", "step")
    # The next touch takes it away, and presses.
    step.tap()
    expect(page.get_by_role("tooltip")).to_have_count(0)
    expect(step).to_have_attribute("aria-current", "step")
