"""What Sequor proposes: readings in pencil, with what they say together and how sure that is."""

from typing import Literal

from sequor.core.recipe import Axis, LeaveIn, Point, Reading
from sequor.core.value import Value

VERSION = 2
"""Of how pictures are read; raised when the same picture would propose something else."""
Want = Literal["any", "level", "plumb", "square"]
"""What a picture is to be: level (roll), plumb (roll and lean), square (swing too), or what it asks
for itself."""
Told = Literal["level", "plumb", "square"]
Doubt = Literal["nothing", "camera", "few", "unlike", "unsure", "no_lean", "no_front"]
"""Why a proposal is not sure: nothing is there; only the camera's own level is; too few lines; two
stances explain the picture as well; the deviation is large; the lean, or the swing of a front, is
not told."""
TAKEN_OUT: dict[Told, tuple[Axis, ...]] = {
    "level": ("roll",),
    "plumb": ("roll", "lean"),
    "square": ("roll", "lean", "swing"),
}


class ProposedReading(Value):
    """A reading in pencil.

    ``straight`` are its points as the lens of the recipe leaves them, ``angle_deg`` is its tilt as
    shot, ``sigma_deg`` its deviation, ``share`` how much it counts among all, ``length_share`` how
    long it is against the picture's diagonal, ``agree`` how many others of its kind agree with it.
    """

    reading: Reading
    straight: tuple[Point, ...]
    angle_deg: float
    sigma_deg: float
    share: float
    length_share: float
    agree: int


class ProposedAxis(Value):
    """An axis of the stance that the readings tell; ``sure`` if it may be relied on."""

    deg: float | None = None
    sigma_deg: float | None = None
    sure: bool = False


class Proposal(Value):
    """Readings in pencil, and the stance with them.

    ``told`` is what they are enough for, at most what was wanted; ``sure`` whether that may be
    relied on; ``doubt`` why not. ``leave_in`` says which axes stay in the picture.
    """

    want: Want
    told: Told
    readings: tuple[ProposedReading, ...] = ()
    roll: ProposedAxis = ProposedAxis()
    lean: ProposedAxis = ProposedAxis()
    swing: ProposedAxis = ProposedAxis()
    sure: bool = False
    doubt: Doubt | None = None
    leave_in: LeaveIn = LeaveIn()

    def axis(self, axis: Axis) -> ProposedAxis:
        """One of the axes."""
        found: ProposedAxis = getattr(self, axis)
        return found
