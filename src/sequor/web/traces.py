"""Requests as the beginnings of traces, on request (`work.tracing`)."""

from flask import Flask, g, request

from sequor.work.tracing import send_to, traced


def register(app: Flask, collector: str) -> None:
    """Trace every request, by the function that answers it; as a part of what asked, if it says."""
    send_to(collector)

    @app.before_request
    def begin() -> None:
        g.trace = traced(request.endpoint or "none", request.headers.get("traceparent", "")[:100])
        g.trace.__enter__()

    @app.teardown_request
    def end(_: BaseException | None) -> None:
        trace = g.pop("trace", None)
        if trace is not None:
            trace.__exit__(None, None, None)
