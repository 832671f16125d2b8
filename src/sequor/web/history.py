"""The ledger of a picture opened, its versions, and what is carried over from it to others."""

from flask import Response
from flask_openapi3 import APIBlueprint, Tag
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from sequor.core.report.carrying import PART_NAMES, misfit_words
from sequor.core.report.words import perspective_words, turn_words
from sequor.core.solve import solve
from sequor.services import carrying, editing
from sequor.store import history, ledger, library, versions
from sequor.store.lines import depths_of
from sequor.store.models import Export, Picture
from sequor.web.answers import answer
from sequor.web.bench import state
from sequor.web.context import means
from sequor.web.images import corrected_address
from sequor.web.repeated import told, written
from sequor.web.schemas import (
    ActPath,
    Carried,
    CarryIn,
    CarryLook,
    CarryLooks,
    EntryPath,
    GoBack,
    History,
    HistoryEntry,
    LookIn,
    MadeVersion,
    NewVersion,
    PartOption,
    PartOptions,
    PicturePath,
    PictureState,
    Problem,
    Responses,
    Shown,
    TakenBack,
    Version,
    VersionName,
    Versions,
)
from sequor.web.shown import shown

api = APIBlueprint(
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
    with means().database.reading() as session:
        picture = library.get_picture(session, path.picture_id)
        entries = history.entries_of(session, picture.id)
        head_id = ledger.standing(session, picture).entry.id
        sha256 = picture.original_sha256
    depths = depths_of([(entry.id, entry.parent_id) for entry in entries], head_id)
    return answer(
        History(
            head_id=head_id,
            entries=[
                HistoryEntry(
                    id=entry.id,
                    parent_id=entry.parent_id,
                    what=entry.what,
                    created_at=entry.created_at,
                    turn_words=turn_words(entry.roll_deg),
                    perspective_words=perspective_words(entry.lean_deg, entry.swing_deg),
                    kept_fraction=entry.kept_fraction,
                    depth=depths[entry.id],
                    thumbnail=f"{corrected_address(sha256, entry.recipe_hash)}/thumbnail.jpg",
                )
                for entry in entries
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
    with means().database.reading() as session:
        picture = library.get_picture(session, path.picture_id)
        entry = ledger.entry_of_picture(session, picture.id, path.entry_id)
        solution = solve(library.photo_of(picture.original), ledger.recipe_of(entry))
        return answer(shown(picture, entry.recipe_hash, solution))


@api.post(f"{_PICTURE}/return", responses={201: PictureState, **_WRITES}, operation_id="goBack")
def go_back(path: PicturePath, body: GoBack) -> Response:
    """Let the recipe of an earlier entry hold again, by a new entry."""
    said = told(state, 201)
    back = editing.go_back(means(), path.picture_id, body.based_on, body.entry_id, said)
    return answer(back, 201)


@api.get(
    f"{_PICTURE}/versions", responses={200: Versions, 404: Problem}, operation_id="listVersions"
)
def list_versions(path: PicturePath) -> Response:
    """All versions of a picture."""
    with means().database.reading() as session:
        picture = library.get_picture(session, path.picture_id)
        found = versions.versions_of(session, picture)
        return answer(Versions(versions=[_version(session, one) for one in found]))


@api.post(
    f"{_PICTURE}/versions", responses={201: MadeVersion, **_REFUSALS}, operation_id="addVersion"
)
def add_version(path: PicturePath, body: NewVersion) -> Response:
    """Begin another version, from an entry and edits of it."""
    said = told(_made, 201)
    made = editing.add_version(means(), path.picture_id, body.based_on, body.edits, body.name, said)
    return answer(made, 201)


@api.patch(f"{_PICTURE}/version", responses={200: Version, **_REFUSALS}, operation_id="nameVersion")
def name_version(path: PicturePath, body: VersionName) -> Response:
    """Give a version another name."""

    def change(session: Session) -> Version:
        return _version(session, versions.name_version(session, path.picture_id, body.name))

    return written(change)


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
    found = carrying.look(means(), path.picture_id, body.based_on, body.parts, body.picture_ids)
    return answer(CarryLooks(pictures=[_look(target) for target in found]))


@api.post(f"{_PICTURE}/carry", responses={201: Carried, **_WRITES}, operation_id="carryOver")
def carry_over(path: PicturePath, body: CarryIn) -> Response:
    """Carry over to pictures, all or none; one act that is undone as one."""
    targets = {target.picture_id: target.entry_id for target in body.targets}
    said = told(_carried, 201)
    done = carrying.carry_over(
        means(), path.picture_id, body.based_on, body.parts, targets, body.files, said
    )
    return answer(done, 201)


@api.post(
    "/acts/<int:act_id>/undo", responses={200: TakenBack, 404: Problem}, operation_id="undoAct"
)
def undo_act(path: ActPath) -> Response:
    """Undo an act in every picture in which nothing was done since."""
    return answer(carrying.take_back(means(), path.act_id, told(_taken_back)))


def _made(_: Session, made: Picture) -> MadeVersion:
    return MadeVersion(id=made.id)


def _carried(_: Session, done: carrying.Done) -> Carried:
    return Carried(act_id=done.act_id, count=done.count)


def _taken_back(_: Session, found: history.TakenBack) -> TakenBack:
    return TakenBack(count=len(found.back), changed=[picture.name for picture in found.changed])


def _version(session: Session, picture: Picture) -> Version:
    standing = ledger.standing(session, picture)
    entry, recipe, solution = standing.entry, standing.recipe, standing.solution
    done = select(func.count()).where(Export.picture_id == picture.id, Export.state == "done")
    frame = recipe.frame
    size = frame.print_size
    fill = solution.cost.fill_fraction
    kept = f"keeps {entry.kept_fraction * 100:.1f} %"
    return Version(
        id=picture.id,
        version=picture.version,
        name=picture.version_name or "first version",
        entry_id=entry.id,
        what=entry.what,
        width=solution.frame.width,
        height=solution.frame.height,
        ratio=f"{size.width:g} × {size.height:g} {size.unit}" if size else frame.ratio,
        turn_words=turn_words(entry.roll_deg),
        cost_words=f"{kept}, {fill * 100:.1f} % filled" if fill else kept,
        kept_fraction=entry.kept_fraction,
        exports=session.scalar(done) or 0,
        thumbnail=f"{corrected_address(picture.original_sha256, entry.recipe_hash)}/thumbnail.jpg",
    )


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
        shown=shown(picture, head.recipe_hash, now),
    )


def _turned(roll_deg: float, lean_deg: float, swing_deg: float) -> str:
    words = turn_words(roll_deg), perspective_words(lean_deg, swing_deg)
    return ", ".join(filter(None, words))
