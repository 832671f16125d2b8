"""The depot that machines share, in a folder and in a store that speaks S3 (moto's stand-in)."""

import hashlib
import os
import pickle
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import boto3
import pytest
from moto.server import ThreadedMotoServer

from sequor.making.freight import DamagedInDepot, FetchingStore, FetchingWorkshop, SentFreight
from sequor.making.worker_cache import OriginalLost, TaskResources, check_original
from sequor.store.depot import Depot, NotThere, WrongContent
from sequor.store.files import FileStore, content_hash
from sequor.store.mariadb import free_port
from sequor.work.engine import Lane, Task, Unreachable, WorkerDied
from sequor.work.far.freight import WorkOutcome
from tests.work import tasks

CONTENT = bytes(range(256)) * 400
SHA256 = hashlib.sha256(CONTENT).hexdigest()
BUCKET = "pictures"


@pytest.fixture(scope="module")
def s3() -> Iterator[Any]:
    """A client of the store, which is there for s3fs by the variables that AWS's libraries read."""
    server = ThreadedMotoServer(port=free_port(), verbose=False)
    server.start()
    host, port = server.get_host_and_port()
    given = {
        "AWS_ACCESS_KEY_ID": "someone",
        "AWS_SECRET_ACCESS_KEY": "something",
        "AWS_DEFAULT_REGION": "us-east-1",
        "AWS_ENDPOINT_URL": f"http://{host}:{port}",
    }
    before = {name: os.environ.get(name) for name in given}
    os.environ.update(given)
    client = boto3.client("s3")
    client.create_bucket(Bucket=BUCKET)
    yield client
    server.stop()
    for name, value in before.items():
        os.environ.pop(name) if value is None else os.environ.update({name: value})


@pytest.fixture(params=["folder", "s3"])
def depot(request: pytest.FixtureRequest, tmp_path: Path) -> Depot:
    if request.param == "folder":
        return Depot(f"file://{tmp_path}/depot")
    request.getfixturevalue("s3")
    return Depot(f"s3://{BUCKET}/{tmp_path.name}")


@pytest.fixture
def damage(depot: Depot, tmp_path: Path, request: pytest.FixtureRequest) -> Callable[[str], None]:
    """What changes a file of the depot behind its back."""

    def change(name: str) -> None:
        if depot.address.startswith("file"):
            path = tmp_path / "depot" / name
            path.chmod(0o600)
            path.write_bytes(CONTENT[:-1] + b"?")
        else:
            key = f"{tmp_path.name}/{name}"
            request.getfixturevalue("s3").put_object(Bucket=BUCKET, Key=key, Body=b"?")

    return change


@pytest.fixture
def picture(tmp_path: Path) -> Path:
    path = tmp_path / "picture"
    path.write_bytes(CONTENT)
    return path


def test_an_original_is_there_whole_or_not_at_all(
    depot: Depot, picture: Path, tmp_path: Path, damage: Callable[[str], None]
) -> None:
    target = tmp_path / "fetched" / "picture"
    assert depot.has_original(SHA256) is False
    with pytest.raises(NotThere):
        depot.fetch_original(SHA256, target)
    depot.put_original(picture, SHA256)
    assert depot.has_original(SHA256) is True
    sent: Depot = pickle.loads(pickle.dumps(depot))  # as to a worker's process
    sent.fetch_original(SHA256, target)
    assert target.read_bytes() == CONTENT
    target.unlink()
    damage(f"originals/{SHA256[:2]}/{SHA256}")
    with pytest.raises(WrongContent):
        depot.fetch_original(SHA256, target)
    assert list(target.parent.iterdir()) == []


def test_what_was_made_is_checked_and_cleaned_away(
    depot: Depot, picture: Path, tmp_path: Path, damage: Callable[[str], None]
) -> None:
    sha256 = depot.put_made(picture)
    assert sha256 == SHA256 == depot.put_made(picture)  # twice is once
    depot.fetch_made(sha256, tmp_path / "made")
    assert (tmp_path / "made").read_bytes() == CONTENT
    depot.put_original(picture, SHA256)
    assert depot.clean([SHA256], older_than_s=3600) == 0
    assert depot.clean([SHA256], older_than_s=-3600) == 1
    assert depot.has_original(SHA256)
    with pytest.raises(NotThere):
        depot.fetch_made(sha256, tmp_path / "made")
    assert depot.clean([], older_than_s=-3600) == 1
    assert not depot.has_original(SHA256)
    damage_of = depot.put_made(picture)
    damage(f"made/{damage_of[:2]}/{damage_of}")
    with pytest.raises(WrongContent):
        depot.fetch_made(damage_of, tmp_path / "other")


def test_a_store_that_is_away_is_an_error_of_the_outside(picture: Path, s3: Any) -> None:
    os.environ["AWS_ENDPOINT_URL"], before = "http://127.0.0.1:9", os.environ["AWS_ENDPOINT_URL"]
    os.environ["AWS_MAX_ATTEMPTS"] = "1"
    try:
        with pytest.raises(OSError):
            Depot(f"s3://{BUCKET}/away").put_original(picture, SHA256)
    finally:
        os.environ["AWS_ENDPOINT_URL"] = before
        del os.environ["AWS_MAX_ATTEMPTS"]


@pytest.fixture
def server(tmp_path: Path, picture: Path) -> FileStore:
    """The server's data folder, with an original."""
    files = FileStore(tmp_path / "server")
    files.store_original(picture, SHA256)
    return files


@pytest.fixture
def task(server: FileStore) -> Task:
    resources = TaskResources(server, 300.0)
    return Task(
        *(tasks.pid, (resources, "more"), Lane.EXPORT),
        originals=(SHA256,),
        makes=("exports/7.jpg",),
    )


def test_a_task_goes_with_its_original_and_comes_back_with_its_file(
    depot: Depot, server: FileStore, task: Task, tmp_path: Path
) -> None:
    freight = SentFreight(server, depot)
    worker = FetchingStore(tmp_path / "worker", 0.0, depot)
    shop = FetchingWorkshop(worker, depot, 100.0)
    sent = freight.send(task)
    pickle.dumps(sent)
    unpacked = shop.unpack(sent)
    resources, more = unpacked.arguments
    assert isinstance(resources, TaskResources)
    assert (resources.files, resources.max_megapixels, more) == (worker, 300.0, "more")
    check_original(resources.files.original(SHA256), SHA256)
    assert not server.original(SHA256).samefile(worker.original(SHA256))
    worker.export(7, ".jpg").write_bytes(b"a file")
    left = shop.leave(unpacked)
    assert not worker.export(7, ".jpg").exists()  # nothing of it stays with the worker
    outcome = WorkOutcome("value", None, left)
    assert freight.receive(task, outcome) == outcome
    assert server.export(7, ".jpg").read_bytes() == b"a file"


def test_a_worker_that_lies_about_its_result_is_not_believed(
    depot: Depot, server: FileStore, task: Task, tmp_path: Path, damage: Callable[[str], None]
) -> None:
    freight, made = SentFreight(server, depot), tmp_path / "made"
    made.write_bytes(b"a file")
    sha256 = depot.put_made(made)
    damage(f"made/{sha256[:2]}/{sha256}")  # it says one thing and leaves another
    for files in ({"exports/7.jpg": sha256}, {"exports/7.jpg": "0" * 64}, {"exports/8.jpg": "1"}):
        with pytest.raises(WorkerDied):
            freight.receive(task, WorkOutcome("value", None, files))
        assert not server.export(7, ".jpg").exists()
        assert not server.export(8, ".jpg").exists()


def test_an_original_that_is_damaged_in_the_depot_is_put_there_again(
    depot: Depot, server: FileStore, task: Task, tmp_path: Path, damage: Callable[[str], None]
) -> None:
    freight = SentFreight(server, depot)
    freight.send(task)
    damage(f"originals/{SHA256[:2]}/{SHA256}")
    worker = FetchingStore(tmp_path / "worker", 0.0, depot)
    with pytest.raises(DamagedInDepot) as found:
        worker.original(SHA256)
    problem = pickle.loads(pickle.dumps(found.value))
    with pytest.raises(Unreachable):  # it is done once more
        freight.receive(task, WorkOutcome(None, problem, {}))
    assert content_hash(worker.original(SHA256)) == SHA256


def test_an_original_is_lost_only_where_the_server_has_lost_it(
    depot: Depot, server: FileStore, task: Task
) -> None:
    freight = SentFreight(server, depot)
    said = WorkOutcome(None, OriginalLost(SHA256, "is gone from the data folder"), {})
    with pytest.raises(Unreachable):  # a worker with another depot, say
        freight.receive(task, said)
    server.original(SHA256).chmod(0o600)
    server.original(SHA256).write_bytes(b"changed")
    with pytest.raises(OriginalLost, match="changed on the disk"):
        freight.receive(task, said)
    server.original(SHA256).unlink()
    freight.send(replace(task, originals=("f" * 64,)))  # what is gone is the worker's to say


def test_the_data_folder_may_be_the_depot(server: FileStore, task: Task, tmp_path: Path) -> None:
    depot = Depot(f"file://{server.root}")
    before = server.original(SHA256).stat().st_ino
    SentFreight(server, depot).send(task)
    assert server.original(SHA256).stat().st_ino == before  # nothing was copied
    assert depot.is_original_itself(server.original(SHA256), SHA256)
    worker = FetchingStore(tmp_path / "worker", 0.0, depot)
    assert content_hash(worker.original(SHA256)) == SHA256


def test_a_worker_keeps_originals_within_its_budget(
    depot: Depot, server: FileStore, task: Task, tmp_path: Path
) -> None:
    SentFreight(server, depot).send(task)
    worker = FetchingStore(tmp_path / "worker", 0.0, depot)
    sent = replace(task, arguments=(300.0,))
    for place in range(4):
        old = worker.root / "originals" / f"old-{place}"
        old.write_bytes(CONTENT)
        os.utime(old, (time.time() - 1000 + place,) * 2)
    used = worker.original(SHA256)
    most_mb = 2.5 * len(CONTENT) / 2**20
    FetchingWorkshop(worker, depot, most_mb).unpack(sent)
    assert used.exists()  # looked at last
    assert sorted(path.name for path in (worker.root / "originals").glob("old-*")) == ["old-3"]
