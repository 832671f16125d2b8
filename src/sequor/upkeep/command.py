"""The commands: backup, restore, verify."""

import os
import shutil
import sys
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

import click
from sqlalchemy import Engine
from sqlalchemy.exc import DBAPIError

from sequor.core.errors import UnusableInput
from sequor.services import backups, soundness
from sequor.services.backups import Retention
from sequor.settings import Settings, settings_from_environment
from sequor.store.database import connect, migrate
from sequor.store.failures import DatabaseProblem, DiskFull, Refused
from sequor.store.files import FileStore, sync_folder
from sequor.store.mariadb import PrivateServer, port_is_free

FOLDER = click.Path(path_type=Path, file_okay=False)
_MB = 1e6
NOT_SOUND = 1
"""Exit status of ``verify`` when something is not sound."""


def main(arguments: list[str] | None = None) -> None:
    """Run one of them."""
    try:
        upkeep.main(arguments, prog_name="sequor", standalone_mode=False)
    except click.ClickException as problem:
        _fail(problem.format_message())
    except click.Abort:
        _fail("Stopped.")
    except (UnusableInput, DatabaseProblem, DiskFull) as problem:
        _fail(str(problem))
    except (DBAPIError, Refused) as problem:
        why = problem.orig if isinstance(problem, DBAPIError) else problem
        _fail(f"The database does not do this: {why}. Nothing was changed by it.")


def _fail(message: str) -> None:
    sys.stderr.write(f"sequor: {' '.join(message.split())}\n")
    raise SystemExit(2)


@click.group()
def upkeep() -> None:
    """Keep all data safe; the data folder is that of SEQUOR_DATA."""


@upkeep.command()
@click.argument("folder", type=FOLDER)
@click.option(
    "--daily", default=Retention().daily, show_default=True, help="days of which one stays"
)
@click.option(
    "--weekly", default=Retention().weekly, show_default=True, help="weeks of which one stays"
)
def backup(folder: Path, daily: int, weekly: int) -> None:
    """Add a generation to the backup in FOLDER; Sequor may run meanwhile."""
    settings = _settings()
    files = FileStore(settings.data)
    with _database(settings) as engine, _bar("copying") as progress:
        done = backups.back_up(engine, files, folder, progress, Retention(daily, weekly))
    for name in done.missing:
        click.echo(f"missing: {name}", err=True)
    for name in done.damaged:
        click.echo(f"changed on the disk, the copy of before is kept: {name}", err=True)
    for name in done.mended:
        click.echo(f"was changed in the backup, and is mended: {name}", err=True)
    click.echo(
        f"{done.copied} files copied ({done.byte_size / _MB:,.0f} MB), {done.kept} were there "
        f"already, {done.rows} rows of the database, {len(done.gone)} old generations let go."
    )
    if not done.sound:
        raise SystemExit(NOT_SOUND)


@upkeep.command()
@click.argument("folder", type=FOLDER)
@click.option("--generation", default="", help="the name of one; the newest otherwise")
def restore(folder: Path, generation: str) -> None:
    """Put the backup in FOLDER into an empty data folder.

    It is put together beside that, and gets its name when it is whole.
    """
    settings = _settings()
    chosen = backups.read_backup(folder, generation)
    if settings.data.exists() and any(p for p in settings.data.rglob("*") if not p.is_dir()):
        raise UnusableInput(
            f"There are data in {settings.data} already, and nothing is overwritten: name another "
            "folder with SEQUOR_DATA."
        )
    beside = settings.data.with_name(f".{settings.data.name}.restoring")
    shutil.rmtree(beside, ignore_errors=True)
    os.umask(0o077)
    FileStore(beside)
    server = PrivateServer(beside / "mariadb", settings.db_port)
    with server, _bar("copying") as progress:
        done = backups.restore(server.url, beside, folder, progress, chosen.folder.name)
    if settings.data.exists():
        shutil.rmtree(settings.data)  # empty folders
    os.sync()
    beside.rename(settings.data)
    sync_folder(settings.data.parent)
    for name in done.mended:
        click.echo(f"was changed in that generation, and came from another: {name}", err=True)
    click.echo(f"{done.copied} files and {done.rows} rows were put back into {settings.data}.")


@upkeep.command()
@click.option(
    "--heal-from", "folder", type=FOLDER, help="a backup: what it has whole is put back from it"
)
def verify(folder: Path | None) -> None:
    """Read every original against its hash, solve every entry, list what belongs to nothing."""
    settings = _settings()
    files = FileStore(settings.data)
    with _database(settings) as engine:
        found = soundness.look_over(engine, files)
        if folder is not None:
            for words in soundness.heal(engine, files, folder, found):
                click.echo(f"healed: {words}")
    for problem in found.problems:
        click.echo(f"not sound: {problem.words}")
    for orphan in found.orphans:
        click.echo(f"belongs to nothing: {orphan}")
    click.echo(
        f"{found.originals} originals, {found.entries} entries and {found.exports} exports were "
        f"looked at: {len(found.problems)} not sound, {len(found.orphans)} files belong to nothing."
    )
    if any(problem.file for problem in found.problems):
        last = files.root / backups.LAST
        where = last.read_text() if last.exists() else "FOLDER"
        click.echo(f"What a backup has is put back by: bin/sequor verify --heal-from {where}")
    if found.problems:
        raise SystemExit(NOT_SOUND)


def _settings() -> Settings:
    return settings_from_environment(Path(__file__).parents[3])


@contextmanager
def _database(settings: Settings) -> Iterator[Engine]:
    """The database of the data folder: that of a running Sequor, or started for this."""
    folder = settings.data / "mariadb"
    if not (folder / "data").is_dir():
        raise UnusableInput(f"There are no data in {settings.data}; SEQUOR_DATA names the folder.")
    server = PrivateServer(folder, settings.db_port)
    with ExitStack() as stack:
        if port_is_free(settings.db_port):
            stack.enter_context(server)
            migrate(server.url)
        engine = connect(server.url)
        stack.callback(engine.dispose)
        yield engine


@contextmanager
def _bar(label: str) -> Iterator[backups.Progress]:
    """A progress bar on a terminal; nothing elsewhere."""
    if not sys.stderr.isatty():
        yield lambda *_: None
        return
    with click.progressbar(length=1000, label=label, file=sys.stderr) as bar:

        def show(done: int, whole: int) -> None:
            bar.update(int(1000 * done / max(whole, 1)) - bar.pos)

        yield show
