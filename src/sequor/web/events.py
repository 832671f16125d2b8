"""News of a picture or a set, as they happen: server-sent events (HTML, "Server-sent events")."""

import json
import queue
from collections.abc import Iterator

from flask import Response, current_app, g
from flask_openapi3 import Tag
from pydantic import BaseModel, Field

from sequor.core.errors import NotFound
from sequor.services import people, rights
from sequor.services.events import Hub, Listener, Subject
from sequor.services.resources import Resources
from sequor.store.acting import Actor, PresentDeed, Right, acting, actor
from sequor.store.deeds import pictures_of
from sequor.web.common_bodies import Problem
from sequor.web.context import context, resources, window_of
from sequor.web.documented import Room
from sequor.web.who import name_words

api = Room("events", __name__, url_prefix="/api", abp_tags=[Tag(name="events")])
_BEAT_S = 10.0
"""So often it is seen whether somebody is still there, and still let in."""
_NO_MORE = 204
"""What a browser takes as: do not ask again (HTML, 9.2.3)."""


class EventsQuery(BaseModel):
    """The picture or the set that is looked at, and the window that looks."""

    picture_id: int | None = Field(default=None, ge=1, le=2**63 - 1)
    set_id: int | None = Field(default=None, ge=1, le=2**63 - 1)
    window: str = Field(default="", max_length=64, pattern=r"^[A-Za-z0-9-]*$")


@api.get(
    "/events",
    responses={200: {"content": {"text/event-stream": {}}}, 204: None, 404: Problem},
    operation_id="listen",
)
def listen(query: EventsQuery) -> Response:
    """News as they happen: ``changed`` by somebody else, and who else is ``present``. Where there
    are no accounts there is nobody else.
    """
    somebody, hub, about = actor(), context().hub, _about(query)
    if somebody is None or about is None:
        return current_app.response_class(status=_NO_MORE)
    rights.require_to_be_there(resources(), about.kind, about.number)
    listener = hub.listen(about, name_words(somebody.name), query.window)
    if listener is None:
        return current_app.response_class(status=_NO_MORE)
    told = _told(resources(), hub, listener, somebody, g.token)
    response = current_app.response_class(told, mimetype="text/event-stream")
    response.headers["Cache-Control"] = "no-store"
    response.headers["X-Accel-Buffering"] = "no"  # nginx passes them on at once
    response.call_on_close(lambda: hub.leave(listener))
    return response


def tell(deed: PresentDeed, by: Actor) -> None:
    """What was done is told to those who look at it. It is kept by then: nothing here may fail."""
    abouts = [
        *(Subject("picture", one) for one in pictures_of(deed)),
        *(Subject("set", one) for one in deed.sets),
    ]
    context().hub.tell_of_change(abouts, by.name, window_of())


def _about(query: EventsQuery) -> Subject | None:
    if query.picture_id is not None:
        return Subject("picture", query.picture_id)
    return Subject("set", query.set_id) if query.set_id is not None else None


def _told(
    own: Resources, hub: Hub, listener: Listener, somebody: Actor, token: str | None
) -> Iterator[str]:
    try:
        yield ":\n\n"
        while True:
            try:
                news = listener.next(_BEAT_S)
            except queue.Empty:
                hub.say_who_is_here(listener.about)
                if token and people.who_is(own.database, token) is None:
                    return
                yield ":\n\n"
                continue
            if news is None or not _is_seen(own, listener.about, somebody):
                return
            yield f"event: {news.what}\ndata: {json.dumps(news.who)}\n\n"
    finally:
        hub.leave(listener)


def _is_seen(own: Resources, about: Subject, somebody: Actor) -> bool:
    """Whether it may still be looked at."""
    require = rights.require_of_pictures if about.kind == "picture" else rights.require_of_sets
    with acting(somebody):
        try:
            require(own, [about.number], Right.LOOK)
        except (NotFound, rights.Forbidden):
            return False
    return True
