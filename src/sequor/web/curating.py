"""Pictures moved, copied, thrown away and taken back; the bin; what is kept and how large it is."""

from datetime import timedelta

from flask import Response
from flask_openapi3 import Tag

from sequor.core.language import mark, tr
from sequor.services import curating, quarantine
from sequor.store.models import Picture, PictureSet
from sequor.web.answers import answer
from sequor.web.common_bodies import Done, Problem, Responses, Some
from sequor.web.context import context, resources
from sequor.web.curating_bodies import (
    Bin,
    BinnedPicture,
    BinnedSet,
    IntoSet,
    OutOfQuarantine,
    Quarantine,
    Quarantined,
    QuarantinedFile,
    Restore,
    StorageLine,
    StorageState,
)
from sequor.web.documented import Room
from sequor.web.images import corrected_address
from sequor.web.repeated import counting

api = Room(
    "curating",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="curating", description="The bin, moves and copies, what is stored")],
)
_REFUSALS: Responses = {404: Problem, 422: Problem}
_NAMES = {
    "originals": (mark("Originals"), mark("as they came in; nothing but you deletes one")),
    "exports": (mark("Exports"), mark("corrected files; each can be made again from its entry")),
    "database": (mark("Database"), mark("sets, recipes, ledgers, what pictures propose")),
    "proxies": (mark("Reduced pictures"), mark("for the stage; made again when they are missing")),
    "thumbnails": (
        mark("Thumbnails"),
        mark("for the contact sheet; made again when they are missing"),
    ),
    "views": (mark("Crisp views and fills"), mark("in memory; made again when they are looked at")),
    "bin": (mark("In the bin"), mark("counted among the originals")),
    "quarantine": (mark("Set aside"), mark("files that the database does not name; below")),
}


@api.post("/pictures/move", responses={200: Done, **_REFUSALS}, operation_id="movePictures")
def move_pictures(body: IntoSet) -> Response:
    """Move pictures, each with its versions, into another set."""
    return answer(curating.move_pictures(resources(), body.picture_ids, body.set_id, counting()))


@api.post("/pictures/copy", responses={201: Done, **_REFUSALS}, operation_id="copyPictures")
def copy_pictures(body: IntoSet) -> Response:
    """Copy pictures, each with its versions and their ledgers, into a set."""

    reply = counting(201)
    return answer(curating.copy_pictures(resources(), body.picture_ids, body.set_id, reply), 201)


@api.post("/pictures/bin", responses={200: Done, **_REFUSALS}, operation_id="binPictures")
def bin_pictures(body: Some) -> Response:
    """Throw versions of pictures into the bin."""
    return answer(curating.bin_pictures(resources(), body.picture_ids, counting()))


@api.get("/bin", responses={200: Bin}, operation_id="getBin")
def get_bin() -> Response:
    """What is in the bin, and until when."""
    return answer(curating.in_bin(resources(), _bin))


@api.post("/bin/restore", responses={200: Done, **_REFUSALS}, operation_id="restore")
def restore(body: Restore) -> Response:
    """Take pictures and sets out of the bin, whole."""

    return answer(curating.restore(resources(), body.picture_ids, body.set_ids, counting()))


@api.post("/bin/empty", responses={200: Done}, operation_id="emptyBin")
def empty_bin() -> Response:
    """Delete what is in the bin, for good."""
    return answer(curating.empty_bin(resources(), counting()))


@api.get("/quarantine", responses={200: Quarantine}, operation_id="getQuarantine")
def get_quarantine() -> Response:
    """Files that the database does not name; nobody but a person deletes one."""
    return answer(_quarantine())


@api.post(
    "/quarantine/take-back",
    responses={200: Quarantine, **_REFUSALS},
    operation_id="takeOutOfQuarantine",
)
def take_out_of_quarantine(body: OutOfQuarantine) -> Response:
    """Take files that were set aside into a set, as pictures."""
    quarantine.take_back(resources(), body.names, body.set_id)
    context().reader.look()
    return answer(_quarantine())


@api.post(
    "/quarantine/delete", responses={200: Quarantine, **_REFUSALS}, operation_id="deleteQuarantined"
)
def delete_quarantined(body: Quarantined) -> Response:
    """Delete files that were set aside, for good."""
    quarantine.delete(resources(), body.names)
    return answer(_quarantine())


@api.get("/storage", responses={200: StorageState}, operation_id="getStorage")
def get_storage() -> Response:
    """What is kept, how large it is, and what is free."""
    found = curating.storage(resources())
    lines = [
        StorageLine(
            name=name,
            label=tr(label),
            about=tr(about),
            files=found.kept[name].files,
            size=found.kept[name].size,
            most=found.kept[name].most,
        )
        for name, (label, about) in _NAMES.items()
    ]
    return answer(
        StorageState(
            lines=lines,
            free=found.free,
            export_days=resources().settings.export_days,
            bin_days=resources().settings.bin_days,
        )
    )


def _quarantine() -> Quarantine:
    return Quarantine(
        files=[
            QuarantinedFile(
                name=one.name, came_as=one.came_as, size=one.size, since=one.since or None
            )
            for one in resources().files.aside()
        ]
    )


def _bin(found: tuple[list[Picture], list[PictureSet]]) -> Bin:
    pictures, sets = found
    days = resources().settings.bin_days
    return Bin(
        days=days,
        pictures=[_picture(one, days) for one in pictures],
        sets=[_set(one, days) for one in sets],
    )


def _picture(picture: Picture, days: float) -> BinnedPicture:
    binned_at = picture.binned_at
    assert binned_at is not None
    address = corrected_address(picture.original_sha256, picture.head.recipe_hash)
    return BinnedPicture(
        id=picture.id,
        name=picture.name,
        version_name=picture.version_name,
        set_name=picture.set.name,
        binned_at=binned_at,
        until=binned_at + timedelta(days=days),
        thumbnail=f"{address}/thumbnail.jpg",
    )


def _set(found: PictureSet, days: float) -> BinnedSet:
    binned_at = found.binned_at
    assert binned_at is not None
    return BinnedSet(
        id=found.id,
        name=found.name,
        pictures=len(found.pictures),
        binned_at=binned_at,
        until=binned_at + timedelta(days=days),
    )
