"""Whether Sequor lives, is ready, and why not."""

from flask import Response
from flask_openapi3 import Tag

from sequor import __version__
from sequor.core.language import mark, tr
from sequor.core.retelling import retold
from sequor.store.acting import actor
from sequor.web.answers import answer
from sequor.web.context import Context, context
from sequor.web.documented import Room
from sequor.web.health_bodies import Health
from sequor.web.who import STRANGER

_SOON = mark(
    "The disk is nearly full: {free_mb:,.0f} MB free. Clear exports, empty the bin, "
    "or move the data folder to a larger disk; Storage shows what takes how "
    "much."
)
api = Room("health", __name__, url_prefix="/api", abp_tags=[Tag(name="health")])


def database_up(here: Context) -> tuple[bool, str]:
    """Whether the database answers, and why not."""
    if here.server is None:
        return here.resources.database.answers(), tr("the database does not answer")
    # Its supervisor knows, also while it hangs: nobody waits for it here.
    return here.server.state == "up", retold(here.server.why)


def reasons_of(here: Context) -> tuple[list[str], list[str]]:
    """Why it is not ready, and why it soon may not be."""
    resources, load = here.resources, here.resources.engine.load()
    space = resources.files.space
    database, why = database_up(here)
    inside = resources.database.waiting
    reasons = (
        []
        if database
        else [
            tr(
                "{upper}{why}; {inside} requests wait for it.",
                upper=why[:1].upper(),
                why=why[1:],
                inside=inside,
            )
        ]
    )
    if not space.takes_files:
        kept = tr("changes are still kept") if space.takes_entries else tr("nothing can be kept")
        reasons.append(
            tr(
                "The disk is full: {free_mb:,.0f} MB free. No files are taken in or made; "
                "{kept}, and everything can be looked at and undone.",
                free_mb=space.free_mb,
                kept=kept,
            )
        )
    if load.away:
        reasons.append(
            tr(
                "No worker is there: previews and files wait for one (bin/sequor worker); changes "
                "are kept."
            )
        )
    warnings = [tr(_SOON, free_mb=space.free_mb)] if space.soon_full and not reasons else []
    return reasons, warnings


@api.get("/health", responses={200: Health, 503: Health}, operation_id="getHealth")
def health() -> Response:
    """Live: it answers. Ready: changes are kept and files are made; else the reasons why not."""
    here = context()
    resources, load = here.resources, here.resources.engine.load()
    space = resources.files.space
    database, _ = database_up(here)
    reasons, warnings = reasons_of(here)
    found = Health(
        status="ok" if database else "failing",
        live=True,
        ready=not reasons,
        reasons=reasons,
        warnings=warnings,
        database=database,
        free_mb=space.free_mb,
        waiting=load.waiting,
        running=load.running,
        version=__version__,
    )
    if actor() == STRANGER:
        # What stands before several servers has to know no more than that.
        nothing = {"reasons": [], "warnings": [], "free_mb": 0, "waiting": 0, "running": 0}
        found = found.model_copy(update={**nothing, "version": ""})
    return answer(found, 200 if database else 503)
