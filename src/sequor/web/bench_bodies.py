"""Bodies of the bench: drafts, guides, proposals, lenses."""

from pydantic import Field

from sequor.core.edges.guide import HeldAgainst
from sequor.core.edits import InkReadings, ReadCamera
from sequor.core.propose.proposal import Proposal, Want
from sequor.core.recipe import Direction, Point, Recipe
from sequor.core.report.proposals import ProposalWords
from sequor.core.report.report import Report
from sequor.core.solution import Solution
from sequor.web.common_bodies import Body, EditList


class Draft(Body):
    """What edits lead to; nothing is stored."""

    recipe: Recipe
    solution: Solution
    report: Report


class GuideIn(Body):
    """A guide held against the picture that edits of an entry lead to.

    Its ends are in pixels of the uncropped corrected picture.
    """

    based_on: int
    edits: EditList = Field(default=(), max_length=200)
    direction: Direction
    ends: tuple[Point, Point]


class GuideOut(HeldAgainst):
    """What a guide shows, in words too."""

    words: str


class ProposalIn(Body):
    """What a picture is to be, by the recipe that edits of an entry lead to."""

    based_on: int
    edits: EditList = Field(default=(), max_length=200)
    want: Want = "any"


class ProposalOut(Body):
    """What the picture proposes itself, in words too; ``take`` is the edit that takes all of it,
    null where there is nothing to take.
    """

    proposal: Proposal
    words: ProposalWords
    take: InkReadings | None


class CameraLevelOut(Body):
    """What other pictures of the set say of its camera's level, in words, and the edit that reads
    it so; both empty where too few of them say anything.
    """

    words: str
    take: ReadCamera | None


class LensKnown(Body):
    """A lens of the open database."""

    name: str


class LensList(Body):
    """Lenses found, whether there are more, and what the file says of its camera and lens."""

    named: str
    lenses: list[LensKnown]
    more: bool
