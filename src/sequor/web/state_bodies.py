"""How an installation is, as it is told to those who look after it."""

from sequor.web.common_bodies import Body


class FigureOut(Body):
    """Something that was measured: in words, whether that is as it should be, and how it was in the
    last hour, the newest last; null where nothing was measured.
    """

    name: str
    said: str
    about: str
    good: bool
    series: list[float | None]


class StateOut(Body):
    """Why it is not ready, or soon will not be; what was measured, and over how many minutes."""

    reasons: list[str]
    figures: list[FigureOut]
    minutes: float
