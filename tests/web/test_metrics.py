"""What is measured while Sequor runs, read as Prometheus reads it; lines of JSON in the log."""

import json
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime

import pytest
from flask.testing import FlaskClient
from prometheus_client.parser import text_string_to_metric_families
from prometheus_client.samples import Sample

from sequor.store.failures import DatabaseAway
from tests.conftest import ROOT
from tests.web.conftest import draft, finished, keep, level_line, turn


def measured(client: FlaskClient) -> dict[str, list[Sample]]:
    """Every sample by its name, by the parser that Prometheus's own client brings."""
    answer = client.get("/api/metrics")
    assert answer.status_code == 200
    assert answer.content_type == "text/plain; version=0.0.4; charset=utf-8"
    found: dict[str, list[Sample]] = {}
    for family in text_string_to_metric_families(answer.text):
        assert family.documentation, family.name
        for sample in family.samples:
            found.setdefault(sample.name, []).append(sample)
    return found


def value(samples: list[Sample], **labels: str) -> float:
    """The sum of the samples that have these labels."""
    return sum(s.value for s in samples if labels.items() <= s.labels.items())


def test_requests_are_counted_and_the_hand_is_timed(
    browserless: FlaskClient, picture: dict
) -> None:
    before = measured(browserless)
    for deg in range(1, 21):
        assert draft(browserless, picture, turn(deg / 10)).status_code == 200
    assert draft(browserless, picture, {"do": "nothing"}).status_code == 422
    browserless.get("/api/pictures/999999")
    now = measured(browserless)
    hand = {"endpoint": "bench.draft_edits"}
    counted, was = (m["sequor_request_seconds_count"] for m in (now, before))
    assert value(counted, **hand, status="200") - value(was, **hand, status="200") == 20
    assert value(counted, **hand, status="422") - value(was, **hand, status="422") == 1
    assert value(counted, status="404") > value(was, status="404")
    (p95,) = now["sequor_hand_p95_seconds"]
    assert 0 < p95.value < 60
    # Of a histogram's buckets each holds those before it.
    buckets = [
        s.value
        for s in now["sequor_request_seconds_bucket"]
        if s.labels["endpoint"] == "bench.draft_edits" and s.labels["status"] == "200"
    ]
    assert buckets == sorted(buckets)
    assert buckets[-1] == value(counted, **hand, status="200")


def test_work_is_counted_by_lane_and_outcome(browserless: FlaskClient, picture: dict) -> None:
    before = measured(browserless)
    address = f"/api/pictures/{picture['id']}/exports"
    export = browserless.post(address, json={"format": "png"}).json
    assert finished(browserless, export)["state"] == "done"
    now = measured(browserless)
    done = {"lane": "export", "outcome": "done"}
    counted = "sequor_task_run_seconds_count"
    assert value(now[counted], **done) == value(before.get(counted, []), **done) + 1
    assert value(now["sequor_task_run_seconds_sum"], **done) > 0
    assert value(now["sequor_exports"], stage="done") == (
        value(before["sequor_exports"], stage="done") + 1
    )
    for name in ("waiting", "running", "oldest_seconds"):
        lanes = {s.labels["lane"] for s in now[f"sequor_tasks_{name}"]}
        assert lanes == {"hand", "preview", "export", "background"}
    # A worker has Python and NumPy in it at least.
    assert value(now["sequor_workers_resident_bytes"]) > 20 * 2**20
    assert value(now["process_resident_memory_bytes"]) > 20 * 2**20


def test_what_is_stored_is_counted(browserless: FlaskClient, picture: dict, set_id: int) -> None:
    def of(name: str) -> float:
        return value(measured(browserless)[f"sequor_{name}"])

    assert of("database_up") == of("disk_takes_files") == 1
    assert of("disk_free_bytes") > 2**20
    pictures, unread = of("pictures"), of("pictures_unread")
    assert pictures >= unread >= 0
    # What somebody has worked on is not read any more.
    assert keep(browserless, picture, level_line()).status_code == 201
    assert of("pictures_unread") in (unread, unread - 1)
    binned = browserless.post("/api/pictures/bin", json={"picture_ids": [picture["id"]]})
    assert binned.status_code == 200
    assert of("pictures") == pictures - 1


def test_without_its_database_it_is_measured_all_the_same(
    browserless: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    database = browserless.application.extensions["sequor"].resources.database

    @contextmanager
    def away() -> Iterator[None]:
        raise DatabaseAway("away")
        yield

    monkeypatch.setattr(database, "reading", away)
    found = measured(browserless)
    assert value(found["sequor_database_up"]) == 0
    assert "sequor_pictures" not in found
    assert found["sequor_tasks_waiting"]


def test_strangers_are_told_nothing(browserless: FlaskClient) -> None:
    stranger = browserless.application.test_client()
    answer = stranger.get("/api/metrics", base_url="http://127.0.0.1")
    assert answer.status_code == 403
    assert "sequor_" not in answer.text


def test_the_log_in_lines_of_json() -> None:
    program = """
import logging
from sequor.settings import Settings
from sequor.starting import set_up_log
set_up_log(Settings(log_format="json"))
words = 'line "one"\\nline two'
logging.getLogger("sequor.web.guard").info("a %s", words, extra={"status": 200})
try:
    1 / 0
except ZeroDivisionError:
    logging.getLogger("x").exception("divided")
"""
    run = subprocess.run(
        [sys.executable, "-c", program], cwd=ROOT, capture_output=True, text=True, check=True
    )
    first, second = (json.loads(line) for line in run.stderr.splitlines())
    assert first | {"time": ""} == {
        "time": "",
        "level": "INFO",
        "logger": "sequor.web.guard",
        "message": 'a line "one"\nline two',
        "status": 200,
    }
    assert datetime.fromisoformat(first["time"]).tzinfo is not None
    assert second["level"] == "ERROR"
    assert "ZeroDivisionError" in second["exc_info"]
