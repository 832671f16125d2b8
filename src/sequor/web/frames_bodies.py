"""Bodies of frames and corners."""

from pydantic import BaseModel, Field

from sequor.core.corner_ways import WayCost
from sequor.core.fill.judge import FlawKind
from sequor.core.least_harm import HarmWeights, Mixture
from sequor.core.print_size import PrintSize
from sequor.core.recipe import Point
from sequor.core.render.size import Output, OutputSize
from sequor.core.report.harm_words import HarmWords
from sequor.core.report.report import WayWords
from sequor.web.common_bodies import Body


class CornerWay(Body):
    """A way to deal with all of the empty corners, and what it would cost."""

    cost: WayCost
    words: WayWords


class CornerWays(Body):
    """Cropping, bending and filling, as far as each can be done."""

    ways: list[CornerWay]


class SizeIn(Body):
    """A size for the file of an entry."""

    entry_id: int
    size: OutputSize


class OutputOut(Output):
    """The size that a file gets, and what that does to the picture in words."""

    words: str


class PrintSizeIn(PrintSize):
    """A size that a lab prints, with its name."""

    name: str = Field(min_length=1, max_length=80)


class PrintSizeOut(PrintSizeIn):
    """A listed size, the same lying or upright, and the pixels it has."""

    id: int
    turned: PrintSize
    width_px: int
    height_px: int


class PrintSizes(Body):
    """The listed sizes."""

    sizes: list[PrintSizeOut]


class PrintSizePath(BaseModel):
    """The listed size in an address."""

    size_id: int


class LeastHarmIn(Body):
    """An entry, and how much it counts that something of it is lost, bent or made up."""

    entry_id: int
    weights: HarmWeights = HarmWeights()


class LeastHarmOut(Body):
    """The mixture that does the least harm, by whose edit it is taken, and why, in words."""

    best: Mixture
    words: HarmWords


class WeightingIn(Body):
    """What counts how much, and its name."""

    name: str = Field(min_length=1, max_length=60)
    weights: HarmWeights


class WeightingOut(WeightingIn):
    """What counts how much under a name."""

    id: int


class Weightings(Body):
    """All of them, by name."""

    weightings: list[WeightingOut]


class WeightingPath(BaseModel):
    """The weighting in an address."""

    weighting_id: int


class FillRegion(Body):
    """A part of the frame that is filled: the corner it belongs to and its share of the frame."""

    corner: int
    name: str
    share: float


class FillFlaw(Body):
    """A place of a fill that stands out: its middle in shares of the frame, its radius in shares of
    the frame's width, and how much it stands out: 1 is just seen.
    """

    kind: FlawKind
    x: float
    y: float
    radius: float
    strength: float
    words: str


class FillState(Body):
    """What is filled in a frame, and where straight edges cross the seam, in shares of it.

    ``doubt``, 0 to 1, is how unlike the truth the fill may be (one minus the structural similarity
    to be expected), ``flaws`` are the places of it that stand out, the plainest few; both are empty
    where it is a colour or nothing.
    """

    regions: list[FillRegion]
    notes: list[str]
    crossings: list[Point]
    doubt: float | None
    doubt_words: str
    flaws: list[FillFlaw]


class CornerCheck(Body):
    """The frame of an entry as its file has it at full size, counted pixel by pixel."""

    width: int
    height: int
    empty_pixels: int
    filled_pixels: int
    words: str
