"""``bin/sequor open``: pictures onto the bench that stay where they lie.

It asks the Sequor that runs on this machine, over HTTP as a browser does, and starts one where none
runs.
"""

import http.client
import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any
from urllib.parse import quote

import click

from sequor.cli.said import SOME_REFUSED, run_alone
from sequor.cli.sources import sources_of
from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr, tr_plural
from sequor.settings import Settings
from sequor.starting import settings_here
from sequor.web.key import FILE, PARAMETER

_PATIENCE_S = 300.0
_LOOK_EVERY_S = 0.25
_ANSWERS_IN_S = 600.0


class _Refused(Exception):
    """What the server says of something it does not do."""


class Server:
    """The Sequor of this installation."""

    def __init__(self, settings: Settings) -> None:
        self._settings = settings

    def ask(self, method: str, path: str, body: object = None) -> Any:
        """The answer to a request.

        Raises
        ------
        OSError
            When nobody answers.
        """
        settings = self._settings
        connection = http.client.HTTPConnection("127.0.0.1", settings.port, timeout=_ANSWERS_IN_S)
        headers = {"Authorization": f"Bearer {self._key}", "Content-Type": "application/json"}
        try:
            sent = None if body is None else json.dumps(body)
            connection.request(method, f"/api{path}", sent, headers)
            answer = connection.getresponse()
            content = json.loads(answer.read() or b"null")
        except (http.client.HTTPException, ValueError) as problem:
            raise OSError(tr("what answers there is no Sequor")) from problem
        finally:
            connection.close()
        if answer.status >= http.client.BAD_REQUEST:
            raise _Refused(content.get("problem") or tr("status {status}", status=answer.status))
        return content

    def runs(self) -> bool:
        """Whether it answers."""
        try:
            self.ask("GET", "/health")
        except (OSError, _Refused):
            return False
        return True

    def address(self, page: str) -> str:
        """The address of a page for who has no cookie yet."""
        return f"http://127.0.0.1:{self._settings.port}{page}?{PARAMETER}={quote(self._key)}"

    @property
    def _key(self) -> str:
        path = self._settings.data / FILE
        return path.read_text().strip() if path.exists() else ""


@click.command(
    help=mark(
        "Put PATHS, pictures and folders of them, onto the bench.\n\n"
        "The files stay where they are and are never written. A recipe beside one "
        "(PICTURE.sequor.json) is what it begins with."
    )
)
@click.argument("paths", type=click.Path(path_type=Path, exists=True), nargs=-1, required=True)
@click.option(
    "--set", "name", help=mark("the set that they go into (default: named as their folder)")
)
@click.option(
    "--damaged", is_flag=True, help=mark("take damaged files with what can be read of them")
)
def main(paths: tuple[Path, ...], name: str | None, damaged: bool) -> None:
    """Open pictures where they lie."""
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    server = Server(settings_here())
    try:
        wanted = [path.absolute() for path in sources_of(paths)]
    except UnusableInput as problem:
        raise click.ClickException(str(problem)) from problem
    started = None if server.runs() else _start(server)
    try:
        refused = _open(server, wanted, name, damaged)
        if started:
            click.echo(tr("Sequor runs as long as this does (Ctrl+C stops both)."), err=True)
            started.wait()
    except KeyboardInterrupt:
        refused = 0
    finally:
        if started and started.poll() is None:
            started.terminate()
            started.wait()
    sys.exit(SOME_REFUSED if refused else 0)


def _start(server: Server) -> subprocess.Popen[bytes]:
    command = Path(__file__).parents[2] / "bin" / "start"
    click.echo(tr("Sequor does not run yet; it is being started."), err=True)
    quiet = {"SEQUOR_LOG_LEVEL": "WARNING", **os.environ}
    started = subprocess.Popen([command, "--empty"], stdout=subprocess.DEVNULL, env=quiet)
    end = time.monotonic() + _PATIENCE_S
    while not server.runs():
        if started.poll() is not None:
            raise click.ClickException(tr("Sequor could not be started; the reason is above."))
        if time.monotonic() > end:
            started.terminate()
            raise click.ClickException(tr("Sequor did not answer in time; try bin/start."))
        time.sleep(_LOOK_EVERY_S)
    return started


def _open(server: Server, wanted: list[Path], name: str | None, damaged: bool) -> int:
    """Open pictures, say what came of it; how many were refused."""
    sets = _sets(server)
    opened: dict[int, list[int]] = {}
    refused = 0
    for path in wanted:
        number = sets(name or path.parent.name or "pictures")
        body = {"path": str(path), "as_damaged": damaged}
        try:
            answer = server.ask("POST", f"/sets/{number}/opened", body)
        except _Refused as problem:
            click.echo(f"{path}: {problem}", err=True)
            refused += 1
            continue
        if answer["said"]:
            click.echo(answer["said"], err=True)
        opened.setdefault(number, []).append(answer["picture"]["id"])
    for number, pictures in opened.items():
        one = len(wanted) == 1
        page = f"/pictures/{pictures[0]}" if one else f"/sets/{number}"
        count = tr_plural("{count} picture", "{count} pictures", len(pictures))
        click.echo(f"{count}: {server.address(page)}")
    return refused


def _sets(server: Server) -> Callable[[str], int]:
    """What gives the number of the set of a name, a new one where there is none."""
    known = {one["name"]: one["id"] for one in server.ask("GET", "/sets")["sets"]}

    def number_of(name: str) -> int:
        plain = " ".join(name.split())[:120]
        if plain not in known:
            known[plain] = server.ask("POST", "/sets", {"name": plain})["id"]
        return int(known[plain])

    return number_of


if __name__ == "__main__":
    run_alone(main)
