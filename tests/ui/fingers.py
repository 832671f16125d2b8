"""What touches the glass, as real touch events of Chromium's own."""

import time

from playwright.sync_api import CDPSession, Page

Place = tuple[float, float]


class Fingers:
    """What touches the glass: fingers, a palm, a pen; 16 ms from one event to the next, however
    slow the machine is, unless they are not ``timed``: then when they are sent. A gesture begins
    now: what is older than the page has no time of its own.
    """

    def __init__(self, session: CDPSession, timed: bool = True) -> None:
        self._session, self._timed = session, timed
        self._time_s = time.time()

    def rest(self, seconds: float) -> None:
        """Nothing touches the glass for so long."""
        self._time_s += seconds

    def caught_up(self, page: Page) -> None:
        """Wait until it is as late as they have made it: of a tap that seems to come before what
        they did the browser makes no click.
        """
        page.wait_for_function("(s) => Date.now() / 1000 > s", arg=self._time_s)

    def _send(self, kind: str, **event: object) -> None:
        self._time_s += 0.016
        stamp = {"timestamp": self._time_s} if self._timed else {}
        self._session.send(f"Input.dispatch{kind}Event", event | stamp)

    def _touch(self, kind: str, *places: Place, radius: float = 12) -> None:
        points = [
            {"x": x, "y": y, "id": number, "radiusX": radius, "radiusY": radius}
            for number, (x, y) in enumerate(places)
        ]
        self._send("Touch", type=kind, touchPoints=points)

    def down(self, *places: Place, radius: float = 12) -> None:
        self._time_s = max(self._time_s, time.time())
        for count in range(1, len(places) + 1):
            self._touch("touchStart", *places[:count], radius=radius)

    def move(self, *places: Place) -> None:
        self._touch("touchMove", *places)

    def up(self, *left: Place) -> None:
        self._touch("touchEnd", *left)

    def drag(self, start: Place, end: Place, steps: int = 8, radius: float = 12) -> None:
        self.down(start, radius=radius)
        for step in range(1, steps + 1):
            self._touch("touchMove", between(start, end, step / steps), radius=radius)
        self.up()

    def pen(self, kind: str, place: Place, buttons: int = 1) -> None:
        self._send(
            "Mouse",
            type=kind,
            x=place[0],
            y=place[1],
            button="left" if buttons else "none",
            buttons=buttons,
            pointerType="pen",
        )


def between(a: Place, b: Place, share: float) -> Place:
    return a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share
