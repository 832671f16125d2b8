"""Several servers of one installation: who keeps house, what they tell each other, who holds what;
and that a server alone needs none of it.
"""

import os
import queue
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from redis import RedisError

from sequor.services.by_redis import ServersByRedis
from sequor.services.events import Hub, News, Subject
from sequor.services.housekeeping import clean_depot
from sequor.services.servers import ServersAway
from sequor.settings import Settings
from tests.conftest import ROOT
from tests.redis_server import RedisServer, redis_server
from tests.waiting import until
from tests.web.people import resources_of

Join = Callable[[], ServersByRedis]


@pytest.fixture
def redis(tmp_path: Path) -> Iterator[RedisServer]:
    (tmp_path / "redis").mkdir()
    with redis_server(tmp_path / "redis") as found:
        yield found


@pytest.fixture
def join(redis: RedisServer) -> Iterator[Join]:
    """What lets another server join."""
    joined = []

    def one() -> ServersByRedis:
        joined.append(ServersByRedis(redis.url))
        return joined[-1]

    yield one
    for each in joined:
        each.stop()


def test_one_keeps_house_until_it_leaves(join: Join) -> None:
    first, second = join(), join()
    first.start()
    assert first.wait_for_house(10)
    second.start()
    assert not second.wait_for_house(1.5)
    first.stop()
    assert second.wait_for_house(10)
    assert second.keeps_house


def test_one_that_was_away_for_too_long_steps_back(redis: RedisServer, join: Join) -> None:
    first = join()
    first.start()
    assert first.wait_for_house(10)
    redis.client.set("sequor:keeper", "another one that took over")
    until(lambda: first.deposed)
    assert not first.keeps_house


def test_what_is_told_is_heard_by_the_others(join: Join) -> None:
    first, second = join(), join()
    heard: queue.Queue[tuple[str, object]] = queue.Queue()
    for name, server in (("first", first), ("second", second)):
        server.on("came_in", lambda message, name=name: heard.put((name, message)))
        server.start()

    def told() -> bool:  # until both listen
        first.tell("came_in", {"n": 1})
        return not heard.empty()

    until(told)
    assert heard.get() == ("second", {"n": 1})
    second.tell("came_in", {"n": 2})
    until(lambda: any(one == ("first", {"n": 2}) for one in list(heard.queue)))


def test_only_one_holds_what_holds(redis: RedisServer, join: Join) -> None:
    first, second = join(), join()
    order: list[str] = []

    def other() -> None:
        with second.emptying:
            order.append("second")

    with first.emptying:
        thread = threading.Thread(target=other)
        thread.start()
        thread.join(0.5)
        assert thread.is_alive()
        order.append("first")
    thread.join(10)
    assert order == ["first", "second"]
    redis.kill()
    with pytest.raises(ServersAway), first.emptying:
        order.append("nobody knows")
    assert order == ["first", "second"]
    redis.start()
    with first.emptying:
        order.append("first again")


def test_what_was_got_without_hearing_of_it_is_no_lock_for_oneself(
    redis: RedisServer, join: Join
) -> None:
    first = join()
    renew = first._renew

    def unheard(keys: list[str], given: tuple[object, ...]) -> None:
        renew(keys, given)
        raise RedisError("the answer was lost")

    first._renew = unheard
    with pytest.raises(ServersAway), first.emptying:
        pytest.fail("it was not told that it has it")
    assert redis.client.exists("sequor:emptying")
    first._renew = renew
    began = time.monotonic()
    with first.emptying:
        assert time.monotonic() - began < 5.0  # another server would wait until the lock ends
    assert not redis.client.exists("sequor:emptying")


def test_who_looks_at_a_picture_is_seen_by_the_other_server(join: Join) -> None:
    servers = join(), join()
    one, other = (Hub(server) for server in servers)
    for server in servers:
        server.start()
    picture = Subject("picture", 7)
    ida = one.listen(picture, "Ida", "w1")

    def seen(who: tuple[str, ...]) -> bool:
        one.say_who_is_here(picture)
        other.say_who_is_here(picture)
        news = [ida.next(5)]
        while not ida.waiting.empty():
            news.append(ida.next(5))
        return news[-1] == News("present", who)

    bo = other.listen(picture, "Bo", "w2")
    until(lambda: seen(("Bo",)))
    other.leave(bo)
    until(lambda: seen(()))
    other.tell_of_change([picture], "Bo", "w2")
    assert ida.next(10) == News("changed", ("Bo",))


@pytest.mark.parametrize("said", [True, False])
def test_no_original_goes_where_the_data_folder_is_the_depot(
    browserless: FlaskClient, settings: Settings, said: bool
) -> None:
    """However the data folder is named as the depot; what was made and fetched goes."""
    own = resources_of(browserless)
    address = f"file://{settings.data}/../{settings.data.name}" if said else ""
    changed = settings.model_copy(update={"engine": "celery", "depot": address})
    object.__setattr__(own, "settings", changed)
    original = own.files.original("a" * 64)
    made = settings.data / "made" / "bb" / ("b" * 64)
    for path in (original, made):
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"of a row that is gone")
        os.utime(path, (time.time() - 10 * 86_400,) * 2)
    clean_depot(own)
    assert original.exists()
    assert not made.exists()


def test_a_server_alone_needs_nothing_of_it(tmp_path: Path) -> None:
    """It serves, and its workers work, where none of what several machines need is installed."""
    script = """
import sys
for name in ("redis", "celery", "kombu", "fsspec", "s3fs", "opentelemetry"):
    sys.modules[name] = None
from sequor import serve, supervise
from sequor.making import preload
from sequor.services.engine import engine_for
from sequor.settings import Settings
from sequor.store.database import connect
from sequor.web.app import create_app
from sequor.work.engine import Lane, Task
import tests.work.tasks as tasks
settings = Settings(data=sys.argv[1])
engine = engine_for(settings)
create_app(settings, engine, connect("mysql+pymysql://nobody@127.0.0.1:9/none"))
print(engine.submit(Task(tasks.pid, (), Lane.HAND)).result(120) > 0)
engine.stop()
"""
    command = [sys.executable, "-c", script, str(tmp_path / "var")]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True)
    assert done.stdout.strip() == "True", done.stderr
