"""An application under load whose processes are killed, and what must be true afterwards."""

import io
import os
import random
import signal
import subprocess
import sys
import threading
import time
import zipfile
from contextlib import suppress
from pathlib import Path
from types import TracebackType
from typing import Any

import numpy as np
from PIL import Image

from sequor.store.mariadb import port_is_free
from tests.running import Application
from tests.waiting import PATIENCE_S

_LET_WORK = 5
"""After so many kills there is time for an export to be made."""


class Killed:
    """Writers, uploaders and exporters at work while processes die; with ``keeping`` also who
    writes archives and backups, which are killed too.

    Attributes
    ----------
    kept : int
        Ledger entries that were acknowledged.
    exported : int
        Exports that were reported as done.
    archived, backed_up : int
        Archives that came whole, and backups that came to their end.
    away_s : list of float
        How long after each kill the application was ready again.
    """

    def __init__(self, data: Path, seed: int, keeping: bool = False) -> None:
        self._chance, self._keeping = random.Random(seed), keeping
        self._app = Application(data, "--empty")
        self._backup = data.parent / "backup"
        self._app.command = (sys.executable, "-m", "sequor")
        self._stop = threading.Event()
        self._entries: dict[int, list[int]] = {}
        self._pictures: set[int] = set()
        self._exports: set[int] = set()
        self.archived = self.backed_up = 0
        self.away_s: list[float] = []
        self.unexpected: list[object] = []

    @property
    def kept(self) -> int:
        return sum(len(entries) for entries in self._entries.values())

    @property
    def exported(self) -> int:
        return len(self._exports)

    def __enter__(self) -> "Killed":
        self._app.start()
        self._set = self._app.post("/api/sets", {"name": "Under fire"})[1]["id"]
        work = [self._write, self._write, self._upload, self._export]
        work += [self._archive, self._back_up] if self._keeping else []
        self._threads = [
            threading.Thread(target=self._again, args=(one, n), daemon=True)
            for n, one in enumerate(work)
        ]
        for thread in self._threads:
            thread.start()
        self._until(lambda: self.kept > 3)
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._stop.set()
        if self._app.process and self._app.process.poll() is None:
            self._app.stop()

    def kill(self, victim: str) -> None:
        """Kill processes while there is work, and wait until the application is ready again."""
        time.sleep(self._chance.uniform(0.2, 1.5))
        assert self._app.process
        supervisor = self._app.process.pid
        family = descendants(supervisor)
        servers = [pid for pid in family if "--watched-by" in command_of(pid)]
        workers = [pid for pid in family if "forkserver" in command_of(pid)]
        databases = [pid for pid in family if "mariadbd" in command_of(pid)]
        chosen = {
            "supervisor": [supervisor],
            "server": servers,
            "worker": [self._chance.choice(workers)] if workers else [],
            "database": databases,
            "all": [supervisor, *servers, *workers, *databases],
        }[victim]
        for pid in chosen:
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        start, before = time.monotonic(), self.kept
        if supervisor in chosen:
            self._app.process.wait(30)
            self._app.start()
        self._until(lambda: self._ready() and self.kept > before)
        self.away_s.append(time.monotonic() - start)
        if len(self.away_s) % _LET_WORK == 0:  # workers come to something too
            made = self.exported
            self._until(lambda: self.exported > made)

    def check(self) -> None:
        """Everything that was acknowledged is there, and nothing that was not is left behind."""
        self._until(lambda: self.exported > 0)
        self._stop.set()
        for thread in self._threads:
            thread.join(PATIENCE_S)
        assert self.unexpected == [], self.unexpected
        self._app.stop(signal.SIGKILL)
        self._app.start()  # cleans up what that kill left
        contents = self._app.send("GET", f"/api/sets/{self._set}")[1]["pictures"]
        assert self._pictures <= {one["id"] for one in contents}
        heads = {one["id"]: one["entry_id"] for one in contents}
        for picture, entries in self._entries.items():
            # The newest acknowledged entry holds, or one that was kept after it while its answer
            # was cut off.
            assert heads[picture] >= entries[-1]
            for entry in entries:
                path = f"/api/pictures/{picture}/output"
                assert self._app.post(path, {"entry_id": entry, "size": {}})[0] == 200, entry
        for number in self._exports:
            status, content = self._app.send("GET", f"/api/exports/{number}/file")
            assert status == 200
            Image.open(io.BytesIO(content)).load()
        self._until(lambda: self._app.send("GET", "/api/health")[1]["running"] == 0)
        data = self._app.data
        self._app.stop()
        for folder in ("incoming", "temporary"):
            assert not list((data / folder).iterdir()), folder
        assert not list((data / "exports").glob(".partial*"))
        assert not list((data / "mariadb").glob("grants*"))
        named = {one.name for one in (data / "originals").rglob("*") if one.is_file()}
        assert len(named) == len(contents)
        if self._keeping:
            self._check_what_is_kept()

    def _check_what_is_kept(self) -> None:
        """The data are sound; so is what a backup of them gives back, after a kill of that too."""
        assert self._upkeep("verify").returncode == 0
        assert self._upkeep("backup", self._backup).returncode == 0
        back = {"SEQUOR_DATA": str(self._backup.with_name("back"))}
        killed = self._upkeep("restore", self._backup, kill_after_s=2.0, **back)
        assert killed.returncode == -signal.SIGKILL
        assert not Path(back["SEQUOR_DATA"]).exists()  # nothing half of it is seen
        self._until(lambda: port_is_free(int(self._app.environment["SEQUOR_DB_PORT"])))
        again = self._upkeep("restore", self._backup, **back)
        assert again.returncode == 0, again.stderr
        assert self._upkeep("verify", **back).returncode == 0
        here, there = (
            {one.name for one in (Path(data) / "originals").rglob("*") if one.is_file()}
            for data in (self._app.data, back["SEQUOR_DATA"])
        )
        assert here == there

    def _upkeep(
        self, *arguments: object, kill_after_s: float | None = None, **environment: str
    ) -> subprocess.CompletedProcess[str]:
        """One of the commands of upkeep, on the application's data."""
        command = [sys.executable, "-m", "sequor.upkeep", *map(str, arguments)]
        env = self._app.environment | environment
        with subprocess.Popen(
            command, env=env, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
        ) as running:
            try:
                out, said = running.communicate(timeout=kill_after_s)
            except subprocess.TimeoutExpired:
                running.kill()
                out, said = running.communicate()
        if "Traceback" in said:
            self.unexpected.append(said)
        return subprocess.CompletedProcess(command, running.returncode, out, said)

    def _archive(self, chance: random.Random) -> None:
        status, content = self._app.send("GET", f"/api/sets/{self._set}/archive.zip")
        if status == 200:
            with zipfile.ZipFile(io.BytesIO(content)) as archive:
                assert archive.testzip() is None
            self.archived += 1
        elif status != 422:  # no picture yet
            self._note(status, content)
        self._stop.wait(2.0)

    def _back_up(self, chance: random.Random) -> None:
        """Some are killed; of those that come to their end nothing may be missing."""
        kill_after_s = chance.uniform(1.0, 6.0) if chance.random() < 0.3 else None
        done = self._upkeep("backup", self._backup, kill_after_s=kill_after_s)
        if done.returncode not in (0, 2, -signal.SIGKILL):
            self.unexpected.append((done.returncode, done.stderr))
        self.backed_up += done.returncode == 0
        self._stop.wait(1.0)

    def _again(self, work: Any, seed: int) -> None:
        chance = random.Random(seed)
        while not self._stop.is_set():
            try:
                work(chance)
            except OSError:
                time.sleep(0.3)  # nobody there at the moment
            except Exception as problem:
                self.unexpected.append(problem)
                return

    def _write(self, chance: random.Random) -> None:
        if not self._pictures:
            time.sleep(0.05)
            return
        picture = chance.choice(sorted(self._pictures))
        status, state = self._app.send("GET", f"/api/pictures/{picture}")
        if status != 200:
            self._note(status, state)
            return
        edit = {"do": "turn_by", "axis": "roll", "deg": chance.uniform(-0.1, 0.1)}
        body = {"based_on": state["entry_id"], "edits": [edit]}
        status, kept = self._app.post(f"/api/pictures/{picture}/ledger", body)
        if status == 201:
            self._entries.setdefault(picture, []).append(kept["entry_id"])
            self._entries[picture].sort()
        else:
            self._note(status, kept)

    def _upload(self, chance: random.Random) -> None:
        pixels = np.random.default_rng(chance.randrange(2**32)).integers(
            0, 255, (60, 90, 3), np.uint8
        )
        content = io.BytesIO()
        Image.fromarray(pixels).save(content, "PNG")
        status, added = self._app.upload(self._set, "a.png", content.getvalue())
        if status in (200, 201):
            self._pictures.add(added["picture"]["id"])
        else:
            self._note(status, added)
        self._stop.wait(0.3)

    def _export(self, chance: random.Random) -> None:
        if not self._pictures:
            time.sleep(0.05)
            return
        picture = chance.choice(sorted(self._pictures))
        status, export = self._app.post(f"/api/pictures/{picture}/exports", {"format": "png"})
        deadline = time.monotonic() + 3 * PATIENCE_S
        while status in (200, 202) and export["state"] in ("queued", "running"):
            assert time.monotonic() < deadline, export
            time.sleep(0.1)
            try:
                status, export = self._app.send("GET", f"/api/exports/{export['id']}")
            except OSError:
                continue
            if status == 503:
                status = 200
                export = {"state": "queued", "id": export.get("id", 0)} if "id" in export else {}
                if not export:
                    return
        if status == 200 and export["state"] == "done":
            self._exports.add(export["id"])
        elif status not in (200, 202):
            self._note(status, export)

    def _note(self, status: int, answer: Any) -> None:
        """A refusal is clear, and of a kind that a kill explains."""
        if status not in (409, 503) or not answer["problem"]:
            self.unexpected.append((status, answer))

    def _ready(self) -> bool:
        try:
            return bool(self._app.send("GET", "/api/health")[1]["ready"])
        except OSError:
            return False

    def _until(self, what: Any) -> None:
        deadline = time.monotonic() + PATIENCE_S
        while not what():
            assert time.monotonic() < deadline
            assert self.unexpected == [], self.unexpected
            time.sleep(0.05)


def descendants(pid: int) -> list[int]:
    """All processes below one."""
    parents: dict[int, list[int]] = {}
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            parent = int((folder / "stat").read_text().rpartition(")")[2].split()[1])
        except (OSError, IndexError, ValueError):
            continue
        parents.setdefault(parent, []).append(int(folder.name))
    found, left = [], [pid]
    while left:
        children = parents.get(left.pop(), [])
        found += children
        left += children
    return found


def command_of(pid: int) -> str:
    try:
        return Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode()
    except OSError:
        return ""
