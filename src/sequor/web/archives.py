"""Archives out and in, and recipes as files."""

from collections.abc import Iterator

from flask import Response, current_app, request
from flask_openapi3 import Tag
from pydantic import BaseModel, Field

from sequor.services import archives
from sequor.services.ledgers import standing_of
from sequor.services.reply import Reply
from sequor.services.sets import SetLine
from sequor.web.answers import answer
from sequor.web.archives_bodies import Brought
from sequor.web.cards import summary_of
from sequor.web.common_bodies import PicturePath, Problem, Responses, SetPath, Upload
from sequor.web.context import context, resources
from sequor.web.documented import Room
from sequor.web.downloads import attachment

api = Room(
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
    return _zip(*archives.archive(resources(), set_id=path.set_id))


@api.get("/pictures.zip", responses=_ZIP, operation_id="archivePictures")
def archive_pictures(query: PicturesQuery) -> Response:
    """Some pictures with their ledgers, to take along."""
    ids = [int(number) for number in query.ids.split(",")]
    return _zip(*archives.archive(resources(), picture_ids=ids))


@api.post("/archives", responses={201: Brought, **_REFUSALS}, operation_id="bringIn")
def bring_in(form: Upload) -> Response:
    """Take an archive in; its sets are new ones."""

    reply: Reply[list[SetLine], Brought] = Reply(
        lambda made: Brought(sets=[summary_of(line) for line in made])
    )
    brought = archives.bring_in(resources(), form.file.stream, reply, request.content_length or 0)
    context().reader.look()
    return answer(brought, 201)


@api.get(
    "/pictures/<int:picture_id>/recipe.json",
    responses={200: {"content": {"application/json": {}}}, 404: Problem},
    operation_id="getRecipe",
)
def get_recipe(path: PicturePath) -> Response:
    """The recipe that holds, as a file that the command line takes too."""
    standing = standing_of(resources(), path.picture_id, lambda found: found)
    text = standing.recipe.model_dump_json(indent=2)
    name = standing.picture.name.rpartition(".")[0] or standing.picture.name
    response = current_app.response_class(f"{text}\n", mimetype="application/json")
    return attachment(response, f"{name}.sequor.json")


def _zip(name: str, content: Iterator[bytes]) -> Response:
    response = current_app.response_class(content, mimetype="application/zip")
    return attachment(response, f"{name}.sequor.zip")
