"""What pictures propose themselves: asked for by hand, or read in the background and remembered."""

import logging
import threading

from sequor.core.advance import Edits, advance
from sequor.core.errors import NotFound, UnusableInput
from sequor.core.language import english
from sequor.core.propose.proposal import Proposal, Want
from sequor.making.proposing import read_picture
from sequor.services.lookups import PictureLookups
from sequor.services.pictures import facts_of, known_of_entry
from sequor.services.resources import Resources
from sequor.services.working import GivenUp, Waits, run_task
from sequor.store import proposals
from sequor.store.hashes import recipe_hash
from sequor.work.engine import Lane, Task

log = logging.getLogger(__name__)
_READING, _OWN_MB = 1.6, 150.0
"""Memory of reading a picture: in decoded originals, and besides (measured in tests/bench)."""
_AT_ONCE = 8
_LOOK_S = 20.0
"""So often it is looked for pictures that came in, besides when one says so."""


def proposal_of(
    resources: Resources,
    picture_id: int,
    based_on: int,
    edits: Edits,
    want: Want,
    nobody_waits: Waits | None = None,
    lane: Lane = Lane.PREVIEW,
) -> Proposal:
    """What a picture proposes with the recipe that edits of an entry lead to.

    Raises
    ------
    UnusableInput
        When an edit cannot be done, or the original is lost.
    """
    facts = facts_of(resources, picture_id)
    recipe, hashed = known_of_entry(resources, picture_id, based_on)
    if edits:
        lookups = PictureLookups(resources, facts, fits=False)
        recipe = advance(facts.photo, recipe, edits, lookups).recipe
        hashed = recipe_hash(recipe.model_dump(mode="json"))
    with resources.database.reading() as session:
        found = proposals.find_proposal(session, facts.sha256, hashed, want)
    if found is not None:
        return found
    made: Proposal = run_task(
        resources,
        Task(
            read_picture,
            (facts.sha256, facts.photo, recipe, want),
            lane,
            about=facts.sha256,
            originals=(facts.sha256,),
            memory_mb=facts.decoded_mb * _READING + _OWN_MB,
            key=("proposal", facts.sha256, hashed, want),
        ),
        nobody_waits,
    )
    if not edits:
        resources.database.write(
            lambda s: proposals.store_proposal(s, facts.sha256, hashed, made), small=True
        )
    return made


class Reader:
    """Reads pictures as they come in, one after the other, when nobody waits for anything.

    What was read is in the database, so a restart goes on where it ended, and so is what could not
    be read, with the reason and when it is tried again.
    """

    def __init__(self, resources: Resources) -> None:
        self._resources = resources
        self._wake, self._stopping = threading.Event(), threading.Event()
        self._thread: threading.Thread | None = None
        resources.servers.on("came_in", lambda _: self._wake.set())

    def start(self) -> None:
        """Begin; a second call does nothing."""
        if self._thread is None:
            self._thread = threading.Thread(target=self._run, daemon=True, name="reader")
            self._thread.start()

    def look(self) -> None:
        """A picture came in; the server that reads hears of it."""
        self._resources.servers.tell("came_in", {})
        self._wake.set()

    def stop(self) -> None:
        """End after the picture that is being read, which is given up."""
        self._stopping.set()
        self._wake.set()

    def _run(self) -> None:
        while not self._stopping.is_set():
            try:
                done = self._some()
            except Exception as problem:  # the database is away, or the server is being stopped
                log.info("pictures were not read: %r", problem)
                done = 0
            if not done:
                self._wake.wait(_LOOK_S)
                self._wake.clear()

    def _some(self) -> int:
        """Read some pictures; how many there were to read."""
        with self._resources.database.reading() as session:
            waiting = proposals.unread(session, _AT_ONCE)
        for picture_id, entry_id in waiting:
            if self._stopping.is_set():
                return 0
            self._read(picture_id, entry_id)
        return len(waiting)

    def _read(self, picture_id: int, entry_id: int) -> None:
        stopped = self._stopping.is_set
        try:
            proposal_of(self._resources, picture_id, entry_id, (), "any", stopped, Lane.BACKGROUND)
        except GivenUp:  # this is being stopped
            return
        except (UnusableInput, NotFound) as problem:  # it was removed or damaged meanwhile
            self._leave(picture_id, str(problem))
        else:
            self._settle(picture_id)

    def _settle(self, picture_id: int) -> None:
        """Make sure that a picture that was read does not come again at once."""
        with self._resources.database.reading() as session:
            if proposals.is_unread(session, picture_id):
                reason = english("what it proposes was not kept")
            else:
                return
        self._leave(picture_id, reason)

    def _leave(self, picture_id: int, reason: str) -> None:
        log.info("picture %s was not read: %s", picture_id, reason)
        self._resources.database.write(
            lambda session: proposals.leave_unsettled(session, picture_id, reason), small=True
        )
