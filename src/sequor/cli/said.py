"""What the command line says on standard error, in which language, and its exit status then."""

import sys

import click

from sequor.catalogues import know_all
from sequor.core.language import languages, speak, tr

REFUSED, SOME_REFUSED = 2, 4
"""Exit status of what was refused, and where some of many were."""
_OPTION = "--lang"


def complain(message: str) -> None:
    """Say one sentence on standard error."""
    sys.stderr.write(f"sequor: {' '.join(message.split())}\n")


def in_language(words: list[str]) -> list[str]:
    """Speak the language of ``--lang LANGUAGE``; the words without it.

    Raises
    ------
    click.UsageError
        When that is not spoken.
    """
    know_all()
    rest, wanted = list(words), None
    for place, word in enumerate(words):
        if word == _OPTION:
            wanted = words[place + 1] if place + 1 < len(words) else ""
            del rest[place : place + 2]
            break
        if word.startswith(f"{_OPTION}="):
            wanted = word.partition("=")[2]
            del rest[place]
            break
    if wanted is not None and wanted not in languages():
        there = ", ".join(languages())
        said = tr(
            "“{language}” is not spoken; there are {languages}.", language=wanted, languages=there
        )
        raise click.UsageError(said)
    if wanted:
        speak(wanted)
    return rest


def run_alone(command: click.Command) -> None:
    """Run a command that is a program of its own, in the language that its words ask for."""
    try:
        words = in_language(sys.argv[1:])
    except click.UsageError as problem:
        problem.show()
        sys.exit(problem.exit_code)
    put_into_words(command)
    command(words)


def put_into_words(command: click.Command) -> None:
    """Let a command say its help, and that of its options, in the language that is spoken."""
    command.help, command.epilog = _said(command.help), _said(command.epilog)
    for option in command.params:
        if isinstance(option, click.Option):
            option.help = _said(option.help)
    if isinstance(command, click.Group):
        for one in command.commands.values():
            put_into_words(one)


def _said(text: str | None) -> str | None:
    return tr(text) if text else text
