"""A whole job in the other two engines that tablets and photographers have."""

import math
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.conftest import measured_tilt_deg
from tests.engines.hand import Hand
from tests.running import Application
from tests.ui.hands import HEIGHT, WIDTH, horizon_file
from tests.waiting import until

TILT_DEG = 1.33
ROLL = "[role=slider][aria-label=Roll]"


def bench(hand: Hand, application: Application, folder: Path) -> None:
    """A picture with a tilted horizon, put into a set and opened."""
    _, made = application.post("/api/sets", {"name": "Tides"})
    hand.window.open(application.entrance)
    hand.window.open(f"{application.url}/sets/{made['id']}")
    hand.is_there("button", "Add pictures")
    hand.choose("[aria-label='Picture files']", horizon_file(folder, TILT_DEG))
    hand.press("a", "Open horizon.png…")
    hand.settled()


def draw_horizon(hand: Hand) -> None:
    rise = math.tan(math.radians(TILT_DEG)) * WIDTH * 0.45
    start, end = (
        hand.on_screen(WIDTH * share, HEIGHT / 2 + sign * rise, (WIDTH, HEIGHT))
        for share, sign in ((0.05, -1), (0.95, 1))
    )
    hand.drag(start, end)


def roll_is(hand: Hand, deg: float) -> None:
    until(lambda: abs(float(hand.value(ROLL, "aria-valuenow") or "nan") - deg) <= 0.03)


def test_from_a_file_to_a_file(hand: Hand, application: Application, tmp_path: Path) -> None:
    bench(hand, application, tmp_path)
    hand.press("button", "H Horizon")
    draw_horizon(hand)
    roll_is(hand, -TILT_DEG)
    hand.settled()
    # Taken back and done again by keys.
    hand.keys("Control", "z")
    roll_is(hand, 0)
    hand.keys("Control", "Shift", "z")
    roll_is(hand, -TILT_DEG)
    hand.settled()
    hand.keys("3")
    hand.press("button", "1:1")
    hand.settled()
    hand.keys("5")
    hand.press("button", "Export")
    pixels = np.asarray(Image.open(hand.downloaded()))
    assert pixels.shape[0] == pixels.shape[1]
    assert measured_tilt_deg(pixels) == pytest.approx(0, abs=0.05)


def test_what_a_window_that_closes_sends_arrives(
    hand: Hand, application: Application, tmp_path: Path
) -> None:
    bench(hand, application, tmp_path)
    hand.press("button", "H Horizon")
    draw_horizon(hand)
    hand.window.open("about:blank")
    hand.window.open(f"{application.url}/pictures/1")
    hand.settled()
    roll_is(hand, -TILT_DEG)


def test_without_the_server_a_page_says_so_and_comes_back(
    hand: Hand, application: Application, tmp_path: Path
) -> None:
    bench(hand, application, tmp_path)
    ready = "return navigator.serviceWorker.getRegistration().then((one) => Boolean(one?.active))"
    until(lambda: hand.window.run(ready))
    application.stop()
    hand.window.open(f"{application.url}/pictures/1")
    hand.is_there("h1", "Sequor is not there")
    application.start()
    hand.settled()
