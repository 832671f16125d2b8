"""The commands: backup, restore, verify, migrate, user."""

import os
import shutil
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import click
from sqlalchemy.exc import DBAPIError

from sequor.cli.said import in_language, put_into_words
from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr
from sequor.services import backups, soundness
from sequor.services.backups import Retention
from sequor.store.database import migrate as bring_up_to_date
from sequor.store.failures import DatabaseProblem, DiskFull, Refused
from sequor.store.files import FileStore, sync_folder
from sequor.upkeep.here import database_of, empty_database, settings_of_here
from sequor.upkeep.users import user

FOLDER = click.Path(path_type=Path, file_okay=False)
_MB = 1e6
NOT_SOUND = 1
"""Exit status of ``verify`` when something is not sound."""


def main(arguments: list[str] | None = None) -> None:
    """Run one of them."""
    try:
        words = in_language(sys.argv[1:] if arguments is None else arguments)
        put_into_words(upkeep)
        upkeep.main(words, prog_name="sequor", standalone_mode=False)
    except click.ClickException as problem:
        _fail(problem.format_message())
    except click.Abort:
        _fail(tr("Stopped."))
    except (UnusableInput, DatabaseProblem, DiskFull) as problem:
        _fail(str(problem))
    except (DBAPIError, Refused) as problem:
        why = problem.orig if isinstance(problem, DBAPIError) else problem
        _fail(tr("The database does not do this: {why}. Nothing was changed by it.", why=why))


def _fail(message: str) -> None:
    sys.stderr.write(f"sequor: {' '.join(message.split())}\n")
    raise SystemExit(2)


@click.group(help=mark("Keep all data safe; the data folder is that of SEQUOR_DATA."))
def upkeep() -> None:
    """All commands."""


@upkeep.command(help=mark("Add a generation to the backup in FOLDER; Sequor may run meanwhile."))
@click.argument("folder", type=FOLDER)
@click.option(
    "--daily", default=Retention().daily, show_default=True, help=mark("days of which one stays")
)
@click.option(
    "--weekly", default=Retention().weekly, show_default=True, help=mark("weeks of which one stays")
)
def backup(folder: Path, daily: int, weekly: int) -> None:
    """Back up."""
    settings = settings_of_here()
    files = FileStore(settings.data)
    with database_of(settings) as engine, _bar(tr("copying")) as progress:
        done = backups.back_up(engine, files, folder, progress, Retention(daily, weekly))
    for name in done.missing:
        click.echo(tr("missing: {name}", name=name), err=True)
    for name in done.damaged:
        click.echo(
            tr("changed on the disk, the copy of before is kept: {name}", name=name), err=True
        )
    for name in done.mended:
        click.echo(tr("was changed in the backup, and is mended: {name}", name=name), err=True)
    click.echo(
        tr(
            "{copied} files copied ({byte_size:,.0f} MB), {kept} were there already, "
            "{rows} rows of the database, {gone} old generations let go.",
            copied=done.copied,
            byte_size=done.byte_size / _MB,
            kept=done.kept,
            rows=done.rows,
            gone=len(done.gone),
        )
    )
    if not done.sound:
        raise SystemExit(NOT_SOUND)


@upkeep.command(
    help=mark(
        "Put the backup in FOLDER into an empty data folder.\n\n"
        "It is put together beside that, and gets its name when it is whole."
    )
)
@click.argument("folder", type=FOLDER)
@click.option("--generation", default="", help=mark("the name of one; the newest otherwise"))
def restore(folder: Path, generation: str) -> None:
    """Restore."""
    settings = settings_of_here()
    chosen = backups.read_backup(folder, generation)
    if settings.data.exists() and any(p for p in settings.data.rglob("*") if not p.is_dir()):
        raise UnusableInput(
            tr(
                "There are data in {data} already, and nothing is overwritten: name "
                "another folder with SEQUOR_DATA.",
                data=settings.data,
            )
        )
    beside = settings.data.with_name(f".{settings.data.name}.restoring")
    shutil.rmtree(beside, ignore_errors=True)
    os.umask(0o077)
    FileStore(beside)
    with empty_database(settings, beside) as url, _bar(tr("copying")) as progress:
        done = backups.restore(url, beside, folder, progress, chosen.folder.name)
    if settings.data.exists():
        shutil.rmtree(settings.data)  # empty folders
    os.sync()
    beside.rename(settings.data)
    sync_folder(settings.data.parent)
    for name in done.mended:
        click.echo(
            tr("was changed in that generation, and came from another: {name}", name=name), err=True
        )
    click.echo(
        tr(
            "{copied} files and {rows} rows were put back into {data}.",
            copied=done.copied,
            rows=done.rows,
            data=settings.data,
        )
    )


@upkeep.command(
    help=mark(
        "Read every original against its hash, solve every entry, list what belongs to nothing."
    )
)
@click.option(
    "--heal-from",
    "folder",
    type=FOLDER,
    help=mark("a backup: what it has whole is put back from it"),
)
def verify(folder: Path | None) -> None:
    """Verify."""
    settings = settings_of_here()
    files = FileStore(settings.data)
    with database_of(settings) as engine:
        found = soundness.look_over(engine, files)
        if folder is not None:
            for words in soundness.heal(engine, files, folder, found):
                click.echo(tr("healed: {words}", words=words))
    for problem in found.problems:
        click.echo(tr("not sound: {words}", words=problem.words))
    for orphan in found.orphans:
        click.echo(tr("belongs to nothing: {orphan}", orphan=orphan))
    click.echo(
        tr(
            "{originals} originals, {entries} entries and {exports} exports were "
            "looked at: {problems} not sound, {orphans} files belong to nothing.",
            originals=found.originals,
            entries=found.entries,
            exports=found.exports,
            problems=len(found.problems),
            orphans=len(found.orphans),
        )
    )
    if any(problem.file for problem in found.problems):
        last = files.root / backups.LAST
        where = last.read_text() if last.exists() else "FOLDER"
        click.echo(
            tr(
                "What a backup has is put back by: bin/sequor verify --heal-from {where}",
                where=where,
            )
        )
    if found.problems:
        raise SystemExit(NOT_SOUND)


@upkeep.command(
    help=mark(
        "Bring the tables of SEQUOR_DATABASE up to date; Sequor is stopped meanwhile.\n\n"
        "The private database is brought up to date by itself when Sequor starts."
    )
)
def migrate() -> None:
    """Migrate."""
    url = settings_of_here().database_url
    if url is None:
        raise UnusableInput(
            tr(
                "SEQUOR_DATABASE names no database; the private one is brought up to date "
                "when Sequor starts."
            )
        )
    bring_up_to_date(url)
    click.echo(tr("The tables are those of this version of Sequor."))


upkeep.add_command(user)


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
