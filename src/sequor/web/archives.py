"""Archives out and in, and recipes as files."""

from collections.abc import Iterator

from flask import Response, current_app, request
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field
from sqlalchemy.orm import Session

from sequor.services import archives
from sequor.store import ledger, library
from sequor.store.models import PictureSet
from sequor.web.answers import answer
from sequor.web.context import context, means
from sequor.web.downloads import attachment
from sequor.web.schemas import (
    Brought,
    PicturePath,
    Problem,
    Responses,
    SetPath,
    SetSummary,
    Upload,
)

api = APIBlueprint(
    "archives",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="archives", description="Taking it with you")],
)
_REFUSALS: Responses = {404: Problem, 422: Problem}
_ZIP: Responses = {200: {"content": {"application/zip": {}}}, **_REFUSALS}


class PicturesQuery(BaseModel):
    """The numbers of pictures, such as ``3,4,5``."""

    ids: str = Field(max_length=10_000, pattern=r"^\d+(,\d+)*$")


@api.get("/sets/<int:set_id>/archive.zip", responses=_ZIP, operation_id="archiveSet")
def archive_set(path: SetPath) -> Response:
    """A set with everything in it, to take along."""
    return _zip(*archives.archive(means(), set_id=path.set_id))


@api.get("/pictures.zip", responses=_ZIP, operation_id="archivePictures")
def archive_pictures(query: PicturesQuery) -> Response:
    """Some pictures with their ledgers, to take along."""
    ids = [int(number) for number in query.ids.split(",")]
    return _zip(*archives.archive(means(), picture_ids=ids))


@api.post("/archives", responses={201: Brought, **_REFUSALS}, operation_id="bringIn")
def bring_in(form: Upload) -> Response:
    """Take an archive in; its sets are new ones."""

    def say(session: Session, made: list[PictureSet]) -> Brought:
        return Brought(
            sets=[
                SetSummary(
                    id=one.id,
                    name=one.name,
                    description=one.description,
                    pictures=library.count_pictures(session, one.id),
                )
                for one in made
            ]
        )

    brought = archives.bring_in(means(), form.file.stream, say, request.content_length or 0)
    context().reader.look()
    return answer(brought, 201)


@api.get(
    "/pictures/<int:picture_id>/recipe.json",
    responses={200: {"content": {"application/json": {}}}, 404: Problem},
    operation_id="getRecipe",
)
def get_recipe(path: PicturePath) -> Response:
    """The recipe that holds, as a file that the command line takes too."""
    with means().database.reading() as session:
        picture = library.get_picture(session, path.picture_id)
        text = ledger.standing(session, picture).recipe.model_dump_json(indent=2)
        name = picture.name.rpartition(".")[0] or picture.name
    response = current_app.response_class(f"{text}\n", mimetype="application/json")
    return attachment(response, f"{name}.sequor.json")


def _zip(name: str, content: Iterator[bytes]) -> Response:
    response = current_app.response_class(content, mimetype="application/zip")
    return attachment(response, f"{name}.sequor.zip")
