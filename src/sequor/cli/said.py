"""What the command line says on standard error, and the usual exit status then."""

import sys

REFUSED = 2
"""Exit status of what was refused."""


def complain(message: str) -> None:
    """Say one sentence on standard error."""
    sys.stderr.write(f"sequor: {' '.join(message.split())}\n")
