"""What is measured while Sequor runs, in the text format of Prometheus.

Counted as it happens: requests, and tasks of heavy work. Looked up when it is asked for: what
waits, memory, the disk, the database and what is stored in it.
"""

import time
from collections.abc import Callable, Iterator

from flask import Flask, Response, current_app, g, request
from flask_openapi3 import Tag
from prometheus_client import CollectorRegistry, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.exposition import CONTENT_TYPE_PLAIN_0_0_4
from prometheus_client.process_collector import ProcessCollector
from prometheus_client.registry import Collector

from sequor.services.measures import counted
from sequor.services.trends import LAST_DRAFTS
from sequor.store.failures import DatabaseAway
from sequor.store.models import ENDED
from sequor.web.common_bodies import Responses
from sequor.web.context import Context
from sequor.web.documented import Room
from sequor.web.health import database_up
from sequor.work.engine import Ended

_TEXT: Responses = {200: {"content": {"text/plain": {}}}}
_MB = 2**20
_BUCKETS = (0.005, 0.01, 0.02, 0.04, 0.06, 0.08, 0.12, 0.25, 0.5, 1.0, 2.5, 5.0, 15.0, 60.0)
"""Seconds; 0.04 and 0.08 are what a turn in the hand may take on a calm and on a busy machine."""
_HAND = "bench.draft_edits"
"""The address that answers while a hand turns the picture."""
_STAGES = ("queued", *ENDED)

api = Room("metrics", __name__, url_prefix="/api", abp_tags=[Tag(name="health")])


@api.get("/metrics", responses=_TEXT, operation_id="getMetrics")
def metrics() -> Response:
    """What is measured, for Prometheus."""
    registry: CollectorRegistry = current_app.extensions["sequor-metrics"]
    response = current_app.response_class(
        generate_latest(registry), content_type=CONTENT_TYPE_PLAIN_0_0_4
    )
    response.headers["Cache-Control"] = "no-store"
    return response


def register(app: Flask, here: Context) -> None:
    """Begin to measure."""
    registry = CollectorRegistry()
    requests = Histogram(
        "sequor_request_seconds",
        "How long requests took, by the function that answered and its status.",
        ["endpoint", "status"],
        buckets=_BUCKETS,
        registry=registry,
    )
    ProcessCollector(registry=registry)
    registry.register(_Now(here))
    here.resources.engine.tell(_counter_of_tasks(registry))
    app.extensions["sequor-metrics"] = registry

    @app.after_request
    def finish(response: Response) -> Response:
        took_s = time.perf_counter() - g.get("started", time.perf_counter())
        requests.labels(request.endpoint or "none", str(response.status_code)).observe(took_s)
        if request.endpoint == _HAND:
            here.trends.note_draft(took_s)
        return response


def _counter_of_tasks(registry: CollectorRegistry) -> Callable[[Ended], None]:
    ran, waited = (
        Histogram(
            f"sequor_task_{what}_seconds",
            f"How long pieces of heavy work {how}, by lane, function and outcome.",
            ["lane", "task", "outcome"],
            buckets=_BUCKETS,
            registry=registry,
        )
        for what, how in (("run", "took"), ("wait", "waited before"))
    )

    def ended(one: Ended) -> None:
        labels = one.task.lane.name.lower(), one.task.function.__name__, one.outcome
        ran.labels(*labels).observe(one.ran_s)
        waited.labels(*labels).observe(one.waited_s)

    return ended


class _Now(Collector):
    """What is so at the moment."""

    def __init__(self, here: Context) -> None:
        self._here = here

    def collect(self) -> Iterator[Metric]:
        """Look it up."""
        hand = self._here.trends.hand_p95_s()
        if hand is not None:
            yield _gauge("hand_p95_seconds", f"95 % of the last {LAST_DRAFTS} drafts took.", hand)
        yield from self._work()
        space = self._here.resources.files.space
        yield _gauge("disk_free_bytes", "What may still be written.", space.free_mb * _MB)
        yield _gauge("disk_takes_files", "Whether files are taken in.", space.takes_files)
        up, _ = database_up(self._here)
        if up:
            try:
                yield from self._stored()
            except DatabaseAway:
                up = False
        yield _gauge("database_up", "Whether the database answers.", up)

    def _work(self) -> Iterator[Metric]:
        load = self._here.resources.engine.load()
        families = [
            GaugeMetricFamily(f"sequor_tasks_{name}", said, labels=["lane"])
            for name, said in (
                ("waiting", "Pieces of heavy work that wait, by lane."),
                ("running", "Pieces of heavy work that run, by lane."),
                ("oldest_seconds", "How long what waits longest has waited, by lane."),
            )
        ]
        for lane, one in load.lanes.items():
            values = (one.waiting, one.running, one.oldest_s)
            for family, value in zip(families, values, strict=True):
                family.add_metric([lane.name.lower()], value)
        yield from families
        yield _gauge("workers_resident_bytes", "Memory of all workers.", load.resident_mb * _MB)
        yield _gauge("work_memory_bytes", "What running work said it needs.", load.memory_mb * _MB)
        yield _gauge("work_budget_bytes", "What it may need together.", load.budget_mb * _MB)

    def _stored(self) -> Iterator[Metric]:
        found = counted(self._here.resources)
        yield _gauge("pictures", "Pictures outside the bin, versions among them.", found.pictures)
        yield _gauge("pictures_unread", "Those that Sequor has not read yet.", found.unread)
        exports = GaugeMetricFamily("sequor_exports", "Exports, by stage.", labels=["stage"])
        for stage in _STAGES:
            exports.add_metric([stage], found.exports.get(stage, 0))
        yield exports


def _gauge(name: str, said: str, value: float) -> Metric:
    return GaugeMetricFamily(f"sequor_{name}", said, value=float(value))
