"""Bodies that several resources share, and what every address may answer."""

import functools
from http import HTTPStatus
from typing import Annotated, Any, Literal

from flask_openapi3 import FileStorage
from pydantic import BaseModel, ConfigDict, FailFast, Field

from sequor.core.edits import Edit

Responses = dict[str | int | HTTPStatus, type[BaseModel] | dict[Any, Any] | None]
"""What an address may answer, by status."""


class Body(BaseModel):
    """Base of every body: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    @classmethod
    @functools.cache
    def model_json_schema(  # type: ignore[override]
        cls, *given: Any, **named: Any
    ) -> dict[str, Any]:
        """The schema as pydantic makes it, once: every address that answers with it asks for it."""
        return super().model_json_schema(*given, **named)


class SetPath(BaseModel):
    """The set in an address."""

    set_id: int


class PicturePath(BaseModel):
    """The picture in an address."""

    picture_id: int


class ExportPath(BaseModel):
    """The export in an address."""

    export_id: int


class Problem(Body):
    """What went wrong, in one or two sentences for a person; ``request_id`` finds it in the log.

    ``as_damaged``: the file that was sent is damaged, and can be taken in as that; ``pages``: it
    has so many, of which one is to be named.
    """

    problem: str
    request_id: str
    as_damaged: bool = False
    pages: int = 0


RightWord = Literal["look", "work", "export", "own"]
"""What somebody may do with a set."""
Numbers = Annotated[list[int], FailFast(), Field(max_length=10_000)]
"""Pictures, sets or exports by their numbers."""


class Some(Body):
    """Some pictures."""

    picture_ids: Annotated[Numbers, Field(min_length=1)]


class Done(Body):
    """To how many something was done."""

    count: int


class SetSummary(Body):
    """A set and the number of its pictures."""

    id: int
    name: str
    description: str
    pictures: int


class Upload(BaseModel):
    """One file."""

    file: FileStorage


EditList = Annotated[tuple[Edit, ...], FailFast()]


class Edits(Body):
    """Edits, one after the other, of the recipe of an entry."""

    based_on: int
    edits: EditList = Field(min_length=1, max_length=200)


class Move(Body):
    """An undo or redo, from the entry that the window shows."""

    based_on: int
