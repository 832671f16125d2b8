"""Files appear whole or not at all, and originals are never modified."""

import hashlib
import io
from pathlib import Path

import pytest

from sequor.store.failures import DatabaseProblem
from sequor.store.files import FileStore, write_whole
from sequor.store.mariadb import PrivateServer, free_port


def test_an_original_is_kept_once_by_its_content(tmp_path: Path) -> None:
    store = FileStore(tmp_path)
    content = b"a picture, let us say" * 1000
    for _ in range(2):
        with store.incoming(io.BytesIO(content)) as (received, sha256):
            assert sha256 == hashlib.sha256(content).hexdigest()
            kept = store.store_original(received, sha256)
    assert kept.read_bytes() == content
    assert kept.stat().st_mode & 0o222 == 0
    assert [p for p in tmp_path.rglob("*") if p.is_file()] == [kept]


def test_what_is_not_kept_is_gone(tmp_path: Path) -> None:
    store = FileStore(tmp_path)
    with store.incoming(io.BytesIO(b"x")) as (received, _):
        assert received.exists()
    assert list((tmp_path / "incoming").iterdir()) == []


def test_writing_whole_replaces(tmp_path: Path) -> None:
    write_whole(tmp_path / "a", b"one")
    write_whole(tmp_path / "a", b"two")
    assert {p.name: p.read_bytes() for p in tmp_path.iterdir()} == {"a": b"two"}


def test_a_taken_port_is_one_clear_sentence(tmp_path: Path) -> None:
    import socket

    port = free_port()
    with socket.socket() as other:
        other.bind(("127.0.0.1", port))
        other.listen()
        with pytest.raises(DatabaseProblem, match=f"Port {port} .* SEQUOR_DB_PORT"):
            PrivateServer(tmp_path, port).start()


def test_the_private_server_keeps_others_out(tmp_path: Path, database: PrivateServer) -> None:
    import pymysql

    for user, password in (("root", ""), ("sequor", "guess"), ("", "")):
        with pytest.raises(pymysql.err.OperationalError):
            pymysql.connect(host="127.0.0.1", port=database.port, user=user, password=password)
    assert (database.directory / "password").stat().st_mode & 0o077 == 0
