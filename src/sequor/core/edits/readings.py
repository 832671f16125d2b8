"""Edits of readings: drawn, moved, fitted, switched, named."""

import math
from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from sequor.core.camera import focal_of
from sequor.core.edits.base import EditBase, Id, Ids, Joins, Now, OnPicture, Together, Zoom
from sequor.core.edits.parts import adding, clamped, find, linked, switched, with_readings
from sequor.core.errors import UnusableInput
from sequor.core.language import mark, tr
from sequor.core.names import named
from sequor.core.photo import MOST_SIGMA_DEG, CameraLevel
from sequor.core.readings.by_camera import USUAL_SIGMA_DEG, reading_of
from sequor.core.readings.reading import hand_points
from sequor.core.readings.rectangle import rectangle
from sequor.core.recipe import (
    MAX_NAME,
    MAX_POINTS,
    MAX_SIGMA_PX,
    MAX_WEIGHT,
    MIN_SIGMA_PX,
    Direction,
    Kind,
    Point,
    Points,
    Reading,
    Recipe,
)
from sequor.core.warp.map import Warp

_BY_KEY_SIGMA_PX = 1.0
"""A point placed by key is as good as the step, not as the pointer."""
_SAME_POINT_PX = 1e-6
"""Corners of two sides of a rectangle are one when they are nearer than this."""
_CHOICES = 1000
"""Other edges that can be asked for before it begins with the first again."""
_ADDED = {
    "straight": mark("line added"),
    "trace": mark("trace added"),
    "set_out": mark("set-out line added"),
}
_READ_AS = {"horizon": mark("the horizon"), "set_out": mark("a set-out line")}


def _sigma_px(zoom: float | None) -> float:
    """Each end is placed to about one screen pixel."""
    return _BY_KEY_SIGMA_PX if zoom is None else clamped(1 / zoom, MIN_SIGMA_PX, MAX_SIGMA_PX)


def _nearer(points: tuple[Point, ...], warp: Warp) -> Direction:
    """Whether a line is nearer to level or to plumb in the corrected picture."""
    (x0, y0), (x1, y1) = warp.to_corrected(np.array([points[0], points[-1]]))
    return "level" if abs(x1 - x0) >= abs(y1 - y0) else "plumb"


def _moved(recipe: Recipe, name: str, place: int, to: Point, sigma_px: float | None) -> Recipe:
    """A point moved, with the ends of the sides of its rectangle that are the same corner."""
    moved = find(recipe, name)
    if place >= len(hand_points(moved)):
        raise UnusableInput(tr("That reading has no such point."))
    before = hand_points(moved)[place]
    sigma = min(moved.sigma_px, _BY_KEY_SIGMA_PX) if sigma_px is None else sigma_px
    changed = []
    for reading in linked(recipe, moved):
        points = hand_points(reading)
        same = [
            i == place if reading.id == name else math.dist(p, before) < _SAME_POINT_PX
            for i, p in enumerate(points)
        ]
        if any(same):
            new = tuple(to if here else p for p, here in zip(points, same, strict=True))
            changed.append(reading.changed(points=new, sigma_px=sigma, fitted=None, camera=None))
    return with_readings(recipe, *changed)


def _read_anew(recipe: Recipe, ids: tuple[str, ...], kind: Kind) -> Recipe:
    """Readings of another kind; what was wanted of them by bending was wanted of the old one."""
    return switched(recipe, ids, kind=kind, becomes="true", wanted_deg=None, camera=None)


class DrawReading(OnPicture):
    """A line that was drawn; with ``fit`` it is fitted to the image edge under it.

    A ``straight`` one is level or plumb in reality, whichever it is nearer to in the corrected
    picture. Without a ``zoom`` its points are true to a pixel.
    """

    do: Literal["draw_reading"] = "draw_reading"
    id: Id
    kind: Kind | Literal["straight"]
    points: Points = Field(min_length=2, max_length=MAX_POINTS)
    zoom: Zoom | None = None
    fit: bool = False

    def words(self) -> str:
        if self.kind in _ADDED:
            return tr(_ADDED[self.kind])
        return tr("{kind} reading added", kind=named(self.kind))

    def applied(self, now: Now) -> Recipe:
        points, sigma = self.in_source(self.points, now), _sigma_px(self.zoom)
        kind = _nearer(points, now.solved.warp) if self.kind == "straight" else self.kind
        drawn = Reading(id=self.id, kind=kind, points=points, sigma_px=sigma)
        return adding(now.recipe, drawn)

    def to_fit(self, before: Recipe) -> tuple[Together, ...]:
        return ((self.id,),) if self.fit else ()


class PlaceRectangle(OnPicture):
    """The four corners, in any order, of something rectangular that faces the camera."""

    do: Literal["place_rectangle"] = "place_rectangle"
    group: Annotated[str, Field(min_length=1, max_length=30)]
    vertices: tuple[Point, Point, Point, Point]
    zoom: Zoom | None = None
    fit: bool = False

    def words(self) -> str:
        return tr("rectangle placed")

    def applied(self, now: Now) -> Recipe:
        a, b, c, d = self.in_source(self.vertices, now)
        return adding(now.recipe, *rectangle((a, b, c, d), self.group, _sigma_px(self.zoom)))

    def to_fit(self, before: Recipe) -> tuple[Together, ...]:
        return (tuple(f"{self.group}-{side}" for side in range(4)),) if self.fit else ()


class MovePoint(OnPicture):
    """A point of a reading moved to a place, with the end of the next side that is the same corner.

    Placed by key (no ``zoom``) it is true to a pixel or better. With ``refit`` a reading that was
    fitted to an edge is fitted again.
    """

    do: Literal["move_point"] = "move_point"
    id: Id
    point: int = Field(ge=0, lt=MAX_POINTS)
    to: Point
    zoom: Zoom | None = None
    refit: bool = False

    def words(self) -> str:
        return tr("reading moved")

    def applied(self, now: Now) -> Recipe:
        (to,) = self.in_source((self.to,), now)
        sigma = None if self.zoom is None else _sigma_px(self.zoom)
        return _moved(now.recipe, self.id, self.point, to, sigma)

    def to_fit(self, before: Recipe) -> tuple[Together, ...]:
        reading = find(before, self.id)
        wanted = self.refit and reading.fitted
        return (tuple(other.id for other in linked(before, reading)),) if wanted else ()


class MoveReading(OnPicture):
    """A whole reading, with the sides it is linked to, moved by what lies between two places of the
    picture.

    With ``refit`` one that was fitted to an edge is fitted again.
    """

    do: Literal["move_reading"] = "move_reading"
    id: Id
    places: tuple[Point, Point]
    refit: bool = False

    def words(self) -> str:
        return tr("reading moved")

    def applied(self, now: Now) -> Recipe:
        (x0, y0), (x1, y1) = self.in_source(self.places, now)
        moved = linked(now.recipe, find(now.recipe, self.id))
        points = np.array([point for reading in moved for point in hand_points(reading)])
        high = np.array([now.photo.width, now.photo.height])
        by_x, by_y = np.clip([x1 - x0, y1 - y0], -points.min(axis=0), high - points.max(axis=0))
        changed = (
            reading.changed(
                points=tuple((x + by_x, y + by_y) for x, y in hand_points(reading)),
                fitted=None,
                camera=None,
            )
            for reading in moved
        )
        return with_readings(now.recipe, *changed)

    def to_fit(self, before: Recipe) -> tuple[Together, ...]:
        reading = find(before, self.id)
        wanted = self.refit and reading.fitted
        return (tuple(other.id for other in linked(before, reading)),) if wanted else ()


class NudgePoint(EditBase):
    """A point of a reading moved by some source pixels."""

    joins = Joins(same=("id", "point"), adds="by")
    do: Literal["nudge_point"] = "nudge_point"
    id: Id
    point: int = Field(ge=0, lt=MAX_POINTS)
    by: Point

    def words(self) -> str:
        return tr("reading moved")

    def applied(self, now: Now) -> Recipe:
        points = hand_points(find(now.recipe, self.id))
        if self.point >= len(points):
            raise UnusableInput(tr("That reading has no such point."))
        (x, y), (dx, dy) = points[self.point], self.by
        to = clamped(x + dx, 0, now.photo.width), clamped(y + dy, 0, now.photo.height)
        return _moved(now.recipe, self.id, self.point, to, None)


class FitReading(EditBase):
    """Fit a reading, with the sides it is linked to, to the edges under them; with ``another`` to
    the next edge in reach.
    """

    do: Literal["fit_reading"] = "fit_reading"
    id: Id
    another: bool = False

    def words(self) -> str:
        return tr("reading fitted to another edge") if self.another else tr("reading fitted")

    def applied(self, now: Now) -> Recipe:
        if find(now.recipe, self.id).camera:
            raise UnusableInput(
                tr("What the camera tells lies on no edge; move it to make it yours.")
            )
        fitted = find(now.recipe, self.id).fitted
        if not self.another or fitted is None:
            return now.recipe
        other = fitted.changed(choice=(fitted.choice + 1) % _CHOICES)
        return switched(now.recipe, (self.id,), fitted=other)

    def to_fit(self, before: Recipe) -> tuple[Together, ...]:
        return (tuple(other.id for other in linked(before, find(before, self.id))),)


class FitEverything(EditBase):
    """Fit every reading, each for itself, to the edge under it.

    Traces come first: the other lines are straight only in the undistorted picture.
    """

    do: Literal["fit_everything"] = "fit_everything"

    def words(self) -> str:
        return tr("all readings fitted")

    def applied(self, now: Now) -> Recipe:
        return now.recipe

    def to_fit(self, before: Recipe) -> tuple[Together, ...]:
        drawn = [reading for reading in before.readings if not reading.camera]
        ordered = sorted(drawn, key=lambda reading: not reading.by_points)
        return tuple((reading.id,) for reading in ordered)


class UnfitReading(EditBase):
    """A fitted reading, with the sides it is linked to, as it was drawn."""

    do: Literal["unfit_reading"] = "unfit_reading"
    id: Id

    def words(self) -> str:
        return tr("reading as drawn")

    def applied(self, now: Now) -> Recipe:
        drawn = (
            side.changed(points=side.fitted.drawn, fitted=None)
            for side in linked(now.recipe, find(now.recipe, self.id))
            if side.fitted
        )
        return with_readings(now.recipe, *drawn)


class RemoveReading(EditBase):
    """Delete a reading."""

    do: Literal["remove_reading"] = "remove_reading"
    id: Id

    def words(self) -> str:
        return tr("reading deleted")

    def applied(self, now: Now) -> Recipe:
        find(now.recipe, self.id)
        left = tuple(reading for reading in now.recipe.readings if reading.id != self.id)
        return now.recipe.changed(readings=left)


class SwitchReadings(EditBase):
    """Switch readings off, so that they are kept but steer nothing, or on."""

    do: Literal["switch_readings"] = "switch_readings"
    ids: Ids
    active: bool

    def words(self) -> str:
        return tr("reading switched on") if self.active else tr("reading switched off")

    def applied(self, now: Now) -> Recipe:
        return switched(now.recipe, self.ids, active=self.active)


class PreferReading(EditBase):
    """Trust one reading over others, which are switched off."""

    do: Literal["prefer_reading"] = "prefer_reading"
    id: Id
    over: Ids

    def words(self) -> str:
        return tr("one reading preferred")

    def applied(self, now: Now) -> Recipe:
        preferred = switched(now.recipe, (self.id,), active=True)
        return switched(preferred, self.over, active=False)


class KeepAgreeing(EditBase):
    """Switch readings off, the worst first, until all that steer agree with each other."""

    do: Literal["keep_agreeing"] = "keep_agreeing"

    def words(self) -> str:
        return tr("readings that agree kept")

    def applied(self, now: Now) -> Recipe:
        recipe = now.recipe
        while True:
            steers = {reading.id for reading in recipe.readings if reading.steers}
            readings = now.solve(now.photo, recipe).readings
            odd = [reading for reading in readings if reading.outlier and reading.id in steers]
            if not odd or len(steers) < 2:
                return recipe
            worst = max(odd, key=lambda reading: abs(reading.residual_deg))
            recipe = switched(recipe, (worst.id,), active=False)


class MakeChecks(EditBase):
    """Let readings be measured and reported, but steer nothing."""

    do: Literal["make_checks"] = "make_checks"
    ids: Ids

    def words(self) -> str:
        return tr("taken to slope really")

    def applied(self, now: Now) -> Recipe:
        return _read_anew(now.recipe, self.ids, "check")


class ReadCamera(EditBase):
    """Take the camera's own level, as its file says it, for a reading beside the others; without a
    ``sigma_deg`` it is good to about a degree. An ``offset_deg``, by which it is known to be off,
    is added to its roll.
    """

    do: Literal["read_camera"] = "read_camera"
    sigma_deg: float | None = Field(default=None, gt=0, le=MOST_SIGMA_DEG)
    offset_deg: float = Field(default=0.0, ge=-MOST_SIGMA_DEG, le=MOST_SIGMA_DEG)

    def words(self) -> str:
        return tr("camera's own level read")

    def applied(self, now: Now) -> Recipe:
        pose = now.photo.pose
        if pose is None:
            raise UnusableInput(tr("The file does not say how its camera was held."))
        if pose.roll_deg is None:
            raise UnusableInput(
                tr(
                    "The file says only how far its camera pointed up or down, which levels "
                    "nothing; the lean can be held at that."
                )
            )
        told = pose.model_dump() | {
            "roll_deg": pose.roll_deg + self.offset_deg,
            "sigma_deg": self.sigma_deg or USUAL_SIGMA_DEG,
        }
        _, focal35_mm = focal_of(now.photo, now.recipe)
        camera = now.photo.changed(focal35_mm=focal35_mm)
        read = reading_of(CameraLevel.model_validate(told), camera)
        others = tuple(reading for reading in now.recipe.readings if reading.id != read.id)
        return now.recipe.changed(readings=(*others, read))


LineKind = Literal["level", "plumb", "horizon", "check", "set_out"]


class ReadAs(EditBase):
    """Let a reading with two ends stand for something else."""

    do: Literal["read_as"] = "read_as"
    id: Id
    kind: LineKind

    def words(self) -> str:
        return tr("read as {kind}", kind=tr(_READ_AS.get(self.kind, self.kind)))

    def applied(self, now: Now) -> Recipe:
        if find(now.recipe, self.id).kind == "trace":
            raise UnusableInput(
                tr("A trace stays a trace; let it serve as level or plumb instead.")
            )
        return _read_anew(now.recipe, (self.id,), self.kind)


class LetTraceServe(EditBase):
    """Let a trace count as level or plumb too, or as neither."""

    do: Literal["let_trace_serve"] = "let_trace_serve"
    id: Id
    serves_as: Direction | None

    def words(self) -> str:
        return tr(
            "trace {use}", use=named(self.serves_as) if self.serves_as else tr("for the bow only")
        )

    def applied(self, now: Now) -> Recipe:
        if find(now.recipe, self.id).kind != "trace":
            raise UnusableInput(tr("Only a trace can serve as level or plumb as well."))
        return switched(now.recipe, (self.id,), serves_as=self.serves_as)


class ShowReading(EditBase):
    """Draw a reading on the picture, or not."""

    do: Literal["show_reading"] = "show_reading"
    id: Id
    shown: bool

    def words(self) -> str:
        return tr("reading shown") if self.shown else tr("reading hidden")

    def applied(self, now: Now) -> Recipe:
        return switched(now.recipe, (self.id,), hidden=not self.shown)


class NameReading(EditBase):
    """A name of its own for a reading."""

    do: Literal["name_reading"] = "name_reading"
    id: Id
    name: str = Field(max_length=MAX_NAME)

    def words(self) -> str:
        return tr("reading named")

    def applied(self, now: Now) -> Recipe:
        return switched(now.recipe, (self.id,), name=self.name.strip())


class WeighReading(EditBase):
    """Count a reading more or less."""

    do: Literal["weigh_reading"] = "weigh_reading"
    id: Id
    weight: float = Field(ge=1e-9, le=MAX_WEIGHT)

    def words(self) -> str:
        return tr("reading weighted")

    def applied(self, now: Now) -> Recipe:
        return switched(now.recipe, (self.id,), weight=self.weight)
