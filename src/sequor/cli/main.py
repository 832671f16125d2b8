"""``bin/sequor``: its commands by name, each loaded when it is asked for.

What the commands compute with takes a second to load; to list them takes nothing of it.
"""

import sys
from typing import NoReturn

import click

from sequor.cli.said import REFUSED, complain, in_language, put_into_words
from sequor.core.language import mark, tr

LEVEL = mark("Level one picture, or many into a folder, and print what was done as JSON.")
PROPOSE = mark(
    "Print, for each picture, the readings that it proposes itself, a line of JSON each."
)
COMMANDS = {"level": ("level", LEVEL), "propose": ("propose_readings", PROPOSE)}
"""For each command the function in `command`, and its help, which is that function's."""


class _WhenAskedFor(click.Group):
    """Commands that are loaded by name."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in COMMANDS:
            return None
        from sequor.cli import command

        found: click.Command = getattr(command, COMMANDS[cmd_name][0])
        put_into_words(found)
        return found

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, tr(words)) for name, (_, words) in COMMANDS.items()])


@click.group(
    cls=_WhenAskedFor,
    help=mark("Level tilted horizons and leaning lines in photographs."),
    epilog=mark(
        "On the bench, where they lie: open. With all data at once: backup, restore, verify, "
        "migrate. Whose accounts there are: user. Work for servers: worker. Each says more with "
        "--help; all of them take --lang LANGUAGE."
    ),
)
def sequor() -> None:
    """All commands."""


def main(arguments: list[str] | None = None) -> None:
    """Run the command line."""
    words = sys.argv[1:] if arguments is None else arguments
    try:
        words = in_language(words)
        put_into_words(sequor)
        sequor.main(words, prog_name="sequor", standalone_mode=False, obj=words)
    except click.ClickException as problem:
        _fail(problem.format_message())
    except click.Abort:
        _fail(tr("Stopped; no file was written."))
    except Exception as problem:
        from sequor.cli.command import explain

        _fail(*explain(problem))


def _fail(message: str, status: int = REFUSED) -> NoReturn:
    complain(message)
    raise SystemExit(status)
