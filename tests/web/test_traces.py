"""Traces from a request to the worker's kernel, as a collector of OpenTelemetry receives them."""

import gzip
import threading
from collections.abc import Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any

import pytest
from opentelemetry.proto.collector.trace.v1.trace_service_pb2 import ExportTraceServiceRequest
from sqlalchemy import Engine

from sequor.services.engine import engine_for
from sequor.settings import Settings
from sequor.web.app import create_app
from sequor.work import tracing
from tests.conftest import horizon_picture, know
from tests.pictures.test_reading_files import as_png
from tests.waiting import until
from tests.web.conftest import keep, send, turn


class Collector:
    """What receives traces (OTLP over HTTP, in protobuf)."""

    def __init__(self) -> None:
        self.spans: list[tuple[Any, int]] = []
        kept = self.spans

        class Handler(BaseHTTPRequestHandler):
            def do_POST(self) -> None:
                body = self.rfile.read(int(self.headers["Content-Length"]))
                if self.headers.get("Content-Encoding") == "gzip":
                    body = gzip.decompress(body)
                received = ExportTraceServiceRequest.FromString(body)
                for one in received.resource_spans:
                    about = {item.key: item.value for item in one.resource.attributes}
                    pid = about["process.pid"].int_value
                    kept.extend((span, pid) for scope in one.scope_spans for span in scope.spans)
                self.send_response(200)
                self.end_headers()

            def log_message(self, *_: object) -> None:
                pass

        self._server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        threading.Thread(target=self._server.serve_forever, daemon=True).start()

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self._server.server_port}"

    def named(self, name: str) -> list[tuple[Any, int]]:
        return [one for one in self.spans if one[0].name == name]

    def stop(self) -> None:
        self._server.shutdown()


@pytest.fixture
def collector() -> Iterator[Collector]:
    found = Collector()
    yield found
    tracing.send_to("")
    found.stop()


def test_a_view_is_one_trace_from_its_request_to_the_kernel(
    collector: Collector, empty_tables: Engine, settings: Settings
) -> None:
    settings = settings.model_copy(update={"traces": collector.url})
    engine = engine_for(settings)
    app = create_app(settings, engine, empty_tables)
    try:
        with app.test_client() as client:
            know(client, settings)
            set_id = client.post("/api/sets", json={"name": "Quay"}).json["id"]
            content = as_png(horizon_picture(2.0, 600, 400))
            picture = send(client, set_id, "quay.png", content).json["picture"]["id"]
            state = client.get(f"/api/pictures/{picture}").json
            state = keep(client, state, turn(-2.0)).json
            view = f"{state['addresses']['corrected']}/view.jpg"
            asked = "x=10&y=10&width=200&height=100&scale=1"
            theirs = "00-0af7651916cd43dd8448eb211c80319c-b7ad6b7169203331-01"
            answer = client.get(f"{view}?{asked}", headers={"traceparent": theirs})
            assert answer.status_code == 200
        until(lambda: collector.named("kernel") and collector.named("images.get_view"))
    finally:
        app.extensions["sequor"].exports.stop()
        engine.stop()
    ((request, server),) = collector.named("images.get_view")
    ((task, worker),) = collector.named("crisp_view")
    ((kernel, _),) = collector.named("kernel")
    assert request.trace_id.hex() == theirs.split("-")[1]  # a part of what asked
    assert {task.trace_id, kernel.trace_id} == {request.trace_id}
    assert (task.parent_span_id, kernel.parent_span_id) == (request.span_id, task.span_id)
    assert server != worker
    assert request.start_time_unix_nano < kernel.start_time_unix_nano
    assert kernel.end_time_unix_nano < request.end_time_unix_nano
    about = {item.key: item.value.string_value for item in task.attributes}
    assert about["lane"] == "preview"


def test_nothing_is_traced_or_loaded_unasked() -> None:
    assert tracing.mark() == ""
    with tracing.traced("something"):
        pass
    assert tracing._tracer("", 0) is None
