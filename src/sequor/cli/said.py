"""What the command line says on standard error, and its exit status then."""

import sys

REFUSED, SOME_REFUSED = 2, 4
"""Exit status of what was refused, and where some of many were."""


def complain(message: str) -> None:
    """Say one sentence on standard error."""
    sys.stderr.write(f"sequor: {' '.join(message.split())}\n")
