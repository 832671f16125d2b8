"""Places of a frame made anew under strokes of a brush, one after the other, in a plan.

Nothing else of the plan changes. What is made anew is copied from the picture alone, but joined to
whatever surrounds it, a filled corner too.
"""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
import scipy

from sequor.core.fill.membrane import Colours, membrane
from sequor.core.fill.plan import FillPlan, ToFill, plan_of, surroundings
from sequor.core.fill.texture import Texture
from sequor.core.neighbourhood import depth_in
from sequor.core.pixels import Mask
from sequor.core.recipe import FillCandidate

_SEAM_PX = 2
"""What is copied is made to agree with what surrounds it so far beyond its border."""
_FADING_PX = 4.0
"""How deep into what is copied its border is made to agree."""


class Ground(NamedTuple):
    """What mends are made on: the frame's empty corners, and what is not to be copied from."""

    corners: Mask
    avoid: Mask


class Brushed(NamedTuple):
    """What is under a stroke, how it is made anew, and the rows and columns to where it is copied
    from; None where that is to be found.
    """

    place: Mask
    candidate: FillCandidate
    by: tuple[int, int] | None = None


def mended(
    plan: FillPlan,
    ground: Ground,
    strokes: Sequence[Brushed],
    cancelled: Callable[[], bool] = lambda: False,
) -> FillPlan:
    """A plan with the places under strokes made anew.

    Parameters
    ----------
    plan : FillPlan
        What is filled already.
    ground : Ground
        Corners that are not filled by the plan stay as they are.
    strokes : sequence of Brushed
        Where two lie over each other the later one holds.

    Raises
    ------
    UnusableInput
        When nothing is left to copy from.
    """
    left = ground.corners & ~plan.hole
    strokes = [stroke._replace(place=stroke.place & ~left) for stroke in strokes]
    anew = _all_of(strokes, left)
    if not anew.any():
        return plan
    texture = plan.texture
    made = replace(
        plan,
        hole=plan.hole | anew,
        mended=anew,
        colours=plan.colours.copy(),
        shift=plan.shift.copy(),
        texture=Texture(texture.shift.copy(), texture.strength.copy(), texture.mean.copy()),
    )
    unusable = ground.corners | ground.avoid | anew
    for number, stroke in enumerate(strokes, 1):
        if stroke.place.any():
            # What is still to be made anew says nothing of how; what was made already does.
            mute = left | ground.avoid | (_all_of(strokes[number:], left) & ~stroke.place)
            _make(made, stroke, unusable, mute, cancelled)
    return made


def _all_of(strokes: Sequence[Brushed], like: Mask) -> Mask:
    every: Mask = np.logical_or.reduce([np.zeros_like(like), *(s.place for s in strokes)])
    return every


def _make(
    plan: FillPlan,
    stroke: Brushed,
    unusable: Mask,
    mute: Mask,
    cancelled: Callable[[], bool],
) -> None:
    """Make the place under a stroke anew, in a plan's own arrays."""
    _copy(plan, stroke, unusable, mute)
    rest = stroke.place if stroke.by is None else stroke.place & ~_within(stroke, unusable)
    if not rest.any():
        return
    rows, columns = scipy.ndimage.find_objects(rest.astype(np.int8))[0]
    window = surroundings(rows, columns, rest.shape)
    hole, avoid, silent = rest[window], unusable[window], mute[window]
    found = plan_of(
        plan.colours[window],
        ToFill(hole, avoid & ~hole, silent & ~hole),
        (stroke.candidate,) * 4,
        cancelled=cancelled,
    )
    for whole, part in (
        (plan.colours, found.colours),
        (plan.shift, found.shift),
        (plan.texture.shift, found.texture.shift),
        (plan.texture.strength, found.texture.strength),
    ):
        whole[window][hole] = part[hole]
    if found.texture.strength.any():
        # What texture stands off, where it is copied from: beside the place.
        plan.texture.mean[window] = found.texture.mean


def _within(stroke: Brushed, unusable: Mask) -> Mask:
    """What of a place can be copied from where it is to be copied from."""
    assert stroke.by is not None
    (down, right), found = stroke.by, np.zeros_like(unusable)
    rows, columns = np.nonzero(stroke.place)
    there = rows + down, columns + right
    height, width = unusable.shape
    inside = (there[0] >= 0) & (there[0] < height) & (there[1] >= 0) & (there[1] < width)
    inside[inside] = ~unusable[there[0][inside], there[1][inside]]
    found[rows[inside], columns[inside]] = True
    return found


def _copy(plan: FillPlan, stroke: Brushed, unusable: Mask, mute: Mask) -> None:
    """Copy a place from where its stroke says, as far as that can be copied, in the light of what
    surrounds it and without a step where it meets that.

    The step is spread as a membrane (Perez, Gangnet and Blake, "Poisson image editing", 2003), but
    only its median reaches far in: where two unlike things meet, the copy is not to be stained.
    """
    if stroke.by is None:
        return
    place = _within(stroke, unusable)
    if not place.any():
        return
    grown = scipy.ndimage.binary_dilation(place, iterations=_SEAM_PX)
    ring = Brushed(grown & ~place & ~mute & ~stroke.place, stroke.candidate, stroke.by)
    seam = _within(ring, unusable)
    moved = np.roll(plan.colours, (-stroke.by[0], -stroke.by[1]), (0, 1))
    near = scipy.ndimage.find_objects(grown.astype(np.int8))[0]
    step = _spread((plan.colours - moved)[near], seam[near], place[near])
    plan.colours[place] = np.clip(moved[place] + step[place[near]], 0, 255)
    plan.shift[place] = stroke.by
    plan.texture.strength[place] = 0


def _spread(step: Colours, seam: Mask, place: Mask) -> Colours:
    """A step that is known at a seam, spread over what it surrounds."""
    if not seam.any():
        return np.zeros_like(step)
    light = np.median(step[seam], axis=0)
    depth = depth_in(place)[:, :, None]
    known = np.where(seam[:, :, None], step, 0)
    spread: Colours = light + (membrane(known, ~seam) - light) * np.exp(-depth / _FADING_PX)
    return spread
