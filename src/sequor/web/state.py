"""How an installation is, in words and figures: the page of those who look after it."""

from collections.abc import Callable

from flask import Response
from flask_openapi3 import Tag

from sequor.core.language import tr, tr_plural
from sequor.services.measures import counted
from sequor.services.trends import EVERY_S, Moment
from sequor.store.failures import DatabaseAway
from sequor.web.answers import answer
from sequor.web.common_bodies import Problem
from sequor.web.context import Context, context
from sequor.web.documented import Room
from sequor.web.health import reasons_of
from sequor.web.state_bodies import FigureOut, StateOut

_HAND_MS, _OLD_S = 80.0, 60.0
"""What a turn in the hand may take on a busy machine, and how long work may wait."""
api = Room("state", __name__, url_prefix="/api", abp_tags=[Tag(name="health")])


@api.get("/state", responses={200: StateOut, 403: Problem}, operation_id="getState")
def get_state() -> Response:
    """How it is, and how it was in the last hour."""
    here = context()
    moments = here.trends.moments()
    reasons, warnings = reasons_of(here)
    figures = [*_of_moments(here, moments), *_stored(here)]
    minutes = (len(moments) - 1) * EVERY_S / 60
    return answer(StateOut(reasons=[*reasons, *warnings], figures=figures, minutes=minutes))


def _of_moments(here: Context, moments: list[Moment]) -> list[FigureOut]:
    now, space = moments[-1], here.resources.files.space
    hand = (
        tr("95 % within {ms:.0f} ms", ms=now.hand_ms)
        if now.hand_ms is not None
        else tr("nobody has turned a picture yet")
    )

    def series(of: Callable[[Moment], float | None]) -> list[float | None]:
        return [of(moment) for moment in moments]

    return [
        FigureOut(
            name=tr("Turns in the hand"),
            said=hand,
            about=tr("Of the last 1,000; 40 ms feel like none, above 80 ms a hand notices."),
            good=now.hand_ms is None or now.hand_ms <= _HAND_MS,
            series=series(lambda one: one.hand_ms),
        ),
        FigureOut(
            name=tr("Work that waits"),
            said=_waiting(now),
            about=tr("Previews, files and pictures to be read; more workers make it shorter."),
            good=now.oldest_s <= _OLD_S,
            series=series(lambda one: one.waiting),
        ),
        FigureOut(
            name=tr("Work that is done"),
            said=tr("{running} at once", running=now.running)
            if now.running
            else tr("nothing at the moment"),
            about=tr("By the processes of this machine, or by workers on others."),
            good=True,
            series=series(lambda one: one.running),
        ),
        FigureOut(
            name=tr("Memory of the workers"),
            said=tr("{workers_mb:,.0f} MB", workers_mb=now.workers_mb),
            about=tr("On all machines; SEQUOR_WORK_MB bounds what work needs on each."),
            good=True,
            series=series(lambda one: one.workers_mb),
        ),
        FigureOut(
            name=tr("Free on the disk"),
            said=tr("{free_mb:,.0f} MB", free_mb=now.free_mb),
            about=tr("Files are refused before it is full, so that changes are still kept."),
            good=space.takes_files and not space.soon_full,
            series=series(lambda one: one.free_mb),
        ),
    ]


def _waiting(now: Moment) -> str:
    if not now.waiting:
        return tr("nothing waits")
    pieces = tr_plural("{count} piece", "{count} pieces", now.waiting)
    return f"{pieces}, {tr('the oldest for {seconds:.0f} s', seconds=now.oldest_s)}"


def _stored(here: Context) -> list[FigureOut]:
    """What is in the database; nothing while that is away, which the reasons say."""
    try:
        found = counted(here.resources)
    except DatabaseAway:
        return []
    exports = found.exports
    return [
        FigureOut(
            name=tr("Pictures"),
            said=tr(
                "{pictures:,}, {unread:,} of them not read yet",
                pictures=found.pictures,
                unread=found.unread,
            ),
            about=tr("Outside the bin, versions among them."),
            good=True,
            series=[],
        ),
        FigureOut(
            name=tr("Exports"),
            said=tr(
                "{queued:,} wait, {done:,} done, {failed:,} failed",
                queued=exports.get("queued", 0),
                done=exports.get("done", 0),
                failed=exports.get("failed", 0),
            ),
            about=tr("Those that failed say why in the list of exports."),
            good=not exports.get("failed", 0),
            series=[],
        ),
    ]
