"""A real disk that is full: a small one in memory, for which root is needed."""

import io
import os
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.running import Application

pytestmark = pytest.mark.skipif(os.geteuid() != 0, reason="only root can mount a disk")
MB = 2**20


@pytest.fixture
def disk(tmp_path: Path) -> Iterator[Path]:
    place = tmp_path / "disk"
    place.mkdir()
    mounted = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=800m", "none", place])
    if mounted.returncode:
        pytest.skip("this machine lets nobody mount a disk")
    yield place
    subprocess.run(["umount", "-l", place], check=True)


def noise(seed: int) -> bytes:
    content = io.BytesIO()
    pixels = np.random.default_rng(seed).integers(0, 255, (400, 600, 3), np.uint8)
    Image.fromarray(pixels).save(content, "PNG")
    return content.getvalue()


def fill(disk: Path, leave: int) -> None:
    """What other programs put there."""
    free = os.statvfs(disk)
    with (disk / "others").open("ab") as file:
        os.posix_fallocate(file.fileno(), file.tell(), free.f_bavail * free.f_bsize - leave)


def test_it_says_so_goes_on_and_comes_back(disk: Path) -> None:
    app = Application(disk / "var", "--empty")
    app.command = (sys.executable, "-m", "sequor")
    app.environment |= {"SEQUOR_RESERVE_MB": "100"}
    app.log = disk.parent / "application.log"
    app.start()
    try:
        set_id = app.post("/api/sets", {"name": "Full"})[1]["id"]
        picture = app.upload(set_id, "a.png", noise(1))[1]["picture"]
        address = f"/api/pictures/{picture['id']}"

        def turn(deg: float) -> tuple[int, dict]:
            state = app.send("GET", address)[1]
            edit = {"do": "turn_by", "axis": "roll", "deg": deg}
            return app.post(f"{address}/ledger", {"based_on": state["entry_id"], "edits": [edit]})

        assert turn(1)[0] == 201
        fill(disk, 2 * MB)
        # Nothing new, said in words; what is there can be seen and undone.
        status, refused = app.upload(set_id, "b.png", noise(2))
        assert status == 507, refused
        assert "The disk is full" in refused["problem"]
        status, refused = turn(2)
        assert status == 507
        assert "MB free, nothing was changed" in refused["problem"]
        status, state = app.send("GET", address)
        assert (status, state["recipe"]["trim"]["roll_deg"]) == (200, 1)
        undone = app.post(f"{address}/undo", {"based_on": state["entry_id"]})
        assert undone[0] == 200
        # It starts on a full disk too.
        app.stop()
        app.start()
        status, state = app.send("GET", address)
        assert (status, state["can_redo"]) == (200, True)
        assert app.post(f"{address}/redo", {"based_on": state["entry_id"]})[0] == 200
        health = app.send("GET", "/api/health")[1]
        assert (health["live"], health["ready"]) == (True, False)
        assert "The disk is full" in health["reasons"][0]
        # And goes on by itself.
        (disk / "others").unlink()
        assert turn(3)[0] == 201
        assert app.upload(set_id, "b.png", noise(2))[0] == 201
        assert app.send("GET", "/api/health")[1]["ready"]
    finally:
        app.stop()
