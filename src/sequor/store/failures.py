"""What can go wrong in the database or on the disk, as callers hear of it."""

from sequor.core.errors import UnusableInput
from sequor.core.language import tr


class DatabaseAway(RuntimeError):
    """The database does not answer; the message says what became of the request."""


class DatabaseProblem(RuntimeError):
    """The database cannot be set up or started; the message is one sentence."""


class Refused(RuntimeError):
    """The database refused something that was not foreseen; nothing was changed."""


class Clash(Refused):
    """Something that must be the only one of its kind was there already."""


class DiskFull(UnusableInput):
    """There is not enough space left; nothing was changed."""


class Stale(Exception):
    """The change was based on an entry that no longer holds; nothing was changed."""

    def __init__(self) -> None:
        super().__init__(
            tr(
                "This picture was changed in another window meanwhile; your last change "
                "was not stored, and nothing was overwritten. The picture is shown as it "
                "is now."
            )
        )
