"""Several machines, measured on the cores of this one: docs/scaling.md has the figures."""

import os
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from sequor.core.recipe import Recipe
from sequor.core.render.size import OutputSize
from sequor.making.exports import export
from sequor.making.freight import SentFreight
from sequor.making.previews import source_tile
from sequor.making.worker_cache import Developed, TaskResources
from sequor.pictures.encode import FileChoice
from sequor.services.build import build
from sequor.store.depot import Depot
from sequor.store.files import FileStore, content_hash
from sequor.work.dispatcher import Dispatcher
from sequor.work.engine import Lane, Task
from sequor.work.far.board import Board
from sequor.work.far.place import FarPlace
from sequor.work.far.signed import Seal
from tests.bench.simulation import Studio, waits_of
from tests.bench.targets import Measured, hold_to, tell
from tests.conftest import horizon_picture
from tests.pictures.test_reading_files import as_png
from tests.running import Application
from tests.several import Machines, several
from tests.waiting import until

EXPORTS, PAIRS = 24, 3
CORES = sorted(os.sched_getaffinity(0))[:2]


@dataclass
class Bench:
    """An engine over workers alone, with a picture in its store."""

    engine: Dispatcher
    place: FarPlace
    resources: TaskResources
    sha256: str
    recipe: Recipe
    made: int = 0

    def export_task(self) -> Task:
        self.made += 1
        name = f"exports/{self.made}.jpg"
        choice, size = FileChoice("jpeg", 92), OutputSize()
        return Task(
            *(export, (self.resources, self.sha256, self.recipe, size, choice, name), Lane.EXPORT),
            memory_mb=200,
            originals=(self.sha256,),
            makes=(name,),
        )

    def tile_task(self, place: int) -> Task:
        which = Developed(self.sha256)
        return Task(
            *(source_tile, (self.resources, which, place % 8, place // 8 % 8), Lane.HAND),
            memory_mb=200,
            originals=(self.sha256,),
        )

    def seconds(self, count: int) -> float:
        """For so many exports."""
        begun = time.perf_counter()
        jobs = [self.engine.submit(self.export_task()) for _ in range(count)]
        for job in jobs:
            job.result(600)
        return time.perf_counter() - begun

    def joined(self, count: int) -> None:
        until(lambda: len(self.place.workers) == 2 * count)  # two processes each


@contextmanager
def bench(machines: Machines, picture: Path) -> Iterator[Bench]:
    settings = machines.settings
    files = FileStore(machines.folder / "bench")
    sha256 = content_hash(picture)
    own = machines.folder / "own.jpg"
    own.write_bytes(picture.read_bytes())
    files.store_original(own, sha256)
    freight = SentFreight(files, Depot(settings["SEQUOR_DEPOT"]))
    board = Board(settings["SEQUOR_REDIS"], build())
    place = FarPlace(board, settings["SEQUOR_REDIS"], Seal(settings["SEQUOR_WORK_KEY"]), freight)
    engine = Dispatcher([place])
    engine.start()
    try:
        yield Bench(engine, place, TaskResources(files, 300.0), sha256, Recipe())
    finally:
        engine.stop()


class Batch:
    """Exports that were asked for, and how many the server said were done."""

    def __init__(self, app: Application) -> None:
        self.asked: list[int] = []
        self.acknowledged = 0
        self._app = app

    def ask(self, pictures: list[int]) -> None:
        status, said = self._app.post("/api/exports", {"picture_ids": pictures, "format": "jpeg"})
        assert status == 202, said
        self.asked += [export["id"] for export in said["exports"]]

    def goes_on(self, count: int) -> float:
        """Wait until so many are done; never fewer than before. The seconds."""
        since = time.monotonic()
        until(lambda: self._done() >= count, 600)
        return time.monotonic() - since

    def _done(self) -> int:
        """How many are done, as far as anybody can say now."""
        try:
            status, said = self._app.send("GET", "/api/exports?limit=500")
        except OSError:
            return self.acknowledged
        if status != 200:
            return self.acknowledged
        asked = set(self.asked)
        states = [row["state"] for row in said["exports"] if row["id"] in asked]
        assert not {"failed", "cancelled"} & set(states), states
        assert states.count("done") >= self.acknowledged
        self.acknowledged = states.count("done")
        return self.acknowledged


@pytest.fixture
def machines(tmp_path: Path) -> Iterator[Machines]:
    with several(tmp_path, servers=1) as found:
        yield found


def test_two_workers_do_twice_as_much_as_one(machines: Machines, large_jpeg: Path) -> None:
    """24 megapixels, each worker with one core; servers idle."""
    assert len(CORES) == 2
    with bench(machines, large_jpeg) as here:
        machines.start_worker([CORES[0]])
        here.joined(1)
        here.seconds(4)
        alone, together = [], []
        for _ in range(PAIRS):
            alone.append(here.seconds(EXPORTS // 2))
            second = machines.start_worker([CORES[1]])
            here.joined(2)
            here.seconds(4)
            together.append(here.seconds(EXPORTS))
            second.terminate()
            second.wait()
            here.joined(1)
        one = EXPORTS / 2 / np.median(alone)
        two = EXPORTS / np.median(together)
        print(f"\none worker: {one:.2f} exports/s, two: {two:.2f}/s ({alone}, {together})")
        hold_to(Measured("two workers to one", two / one, 1.8, at_least=True))


def test_the_hand_by_way_of_a_worker(machines: Machines, large_jpeg: Path) -> None:
    """A tile for the loupe, on a calm worker and while exports keep it busy."""
    with bench(machines, large_jpeg) as here:
        machines.start_worker()
        here.joined(1)

        def tiles(count: int) -> np.ndarray:
            took = []
            for place in range(count):
                begun = time.perf_counter()
                here.engine.submit(here.tile_task(place)).result(60)
                took.append((time.perf_counter() - begun) * 1000)
            return np.array(took)

        tiles(20)
        calm = tiles(200)
        exports = [here.engine.submit(here.export_task()) for _ in range(60)]
        busy = tiles(100)
        for job in exports:
            job.cancel()
        print(f"\ncalm: median {np.median(calm):.1f} ms; busy: median {np.median(busy):.1f} ms")
        tell(Measured("a tile by a calm worker, 95 %", float(np.percentile(calm, 95)), 40, "ms"))
        tell(Measured("a tile by a busy worker, 95 %", float(np.percentile(busy, 95)), 80, "ms"))


def test_five_hundred_exports_while_everything_dies_once(machines: Machines) -> None:
    """A join, the death of a worker, of Redis, of the database, and a depot that is away, in the
    middle of 500 exports: nothing acknowledged is lost, everything goes on, no result comes twice.
    """
    machines.start_worker([CORES[0]])
    machines.start()
    app = machines.servers[0]
    set_id = app.post("/api/sets", {"name": "Quay"})[1]["id"]
    pictures = []
    for place in range(10):
        content = as_png(horizon_picture(1.0 + place / 4, 1500, 1000))
        status, said = app.upload(set_id, f"quay-{place}.png", content)
        assert status == 201, said
        pictures.append(said["picture"]["id"])
    begun, batch = time.monotonic(), Batch(app)
    for _ in range(50):
        batch.ask(pictures)

    def step(what: str, event: Callable[[], Any]) -> None:
        batch.goes_on(batch.acknowledged + 40)
        event()
        print(f"{what}: the next five after {batch.goes_on(batch.acknowledged + 5):.1f} s")

    depot = machines.folder / "depot"
    away = depot.with_name("depot-away")

    def lose_depot() -> None:
        depot.rename(away)
        depot.touch()  # nothing can be made there

        def back() -> None:
            depot.unlink()
            away.rename(depot)

        threading.Timer(8.0, back).start()

    def kill_redis() -> None:
        machines.redis.kill()
        machines.redis.start()

    step("a worker joins", lambda: machines.start_worker([CORES[1]]))
    step("a worker dies", lambda: machines.kill_worker(machines.workers[0]))
    machines.start_worker([CORES[0]])
    step("Redis dies", kill_redis)
    step("the database dies", lambda: os.kill(machines.database.pid, 9))
    step("the depot is away for 8 s", lose_depot)
    batch.goes_on(len(batch.asked))
    took_s = time.monotonic() - begun
    print(f"{len(batch.asked)} exports of 1.5 megapixels, everything dying once: {took_s:.0f} s")
    folder = machines.folder / "var" / "exports"
    assert sorted(int(path.stem) for path in folder.iterdir()) == sorted(batch.asked)


def test_the_simulation_tells_what_was_measured(machines: Machines, tmp_path: Path) -> None:
    """Exports that come at random moments, at half and at four fifths of what a worker can do: how
    long they wait, beside what the simulation of docs/scaling.md says (SimPy).
    """
    picture = tmp_path / "quay.png"
    picture.write_bytes(as_png(horizon_picture(2.0, 2400, 1600)))
    with bench(machines, picture) as here:
        machines.start_worker([CORES[0]])
        here.joined(1)
        here.seconds(4)
        service = here.seconds(60) / 60  # seconds of a core that is never idle
        chance = np.random.default_rng(5)
        for load in (0.5, 0.8):
            gaps = chance.exponential(service / load, 200)
            waiting = []
            with ThreadPoolExecutor(64) as pool:
                for gap in gaps:
                    time.sleep(gap)
                    waiting.append(pool.submit(here.seconds, 1))
            took = [one.result() for one in waiting]
            simulated = waits_of(Studio(workers=1, at_once=2, export_s=service), load, seed=5)
            measured = float(np.median(took))
            print(
                f"\nat {load:.0%}: an export is there after {measured:.2f} s (median), 95 % within "
                f"{np.percentile(took, 95):.2f} s; simulated {simulated.exports.median_s:.2f} and "
                f"{simulated.exports.high_s:.2f} s; its own work {service:.2f} s"
            )
            tell(Measured("simulated to measured", simulated.exports.median_s / measured, 1.5))
