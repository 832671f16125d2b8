"""How cost grows with what there is to do: the tables and the plot of docs/speed.md."""

import json
import subprocess
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import cv2
import numpy as np
import pytest
from flask.testing import FlaskClient
from PIL import Image
from sqlalchemy import Engine, insert, update

from sequor.core.recipe import MAX_READINGS, Recipe
from sequor.core.solve import solve
from sequor.core.stance.orientation import measure_stance
from sequor.store.database import sessions
from sequor.store.entries import entry_columns
from sequor.store.library import photo_of
from sequor.store.models import LedgerEntry, Original, Picture, PictureSet
from tests.bench.conftest import median_seconds
from tests.bench.growth import Curve, draw, table
from tests.bench.targets import Measured, hold_to
from tests.conftest import OPEN_PICTURES, ROOT
from tests.core.test_orientation import PHOTO, readings_of
from tests.store.test_ledger import original
from tests.web.conftest import draft, keep, turn

MEGAPIXELS = (1, 6, 24, 50, 100, 300)
READINGS = (1, 2, 8, 20, 50, 100, MAX_READINGS)
LIBRARY = (10, 100, 1_000, 10_000, 50_000)
SHEET = 500
"""Pictures of a set, at most: a library of many is in many sets."""
_APART = 1000
"""Between the numbers of entries, for those that are made meanwhile."""
_MOST = 1.1
"""An exponent above says that something grows faster than what there is to do."""


@pytest.fixture(scope="module")
def curves() -> Iterator[list[Curve]]:
    """What was measured; drawn when all of it is."""
    found: list[Curve] = []
    yield found
    if len({curve.of for curve in found}) == 3:
        draw(found, ROOT / "docs" / "speed.svg")


def told(curves: list[Curve], *new: Curve, beside: Curve | None = None) -> None:
    """Keep them, print their table with a reference beside, and hold each to what is linear."""
    shown = (*new, *([beside] if beside else ()))
    curves.extend(shown)
    print("\n" + table(shown))
    for curve in new:
        name = f"{curve.what} over {curve.of}: exponent between the two largest"
        hold_to(Measured(name, curve.last_exponent, _MOST))


ONE_EXPORT = """
import json, re, sys, time
from pathlib import Path
from sequor.making.warm_up import warm_up
from tests.bench.test_export_speed import ours

def kilobytes(name):
    return int(re.search(name + r":\\s+(\\d+)", Path("/proc/self/status").read_text())[1])

warm_up()
Path("/proc/self/clear_refs").write_text("5")  # the peak is counted from here
idle, began = kilobytes("VmRSS"), time.perf_counter()
ours(Path(sys.argv[1]), Path(sys.argv[2]))
print(json.dumps([time.perf_counter() - began, (kilobytes("VmHWM") - idle) / 1024]))
"""


def photograph_of(megapixels: float, path: Path) -> Path:
    """An open photograph enlarged, with grain."""
    width = round((megapixels * 1e6 * 1.5) ** 0.5)
    height = round(width / 1.5)
    plain = np.asarray(Image.open(OPEN_PICTURES / "building.jpg").convert("RGB"))
    large = cv2.resize(plain, (width, height), interpolation=cv2.INTER_CUBIC)
    grain = np.random.default_rng(1).integers(0, 13, (1000, 1000, 3), np.uint8)
    for top in range(0, height, 1000):
        for left in range(0, width, 1000):
            part = large[top : top + 1000, left : left + 1000]
            cv2.add(part, grain[: part.shape[0], : part.shape[1]], dst=part)
    cv2.imwrite(str(path), large, [cv2.IMWRITE_JPEG_QUALITY, 95])
    return path


def test_an_export_over_megapixels(curves: list[Curve], tmp_path: Path) -> None:
    seconds, megabytes, beside = [], [], []
    for megapixels in MEGAPIXELS:
        source = photograph_of(megapixels, tmp_path / "a.jpg")
        command = [sys.executable, "-c", ONE_EXPORT, str(source), str(tmp_path / "b.jpg")]
        runs = [
            json.loads(subprocess.run(command, cwd=ROOT, capture_output=True, check=True).stdout)
            for _ in range(3 if megapixels <= 100 else 1)
        ]
        seconds.append(float(np.median([run[0] for run in runs])))
        megabytes.append(float(np.median([run[1] for run in runs])))
        beside.append(opencv_seconds(source, tmp_path / "c.jpg"))
    of = "megapixels"
    told(
        curves,
        Curve("export", of, "s", MEGAPIXELS, tuple(seconds)),
        Curve("memory at its peak", of, "MB", MEGAPIXELS, tuple(megabytes)),
        beside=Curve("OpenCV, Lanczos4", of, "s", MEGAPIXELS, tuple(beside)),
    )


def opencv_seconds(source: Path, target: Path) -> float:
    """The same job by OpenCV."""

    def work() -> None:
        pixels = cv2.imread(str(source))
        height, width = pixels.shape[:2]
        turned = cv2.getRotationMatrix2D((width / 2, height / 2), 1.33, 1)
        warped = cv2.warpAffine(pixels, turned, (width, height), flags=cv2.INTER_LANCZOS4)
        cv2.imwrite(str(target), warped, [cv2.IMWRITE_JPEG_QUALITY, 95])

    return median_seconds(work, 1)


def test_solving_over_readings(curves: list[Curve]) -> None:
    found = readings_of(np.random.default_rng(0), (1.5, 8.0, -12.0), 100, 100, noise=1.0)

    def solving(count: int) -> float:
        half = count // 2
        recipe = Recipe(readings=(*found[: count - half], *found[100 : 100 + half]))

        def anew() -> None:
            solve.cache_clear()
            measure_stance.cache_clear()
            solve(PHOTO, recipe)

        return median_seconds(anew, 50) * 1e3

    took = tuple(solving(count) for count in READINGS)
    told(curves, Curve("solving", "readings", "ms", READINGS, took))


def library_of(engine: Engine, count: int) -> None:
    """So many pictures, in sets of 500, each of an original of its own."""
    with sessions(engine).begin() as session:
        there = session.query(Picture).count()
        about = original("0" * 64)
        entry = entry_columns(photo_of(about), Recipe(), "as shot")
        facts = {c.name: getattr(about, c.name) for c in Original.__table__.columns}
        facts = {name: value for name, value in facts.items() if value is not None}
        for start in range(there, count, SHEET):
            numbers = range(start, min(start + SHEET, count))
            made = PictureSet(name=f"Set {start}")
            session.add(made)
            session.flush()
            hashes = [f"{number:064x}" for number in numbers]
            session.execute(insert(Original), [{**facts, "sha256": one} for one in hashes])
            ids = [number + 1 for number in numbers]
            rows = zip(ids, hashes, strict=True)
            session.execute(
                insert(Picture),
                [
                    {"id": i, "set_id": made.id, "original_sha256": h, "name": f"{i}.jpg"}
                    for i, h in rows
                ],
            )
            session.execute(
                insert(LedgerEntry), [{**entry, "id": i * _APART, "picture_id": i} for i in ids]
            )
            session.execute(
                update(Picture).where(Picture.id.in_(ids)).values(head_id=Picture.id * _APART)
            )


class Person:
    """What somebody does, with the first picture of a library."""

    def __init__(self, client: FlaskClient, set_id: int) -> None:
        self._client, self._set_id = client, set_id
        self._state = client.get("/api/pictures/1").json
        self._deg = 0.0

    def acts(self) -> dict[str, Callable[[], object]]:
        return {
            "the sheet of ten pictures": lambda: self._client.get(f"/api/sets/{self._set_id}"),
            "a picture on the bench": lambda: self._client.get("/api/pictures/1"),
            "a turn in the hand": lambda: draft(self._client, self._state, self._turn()),
            "a turn that is kept": self._keep,
            "the list of sets": lambda: self._client.get("/api/sets"),
        }

    def _turn(self) -> dict:
        self._deg = (self._deg + 0.37) % 9
        return turn(self._deg - 4.5)

    def _keep(self) -> None:
        answer = keep(self._client, self._state, self._turn())
        assert answer.status_code == 201
        self._state = answer.json


def test_a_library_over_pictures(
    curves: list[Curve], browserless: FlaskClient, engine: Engine, empty_tables: Engine
) -> None:
    """Nothing that is done with one picture is to know how many others there are; the list of sets
    has a row for each 500 of them.
    """
    few = browserless.post("/api/sets", json={"name": "Few"}).json["id"]
    costs: dict[str, list[float]] = {}
    for count in LIBRARY:
        library_of(engine, count)
        with sessions(engine).begin() as session:
            session.execute(update(Picture).where(Picture.id <= 10).values(set_id=few))
        for what, act in Person(browserless, few).acts().items():
            costs.setdefault(what, []).append(median_seconds(act, 15) * 1e3)
    of = "pictures in the library"
    told(curves, *(Curve(what, of, "ms", LIBRARY, tuple(took)) for what, took in costs.items()))
