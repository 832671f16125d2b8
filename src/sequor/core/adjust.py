"""Changes to a recipe that need a rule of the job: a typed angle, what a note offers, a rectangle of four corners."""

import math
from itertools import pairwise

import numpy as np

from sequor.core.angles import TypedTilt, parse_tilt
from sequor.core.bow import Bow
from sequor.core.camera import Matrix
from sequor.core.errors import UnusableInput
from sequor.core.fit import fitted
from sequor.core.notes import applied_words, axis_words, fit_words
from sequor.core.recipe import Axis, Corners, Ease, FrameChoice, Hold, Kind, PhotoFacts, Point, Reading, Recipe
from sequor.core.resample import Pixels
from sequor.core.solution import Action
from sequor.core.solve import solve

_EXPLAINED = {
    "words": "",
    "sign": "",
    "tilt": " Taken in the direction the picture is tilted; write {} for the other way.",
    "default": " Taken as {}; write {} for the other way.",
}
_WAYS: dict[Axis, tuple[str, str, str]] = {
    "roll": ("clockwise", "cw or acw", "acw"),
    "lean": ("up", "up or down", "down"),
    "swing": ("right", "left or right", "left"),
}
_MIN_SIDE_PX = 8.0


def set_angle(photo: PhotoFacts, recipe: Recipe, text: str, axis: Axis = "roll") -> tuple[Recipe, str]:
    """Take a typed angle of the picture as shot, and correct it.

    For roll that is the picture's tilt, which is corrected by the opposite turn; for lean and
    swing how far the camera pointed up or down, left or right. The direction of a bare
    number is that of the angle known so far: the one the readings say, else the one set before.

    Returns
    -------
    (Recipe, str)
        The recipe whose trim brings the axis to the typed angle, and a sentence that
        says what was understood.

    Raises
    ------
    UnusableInput
        When the text is not an angle, or not one that the axis can have.
    """
    solved = solve(photo, recipe).stance.axis(axis)
    # The picture's tilt is the opposite of the roll that takes it out; lean and swing are the camera's own.
    sense = -1 if axis == "roll" else 1
    measured_deg = solved.measured_deg or 0.0
    known = sense * (measured_deg if abs(measured_deg) > (solved.sigma_deg or 0.0) else solved.as_shot_deg)
    typed: TypedTilt = parse_tilt(text, known, axis)
    wanted_deg = sense * typed.tilt_deg
    trim_deg = wanted_deg - measured_deg
    if axis != "roll" and (abs(wanted_deg) > 80 or abs(trim_deg) > 80):
        raise UnusableInput(f"{abs(wanted_deg):g}° of {axis} is more than any picture can bear; it must lie below 80 degrees.")
    changed = recipe.model_copy(update={"trim": recipe.trim.model_copy(update={f"{axis}_deg": trim_deg})})
    if math.isclose(wanted_deg, 0, abs_tol=1e-9):
        return changed, "Not turned." if axis == "roll" else f"No {axis}."
    default, either, other = _WAYS[axis]
    said = (
        f"Tilted {axis_words('roll', typed.tilt_deg)} as shot, so {applied_words('roll', wanted_deg)}."
        if axis == "roll"
        else f"The camera pointed {axis_words(axis, wanted_deg)}."
    )
    explained = _EXPLAINED[typed.taken_from]
    return changed, said + (explained.format(either) if typed.taken_from == "tilt" else explained.format(default, other))


def act(photo: PhotoFacts, recipe: Recipe, action: Action) -> Recipe:
    """Do what a note offers.

    Raises
    ------
    UnusableInput
        When the action is about readings or an axis that are not there.
    """
    known = {reading.id for reading in recipe.readings}
    if not set(action.readings) <= known:
        raise UnusableInput("A reading that this was about is not there any more; nothing was changed.")
    if action.do in ("hold", "free") and action.axis is None:
        raise UnusableInput("It was not said which axis to hold or to let go; nothing was changed.")
    if action.do == "best_agreeing":
        return best_agreeing(photo, recipe)
    if action.do == "use_focal":
        return Recipe.model_validate(recipe.model_dump() | {"focal35_mm": action.value})
    if action.do in ("hold", "free"):
        held = recipe.hold.model_dump() | {f"{action.axis}_deg": None if action.do == "free" else action.value or 0.0}
        return recipe.model_copy(update={"hold": Hold.model_validate(held)})
    if action.do in ("ratio", "allow", "ease", "best_frame"):
        return _reframed(recipe, action)
    change: dict[str, object] = {"kind": "check"} if action.do == "make_check" else {"active": action.do == "switch_on"}
    return _changed(recipe, set(action.readings), change)


def _reframed(recipe: Recipe, action: Action) -> Recipe:
    """The recipe with another ratio, fill allowance or ease, and the best frame for it."""
    if action.do == "ease":
        share = action.value or 0.0
        return recipe.model_copy(
            update={"ease": Ease(roll=recipe.ease.roll * share, perspective=recipe.ease.perspective * share)}
        )
    if action.do == "allow":
        return recipe.model_copy(
            update={"corners": Corners.model_validate(recipe.corners.model_dump() | {"allowance": action.value})}
        )
    change: dict[str, object] = {"placed": None}
    if action.do == "ratio":
        change |= {"ratio": action.ratio or "original", "print_size": None}
    return recipe.model_copy(update={"frame": FrameChoice.model_validate(recipe.frame.model_dump() | change)})


def best_agreeing(photo: PhotoFacts, recipe: Recipe) -> Recipe:
    """Switch off readings, one after another, until all that steer agree with each other."""
    while True:
        readings = solve(photo, recipe).readings
        steers = {reading.id for reading in recipe.readings if reading.steers}
        odd = [reading for reading in readings if reading.outlier and reading.id in steers]
        if not odd or len(steers) < 2:
            return recipe
        worst = max(odd, key=lambda reading: abs(reading.residual_deg))
        recipe = _changed(recipe, {worst.id}, {"active": False})


def rectangle(corners: tuple[Point, Point, Point, Point], group: str, sigma_px: float = 1.0) -> tuple[Reading, ...]:
    """Two level and two plumb readings along the sides of something rectangular that faces the camera.

    Parameters
    ----------
    corners : four Points
        In any order, in source pixels.
    group : str
        The name that links the four readings; their ids begin with it.
    sigma_px : float
        Standard deviation with which each corner was placed.

    Raises
    ------
    UnusableInput
        When the corners are not those of a quadrilateral with all angles below 180 degrees.
    """
    around = _around(np.array(corners, dtype=float))
    sides = [(around[i], around[(i + 1) % 4]) for i in range(4)]
    kinds: tuple[Kind, ...] = ("level", "plumb", "level", "plumb")
    names = ("upper side", "right side", "lower side", "left side")
    return tuple(
        Reading(id=f"{group}-{i}", kind=kind, points=(_point(a), _point(b)), sigma_px=sigma_px, name=name, group=group)
        for i, (kind, name, (a, b)) in enumerate(zip(kinds, names, sides, strict=True))
    )


def fit_all(readings: tuple[Reading, ...], pixels: Pixels, bow: Bow) -> tuple[tuple[Reading, ...], str]:
    """Readings fitted to the edges under them, those where there is none as they were drawn; and a sentence about it.

    The four sides of one rectangle keep common corners.
    """
    found = tuple(fitted(reading, pixels, bow) or reading for reading in readings)
    stations = [reading.fitted.stations for reading in found if reading.fitted]
    said = fit_words(sum(stations) if stations else None, len(stations), len(found))
    linked = len(found) == 4 and found[0].group and len({reading.group for reading in found}) == 1
    return joined(found, bow) if linked and stations else found, said


def joined(readings: tuple[Reading, ...], bow: Bow) -> tuple[Reading, ...]:
    """The sides of a rectangle, after each was fitted to its edge, brought to meet in common corners again."""
    sides = [bow.undistorted(np.array(reading.ends)) for reading in readings]
    corners = bow.distorted(np.array([_meeting(a, b) for a, b in pairwise((sides[-1], *sides))]))
    ends = [(_point(corners[i]), _point(corners[(i + 1) % len(corners)])) for i in range(len(corners))]
    return tuple(reading.model_copy(update={"points": end}) for reading, end in zip(readings, ends, strict=True))


def _around(corners: Matrix) -> list[Matrix]:
    """Four corners clockwise on screen from the top left."""
    middle = corners.mean(axis=0)
    order = np.argsort(np.arctan2(corners[:, 1] - middle[1], corners[:, 0] - middle[0]))
    ring = corners[order]
    first = int(np.argmin(ring.sum(axis=1)))
    ring = np.roll(ring, -first, axis=0)
    edges = np.roll(ring, -1, axis=0) - ring
    turns = edges[:, 0] * np.roll(edges[:, 1], -1) - edges[:, 1] * np.roll(edges[:, 0], -1)
    if (turns <= 0).any() or np.hypot(edges[:, 0], edges[:, 1]).min() < _MIN_SIDE_PX:
        raise UnusableInput("These four corners do not make a rectangle seen from anywhere; place one at each corner.")
    return list(ring)


def _meeting(one: Matrix, other: Matrix) -> tuple[float, float]:
    """Where the lines of two sides meet (Hartley & Zisserman, section 2.2.1: the cross product of the lines)."""
    first, second = (np.cross([*line[0], 1.0], [*line[1], 1.0]) for line in (one, other))
    x, y, w = np.cross(first, second)
    return (float(x / w), float(y / w))


def _changed(recipe: Recipe, ids: set[str], change: dict[str, object]) -> Recipe:
    return recipe.model_copy(
        update={"readings": tuple(r.model_copy(update=change) if r.id in ids else r for r in recipe.readings)}
    )


def _point(array: Matrix) -> Point:
    return (float(array[0]), float(array[1]))
