"""The account in notes: what there is to be said of what the stages made."""

import math
from collections.abc import Iterator
from dataclasses import replace
from functools import partial

from sequor.core.account.diagnosis import (
    Steering,
    about_camera,
    about_focal,
    about_hand,
    about_holds,
    about_limit,
    about_readings,
    about_side,
    about_traces,
    about_what_is_open,
)
from sequor.core.account.readings import account_of
from sequor.core.bend.advice import about_bending
from sequor.core.frame.advice import about_dear_aim, about_frame
from sequor.core.frame.cost import kept_share
from sequor.core.frame.outline import Outline
from sequor.core.frame.placing import Wanted
from sequor.core.frame.wanted import wanted_frame
from sequor.core.notes import Note
from sequor.core.recipe import AXES
from sequor.core.solved import Solved, SolvedStance
from sequor.core.stages.numbers import Stages
from sequor.core.stages.turning import turned_by
from sequor.core.stance.staying import Staying, standing
from sequor.core.warp.ease import scaled
from sequor.core.warp.limits import SAFE_STRETCH


def notes_of(made: Stages, solved: Solved) -> Iterator[Note]:
    """What is to be said, the lens first and the frame last."""
    recipe, readings, stood = made.recipe, solved.readings, made.standing
    yield from about_traces(made.lens.traced, readings)
    if made.turned.limited:
        yield _limited(made, solved.stance)
    steering = [
        Steering(readings[one.number - 1], one.line, float(below))
        for one, below in zip(made.readings.steering, stood.below_rad, strict=True)
    ]
    diagonal = math.hypot(made.photo.width, made.photo.height)
    # What was stated by hand is said before any reading is doubted.
    lines, focal35_mm = made.readings.lines, made.camera.focal35_mm
    yield from about_holds(made.camera.photo, recipe.hold, lines, focal35_mm)
    yield from about_side(solved.stance, lines)
    yield from about_hand(recipe.given_way)
    yield from about_camera(made.photo, recipe)
    yield from about_readings(steering, stood, diagonal, partial(_without, made))
    yield from about_what_is_open(steering, stood.measured, recipe.hold)
    yield from about_focal(made.photo, recipe, solved.focal, solved.stance, stood)
    if made.map.bent:
        off_unbent = partial(_off_unbent_deg, made)
        yield from about_bending(recipe.bend, made.map.bent, readings, off_unbent)
    framed = made.framed
    yield from about_frame(
        made.map.outline,
        framed.wanted,
        framed.found,
        framed.frame,
        framed.by_hand,
        recipe.frame.ratio,
        partial(_eased_framing, made),
    )
    if not framed.by_hand:
        kept = partial(kept_share, made.map.outline.points, warp=made.map.warp, photo=made.photo)
        yield from about_dear_aim(made.map.outline, framed.wanted, framed.found, kept)


def _without(made: Stages, place: int) -> Staying:
    """How the camera stood without one of the readings that steer."""
    lines = made.readings.lines
    left = lines[:place] + lines[place + 1 :]
    return standing(made.camera.photo, left, made.recipe, made.camera.known)


def _limited(made: Stages, stance: SolvedStance) -> Note:
    lean_deg, swing_deg = (
        getattr(made.recipe.trim, f"{axis}_deg")
        if made.standing.stay[AXES.index(axis)]
        else stance.axis(axis).as_shot_deg
        for axis in AXES[1:]
    )
    return about_limit(stance, lean_deg, swing_deg, SAFE_STRETCH)


def _off_unbent_deg(made: Stages) -> dict[str, float]:
    """How far the readings that bend would be off what is wanted without that, by their ids."""
    turned = replace(made.map.warp, bending=None)
    found = (
        account_of(one, turned, made.standing.measured, None)
        for one in made.readings.every
        if one.reading.bends and one.reading.becomes != "stays"
    )
    return {one.id: one.left_deg for one in found if one.left_deg is not None}


def _eased_framing(made: Stages, share: float) -> tuple[Outline, Wanted]:
    """The outline, and what is wanted in it, with a share of the correction taken out."""
    ease = scaled(made.recipe.ease, share)
    turned = turned_by(ease, made.standing, made.camera, made.lens, made.recipe)
    wanted = wanted_frame(made.recipe, made.photo, turned.warp, made.readings.every)
    return turned.outline, wanted
