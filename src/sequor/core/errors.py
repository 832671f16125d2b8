"""The one kind of error that the core raises for input it cannot use."""


class UnusableInput(ValueError):
    """Input that the job cannot be done with; the message is one plain sentence for a person."""
