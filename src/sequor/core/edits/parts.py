"""Parts of a recipe changed: what the rules of many edits share."""

from collections.abc import Callable

from sequor.core.errors import UnusableInput
from sequor.core.language import tr
from sequor.core.recipe import AXES, Axis, Box, GivenWay, Point, Reading, Recipe
from sequor.core.solved import Solved, SolvedReading

LEAST_BOX_PX = 4.0
"""A box that is drawn smaller was a click."""


def find(recipe: Recipe, name: str) -> Reading:
    """The reading of an id."""
    for reading in recipe.readings:
        if reading.id == name:
            return reading
    raise _gone()


def find_solved(solved: Solved, name: str) -> SolvedReading:
    """What the reading of an id says."""
    for reading in solved.readings:
        if reading.id == name:
            return reading
    raise _gone()


def _gone() -> UnusableInput:
    return UnusableInput(
        tr("A reading that this was about is not there any more; nothing was changed.")
    )


def linked(recipe: Recipe, reading: Reading) -> tuple[Reading, ...]:
    """The reading and those that are linked with it as sides of one rectangle."""
    if reading.group is None:
        return (reading,)
    return tuple(other for other in recipe.readings if other.group == reading.group)


def with_readings(recipe: Recipe, *changed: Reading) -> Recipe:
    """A recipe with readings in the places of those of their ids."""
    by_id = {reading.id: reading for reading in changed}
    readings = tuple(by_id.get(reading.id, reading) for reading in recipe.readings)
    return recipe.changed(readings=readings)


def adding(recipe: Recipe, *added: Reading) -> Recipe:
    """A recipe with more readings."""
    return recipe.changed(readings=(*recipe.readings, *added))


def switched(recipe: Recipe, ids: tuple[str, ...], **parts: object) -> Recipe:
    """A recipe with parts of some readings changed."""
    return with_readings(recipe, *(find(recipe, name).changed(**parts) for name in ids))


def trimmed(recipe: Recipe, axis: Axis, deg: float, stated: bool = False) -> Recipe:
    """A recipe with something added to an axis by hand, or ``stated`` of it; what had given way to
    readings is forgotten.
    """
    others = {other for other in recipe.trim.stated if other != axis}
    known = others | {axis} if stated and deg else others
    parts: dict[str, object] = {f"{axis}_deg": deg}
    parts["stated"] = tuple(other for other in AXES if other in known)
    if axis == "roll":
        parts["by_eye_sigma_deg"] = None
    trim = recipe.trim.changed(**parts)
    return recipe.changed(trim=trim, given_way=recipe.given_way.changed(**{f"{axis}_deg": 0.0}))


def told_by_readings(solved: Solved, axis: Axis) -> bool:
    """Whether readings say something of an axis that is taken out of the picture."""
    found = solved.stance.axis(axis)
    return found.measured_deg is not None and not found.left_in and not found.held


def giving_way(before: Recipe, after: Recipe, now: Callable[[Recipe], Solved]) -> Recipe:
    """A recipe in which what a hand had stated has given way to readings that are new in it.

    Parameters
    ----------
    before, after : Recipe
        Before and after one edit. One that changes what is added by hand means what it says.
    now : callable
        Solves a recipe.
    """
    if after.trim != before.trim:
        return after
    known = {(reading.id, reading.direction) for reading in before.readings if reading.steers}
    if all((r.id, r.direction) in known for r in after.readings if r.steers):
        return after
    if after.given_way != GivenWay():
        after = after.changed(given_way=GivenWay())
    if not after.trim.stated:
        return after
    solved = now(after)
    for axis in after.trim.stated:
        if told_by_readings(solved, axis):
            gone = {f"{axis}_deg": getattr(after.trim, f"{axis}_deg")}
            left = trimmed(after, axis, 0.0)
            after = left.changed(given_way=left.given_way.changed(**gone))
    return after


def held(recipe: Recipe, axis: Axis, deg: float | None) -> Recipe:
    """An axis held at a value, or let go; what was added by hand is in the value, or given up."""
    untrimmed = trimmed(recipe, axis, 0.0)
    return untrimmed.changed(hold=recipe.hold.changed(**{f"{axis}_deg": deg}))


def framed(recipe: Recipe, **parts: object) -> Recipe:
    """A recipe with another frame."""
    return recipe.changed(frame=recipe.frame.changed(**parts))


def filled(recipe: Recipe, **parts: object) -> Recipe:
    """A recipe that fills otherwise."""
    return recipe.changed(fill=recipe.fill.changed(**parts))


def bending(recipe: Recipe, **parts: object) -> Recipe:
    """A recipe that bends otherwise, and persistently; edges alone, that were looked up, change
    nothing of how.
    """
    how = {} if parts.keys() == {"edges"} else {"persistent": True}
    return recipe.changed(bend=recipe.bend.changed(**how, **parts))


def box_of(opposite: tuple[Point, ...]) -> Box:
    """The box between two opposite corners."""
    (x0, y0), (x1, y1) = opposite
    if abs(x1 - x0) < LEAST_BOX_PX or abs(y1 - y0) < LEAST_BOX_PX:
        raise UnusableInput(tr("That box is too small; drag it from corner to corner."))
    return Box(left=min(x0, x1), top=min(y0, y1), right=max(x0, x1), bottom=max(y0, y1))


def clamped(value: float, low: float, high: float) -> float:
    """A value within limits."""
    return min(high, max(low, value))
