"""The errors that every room may raise."""


class UnusableInput(ValueError):
    """Input that the job cannot be done with; the message is one plain sentence for a person."""


class NotFound(LookupError):
    """Something that is not there; the message says what."""


class Cancelled(Exception):
    """Raised out of work that was asked to stop."""
