"""Bodies of carrying over."""

from typing import Annotated

from pydantic import BaseModel, FailFast, Field

from sequor.core.edits.carrying import Part
from sequor.core.report.options import Option
from sequor.web.common_bodies import Body
from sequor.web.pictures_bodies import Shown


class PartOption(Option):
    """Something that can be carried over, and what it is."""

    value: Part
    about: str


class PartOptions(Body):
    """What can be carried over from one picture to others."""

    parts: tuple[PartOption, ...]


Parts = Annotated[tuple[Part, ...], FailFast(), Field(max_length=20)]


class LookIn(Body):
    """What would be carried over from an entry to some pictures."""

    based_on: int
    parts: Parts
    picture_ids: Annotated[list[int], FailFast()] = Field(min_length=1, max_length=1000)


class CarryTarget(Body):
    """A picture, and the entry that was looked at."""

    picture_id: int
    entry_id: int


class CarryIn(Body):
    """What is carried over from an entry, and to which pictures; ``files`` takes the choices of
    files along.
    """

    based_on: int
    parts: Parts
    files: bool = False
    targets: Annotated[list[CarryTarget], FailFast()] = Field(min_length=1, max_length=1000)


class CarryLook(Body):
    """What a picture would become: ``misfits`` say what does not fit it and why, ``problem`` why it
    cannot be done at all.
    """

    picture_id: int
    name: str
    entry_id: int
    changes: bool
    misfits: list[str]
    problem: str
    before_words: str
    after_words: str
    kept_before: float
    kept_after: float
    shown: Shown


class CarryLooks(Body):
    """What every picture would become."""

    pictures: list[CarryLook]


class Carried(Body):
    """An act on many pictures: its number, and how many were changed."""

    act_id: int
    count: int


class ActPath(BaseModel):
    """The act in an address."""

    act_id: int


class TakenBack(Body):
    """In how many pictures an act was undone, and those that were changed since and stay."""

    count: int
    changed: list[str]
