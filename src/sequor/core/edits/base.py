"""What every edit has: its rule, its words in the ledger, how the next one joins it, its needs."""

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, ClassVar, Literal, Protocol, Self

import numpy as np
from pydantic import FailFast, Field

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.lens.chosen import distortion_of
from sequor.core.photo import PhotoFacts, Polynomial
from sequor.core.readings.typed_angle import TypedTilt
from sequor.core.recipe import (
    MAX_COORDINATE,
    MAX_REACH_PX,
    MAX_STROKE_POINTS,
    MIN_REACH_PX,
    Axis,
    Edges,
    Point,
    Recipe,
    Stroke,
)
from sequor.core.solved import Solved
from sequor.core.value import Value
from sequor.core.white import Chromaticity

Id = Annotated[str, Field(min_length=1, max_length=40)]
Ids = Annotated[tuple[Id, ...], FailFast(), Field(min_length=1, max_length=200)]
Zoom = Annotated[float, Field(ge=1e-4, le=1e6)]
"""Screen pixels for a source pixel, at which something was placed by hand."""
_ANYWHERE = (-MAX_COORDINATE, MAX_COORDINATE)
Together = tuple[str, ...]
"""The ids of readings that are fitted together: one, or the sides of a rectangle."""


@dataclass(frozen=True)
class Now:
    """What an edit finds: the photo, its recipe, and the way to its solution."""

    photo: PhotoFacts
    recipe: Recipe
    solve: Callable[[PhotoFacts, Recipe], Solved]

    @property
    def solved(self) -> Solved:
        """What the recipe comes to."""
        return self.solve(self.photo, self.recipe)


class Lookups(Protocol):
    """What edits need besides: read from the original, or looked up, when it is asked for."""

    def polynomial(self, name: str, recipe: Recipe) -> Polynomial:
        """The distortion of a lens of the open database at the focal length of a recipe."""

    def fitted(self, recipe: Recipe, groups: tuple[Together, ...]) -> Recipe:
        """A recipe with some readings fitted to the edges under them, one group after another."""

    def edges(self) -> Edges | None:
        """The straight edges of the picture; None where they are not to be looked for yet."""

    def grey_at(self, point: Point) -> Chromaticity:
        """The light under which a place of a raw picture is grey."""

    def check_light(self, white: Chromaticity) -> None:
        """Refuse a light that a raw picture cannot be developed for."""


@dataclass(frozen=True)
class Understood:
    """What a typed angle of an axis was taken for."""

    axis: Axis
    typed: TypedTilt


class Joins(Value):
    """How an edit joins the one before it, of its own kind and with the ``same`` fields alike.

    Where ``adds`` names a field, that is added up; else the later one takes the place of the
    earlier, of which it keeps what it does not say itself.
    """

    same: tuple[str, ...] = ()
    adds: str | None = None


class EditBase(Value, ABC):
    """Base of all edits; ``joins`` is None where each stands for itself."""

    joins: ClassVar[Joins | None] = None

    @abstractmethod
    def words(self) -> str:
        """What it is called in the ledger, such as ``level reading added``."""

    @abstractmethod
    def applied(self, now: Now) -> Recipe:
        """The recipe after it.

        Raises
        ------
        UnusableInput, ValidationError
            When it cannot be done.
        """

    def supplied(self, now: Now, lookups: Lookups) -> Self:
        """The same edit with what must be looked up before its rule can be followed."""
        return self

    def to_fit(self, before: Recipe) -> tuple[Together, ...]:
        """The readings that it wants fitted to the edges under them afterwards."""
        return ()

    def understood(self, now: Now) -> Understood | None:
        """What something typed in it was taken for."""
        return None


class OnPicture(EditBase, ABC):
    """Base of edits with points on the picture, in source pixels.

    Points that a hand placed on a screen are brought inside the picture. ``seen`` says what was
    shown there: the picture ``as_shot``, or ``undistorted``, or ``corrected``, in whose pixels the
    points then are; they are taken back through the lens of the recipe that is changed, and through
    its whole solution from the uncropped corrected picture.
    """

    seen: Literal["as_shot", "undistorted", "corrected"] | None = None

    def in_source(
        self, points: tuple[Point, ...], now: Now, within: bool = True
    ) -> tuple[Point, ...]:
        """Points in source pixels; those a hand placed are brought inside the picture, unless they
        need not lie ``within`` it.
        """
        if self.seen is None:
            return points
        places = np.array(points, dtype=float)
        with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
            if self.seen == "undistorted":
                places = distortion_of(now.photo, now.recipe)[0].distorted(places)
            elif self.seen == "corrected":
                places = now.solved.warp.to_source(places)
        if not np.isfinite(places).all():
            raise UnusableInput(tr("That place lies beyond the picture."))
        low, high = (0.0, [now.photo.width, now.photo.height]) if within else _ANYWHERE
        return tuple((float(x), float(y)) for x, y in np.clip(places, low, high))


class Brushing(OnPicture, ABC):
    """Base of edits by a stroke of a brush: points along its middle and half its width, where they
    are seen.
    """

    points: Annotated[tuple[Point, ...], Field(min_length=1, max_length=MAX_STROKE_POINTS)]
    reach: float = Field(ge=MIN_REACH_PX, le=MAX_REACH_PX)

    def stroke(self, now: Now, within: bool) -> Stroke:
        """The stroke in source pixels, its points brought inside the picture if they must lie
        ``within`` it; as wide as it is at its middle.
        """
        middle = self.points[len(self.points) // 2]
        beside = (middle[0] + self.reach, middle[1])
        here, there = self.in_source((middle, beside), now, within=False)
        reach = float(np.hypot(there[0] - here[0], there[1] - here[1]))
        reach = min(max(reach, MIN_REACH_PX), MAX_REACH_PX)
        return Stroke(points=self.in_source(self.points, now, within), reach=reach)
