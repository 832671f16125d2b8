"""Parts of a recipe changed: what the rules of many edits share."""

from sequor.core.errors import UnusableInput
from sequor.core.recipe import Axis, Box, Point, Reading, Recipe
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
        "A reading that this was about is not there any more; nothing was changed."
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


def trimmed(recipe: Recipe, axis: Axis, deg: float) -> Recipe:
    """A recipe with something added to an axis by hand."""
    return recipe.changed(trim=recipe.trim.changed(**{f"{axis}_deg": deg}))


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
    """A recipe that bends otherwise."""
    return recipe.changed(bend=recipe.bend.changed(**parts))


def box_of(corners: tuple[Point, ...]) -> Box:
    """The box between two opposite corners."""
    (x0, y0), (x1, y1) = corners
    if abs(x1 - x0) < LEAST_BOX_PX or abs(y1 - y0) < LEAST_BOX_PX:
        raise UnusableInput("That box is too small; drag it from corner to corner.")
    return Box(left=min(x0, x1), top=min(y0, y1), right=max(x0, x1), bottom=max(y0, y1))


def clamped(value: float, low: float, high: float) -> float:
    """A value within limits."""
    return min(high, max(low, value))
