"""What the server and the one who watches it have in common: what they are told at their start."""

import argparse
import logging
import sys
import time
from pathlib import Path

from sequor.settings import Settings, settings_from_environment

WATCHED = "--watched-by"


def parse(arguments: list[str]) -> argparse.Namespace:
    """What the command line asks for."""
    parser = argparse.ArgumentParser(prog="bin/start", description="Start Sequor on this machine.")
    parser.add_argument(
        "--empty", action="store_true", help="start without loading the demo pictures"
    )
    parser.add_argument(
        "--workers",
        type=int,
        default=0,
        choices=range(65),
        metavar="N",
        help="have N workers do the work, as on other machines, with a Redis of their own",
    )
    parser.add_argument(WATCHED, type=int, help=argparse.SUPPRESS)
    return parser.parse_args(arguments)


def settings_here() -> Settings:
    """The settings of this installation; see `settings_from_environment`."""
    return settings_from_environment(Path(__file__).parents[2])


def _json() -> logging.Formatter:
    """Lines of JSON, times in UTC (RFC 3339); what a request is known by stands apart."""
    from pythonjsonlogger.json import JsonFormatter

    names = {"asctime": "time", "levelname": "level", "name": "logger"}
    formatter = JsonFormatter(
        "{asctime}{levelname}{name}{message}",
        style="{",
        rename_fields=names,
        datefmt="%Y-%m-%dT%H:%M:%SZ",
    )
    formatter.converter = time.gmtime
    return formatter


def set_up_log(settings: Settings) -> None:
    """Write the log to standard error, in lines of text or of JSON."""
    handler = logging.StreamHandler(sys.stderr)
    if settings.log_format == "json":
        handler.setFormatter(_json())
    else:
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logging.basicConfig(level=settings.log_level, handlers=[handler])
    for chatty in ("alembic", "pyvips"):
        logging.getLogger(chatty).setLevel(logging.WARNING)
