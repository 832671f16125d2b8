"""What one picture takes over from another: its lens, its stance, its frame, its corners.

Pictures of one place of the tripod get the same geometry to the last bit: with the stance go the
readings that tell it, since the solver makes the same of the same readings. What does not fit a
picture is left out, and said.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal, get_args

from sequor.core.camera import focal_of
from sequor.core.photo import PhotoFacts
from sequor.core.recipe import MAX_READINGS, Reading, Recipe

Part = Literal["focal", "lens", "stance", "holds", "ease", "shape", "place", "corners", "white"]
PARTS: tuple[Part, ...] = get_args(Part)
Misfit = Literal["size", "aspect", "focal", "outside", "readings", "many", "finished"]
"""Why a part does not fit: another size in pixels, other sides, another focal length; a box or a
point that lies outside the picture; an aim between readings that are not there; more readings than
a picture can have; a picture whose colours are finished."""
_SAME_ASPECT, _SAME_FOCAL = 2e-3, 5e-3
"""Relative differences that come from rounding: of the sides of reduced pictures, and of what a
zoom writes into its files."""


@dataclass(frozen=True)
class WithRecipe:
    """A picture with its recipe."""

    photo: PhotoFacts
    recipe: Recipe

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.photo.width, self.photo.height

    @property
    def aspect(self) -> float:
        """Width over height."""
        return self.photo.width / self.photo.height

    @property
    def focal35_mm(self) -> float | None:
        """The focal length in 35-mm terms, None where it is only assumed."""
        source, focal35_mm = focal_of(self.photo, self.recipe)
        return None if source == "assumed" else focal35_mm


def carry(
    parts: tuple[Part, ...], source: WithRecipe, target: WithRecipe
) -> tuple[Recipe, dict[Part, Misfit]]:
    """The recipe of a picture with parts of another one's, and which parts did not fit.

    Parameters
    ----------
    parts : tuple of str
        What to take over; done in the order of `PARTS`.
    source, target : WithRecipe
        Where it comes from, and where it goes.
    """
    misfits: dict[Part, Misfit] = {}
    recipe = target.recipe
    for part in PARTS:
        if part not in parts:
            continue
        before = WithRecipe(target.photo, recipe)
        unfit = _MISFITS.get(part)
        misfit = unfit(source, before) if unfit else None
        if misfit is None:
            recipe = _RULES[part](source, before)
        else:
            misfits[part] = misfit
    return recipe, misfits


def _lens_misfit(source: WithRecipe, target: WithRecipe) -> Misfit | None:
    here, there = source.recipe, target.recipe
    if here.lens == there.lens and _traces(here) == _traces(there):
        return None
    traced = source.recipe.lens.source == "traces" and _traces(source.recipe)
    if traced and source.size != target.size:
        return "size"
    if abs(source.aspect / target.aspect - 1) > _SAME_ASPECT:
        return "aspect"
    if not _same_focal(source, target):
        return "focal"
    return _too_many(_with_lens_readings(source, target))


def _stance_misfit(source: WithRecipe, target: WithRecipe) -> Misfit | None:
    if source.size != target.size:
        return "size"
    if not _same_focal(source, target):
        return "focal"
    return _too_many(_with_stance_readings(source, target))


def _corners_misfit(source: WithRecipe, target: WithRecipe) -> Misfit | None:
    return "size" if source.recipe.fill.avoid and source.size != target.size else None


def _place_misfit(source: WithRecipe, target: WithRecipe) -> Misfit | None:
    frame = source.recipe.frame
    between = frame.aim.between if frame.aim else None
    if between and not {*between} <= {reading.id for reading in target.recipe.readings}:
        return "readings"
    if source.size == target.size:
        return None
    width, height = target.size
    points = [frame.aim.point] if frame.aim and frame.aim.point else []
    if frame.keep:
        points += [(frame.keep.left, frame.keep.top), (frame.keep.right, frame.keep.bottom)]
    if any(not (0 <= x <= width and 0 <= y <= height) for x, y in points):
        return "outside"
    return "size" if points or frame.placed else None


def _white_misfit(source: WithRecipe, target: WithRecipe) -> Misfit | None:
    return None if source.recipe.white == target.recipe.white or target.photo.raw else "finished"


def _same_focal(source: WithRecipe, target: WithRecipe) -> bool:
    mine, theirs = source.focal35_mm, target.focal35_mm
    if mine is None or theirs is None:
        return mine is theirs
    return abs(mine / theirs - 1) <= _SAME_FOCAL


def _too_many(readings: tuple[Reading, ...]) -> Misfit | None:
    return "many" if len(readings) > MAX_READINGS else None


def _traces(recipe: Recipe) -> tuple[Reading, ...]:
    return tuple(reading for reading in recipe.readings if reading.kind == "trace")


def _with_lens(source: WithRecipe, target: WithRecipe) -> Recipe:
    readings = _with_lens_readings(source, target)
    return target.recipe.changed(readings=readings, lens=source.recipe.lens)


def _with_lens_readings(source: WithRecipe, target: WithRecipe) -> tuple[Reading, ...]:
    """Its own traces give way to those that tell the lens; they say nothing of the stance here."""
    others = tuple(reading for reading in target.recipe.readings if reading.kind != "trace")
    taken = {reading.id for reading in others}
    traces = tuple(
        trace.changed(id=_free(trace.id, taken), serves_as=None) for trace in _traces(source.recipe)
    )
    return (*others, *traces)


def _with_focal(source: WithRecipe, target: WithRecipe) -> Recipe:
    return target.recipe.changed(focal35_mm=source.recipe.focal35_mm)


def _with_stance(source: WithRecipe, target: WithRecipe) -> Recipe:
    recipe = source.recipe
    return target.recipe.changed(
        readings=_with_stance_readings(source, target),
        trim=recipe.trim,
        hold=recipe.hold,
        leave_in=recipe.leave_in,
        ease=recipe.ease,
        proportion=recipe.proportion,
        bend=target.recipe.bend.changed(lines=recipe.bend.lines),
    )


def _with_stance_readings(source: WithRecipe, target: WithRecipe) -> tuple[Reading, ...]:
    """All readings but traces, and what each camera tells, are those of the source; a trace that is
    there in both may serve.
    """
    recipe = source.recipe
    there = {trace.points for trace in _traces(target.recipe)}
    drawn = [reading for reading in recipe.readings if not reading.camera]
    lines = tuple(r for r in drawn if r.kind != "trace" or r.points in there)
    used = {line.points for line in lines if line.kind == "trace"}
    ids = {line.id for line in lines}
    own = tuple(
        trace.changed(id=_free(trace.id, ids), serves_as=None)
        for trace in _traces(target.recipe)
        if trace.points not in used
    )
    told = tuple(
        reading.changed(id=_free(reading.id, ids))
        for reading in target.recipe.readings
        if reading.camera
    )
    return (*lines, *own, *told)


def _with_shape(source: WithRecipe, target: WithRecipe) -> Recipe:
    """An upright picture takes a shape upright."""
    frame = source.recipe.frame
    if (source.aspect > 1) != (target.aspect > 1):
        frame = frame.turned_over
    changes = {
        name: getattr(frame, name)
        for name in ("ratio", "print_size", "margin", "keep_measured", "foot_first")
    }
    return target.recipe.changed(frame=target.recipe.frame.changed(**changes))


def _with_place(source: WithRecipe, target: WithRecipe) -> Recipe:
    frame = source.recipe.frame
    changes = {name: getattr(frame, name) for name in ("keep", "air", "looks", "aim", "placed")}
    return target.recipe.changed(frame=target.recipe.frame.changed(**changes))


def _with_holds(source: WithRecipe, target: WithRecipe) -> Recipe:
    return target.recipe.changed(hold=source.recipe.hold, leave_in=source.recipe.leave_in)


def _with_corners(source: WithRecipe, target: WithRecipe) -> Recipe:
    """What must not bend, and the edges, are of each picture."""
    bend = source.recipe.bend
    changes = {"corners": bend.corners, "max_stretch": bend.max_stretch}
    mine = target.recipe.bend.changed(**changes)
    return target.recipe.changed(fill=source.recipe.fill, bend=mine)


_RULES: Mapping[Part, Callable[[WithRecipe, WithRecipe], Recipe]] = {
    "focal": _with_focal,
    "lens": _with_lens,
    "stance": _with_stance,
    "holds": _with_holds,
    "ease": lambda source, target: target.recipe.changed(ease=source.recipe.ease),
    "shape": _with_shape,
    "place": _with_place,
    "corners": _with_corners,
    "white": lambda source, target: target.recipe.changed(white=source.recipe.white),
}


_MISFITS: Mapping[Part, Callable[[WithRecipe, WithRecipe], Misfit | None]] = {
    "lens": _lens_misfit,
    "stance": _stance_misfit,
    "place": _place_misfit,
    "corners": _corners_misfit,
    "white": _white_misfit,
}
"""Why a part cannot be taken over; those that are not here always can."""


def _free(name: str, taken: set[str]) -> str:
    """A name that is not taken, as like the given one as can be."""
    number, found = 1, name
    while found in taken:
        number += 1
        found = f"{name[:36]}-{number}"
    taken.add(found)
    return found
