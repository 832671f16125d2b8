"""One picture on the bench: its state, edits that are tried and kept, the ledger."""

from flask import Response
from flask_openapi3 import Tag
from pydantic import BaseModel, Field

from sequor.core.edits import InkReadings, ReadCamera
from sequor.core.report.options import Options, options
from sequor.core.report.proposals import proposal_words
from sequor.core.report.report import report_of
from sequor.core.report.words import camera_offset_words, guide_words
from sequor.core.retelling import retold
from sequor.making.exports import ExportOptions
from sequor.pictures import lenses
from sequor.services import editing
from sequor.services.camera_levels import level_of_set
from sequor.services.editing import Entered
from sequor.services.pictures import shot_facts
from sequor.services.proposals import proposal_of
from sequor.store.library import photo_of
from sequor.web.answers import answer
from sequor.web.bench_bodies import (
    CameraLevelOut,
    Draft,
    GuideIn,
    GuideOut,
    LensKnown,
    LensList,
    ProposalIn,
    ProposalOut,
)
from sequor.web.common_bodies import Edits, Move, PicturePath, Problem, Responses
from sequor.web.context import client_gone, resources
from sequor.web.documented import Room
from sequor.web.pictures_bodies import PictureState
from sequor.web.repeated import replying
from sequor.web.shown import addresses_of, file_of, may_words, proxy_scale

api = Room(
    "bench",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="bench", description="One picture")],
)
_REFUSALS: Responses = {404: Problem, 422: Problem}
_WRITES: Responses = {**_REFUSALS, 409: Problem}
_PICTURE = "/pictures/<int:picture_id>"


class LensQuery(BaseModel):
    """Words of a lens's name; none for those that match the picture."""

    text: str = Field(default="", max_length=100)


@api.get("/options", responses={200: Options}, operation_id="getOptions")
def get_options() -> Response:
    """What can be chosen on the bench: lists, limits and defaults."""
    return answer(options())


@api.get(_PICTURE, responses={200: PictureState, 404: Problem}, operation_id="getPicture")
def get_picture(path: PicturePath) -> Response:
    """The picture with the recipe that holds and its solution."""
    return answer(editing.looked_at(resources(), path.picture_id, state))


@api.post(f"{_PICTURE}/draft", responses={200: Draft, **_REFUSALS}, operation_id="draftEdits")
def draft_edits(path: PicturePath, body: Edits) -> Response:
    """What edits of an entry lead to; nothing is stored."""
    draft = editing.draft(resources(), path.picture_id, body.based_on, body.edits)
    report = report_of(draft.photo, draft.recipe, draft.solution)
    return answer(Draft(recipe=draft.recipe, solution=draft.solution, report=report))


@api.post(
    f"{_PICTURE}/ledger", responses={201: PictureState, **_WRITES}, operation_id="recordEdits"
)
def record_edits(path: PicturePath, body: Edits) -> Response:
    """Enter what edits of an entry lead to; refused when another entry holds by now."""
    reply = replying(state, 201)
    return answer(
        editing.record(resources(), path.picture_id, body.based_on, body.edits, reply), 201
    )


@api.post(f"{_PICTURE}/undo", responses={200: PictureState, **_WRITES}, operation_id="undo")
def undo(path: PicturePath, body: Move) -> Response:
    """Go back to the entry before."""
    return answer(editing.undo(resources(), path.picture_id, body.based_on, replying(state)))


@api.post(f"{_PICTURE}/redo", responses={200: PictureState, **_WRITES}, operation_id="redo")
def redo(path: PicturePath, body: Move) -> Response:
    """Go forward again to the newest entry after the present one."""
    return answer(editing.redo(resources(), path.picture_id, body.based_on, replying(state)))


@api.post(f"{_PICTURE}/guide", responses={200: GuideOut, **_REFUSALS}, operation_id="holdGuide")
def hold_guide(path: PicturePath, body: GuideIn) -> Response:
    """The angle between a guide and the edge under it in the corrected picture."""
    held = editing.hold_guide(
        resources(), path.picture_id, body.based_on, body.edits, body.direction, body.ends
    )
    return answer(GuideOut(**held.model_dump(), words=guide_words(held)))


@api.post(
    f"{_PICTURE}/proposal", responses={200: ProposalOut, **_REFUSALS}, operation_id="readPicture"
)
def read_picture(path: PicturePath, body: ProposalIn) -> Response:
    """What the picture itself tells of how the camera stood; nothing is stored in its ledger."""
    found = proposal_of(
        resources(), path.picture_id, body.based_on, body.edits, body.want, client_gone()
    )
    readings = tuple(one.reading for one in found.readings)
    take = InkReadings(readings=readings, leave_in=found.leave_in) if readings else None
    return answer(ProposalOut(proposal=found, words=proposal_words(found), take=take))


@api.get(
    f"{_PICTURE}/camera-level",
    responses={200: CameraLevelOut, 404: Problem},
    operation_id="checkCameraLevel",
)
def check_camera_level(path: PicturePath) -> Response:
    """By how much the camera's own level is off, by other pictures of the set."""
    found = level_of_set(resources(), path.picture_id)
    if found is None:
        return answer(CameraLevelOut(words="", take=None))
    offset = round(found.offset_deg, 2) if found.constant else 0.0
    take = ReadCamera(sigma_deg=round(found.sigma_deg, 2), offset_deg=offset)
    return answer(CameraLevelOut(words=camera_offset_words(found), take=take))


@api.get(f"{_PICTURE}/lenses", responses={200: LensList, 404: Problem}, operation_id="findLenses")
def find_lenses(path: PicturePath, query: LensQuery) -> Response:
    """Lenses of the open database: those that may have taken the picture, or of a name."""
    shot = shot_facts(resources(), path.picture_id)
    found = lenses.search(query.text) if query.text.strip() else lenses.matching(shot)
    # Most cameras write the maker once more before the model.
    maker = shot.camera_maker
    once = shot.camera if maker and shot.camera.lower().startswith(maker.lower()) else maker
    words = (once, "" if once == shot.camera else shot.camera, shot.lens)
    named = " ".join(word for word in words if word)
    return answer(
        LensList(
            named=named,
            lenses=[LensKnown(name=lens.name) for lens in found],
            more=len(found) == lenses.MANY,
        )
    )


def state(kept: Entered) -> PictureState:
    """A picture as the bench shows it."""
    standing = kept.standing
    picture, entry, recipe = standing.picture, standing.entry, standing.recipe
    original, options = picture.original, picture.file_options
    photo = photo_of(original)
    return PictureState(
        id=picture.id,
        version=picture.version,
        version_name=picture.version_name,
        set_id=picture.set_id,
        set_name=picture.set.name,
        may=may_words(kept.right),
        file=file_of(picture),
        proxy_scale=proxy_scale(original),
        addresses=addresses_of(original.sha256, entry.recipe_hash, recipe),
        entry_id=entry.id,
        what=retold(entry.what),
        said=kept.said,
        beside=kept.beside,
        unreadable=standing.unreadable,
        recipe=recipe,
        solution=standing.solution,
        report=report_of(photo, recipe, standing.solution),
        can_undo=entry.parent_id is not None,
        can_redo=standing.next_id is not None,
        file_options=ExportOptions.model_validate(options) if options else None,
    )
