"""A day at a studio in half an hour: everything that people do, again and again, and what the
server takes meanwhile.
"""

import io
import json
import os
import random
import threading
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from tests.conftest import horizon_picture
from tests.running import Application
from tests.steadiness.killing import command_of, descendants

_LOOK_S = 5.0


@dataclass(frozen=True)
class Look:
    """What the server takes at a moment; memory in MB."""

    at_s: float
    memory_mb: float
    descriptors: int
    threads: int
    temporary: int


class MixedUse:
    """People at work on a running application, of whom one looks at what its server takes."""

    def __init__(self, app: Application, people: int, seed: int) -> None:
        self._app, self._seed = app, seed
        self._stop = threading.Event()
        self._people = [
            threading.Thread(target=self._work, args=(seed + n,), daemon=True)
            for n in range(people)
        ]
        self.set_id = app.post("/api/sets", {"name": f"Mixed {seed}"})[1]["id"]
        self.requests = 0
        self.unexpected: list[object] = []
        self.looks: list[Look] = []
        for number in range(12):
            self._upload(random.Random(seed + number))

    def run(self, seconds: float) -> None:
        """Let everybody work for so long."""
        for person in self._people:
            person.start()
        start = time.monotonic()
        while time.monotonic() - start < seconds and not self.unexpected:
            time.sleep(_LOOK_S)
            self.looks.append(self._look(time.monotonic() - start))
        self._stop.set()
        for person in self._people:
            person.join(60)

    def slope_mb_a_minute(self, last_s: float) -> float:
        """How fast the server's memory grew in the last so many seconds, by least squares."""
        end = self.looks[-1].at_s
        late = [look for look in self.looks if look.at_s >= end - last_s]
        line = np.polyfit([one.at_s / 60 for one in late], [one.memory_mb for one in late], 1)
        return float(line[0])

    def _look(self, at_s: float) -> Look:
        assert self._app.process
        family = descendants(self._app.process.pid)
        (server,) = [pid for pid in family if "--watched-by" in command_of(pid)]
        proc = Path(f"/proc/{server}")
        pages = int((proc / "statm").read_text().split()[1])
        left = [
            path
            for folder in ("incoming", "temporary")
            for path in (self._app.data / folder).iterdir()
        ]
        return Look(
            at_s,
            pages * os.sysconf("SC_PAGE_SIZE") / 2**20,
            len(list((proc / "fd").iterdir())),
            len(list((proc / "task").iterdir())),
            len(left),
        )

    def _work(self, seed: int) -> None:
        chance = random.Random(seed)
        acts = [
            *([self._draw] * 10),
            *([self._drag] * 20),
            *([self._look_at] * 12),
            *([self._sheet] * 6),
            *([self._export] * 2),
            self._upload,
            self._archive,
            self._throw_away,
            self._read,
        ]
        while not self._stop.is_set():
            try:
                chance.choice(acts)(chance)
            except (OSError, KeyError, TypeError):
                time.sleep(0.05)  # somebody else threw it away meanwhile
            except Exception as problem:
                self.unexpected.append(problem)

    def _ask(self, method: str, path: str, body: object = None) -> Any:
        sent = None if body is None else json.dumps(body).encode()
        status, answer = self._app.send(method, path, sent)
        self.requests += 1
        if status >= 500 and status != 503:
            self.unexpected.append((method, path, status, answer))
        return answer

    def _state(self, chance: random.Random) -> Any:
        cards = self._ask("GET", f"/api/sets/{self.set_id}")["pictures"]
        return self._ask("GET", f"/api/pictures/{chance.choice(cards)['id']}")

    def _upload(self, chance: random.Random) -> None:
        pixels = horizon_picture(chance.uniform(-4, 4), 1500, 1000, chance.uniform(-200, 200))
        content = io.BytesIO()
        Image.fromarray(pixels).save(content, "JPEG", quality=90)
        self._app.upload(self.set_id, "a.jpg", content.getvalue())
        self.requests += 1

    def _draw(self, chance: random.Random) -> None:
        state = self._state(chance)
        rise = chance.uniform(-30, 30)
        edit = {
            "do": "draw_reading",
            "id": f"r{chance.randrange(10**9)}",
            "kind": "level",
            "points": [[100, 500 - rise], [1400, 500 + rise]],
            "fit": chance.random() < 0.3,
        }
        edits: list[dict[str, Any]] = [edit, {"do": "turn_by", "axis": "roll", "deg": rise / 50}]
        if len(state["recipe"]["readings"]) > 5:
            edits = [{"do": "remove_reading", "id": state["recipe"]["readings"][0]["id"]}]
        if chance.random() < 0.1:
            edits.append({"do": "allow_fill", "allowance": 0.5})
        body = {"based_on": state["entry_id"], "edits": edits}
        self._ask("POST", f"/api/pictures/{state['id']}/ledger", body)
        if chance.random() < 0.4:
            after = self._ask("GET", f"/api/pictures/{state['id']}")
            undo = {"based_on": after["entry_id"]}
            self._ask("POST", f"/api/pictures/{state['id']}/undo", undo)

    def _drag(self, chance: random.Random) -> None:
        state = self._state(chance)
        for _ in range(6):
            edit = {"do": "turn_by", "axis": "roll", "deg": chance.uniform(-3, 3)}
            body = {"based_on": state["entry_id"], "edits": [edit]}
            self._ask("POST", f"/api/pictures/{state['id']}/draft", body)

    def _look_at(self, chance: random.Random) -> None:
        state = self._state(chance)
        images = state["addresses"]["corrected"]
        box = f"x={chance.randrange(300)}&y=0&width=900&height=600&scale=0.7"
        self._ask("GET", f"{images}/view.jpg?{box}")
        self._ask("GET", f"{images}/thumbnail.jpg")
        if chance.random() < 0.2:
            self._ask("GET", f"{images}/filled.jpg?edge=640")

    def _sheet(self, chance: random.Random) -> None:
        for path in ("/api/sets", "/api/exports?limit=500", "/api/storage", "/api/bin"):
            self._ask("GET", path)
        state = self._state(chance)
        self._ask("GET", f"/api/pictures/{state['id']}/history")

    def _export(self, chance: random.Random) -> None:
        state = self._state(chance)
        made = self._ask("POST", f"/api/pictures/{state['id']}/exports", {"format": "jpeg"})
        if chance.random() < 0.3:
            self._ask("POST", f"/api/exports/{made['id']}/cancel")
        if chance.random() < 0.2:
            self._ask("POST", "/api/exports/clear", {"ids": None, "older_days": 0})

    def _archive(self, chance: random.Random) -> None:
        state = self._state(chance)
        self._ask("GET", f"/api/pictures.zip?ids={state['id']}")

    def _throw_away(self, chance: random.Random) -> None:
        cards = self._ask("GET", f"/api/sets/{self.set_id}")["pictures"]
        if len(cards) > 12:
            self._ask("POST", "/api/pictures/bin", {"picture_ids": [cards[0]["id"]]})
            self._ask("POST", "/api/bin/empty")

    def _read(self, chance: random.Random) -> None:
        state = self._state(chance)
        body = {"based_on": state["entry_id"], "edits": [], "want": "level"}
        self._ask("POST", f"/api/pictures/{state['id']}/proposal", body)


def summed_up(looks: list[Look]) -> str:
    """A few of the looks, one a line."""
    some = looks[:: max(1, len(looks) // 12)]
    return "\n".join(
        f"  {one.at_s / 60:5.1f} min  {one.memory_mb:6.0f} MB  {one.descriptors:4d} descriptors  "
        f"{one.threads:3d} threads  {one.temporary:3d} temporary files"
        for one in some
    )
