"""Traces from a request to what a worker does for it, on request (`SEQUOR_TRACES`): OpenTelemetry,
sent to a collector as OTLP over HTTP. Without it nothing is loaded and nothing is counted.

What is begun in one process and done in another is one trace: a task carries the mark of where it
was asked for (W3C Trace Context, `traceparent`), to whatever machine it goes.
"""

import os
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache
from typing import Any

_SEND_EVERY_MS = 500
_PARENT = "traceparent"
_collector = ""


def send_to(collector: str) -> None:
    """Name the collector for this process, such as ``http://127.0.0.1:4318``; empty for none.

    A worker is told it with the rest that it works with: its environment is that of the process it
    was forked off, which may be older.
    """
    global _collector
    _collector = collector


@contextmanager
def traced(name: str, parent: str = "", **facts: str | float) -> Iterator[None]:
    """Something that takes its time, as a part of what it is done for.

    Parameters
    ----------
    parent : str
        The mark of a task that was asked for elsewhere; else it is a part of what is being done
        here.
    """
    tracer = _tracer(_collector, os.getpid())
    if tracer is None:
        yield
        return
    from opentelemetry.propagate import extract

    context = extract({_PARENT: parent}) if parent else None
    with tracer.start_as_current_span(name, context=context, attributes=facts):
        yield


def mark() -> str:
    """The mark of what is being done here; empty where nothing is traced."""
    if not _collector:
        return ""
    from opentelemetry.propagate import inject

    carrier: dict[str, str] = {}
    inject(carrier)
    return carrier.get(_PARENT, "")


@lru_cache(maxsize=1)
def _tracer(collector: str, pid: int) -> Any:
    """What traces in this process, which may have been forked; None where nothing does."""
    if not collector:
        return None
    from opentelemetry.exporter.otlp.proto.http.trace_exporter import OTLPSpanExporter
    from opentelemetry.sdk.resources import Resource
    from opentelemetry.sdk.trace import TracerProvider
    from opentelemetry.sdk.trace.export import BatchSpanProcessor

    provider = TracerProvider(
        resource=Resource.create({"service.name": "sequor", "process.pid": pid})
    )
    exporter = OTLPSpanExporter(f"{collector.rstrip('/')}/v1/traces")
    provider.add_span_processor(BatchSpanProcessor(exporter, schedule_delay_millis=_SEND_EVERY_MS))
    return provider.get_tracer("sequor")
