"""Bodies of archives."""

from sequor.web.common_bodies import Body, SetSummary


class Brought(Body):
    """The sets that came with an archive."""

    sets: list[SetSummary]
