"""The ledger of a picture opened, and its versions."""

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel

from sequor.core.language import tr
from sequor.core.report.words import perspective_words, turn_words
from sequor.core.retelling import retold
from sequor.services import editing, images
from sequor.services.ledgers import VersionLine, entry_of, ledger_of, versions_of
from sequor.services.ledgers import name_version as rename
from sequor.services.pictures import corrected_of_entry
from sequor.services.reply import Reply
from sequor.store.models import Picture
from sequor.web.answers import answer
from sequor.web.bench import state
from sequor.web.common_bodies import PicturePath, Problem, Responses
from sequor.web.context import client_gone, resources
from sequor.web.documented import Room
from sequor.web.history_bodies import (
    EntryPath,
    GoBack,
    History,
    HistoryEntry,
    MadeVersion,
    NewVersion,
    Version,
    VersionName,
    Versions,
)
from sequor.web.images import JPEG, FramedQuery, corrected_address, image
from sequor.web.pictures_bodies import PictureState, Shown
from sequor.web.repeated import replying
from sequor.web.shown import shown

api = Room(
    "history",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="history", description="Ledgers, versions, carrying over")],
)
_PICTURE = "/pictures/<int:picture_id>"
_REFUSALS: Responses = {404: Problem, 422: Problem}
_WRITES: Responses = {**_REFUSALS, 409: Problem}


@api.get(f"{_PICTURE}/history", responses={200: History, 404: Problem}, operation_id="getHistory")
def get_history(path: PicturePath) -> Response:
    """Every entry of a picture's ledger."""
    found = ledger_of(resources(), path.picture_id)
    return answer(
        History(
            head_id=found.head_id,
            entries=[
                HistoryEntry(
                    id=entry.id,
                    parent_id=entry.parent_id,
                    what=retold(entry.what),
                    created_at=entry.created_at,
                    turn_words=turn_words(entry.roll_deg),
                    perspective_words=perspective_words(entry.lean_deg, entry.swing_deg),
                    kept_fraction=entry.kept_fraction,
                    depth=found.depths[entry.id],
                    thumbnail=f"{corrected_address(found.sha256, entry.recipe_hash)}/thumbnail.jpg",
                    author=entry.author or "",
                )
                for entry in found.entries
            ],
        )
    )


@api.get(
    f"{_PICTURE}/entries/<int:entry_id>",
    responses={200: Shown, 404: Problem},
    operation_id="getEntry",
)
def get_entry(path: EntryPath) -> Response:
    """A picture as an entry of its ledger has it; nothing changes."""
    return answer(
        entry_of(
            resources(),
            path.picture_id,
            path.entry_id,
            lambda found: shown(found.picture, found.recipe_hash, found.recipe, found.solution),
        )
    )


@api.get(
    f"{_PICTURE}/entries/<int:entry_id>/picture.jpg",
    responses=JPEG,
    operation_id="getEntryPicture",
)
def get_entry_picture(path: EntryPath, query: FramedQuery) -> Response:
    """A picture in its frame, as an entry of its ledger has it, for a screen."""
    what = corrected_of_entry(resources(), path.picture_id, path.entry_id)
    return image(images.framed(resources(), what, query.edge, client_gone()))


@api.post(f"{_PICTURE}/return", responses={201: PictureState, **_WRITES}, operation_id="goBack")
def go_back(path: PicturePath, body: GoBack) -> Response:
    """Let the recipe of an earlier entry hold again, by a new entry."""
    reply = replying(state, 201)
    back = editing.go_back(resources(), path.picture_id, body.based_on, body.entry_id, reply)
    return answer(back, 201)


@api.get(
    f"{_PICTURE}/versions", responses={200: Versions, 404: Problem}, operation_id="listVersions"
)
def list_versions(path: PicturePath) -> Response:
    """All versions of a picture."""
    return answer(versions_of(resources(), path.picture_id, _versions))


@api.post(
    f"{_PICTURE}/versions", responses={201: MadeVersion, **_REFUSALS}, operation_id="addVersion"
)
def add_version(path: PicturePath, body: NewVersion) -> Response:
    """Begin another version, from an entry and edits of it."""
    reply: Reply[Picture, BaseModel] = replying(lambda made: MadeVersion(id=made.id), 201)
    edits, name = body.edits, body.name
    return answer(
        editing.add_version(resources(), path.picture_id, body.based_on, edits, name, reply), 201
    )


@api.patch(f"{_PICTURE}/version", responses={200: Version, **_REFUSALS}, operation_id="nameVersion")
def name_version(path: PicturePath, body: VersionName) -> Response:
    """Give a version another name."""
    return answer(rename(resources(), path.picture_id, body.name, replying(_version)))


def _versions(lines: list[VersionLine]) -> Versions:
    return Versions(versions=[_version(line) for line in lines])


def _version(line: VersionLine) -> Version:
    picture, entry = line.holding.picture, line.holding.entry
    solution, frame = line.holding.solution, line.holding.recipe.frame
    size = frame.print_size
    fill = solution.cost.fill_fraction
    kept = tr("keeps {kept_fraction:.1f} %", kept_fraction=entry.kept_fraction * 100)
    return Version(
        id=picture.id,
        version=picture.version,
        name=picture.version_name or tr("first version"),
        picture_name=picture.name,
        entry_id=entry.id,
        what=retold(entry.what),
        width=solution.frame.width,
        height=solution.frame.height,
        ratio=f"{size.width:g} × {size.height:g} {size.unit}" if size else frame.ratio,
        turn_words=turn_words(entry.roll_deg),
        cost_words=tr("{kept}, {fill:.1f} % filled", kept=kept, fill=fill * 100) if fill else kept,
        kept_fraction=entry.kept_fraction,
        exports=line.exports,
        thumbnail=f"{corrected_address(picture.original_sha256, entry.recipe_hash)}/thumbnail.jpg",
    )
