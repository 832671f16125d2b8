"""What is carried over from one picture to many, and acts taken back."""

from flask import Response
from flask_openapi3 import Tag

from sequor.core.report.carrying import PART_NAMES, misfit_words
from sequor.core.report.words import perspective_words, turn_words
from sequor.services import carrying
from sequor.store.history import ActTakenBack
from sequor.web.answers import answer
from sequor.web.carrying_bodies import (
    ActPath,
    Carried,
    CarryIn,
    CarryLook,
    CarryLooks,
    LookIn,
    PartOption,
    PartOptions,
    TakenBack,
)
from sequor.web.common_bodies import PicturePath, Problem, Responses
from sequor.web.context import resources
from sequor.web.documented import Room
from sequor.web.repeated import replying
from sequor.web.shown import shown

api = Room(
    "carrying",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="carrying", description="Carrying over")],
)
_PICTURE = "/pictures/<int:picture_id>"
_REFUSALS: Responses = {404: Problem, 422: Problem}
_WRITES: Responses = {**_REFUSALS, 409: Problem}


@api.get("/carry-options", responses={200: PartOptions}, operation_id="getCarryOptions")
def get_carry_options() -> Response:
    """What can be carried over."""
    return answer(
        PartOptions(
            parts=tuple(
                PartOption(value=part, label=label, about=about)
                for part, (label, about) in PART_NAMES.items()
            )
        )
    )


@api.post(
    f"{_PICTURE}/carry/look", responses={200: CarryLooks, **_REFUSALS}, operation_id="lookAtCarry"
)
def look_at_carry(path: PicturePath, body: LookIn) -> Response:
    """What would become of some pictures; nothing is stored."""
    found = carrying.look(resources(), path.picture_id, body.based_on, body.parts, body.picture_ids)
    return answer(CarryLooks(pictures=[_look(target) for target in found]))


@api.post(f"{_PICTURE}/carry", responses={201: Carried, **_WRITES}, operation_id="carryOver")
def carry_over(path: PicturePath, body: CarryIn) -> Response:
    """Carry over to pictures, all or none; one act that is undone as one."""
    targets = {target.picture_id: target.entry_id for target in body.targets}
    order = carrying.CarryOrder(path.picture_id, body.based_on, body.parts, targets, body.files)
    reply = replying(_carried, 201)
    return answer(carrying.carry_over(resources(), order, reply), 201)


@api.post(
    "/acts/<int:act_id>/undo", responses={200: TakenBack, 404: Problem}, operation_id="undoAct"
)
def undo_act(path: ActPath) -> Response:
    """Undo an act in every picture in which nothing was done since."""
    return answer(carrying.take_back(resources(), path.act_id, replying(_taken_back)))


def _carried(done: carrying.ActDone) -> Carried:
    return Carried(act_id=done.act_id, count=done.count)


def _taken_back(found: ActTakenBack) -> TakenBack:
    return TakenBack(count=len(found.back), changed=[picture.name for picture in found.changed])


def _look(target: carrying.Target) -> CarryLook:
    picture, solution = target.picture, target.solution
    head = target.standing.entry
    now = solution or target.standing.solution
    after = now.stance
    return CarryLook(
        picture_id=picture.id,
        name=", ".join(filter(None, (picture.name, picture.version_name))),
        entry_id=head.id,
        changes=target.changes,
        misfits=[misfit_words(part, misfit) for part, misfit in target.misfits.items()],
        problem=target.problem,
        before_words=_turned(head.roll_deg, head.lean_deg, head.swing_deg),
        after_words=_turned(after.roll_deg, after.lean_deg, after.swing_deg),
        kept_before=head.kept_fraction,
        kept_after=now.kept_fraction,
        shown=shown(picture, head.recipe_hash, target.recipe, now),
    )


def _turned(roll_deg: float, lean_deg: float, swing_deg: float) -> str:
    words = turn_words(roll_deg), perspective_words(lean_deg, swing_deg)
    return ", ".join(filter(None, words))
