"""What the server and the one who watches it have in common: what they are told at their start."""

import argparse
import logging
import sys
from pathlib import Path

from sequor.settings import Settings, settings_from_environment

WATCHED = "--watched-by"


def parse(arguments: list[str]) -> argparse.Namespace:
    """What the command line asks for."""
    parser = argparse.ArgumentParser(prog="bin/start", description="Start Sequor on this machine.")
    parser.add_argument(
        "--empty", action="store_true", help="start without loading the demo pictures"
    )
    parser.add_argument(WATCHED, type=int, help=argparse.SUPPRESS)
    return parser.parse_args(arguments)


def settings_here() -> Settings:
    """The settings of this installation; see `settings_from_environment`."""
    return settings_from_environment(Path(__file__).parents[2])


def set_up_log(settings: Settings) -> None:
    """Write the log to standard error."""
    logging.basicConfig(
        level=settings.log_level,
        format="%(asctime)s %(levelname)s %(name)s: %(message)s",
        stream=sys.stderr,
    )
    for chatty in ("alembic", "pyvips"):
        logging.getLogger(chatty).setLevel(logging.WARNING)
