"""What a stop interrupted goes on even when a worker dies during the start."""

from types import SimpleNamespace

import pytest

from sequor import serve
from sequor.services.servers import OneServer


class Over(BaseException):
    """Ends the endless reading of originals."""


def test_exports_are_begun_again_after_a_start_that_failed(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    done: list[str] = []

    def start() -> None:
        done.append("start")
        if done.count("start") == 1:
            raise RuntimeError("the process that workers are forked off was killed")

    slept: list[float] = []

    def sleep(seconds: float) -> None:
        slept.append(seconds)
        if seconds > 2 or len(slept) > 5:
            raise Over

    context = SimpleNamespace(
        resources=SimpleNamespace(engine=SimpleNamespace(start=start), servers=OneServer()),
        trends=SimpleNamespace(start=lambda: done.append("look")),
        exports=SimpleNamespace(start=lambda: done.append("resume")),
        reader=SimpleNamespace(start=lambda: done.append("read")),
        references=SimpleNamespace(start=lambda: done.append("watch")),
    )
    monkeypatch.setattr(serve, "compiled_before", lambda: True)
    monkeypatch.setattr(serve, "tidy_regularly", lambda resources: done.append("tidy"))
    monkeypatch.setattr(serve, "clean_depot", lambda resources: done.append("depot"))
    monkeypatch.setattr(serve, "verify", lambda resources: done.append("verify"))
    monkeypatch.setattr(serve, "time", SimpleNamespace(sleep=sleep))
    with pytest.raises(Over):
        serve._work(context, None)  # type: ignore[arg-type]
    assert done == ["look", "start", "start", "resume", "read", "watch", "tidy", "depot", "verify"]
