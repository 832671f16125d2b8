"""A studio's machines on loopback: two servers on the same data, Redis, two workers with data
folders of their own, a depot between them; and what is lost when some of them die: nothing.
"""

import io
import json
import queue
import subprocess
import sys
import threading
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from sequor.store.mariadb import free_port, port_is_free
from tests.conftest import ROOT, horizon_picture, measured_tilt_deg
from tests.pictures.test_reading_files import as_png
from tests.running import Application
from tests.several import Machines, several
from tests.waiting import until

BATCH = 60
TURNED = 5
PASSWORD = "quiet harbour before nine"


@pytest.fixture(scope="module")
def machines(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Machines]:
    with several(tmp_path_factory.mktemp("several")) as found:
        found.start()
        yield found


@pytest.fixture(scope="module")
def pictures(machines: Machines) -> list[int]:
    """Pictures of one set, added by both servers in turn."""
    one, other = machines.servers
    set_id = one.post("/api/sets", {"name": "Quay"})[1]["id"]
    found = []
    for place in range(6):
        content = as_png(horizon_picture(2.0 + place / 4, 600, 400, offset=place))
        server = (one, other)[place % 2]
        status, said = server.upload(set_id, f"quay-{place}.png", content)
        assert status == 201, said
        found.append(said["picture"]["id"])
    return found


def turned(bench: dict[str, Any], deg: float) -> dict[str, Any]:
    """An edit of a picture as the bench shows it."""
    edit = {"do": "turn_by", "axis": "roll", "deg": deg}
    return {"based_on": bench["entry_id"], "edits": [edit]}


def test_what_one_server_is_told_the_other_one_knows(
    machines: Machines, pictures: list[int]
) -> None:
    one, other = machines.servers
    path = f"/api/pictures/{pictures[TURNED]}"
    bench = one.send("GET", path)[1]
    assert other.send("GET", path)[1] == bench
    status, _ = other.post(f"{path}/ledger", turned(bench, 1.0))
    assert status == 201
    after = one.send("GET", path)[1]
    assert after["entry_id"] != bench["entry_id"]
    assert one.post(f"{path}/ledger", turned(bench, 2.0))[0] == 409


def test_a_batch_outlives_a_worker_and_a_server_that_die_in_the_middle(
    machines: Machines, pictures: list[int]
) -> None:
    one, other = machines.servers
    places: dict[int, int] = {}
    for count in range(BATCH):
        server, place = (one, other)[count % 2], count % len(pictures)
        body = {"picture_ids": [pictures[place]], "format": "png"}
        status, said = server.post("/api/exports", body)
        assert status == 202, said
        places[said["exports"][0]["id"]] = place
    asked = sorted(places)

    def done() -> int:
        return sum(one.send("GET", f"/api/exports/{n}")[1]["state"] == "done" for n in asked)

    until(lambda: done() >= 5)
    machines.kill_worker(machines.workers[0])
    machines.start_worker()
    until(lambda: done() >= 15)
    # The server that hands out exports dies, too: the other one takes over.
    survivor, keeper = sorted(machines.servers, key=_keeps_house)
    keeper.process.kill()
    keeper.process.wait()

    def all_done() -> bool:
        states = [survivor.send("GET", f"/api/exports/{n}")[1]["state"] for n in asked]
        assert not {"failed", "cancelled"} & set(states)
        return states.count("done") == BATCH

    until(all_done)
    for number in asked:
        status, content = survivor.send("GET", f"/api/exports/{number}/file")
        assert status == 200
        made = Image.open(io.BytesIO(content))
        made.load()
        assert made.size == ((600, 400) if places[number] != TURNED else (584, 389))
    listed = survivor.send("GET", "/api/exports?limit=500")[1]["exports"]
    assert sorted(row["id"] for row in listed) == asked  # none twice, none lost
    folder = machines.folder / "var" / "exports"
    assert len(list(folder.iterdir())) == BATCH
    keeper.start()
    until(machines.ready)


def test_a_file_that_a_worker_made_is_levelled(machines: Machines, pictures: list[int]) -> None:
    one, other = machines.servers
    level = f"/api/pictures/{pictures[0]}"
    status, said = one.post(f"{level}/ledger", turned(one.send("GET", level)[1], -2.0))
    assert status == 201, said
    status, said = other.post("/api/exports", {"picture_ids": [pictures[0]], "format": "png"})
    assert status == 202, said
    number = said["exports"][0]["id"]
    until(lambda: one.send("GET", f"/api/exports/{number}")[1]["state"] == "done")
    _, content = one.send("GET", f"/api/exports/{number}/file")
    made = np.asarray(Image.open(io.BytesIO(content)).convert("RGB"))
    assert abs(measured_tilt_deg(made)) < 0.02


def test_an_export_is_called_off_by_whichever_server_is_asked(
    machines: Machines, pictures: list[int]
) -> None:
    one, other = machines.servers
    many = [one.post("/api/exports", {"picture_ids": pictures})[1]["exports"] for _ in range(3)]
    *others, last, last_but_one = [row["id"] for rows in many for row in rows]
    for server, number in ((one, last), (other, last_but_one)):
        assert server.post(f"/api/exports/{number}/cancel", {})[0] == 200
    for number in others:
        until(lambda n=number: one.send("GET", f"/api/exports/{n}")[1]["state"] == "done")
    for number in (last, last_but_one):
        assert other.send("GET", f"/api/exports/{number}")[1]["state"] == "cancelled"
        # The row says so at once; what a worker may have finished by then goes a moment later.
        until(lambda n=number: not list((machines.folder / "var" / "exports").glob(f"{n}.*")))


def test_people_are_known_to_both_and_hear_of_each_other(
    machines: Machines, pictures: list[int]
) -> None:
    one, other = machines.servers
    for name in ("Ida", "Bo"):
        subprocess.run(
            [sys.executable, "-m", "sequor.upkeep", "user", "add", name]
            + ["--role=owner", "--password-stdin"],
            env=one.environment,
            input=PASSWORD,
            text=True,
            check=True,
            capture_output=True,
            cwd=ROOT,
        )
    ida, bo = _signed_in(one, "Ida"), _signed_in(other, "Bo")
    assert _ask(other, "/api/me", ida)["person"]["name"] == "Ida"  # signed in at the other one
    heard: queue.Queue[str] = queue.Queue()
    listening = urllib.request.Request(
        f"{one.url}/api/events?picture_id={pictures[1]}&window=w1", headers=ida
    )

    def listen() -> None:
        with urllib.request.urlopen(listening, timeout=60) as stream:
            for line in stream:
                heard.put(line.decode())

    threading.Thread(target=listen, daemon=True).start()
    until(lambda: not heard.empty())
    bench = _ask(other, f"/api/pictures/{pictures[1]}", bo)
    _ask(other, f"/api/pictures/{pictures[1]}/ledger", bo, turned(bench, -2.25))
    said = [heard.get(timeout=30)]
    while "Bo" not in said[-1]:
        said.append(heard.get(timeout=30))
    assert "changed" in said[-2]


def test_tries_are_counted_together(machines: Machines) -> None:
    statuses = []
    for place in range(11):
        server = machines.servers[place % 2]
        statuses.append(_try(server, "Ida", f"wrong {place}"))
    assert statuses[:10] == [401] * 10
    assert statuses[10] == 429
    assert _try(machines.servers[0], "Ida", PASSWORD) == 429


def _keeps_house(server: Application) -> bool:
    return "this server keeps house" in server.log.read_text()


def _signed_in(server: Application, name: str) -> dict[str, str]:
    body = json.dumps({"name": name, "password": PASSWORD}).encode()
    asked = urllib.request.Request(
        f"{server.url}/api/sign-in", body, {"Content-Type": "application/json"}
    )
    with urllib.request.urlopen(asked, timeout=30) as answer:
        cookie = answer.headers["Set-Cookie"].split(";")[0]
        return {"Cookie": cookie, "X-CSRF-Token": json.load(answer)["csrf"]}


def _try(server: Application, name: str, password: str) -> int:
    body = json.dumps({"name": name, "password": password}).encode()
    return server.send("POST", "/api/sign-in", body)[0]


def _ask(server: Application, path: str, headers: dict[str, str], body: object = None) -> Any:
    sent = None if body is None else json.dumps(body).encode()
    asked = urllib.request.Request(
        f"{server.url}{path}", sent, {"Content-Type": "application/json", **headers}
    )
    with urllib.request.urlopen(asked, timeout=60) as answer:
        return json.load(answer)


def test_one_command_starts_workers_and_ends_them(tmp_path: Path) -> None:
    app = Application(tmp_path / "var", "--empty", "--workers", "2")
    port = free_port()
    app.environment["SEQUOR_REDIS_PORT"] = str(port)
    app.start()
    try:
        until(lambda: app.send("GET", "/api/health")[1].get("ready"))
        set_id = app.post("/api/sets", {"name": "Quay"})[1]["id"]
        content = as_png(horizon_picture(2.0, 600, 400))
        picture = app.upload(set_id, "quay.png", content)[1]["picture"]["id"]
        made = app.post("/api/exports", {"picture_ids": [picture]})[1]["exports"][0]["id"]
        until(lambda: app.send("GET", f"/api/exports/{made}")[1]["state"] == "done")
    finally:
        app.process.terminate()
        assert app.process.wait(90) == 0
    assert port_is_free(port)
    left = subprocess.run(["pgrep", "-f", str(tmp_path)], capture_output=True, text=True)
    assert left.stdout == ""
