"""The picture has the room, and nothing is cut or lies over another, at every size of window."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.ui.demo import PICTURES
from tests.ui.hands import drag, horizon_file, open_bench, resized, settled
from tests.waiting import until

STEPS = {"1": "Lens", "2": "Measure", "3": "Frame", "4": "Corners", "5": "Export"}

SHARE = """() => {
  const picture = document.querySelector('[data-stage] img').getBoundingClientRect();
  const stage = document.querySelector('[data-stage]').getBoundingClientRect();
  const wide = Math.min(picture.right, stage.right) - Math.max(picture.left, stage.left);
  const high = Math.min(picture.bottom, stage.bottom) - Math.max(picture.top, stage.top);
  return (wide * high) / (innerWidth * innerHeight);
}"""

FAULTS = """() => {
  const faults = [];
  const clips = (style) => style !== 'visible';
  const seen = (element, rect) => {
    // What of a box is seen: within all that clip it.
    let [left, top, right, bottom] = [rect.left, rect.top, rect.right, rect.bottom];
    for (let e = element.parentElement; e; e = e.parentElement) {
      const style = getComputedStyle(e);
      if (!clips(style.overflowX) && !clips(style.overflowY)) continue;
      const box = e.getBoundingClientRect();
      [left, right] = [Math.max(left, box.left), Math.min(right, box.right)];
      [top, bottom] = [Math.max(top, box.top), Math.min(bottom, box.bottom)];
    }
    return { left, top, right, bottom };
  };
  const scrolls = (element) => {
    for (let e = element; e; e = e.parentElement) {
      const style = getComputedStyle(e);
      if (/auto|scroll/.test(style.overflowX + style.overflowY)) return true;
    }
    return false;
  };
  const hidden = (element) => {
    for (let e = element; e; e = e.parentElement) {
      const style = getComputedStyle(e);
      const box = e.getBoundingClientRect();
      if (style.visibility === 'hidden' || style.display === 'none' || style.opacity === '0')
        return true;
      if (style.position === 'absolute' && box.width <= 1 && box.height <= 1) return true;
    }
    return false;
  };
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  while (walker.nextNode()) {
    const element = walker.currentNode.parentElement;
    const words = walker.currentNode.textContent.trim();
    if (!words || hidden(element)) continue;
    if (element.closest('svg, script, style, option, select')) continue;
    const range = document.createRange();
    range.selectNodeContents(walker.currentNode);
    const text = range.getBoundingClientRect();
    const box = seen(element, text);
    // What is cut on purpose ends in dots, and the whole stands in its tooltip.
    const dots = [element, element.parentElement].some((e) => {
      const style = getComputedStyle(e);
      return style.textOverflow === 'ellipsis' || style.webkitLineClamp !== 'none';
    });
    const told = dots && element.closest('[title]') !== null;
    if (text.right > box.right + 1 && !told && !scrolls(element)) faults.push(`cut: ${words}`);
    if (Math.min(text.right, box.right) > innerWidth + 1 || text.left < -1)
      faults.push(`beyond the window: ${words}`);
    const control = element.closest('button, a');
    const own = control && control.getBoundingClientRect();
    if (own && !told && (text.right > own.right + 1 || text.left < own.left - 1))
      faults.push(`wider than its button: ${words}`);
  }
  const controls = [
    ...document.querySelectorAll('button, a, input, select, textarea, [role=slider]'),
  ].filter((e) => !e.closest('svg') && !hidden(e) && !e.closest('[role=slider] [role=slider]'));
  for (const control of controls) {
    const place = control.closest('footer, header, section, nav, main');
    if (!place || scrolls(control)) continue;
    const [own, room] = [control.getBoundingClientRect(), place.getBoundingClientRect()];
    if (own.right > room.right + 1 || own.left < room.left - 1)
      faults.push(`beyond its place: ${control.getAttribute('aria-label') ?? control.innerText}`);
  }
  const boxes = controls.map((e) => [e, seen(e, e.getBoundingClientRect())]);
  const name = (e) => e.getAttribute('aria-label') ?? e.innerText ?? e.outerHTML.slice(0, 60);
  boxes.forEach(([a, p], place) =>
    boxes.slice(place + 1).forEach(([b, q]) => {
      if (a.contains(b) || b.contains(a)) return;
      const wide = Math.min(p.right, q.right) - Math.max(p.left, q.left);
      const high = Math.min(p.bottom, q.bottom) - Math.max(p.top, q.top);
      if (wide > 1 && high > 1) faults.push(`“${name(a)}” lies over “${name(b)}”`);
    }),
  );
  return faults;
}"""


SCROLLED = """() => {
  const wide = [...document.querySelectorAll('html, body, header, header > div')];
  return Math.max(0, ...wide.map((e) => e.scrollWidth - e.clientWidth));
}"""
"""By how much the page or its head is wider than the window: only larger letters may make it so."""

STAGE = """() => {
  const { width, height } = document.querySelector('[data-stage]').getBoundingClientRect();
  return (width * height) / (innerWidth * innerHeight);
}"""


def test_the_stage_has_the_room_where_the_window_is_small(set_page: Page, tmp_path: Path) -> None:
    """In an upright window no picture of 3:2 can have half of it: the stage does.

    What stands beside the picture elsewhere is drawn up from below, by keys here.
    """
    page = set_page
    resized(page, 844, 390)
    open_bench(page, horizon_file(tmp_path, 1.0))
    assert page.evaluate(STAGE) >= 0.5
    assert page.evaluate(SHARE) >= 0.4
    for width, height, least in ((390, 844, 0.4), (820, 1180, 0.5)):
        resized(page, width, height)
        page.reload()
        settled(page)
        assert page.evaluate(STAGE) >= least
        grip = page.get_by_role("separator", name="Height of the panel")
        drawn_up = float(grip.get_attribute("aria-valuenow") or "nan")
        before = page.evaluate(STAGE)
        grip.press("ArrowDown")
        expect(grip).to_have_attribute("aria-valuenow", str(round(drawn_up - 5)))
        until(lambda before=before: page.evaluate(STAGE) > before)
        grip.press("Enter")
        expect(page.get_by_role("region", name="Field book")).to_be_hidden()
        grip.press("Enter")
        expect(page.get_by_role("region", name="Field book")).to_be_visible()
        box = grip.bounding_box()
        assert box
        middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        drag(page, middle, (middle[0], height - 20))
        expect(grip).to_have_attribute("aria-valuetext", "closed")
        grip.press("Enter")


ROOMS = {
    (1280, 800): 0.5,
    (1920, 1080): 0.6,
    (1180, 820): 0.5,
    (1000, 700): 0.4,
    (1024, 768): 0.4,
}
"""So much of a window the picture has at least. Of 1024 x 768 the stage has 59 %, a picture of 3:2
as much of that as its shape allows.
"""


def room(page: Page, share: str, least: float) -> None:
    """The share is at least so much as soon as everything is drawn."""
    page.wait_for_function(f"(least) => ({share})() >= least", arg=least)


def test_the_picture_has_the_room_in_every_step(set_page: Page, tmp_path: Path) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 1.0))
    for key, name in STEPS.items():
        page.keyboard.press(key)
        steps = page.get_by_role("navigation", name="Steps")
        expect(steps.get_by_role("button", name=name)).to_have_attribute("aria-current", "step")
        for size, least in ROOMS.items():
            resized(page, *size)
            settled(page)
            room(page, SHARE, least)
            room(page, STAGE, min(least + 0.1, 0.6))
    # One key hides everything but the picture, and shows it again.
    for size in ROOMS:
        resized(page, *size)
        before = page.evaluate(SHARE)
        page.keyboard.press("f")
        expect(page.get_by_role("navigation", name="Steps")).to_have_count(0)
        until(lambda before=before: page.evaluate(SHARE) > before)
        page.keyboard.press("Escape")
        expect(page.get_by_role("navigation", name="Steps")).to_be_visible()


SIZES = [(1000, 800), (1280, 800), (2560, 800), (390, 844), (844, 390), (820, 1180)]
BENCH_SIZES = [*SIZES, (1130, 800), (1600, 800), (1024, 768), (1920, 1080), (2560, 1440)]
MAGNIFIED = [(1067, 600), (640, 400)]
"""Windows of 1600 x 900 at 150 % and of 1280 x 800 at 200 %, as a browser magnifies them."""


def faults_at(page: Page, sizes: list[tuple[int, int]], ready: Callable[[], None]) -> dict:
    """What is cut, lies over another or is wider than the window, by its size."""
    found = {}
    for width, height in sizes:
        resized(page, width, height)
        ready()
        wrong = page.evaluate(FAULTS), page.evaluate(SCROLLED)
        if wrong != ([], 0):
            found[f"{width} x {height}"] = wrong
    return found


def test_nothing_on_the_bench_is_cut_or_lies_over_another(set_page: Page) -> None:
    page = set_page
    open_bench(page, PICTURES / "lock-keepers-row.jpg")
    page.keyboard.press("a")
    page.get_by_role("button", name="Ink all").click()
    settled(page)
    for key, name in STEPS.items():
        page.keyboard.press(key)
        steps = page.get_by_role("navigation", name="Steps")
        expect(steps.get_by_role("button", name=name)).to_have_attribute("aria-current", "step")
        assert faults_at(page, BENCH_SIZES + MAGNIFIED, lambda: settled(page)) == {}, name


@pytest.mark.parametrize("size", [(390, 844), (640, 400), (820, 1180), (2560, 1440)])
def test_nothing_is_cut_in_a_window_that_opens_in_its_size(
    set_page: Page, size: tuple[int, int]
) -> None:
    page = set_page
    resized(page, *size)
    open_bench(page, PICTURES / "lock-keepers-row.jpg")
    assert (page.evaluate(FAULTS), page.evaluate(SCROLLED)) == ([], 0)


def test_nothing_on_the_other_pages_is_cut_or_lies_over_another(
    set_page: Page, tmp_path: Path
) -> None:
    page = set_page
    open_bench(page, horizon_file(tmp_path, 0.5, name="another.png"))
    other = page.url.rsplit("/", 1)[1]
    open_bench(page, horizon_file(tmp_path, 1.0, name="a-rather-long-name-of-a-file-0001.png"))
    picture = page.url
    (server, number) = picture.rsplit("/pictures/", 1)
    shown = page.request.get(f"{server}/api/pictures/{number}").json()
    for address in (
        f"/sets/{shown['set_id']}",
        f"/sets/{shown['set_id']}/review?pictures={number},{other}",
        f"/sets/{shown['set_id']}/carry?pictures={number},{other}",
        f"/pictures/{number}/versions",
        f"/pictures/{number}/history",
        "/exports",
        "/bin",
        "/storage",
    ):
        page.goto(f"{server}{address}")
        expect(page.get_by_role("heading").first).to_be_visible()
        page.wait_for_load_state("networkidle")
        still = partial(page.wait_for_load_state, "networkidle")
        assert faults_at(page, SIZES + MAGNIFIED, still) == {}, address


LARGER = """(times) => {
  const all = [...document.querySelectorAll('body *')].filter((e) => !e.closest('svg'));
  const sizes = all.map((e) => parseFloat(getComputedStyle(e).fontSize));
  all.forEach((e, place) => { e.style.fontSize = `${sizes[place] * times}px`; });
}"""


def test_nothing_is_cut_where_letters_are_half_as_large_again(set_page: Page) -> None:
    """Only the text is magnified, as some browsers do (WCAG 2.2, 1.4.4 asks for 200 %)."""
    page = set_page
    page.set_viewport_size({"width": 1280, "height": 800})
    open_bench(page, PICTURES / "lock-keepers-row.jpg")
    for key, name in STEPS.items():
        page.reload()
        settled(page)
        page.keyboard.press(key)
        steps = page.get_by_role("navigation", name="Steps")
        expect(steps.get_by_role("button", name=name)).to_have_attribute("aria-current", "step")
        settled(page)
        page.evaluate(LARGER, 1.5)
        assert page.evaluate(FAULTS) == [], name
