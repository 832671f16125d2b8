"""The long trials of what docs/steadiness.md promises, and the hand while everything is asked for.

The tests run short versions of the first three.
"""

import io
import json
import os
import random
import resource
import sys
import time
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np
from flask.testing import FlaskClient
from PIL import Image

from sequor.core.photo import PhotoFacts
from sequor.core.recipe import Reading, Recipe
from sequor.core.solve import solve
from tests.bench.conftest import median_seconds
from tests.bench.load import ask_for_everything, wedged
from tests.bench.mixed_use import MixedUse, summed_up
from tests.bench.targets import Measured, tell
from tests.pictures.spoilt import SPOILT, spoilt_files, taken
from tests.running import Application
from tests.steadiness.killing import Killed
from tests.waiting import PATIENCE_S
from tests.web.test_fuzz import fuzz, spoil

VICTIMS = ("server", "worker", "database", "supervisor", "all")


def test_sixty_kills(tmp_path: Path) -> None:
    chance = random.Random(time.time())
    with Killed(tmp_path / "var", seed=chance.randrange(2**32), keeping=True) as trial:
        for _ in range(60):
            trial.kill(chance.choice(VICTIMS))
        trial.check()
    assert min(trial.archived, trial.backed_up) > 0
    print(
        f"\n60 kills: {trial.kept} changes, {trial.exported} exports, {trial.archived} archives, "
        f"{trial.backed_up} backups, nothing lost; restored, also after a kill"
    )
    tell(Measured("longest away", max(trial.away_s), 15, "s"))


def test_three_thousand_spoilt_files(tmp_path: Path) -> None:
    answers, slowest = Counter[str](), 0.0
    for name, content in spoilt_files(3000, seed=int(time.time())):
        start = time.monotonic()
        answers["taken" if taken(tmp_path, name, content) else "refused"] += 1
        slowest = max(slowest, time.monotonic() - start)
    peak_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"\n3,000 spoilt files ({', '.join(SPOILT)}): {dict(answers)}")
    tell(Measured("slowest", slowest, 10, "s"))
    tell(Measured("peak memory", peak_mb, 1500, "MB"))


def test_twenty_thousand_spoilt_requests(browserless: FlaskClient, picture: dict) -> None:
    answers, sent = spoil(browserless, picture, 20_000, int(time.time()))
    print(f"\n20,000 spoilt requests to {len(sent)} addresses: {dict(answers)}")
    assert len(sent) > 55


def test_a_long_fuzz(browserless: FlaskClient, picture: dict) -> None:
    print(f"\n{fuzz(browserless, picture, 150)} requests drawn from the document: no answer of 500")


def test_half_an_hour_of_mixed_use(tmp_path: Path) -> None:
    """``SEQUOR_BENCH_MINUTES`` makes it shorter, to look for what grows."""
    minutes = float(os.environ.get("SEQUOR_BENCH_MINUTES", "30"))
    app = Application(tmp_path / "var", "--empty")
    app.command = (sys.executable, "-m", "sequor")
    # Small enough that what is kept is full after a while: its growth must end.
    app.environment |= {"SEQUOR_CACHE_MB": "256", "SEQUOR_LOG_LEVEL": "WARNING"}
    app.start()
    try:
        use = MixedUse(app, people=4, seed=int(time.time()))
        use.run(minutes * 60)
    finally:
        app.stop()
    print(f"\n{use.requests:,} requests in {minutes:g} minutes\n{summed_up(use.looks)}")
    assert use.unexpected == []
    third_s = minutes * 20
    late = [look for look in use.looks if look.at_s > minutes * 60 - third_s]
    tell(Measured("memory, last third, a minute", use.slope_mb_a_minute(third_s), 1, "MB"))
    spread = max(look.descriptors for look in late) - min(look.descriptors for look in late)
    tell(Measured("descriptors, spread in the last third", spread, 40, ""))
    tell(Measured("threads", max(look.threads for look in late), 180, ""))
    tell(Measured("temporary files", max(look.temporary for look in late), 20, ""))


def test_the_largest_recipe() -> None:
    chance = np.random.default_rng(1)
    traces = []
    for number in range(200):
        start, end = chance.uniform([100, 100], [2900, 1900], (2, 2))
        points = start + (end - start) * np.linspace(0, 1, 64)[:, None]
        away = points - [1500, 1000]
        points -= away * 0.08 * (away**2).sum(axis=1, keepdims=True) / 1803**2
        points = np.clip(points + chance.normal(0, 0.3, points.shape), 0, [3000, 2000])
        traces.append(Reading(id=str(number), kind="trace", points=points.tolist()))
    recipe, photo = Recipe(readings=tuple(traces)), PhotoFacts(width=3000, height=2000)
    from sequor.core.lens.plumb_line import from_traces

    def anew() -> None:
        from_traces.cache_clear()
        solve.__wrapped__(photo, recipe)

    tell(Measured("200 traces of 64 points", median_seconds(anew), 0.3, "s"))


def test_the_hand_while_everything_is_asked_for(tmp_path: Path, large_jpeg: Path) -> None:
    """20 exports, 12 fills and 40 views of one picture; a small export of another; the hand."""
    app = Application(tmp_path / "var", "--empty")
    app.command = (sys.executable, "-m", "sequor")
    app.start()
    try:
        set_id = app.post("/api/sets", {"name": "Busy"})[1]["id"]
        large = app.upload(set_id, "large.jpg", large_jpeg.read_bytes())[1]["picture"]["id"]
        tiny = io.BytesIO()
        Image.new("RGB", (900, 600)).save(tiny, "JPEG")
        small = app.upload(set_id, "small.jpg", tiny.getvalue())[1]["picture"]["id"]
        state = wedged(app, large)
        _measure_hand(app, state, "calm", 40)
        ask_for_everything(app, state)
        asked = time.monotonic()
        export = app.post(f"/api/pictures/{small}/exports", {"format": "jpeg"})[1]
        while export["state"] == "queued" and time.monotonic() - asked < PATIENCE_S:
            time.sleep(0.05)
            export = app.send("GET", f"/api/exports/{export['id']}")[1]
        tell(Measured("a small export begins after", time.monotonic() - asked, 3, "s"))
        _measure_hand(app, state, "busy", 400)
    finally:
        app.stop()


def _measure_hand(app: Application, state: dict[str, Any], how: str, times: int) -> None:
    took = []
    for number in range(times):
        edit = {"do": "turn_by", "axis": "roll", "deg": number / 1000}
        body = json.dumps({"based_on": state["entry_id"], "edits": [edit]}).encode()
        start = time.perf_counter()
        assert app.send("POST", f"/api/pictures/{state['id']}/draft", body)[0] == 200
        took.append((time.perf_counter() - start) * 1000)
        time.sleep(0.02)
    tell(
        Measured(f"solve asked for by HTTP, {how}, 95 %", float(np.percentile(took, 95)), 100, "ms")
    )
