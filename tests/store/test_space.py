"""The reserve of the disk, the ballast, and files that lie on it safely."""

import errno
import io
import os
import shutil
from collections import namedtuple
from pathlib import Path

import pytest

from sequor.store.failures import DiskFull
from sequor.store.files import FileStore, content_hash
from sequor.store.space import MB, Ballast, Space

Usage = namedtuple("Usage", "total used free")


@pytest.fixture
def disk(monkeypatch: pytest.MonkeyPatch) -> dict[str, float]:
    """A disk whose free space the test says."""
    state = {"free_mb": 1000.0}
    monkeypatch.setattr(shutil, "disk_usage", lambda _: Usage(0, 0, int(state["free_mb"] * MB)))
    return state


def test_files_leave_the_reserve_and_entries_a_part_of_it(
    tmp_path: Path, disk: dict[str, float]
) -> None:
    here = Space(tmp_path, 200)
    here.require_for_files(799 * MB)
    with pytest.raises(DiskFull, match=r"1,000 MB free, nothing was changed"):
        here.require_for_files(801 * MB)
    disk["free_mb"] = 100
    assert not here.takes_files
    here.require_for_entries()
    disk["free_mb"] = 24
    with pytest.raises(DiskFull, match="24 MB free"):
        here.require_for_entries()


def test_the_ballast_is_given_up_and_taken_back(tmp_path: Path, disk: dict[str, float]) -> None:
    held = tmp_path / "ballast"
    here = Space(tmp_path, 160, held)
    ballast = Ballast(held, here)
    ballast.watch()
    assert held.stat().st_blocks * 512 >= 48 * MB  # real space, not a hole
    disk["free_mb"] = 9  # others fill the disk
    ballast.watch()
    assert not held.exists()
    # What it freed is the database's own: nothing new is taken in because of it.
    disk["free_mb"] = 9 + 48
    assert here.free_mb == 9
    with pytest.raises(DiskFull, match="9 MB free"):
        here.require_for_entries()
    disk["free_mb"] = 200  # not enough yet
    ballast.watch()
    assert not held.exists()
    disk["free_mb"] = 300
    ballast.watch()
    assert held.exists()


def test_a_file_that_does_not_fit_leaves_nothing(tmp_path: Path, disk: dict[str, float]) -> None:
    store = FileStore(tmp_path, 100)
    disk["free_mb"] = 99
    with pytest.raises(DiskFull), store.incoming(io.BytesIO(b"x")):
        pass
    assert not list((tmp_path / "incoming").iterdir())


def test_a_disk_that_fills_up_while_a_file_comes_in(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    class Stream(io.BytesIO):
        def read(self, size: int | None = -1) -> bytes:
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    store = FileStore(tmp_path)
    said = r"No space left on device.* Nothing was kept"
    with pytest.raises(DiskFull, match=said), store.incoming(Stream()):
        pass
    assert not list((tmp_path / "incoming").iterdir())


def test_a_file_is_on_the_disk_before_it_has_its_name(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    done: list[str] = []
    plain_sync, plain_replace = os.fsync, os.replace

    def sync(handle: int) -> None:
        done.append("sync " + Path(os.readlink(f"/proc/self/fd/{handle}")).parent.name)
        plain_sync(handle)

    def replace(*paths: object) -> None:
        done.append("name")
        plain_replace(*paths)

    monkeypatch.setattr(os, "fsync", sync)
    monkeypatch.setattr(os, "replace", replace)
    store = FileStore(tmp_path)
    with store.incoming(io.BytesIO(b"content")) as (received, sha256):
        store.store_original(received, sha256)
    assert done[0] == "sync incoming"
    assert done.index("name") == 1
    assert done[2:] == ["sync originals", f"sync {tmp_path.name}"]  # the folders that name it


def test_what_is_half_written_goes_and_what_no_row_names_is_set_aside(tmp_path: Path) -> None:
    store = FileStore(tmp_path)
    named, unnamed, old = store.original("aa" * 32), store.original("cc" * 32), "dd" * 32
    for path in (named, unnamed, store.original(old)):
        path.parent.mkdir()
        path.write_bytes(b"somebody's picture")
    os.utime(store.original(old), (1, 1))
    half = [
        tmp_path / "incoming" / "x",
        tmp_path / "temporary" / "y",
        tmp_path / "exports" / ".partial-3-abc.jpg",
        store.proxy("bb" * 32),
    ]
    kept = [tmp_path / "exports" / "4.jpg", store.proxy("aa" * 32), named]
    for path in (*half, *kept[:2], tmp_path / "exports" / "3.jpg"):
        path.write_bytes(b"x")
    assert store.clean(["aa" * 32], [4]) == (len(half), 3, 0)
    assert not any(path.exists() for path in half)
    assert all(path.exists() for path in kept)
    aside = {one.name: one.size for one in store.aside()}
    assert aside == {"cc" * 32: 18, old: 18, "export-3.jpg": 1}
    assert store.clean(["aa" * 32], [4]) == (0, 0, 0)


def test_an_original_that_a_row_names_again_comes_back(tmp_path: Path) -> None:
    store = FileStore(tmp_path)
    path = store.original("cc" * 32)
    path.parent.mkdir()
    path.write_bytes(b"somebody's picture")
    assert store.clean([], []).set_aside == 1
    assert store.clean(["cc" * 32], []).given_back == 1
    assert path.read_bytes() == b"somebody's picture"
    assert store.aside() == []


def test_nobody_else_may_read(tmp_path: Path) -> None:
    store = FileStore(tmp_path / "var")
    assert store.root.stat().st_mode & 0o066 == 0
    for folder in store.root.iterdir():
        assert folder.stat().st_mode & 0o077 == 0, folder


def test_a_changed_byte_shows_in_the_hash(tmp_path: Path) -> None:
    path = tmp_path / "a"
    path.write_bytes(b"abc")
    # The example of FIPS 180-4 for SHA-256.
    assert content_hash(path) == (
        "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"
    )
    path.write_bytes(b"abd")
    assert not content_hash(path).startswith("ba78")
